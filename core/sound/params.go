package sound

import (
	"fmt"

	"jubrak/core/param"
)

// Params is the table of every number of a recipe's parts, in order of display.
// What each starts from in a drum of a family is DefaultRecipe; the default here is
// that of a part just switched on.
var Params = param.Table[Recipe]{
	param.Number(param.Param{ID: "body.level_db", Part: "body", Label: "Level", Unit: "dB", Min: Silent, Max: 6, Default: Silent, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Body.Level }),
	param.Whole(param.Choice("body.wave", "body", "Wave", Waves...), func(r *Recipe) *int { return &r.Body.Wave }),
	param.Number(param.Param{ID: "body.start_hz", Part: "body", Label: "Start pitch", Unit: "Hz", Min: 20, Max: 4000, Default: 200, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.Start }),
	param.Number(param.Param{ID: "body.end_hz", Part: "body", Label: "End pitch", Unit: "Hz", Min: 20, Max: 2000, Default: 50, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.End }),
	param.Number(param.Param{ID: "body.fall_ms", Part: "body", Label: "Fall time", Unit: "ms", Min: 1, Max: 1000, Default: 100, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.Fall }),
	param.Number(param.Param{ID: "body.attack_ms", Part: "body", Label: "Attack", Unit: "ms", Min: 0.1, Max: 200, Default: 0.5, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.Attack }),
	param.Number(param.Param{ID: "body.hold_ms", Part: "body", Label: "Hold", Unit: "ms", Min: 0, Max: 1000, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Body.Hold }),
	param.Number(param.Param{ID: "body.decay_ms", Part: "body", Label: "Decay", Unit: "ms", Min: 5, Max: 8000, Default: 300, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.Decay }),
	param.Number(param.Param{ID: "body.phase_deg", Part: "body", Label: "Start phase", Unit: "°", Min: 0, Max: 360, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Body.Phase }),
	param.Whole(param.Param{ID: "body.copies", Part: "body", Label: "Unison voices", Min: 1, Max: 8, Default: 1}, func(r *Recipe) *int { return &r.Body.Copies }),
	param.Number(param.Param{ID: "body.detune_ct", Part: "body", Label: "Detune", Unit: "ct", Min: 0, Max: 100, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Body.Detune }),
	param.Number(param.Param{ID: "body.spread_percent", Part: "body", Label: "Stereo spread", Unit: "%", Min: 0, Max: 100, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Body.Spread }),
	param.Number(param.Param{ID: "body.second_percent", Part: "body", Label: "Second tone", Unit: "%", Min: 0, Max: 100, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Body.Second }),
	param.Number(param.Param{ID: "body.second_ratio", Part: "body", Label: "Second tone ratio", Unit: "", Min: 0.25, Max: 16, Default: 2, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.SecondRatio }),
	param.Number(param.Param{ID: "body.second_decay_ms", Part: "body", Label: "Second tone decay", Unit: "ms", Min: 5, Max: 8000, Default: 100, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Body.SecondDecay }),
	param.Number(param.Param{ID: "sub.level_db", Part: "sub", Label: "Level", Unit: "dB", Min: Silent, Max: 6, Default: Silent, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Sub.Level }),
	param.Whole(param.Param{ID: "sub.octaves", Part: "sub", Label: "Octaves below", Min: 0, Max: 2, Default: 0}, func(r *Recipe) *int { return &r.Sub.Octaves }),
	param.Number(param.Param{ID: "sub.attack_ms", Part: "sub", Label: "Attack", Unit: "ms", Min: 0.1, Max: 200, Default: 20, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Sub.Attack }),
	param.Number(param.Param{ID: "sub.hold_ms", Part: "sub", Label: "Hold", Unit: "ms", Min: 0, Max: 1000, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Sub.Hold }),
	param.Number(param.Param{ID: "sub.decay_ms", Part: "sub", Label: "Decay", Unit: "ms", Min: 5, Max: 8000, Default: 400, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Sub.Decay }),
	param.Number(param.Param{ID: "snap.level_db", Part: "snap", Label: "Level", Unit: "dB", Min: Silent, Max: 6, Default: Silent, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Snap.Level }),
	param.Whole(param.Choice("snap.kind", "snap", "Kind", SnapKinds...), func(r *Recipe) *int { return &r.Snap.Kind }),
	param.Number(param.Param{ID: "snap.colour_hz", Part: "snap", Label: "Filter frequency", Unit: "Hz", Min: 200, Max: 16000, Default: 4000, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Snap.Colour }),
	param.Number(param.Param{ID: "snap.decay_ms", Part: "snap", Label: "Decay", Unit: "ms", Min: 1, Max: 120, Default: 6, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Snap.Decay }),
	param.Number(param.Param{ID: "noise.level_db", Part: "noise", Label: "Level", Unit: "dB", Min: Silent, Max: 6, Default: Silent, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Noise.Level }),
	param.Whole(param.Choice("noise.kind", "noise", "Kind", NoiseKinds...), func(r *Recipe) *int { return &r.Noise.Kind }),
	param.Whole(param.Choice("noise.filter", "noise", "Filter", NoiseFilters...), func(r *Recipe) *int { return &r.Noise.Filter }),
	param.Number(param.Param{ID: "noise.colour_hz", Part: "noise", Label: "Filter frequency", Unit: "Hz", Min: 60, Max: 18000, Default: 4000, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Noise.Colour }),
	param.Number(param.Param{ID: "noise.width_oct", Part: "noise", Label: "Width", Unit: "oct", Min: 0.1, Max: 6, Default: 2, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Noise.Width }),
	param.Number(param.Param{ID: "noise.pitch_st", Part: "noise", Label: "Pitch", Unit: "st", Min: -48, Max: 24, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Noise.Pitch }),
	param.Number(param.Param{ID: "noise.attack_ms", Part: "noise", Label: "Attack", Unit: "ms", Min: 0.1, Max: 200, Default: 0.1, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Noise.Attack }),
	param.Number(param.Param{ID: "noise.hold_ms", Part: "noise", Label: "Hold", Unit: "ms", Min: 0, Max: 1000, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Noise.Hold }),
	param.Number(param.Param{ID: "noise.decay_ms", Part: "noise", Label: "Decay", Unit: "ms", Min: 5, Max: 8000, Default: 150, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Noise.Decay }),
	param.Whole(param.Param{ID: "noise.bursts", Part: "noise", Label: "Bursts", Min: 1, Max: MaxBursts, Default: 1}, func(r *Recipe) *int { return &r.Noise.Bursts }),
	param.Number(param.Param{ID: "noise.spacing_ms", Part: "noise", Label: "Spacing", Unit: "ms", Min: 2, Max: 80, Default: 11, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Noise.Spacing }),
	param.Number(param.Param{ID: "noise.uneven_percent", Part: "noise", Label: "Unevenness", Unit: "%", Min: 0, Max: 100, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Noise.Uneven }),
	param.Number(param.Param{ID: "noise.burst_step_db", Part: "noise", Label: "Level step per burst", Unit: "dB", Min: -12, Max: 12, Default: 0, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Noise.BurstStep }),
	param.Number(param.Param{ID: "noise.burst_decay_ms", Part: "noise", Label: "Burst decay", Unit: "ms", Min: 2, Max: 200, Default: 25, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Noise.BurstDecay }),
	param.Number(param.Param{ID: "noise.vary_percent", Part: "noise", Label: "Varies by hit", Unit: "%", Min: 0, Max: 100, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Noise.Vary }),
	burstLevel(0), burstShift(1), burstLevel(1), burstShift(2), burstLevel(2), burstShift(3), burstLevel(3), burstShift(4), burstLevel(4),
	burstShift(5), burstLevel(5), burstShift(6), burstLevel(6), burstShift(7), burstLevel(7),
	inPart("noise", param.Flag("noise.loop", "Loop", func(r *Recipe) *bool { return &r.Noise.Loop })),
	param.Number(param.Param{ID: "metal.level_db", Part: "metal", Label: "Level", Unit: "dB", Min: Silent, Max: 6, Default: Silent, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Metal.Level }),
	param.Whole(param.Choice("metal.set", "metal", "Ratios", MetalSets...), func(r *Recipe) *int { return &r.Metal.Set }),
	param.Whole(param.Choice("metal.wave", "metal", "Wave", MetalWaves...), func(r *Recipe) *int { return &r.Metal.Wave }),
	param.Number(param.Param{ID: "metal.pitch_hz", Part: "metal", Label: "Pitch", Unit: "Hz", Min: 60, Max: 4000, Default: 540, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Metal.Pitch }),
	param.Whole(param.Param{ID: "metal.partials", Part: "metal", Label: "Partials", Min: 2, Max: 12, Default: 6}, func(r *Recipe) *int { return &r.Metal.Partials }),
	param.Number(param.Param{ID: "metal.ringing_percent", Part: "metal", Label: "Ring modulation", Unit: "%", Min: 0, Max: 100, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Metal.Ringing }),
	param.Number(param.Param{ID: "metal.hold_ms", Part: "metal", Label: "Hold", Unit: "ms", Min: 0, Max: 1000, Default: 0, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Metal.Hold }),
	param.Number(param.Param{ID: "metal.decay_ms", Part: "metal", Label: "Decay", Unit: "ms", Min: 5, Max: 8000, Default: 80, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Metal.Decay }),
	param.Number(param.Param{ID: "ring.level_db", Part: "ring", Label: "Level", Unit: "dB", Min: Silent, Max: 6, Default: Silent, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Ring.Level }),
	param.Whole(param.Choice("ring.kind", "ring", "Kind", RingKinds...), func(r *Recipe) *int { return &r.Ring.Kind }),
	param.Number(param.Param{ID: "ring.pitch_hz", Part: "ring", Label: "Pitch", Unit: "Hz", Min: 20, Max: 4000, Default: 110, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Ring.Pitch }),
	param.Whole(param.Param{ID: "ring.modes", Part: "ring", Label: "Modes", Min: 1, Max: 12, Default: 8}, func(r *Recipe) *int { return &r.Ring.Modes }),
	param.Number(param.Param{ID: "ring.strike_percent", Part: "ring", Label: "Strike position", Unit: "%", Min: 0, Max: 100, Default: 30, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Ring.Strike }),
	param.Number(param.Param{ID: "ring.decay_ms", Part: "ring", Label: "Decay", Unit: "ms", Min: 10, Max: 8000, Default: 500, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Ring.Decay }),
	param.Number(param.Param{ID: "ring.damping_percent", Part: "ring", Label: "Damping", Unit: "%", Min: 0, Max: 100, Default: 40, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Ring.Damping }),
	param.Number(param.Param{ID: "ring.drop_st", Part: "ring", Label: "Pitch drop", Unit: "st", Min: 0, Max: 24, Default: 1, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Ring.Drop }),
	param.Number(param.Param{ID: "ring.drop_ms", Part: "ring", Label: "Drop time", Unit: "ms", Min: 2, Max: 1000, Default: 80, Scale: param.Log}, func(r *Recipe) *float64 { return &r.Ring.DropTime }),
	param.Number(param.Param{ID: "ring.wires_db", Part: "ring", Label: "Wires", Unit: "dB", Min: Silent, Max: 6, Default: Silent, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Ring.Wires }),
}

func inPart(part string, r param.Row[Recipe]) param.Row[Recipe] {
	r.Part = part
	return r
}

// burstShift and burstLevel are the numbers of a burst, counted from 0: the first comes
// with the stroke.
func burstShift(i int) param.Row[Recipe] {
	return param.Number(param.Param{ID: fmt.Sprintf("noise.each.%d.shift_ms", i), Part: "noise", Label: fmt.Sprintf("Burst %d later by", i+1), Unit: "ms", Min: -40, Max: 40, Scale: param.Linear}, func(r *Recipe) *float64 { return &r.Noise.Each[i].Shift })
}

func burstLevel(i int) param.Row[Recipe] {
	return param.Number(param.Param{ID: fmt.Sprintf("noise.each.%d.level_db", i), Part: "noise", Label: fmt.Sprintf("Burst %d level", i+1), Unit: "dB", Min: -36, Max: 12, Scale: param.DB}, func(r *Recipe) *float64 { return &r.Noise.Each[i].Level })
}
