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
	}
	HitParams = param.Table[Hit]{
		param.Whole(param.Param{ID: "velocity", Label: "Velocity", Min: 1, Max: 127, Default: 100}, func(h *Hit) *int { return &h.Velocity }),
		param.Number(param.Param{ID: "nudge_ms", Label: "Nudge", Unit: "ms", Min: -MaxNudge, Max: MaxNudge, Scale: param.Linear}, func(h *Hit) *float64 { return &h.Nudge }),
		param.Number(param.Param{ID: "semitones", Label: "Pitch", Unit: "st", Min: -MaxSemitones, Max: MaxSemitones, Scale: param.Linear}, func(h *Hit) *float64 { return &h.Semitones }),
	}
)
