package groove

import "jubrak/core/param"

// The numbers of a groove: FeelParams of its feel, VoiceFeelParams of the part
// of it that belongs to a voice, HitParams of a hit. Swing beyond 50 to 75 is
// allowed down to 25 because played music measures so.
var (
	FeelParams = param.Table[Feel]{
		param.Number(param.Param{ID: "swing_percent", Label: "Swing", Unit: "%", Min: 25, Max: 75, Default: 50, Scale: param.Linear}, func(f *Feel) *float64 { return &f.Swing }),
		param.Number(param.Param{ID: "strength_percent", Label: "Strength", Unit: "%", Min: 0, Max: 100, Default: 100, Scale: param.Linear}, func(f *Feel) *float64 { return &f.Strength }),
	}
	VoiceFeelParams = param.Table[VoiceFeel]{
		param.Number(param.Param{ID: "lean_ms", Label: "Lean", Unit: "ms", Min: -MaxLean, Max: MaxLean, Scale: param.Linear}, func(f *VoiceFeel) *float64 { return &f.Lean }),
		param.Number(param.Param{ID: "scatter_ms", Label: "Scatter", Unit: "ms", Min: 0, Max: MaxScatter, Scale: param.Linear}, func(f *VoiceFeel) *float64 { return &f.Scatter }),
		param.Number(param.Param{ID: "velocity_scatter", Label: "Velocity scatter", Min: 0, Max: 64, Scale: param.Linear}, func(f *VoiceFeel) *float64 { return &f.VelocityScatter }),
		param.Number(param.Param{ID: "swing_percent", Label: "Own swing", Unit: "%", Min: 0, Max: 75, Scale: param.Linear}, func(f *VoiceFeel) *float64 { return &f.Swing }),
	}
	HitParams = param.Table[Hit]{
		param.Whole(param.Param{ID: "velocity", Label: "Velocity", Min: 1, Max: 127, Default: 100}, func(h *Hit) *int { return &h.Velocity }),
		param.Number(param.Param{ID: "nudge_ms", Label: "Nudge", Unit: "ms", Min: -MaxNudge, Max: MaxNudge, Scale: param.Linear}, func(h *Hit) *float64 { return &h.Nudge }),
		param.Number(param.Param{ID: "semitones", Label: "Pitch", Unit: "st", Min: -MaxSemitones, Max: MaxSemitones, Scale: param.Linear}, func(h *Hit) *float64 { return &h.Semitones }),
		param.Whole(param.Param{ID: "length_ticks", Label: "Length", Unit: "ticks", Min: 0, Max: MaxLength}, func(h *Hit) *int { return &h.Length }),
		param.Flag("cut", "Stop at the end", func(h *Hit) *bool { return &h.Cut }),
		hit("glide_ms", "Glide to the next", "ms", 0, 2000, func(h *Hit) *float64 { return &h.Glide }),
		hit("fall_st", "Pitch drop", "st", -36, 36, func(h *Hit) *float64 { return &h.Fall }),
		hit("fall_ms", "Pitch drop time", "ms", 0, 4000, func(h *Hit) *float64 { return &h.FallTime }),
		param.Whole(param.Param{ID: "times", Label: "Plays", Min: 0, Max: 16}, func(h *Hit) *int { return &h.Times }),
		param.Whole(param.Param{ID: "of", Label: "of", Unit: "times", Min: 0, Max: 16}, func(h *Hit) *int { return &h.Of }),
		hit("still_percent", "Less scatter", "%", 0, 100, func(h *Hit) *float64 { return &h.Still }),
		param.Flag("reverse", "Reverse", func(h *Hit) *bool { return &h.Reverse }),
		param.Whole(param.Param{ID: "flam.strokes", Part: "flam", Label: "Grace notes", Min: 0, Max: 8}, func(h *Hit) *int { return &h.Flam.Strokes }),
		part("flam", "spacing_ms", "Spacing", "ms", 0, 80, func(h *Hit) *float64 { return &h.Flam.Spacing }),
		part("flam", "level_db", "Level", "dB", -40, 6, func(h *Hit) *float64 { return &h.Flam.Level }),
		param.Whole(param.Param{ID: "roll.strokes", Part: "roll", Label: "Strokes", Min: 0, Max: MaxStrokes}, func(h *Hit) *int { return &h.Roll.Strokes }),
		param.Whole(param.Param{ID: "roll.per_beat", Part: "roll", Label: "Strokes a beat", Min: 0, Max: 48}, func(h *Hit) *int { return &h.Roll.PerBeat }),
		param.Whole(param.Param{ID: "roll.velocity_to", Part: "roll", Label: "End velocity", Min: 0, Max: 127}, func(h *Hit) *int { return &h.Roll.VelocityTo }),
		part("roll", "pitch_to_st", "End pitch", "st", -36, 36, func(h *Hit) *float64 { return &h.Roll.PitchTo }),
		part("roll", "spacing_percent", "Spacing ratio", "%", 0, 400, func(h *Hit) *float64 { return &h.Roll.Spacing }),
	}
)

func hit(id, label, unit string, low, high float64, at func(*Hit) *float64) param.Row[Hit] {
	return param.Number(param.Param{ID: id, Label: label, Unit: unit, Min: low, Max: high, Scale: param.Linear}, at)
}

func part(of, id, label, unit string, low, high float64, at func(*Hit) *float64) param.Row[Hit] {
	return param.Number(param.Param{ID: of + "." + id, Part: of, Label: label, Unit: unit, Min: low, Max: high, Scale: param.Linear}, at)
}
