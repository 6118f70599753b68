package profile

import (
	"fmt"
	"math"

	"jubrak/core/groove"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Analysis is the profile as if it had been measured from a recording, each
// range at its middle, so that it can be compared with and borrowed from like
// one. It has no hits and no grid.
func (p *Profile) Analysis() *transcribe.Analysis {
	p = p.target()
	a := transcribe.Finish(&transcribe.Raw{Kind: "profile", Unit: 4, Hits: []transcribe.Hit{}, Bands: []transcribe.Band{}}, nil)
	a.Meter = p.Meter
	a.Feel = &groove.Measured{Grid: 16, Pair: p.Pair, Anchor: string(sound.Kick), Voices: map[string]groove.MeasuredVoice{}}
	a.Tempo, a.Feel.Swing, a.KickHz = middle(p.Tempo), middle(p.Swing), middle(p.KickHz)
	for f, v := range p.Voices {
		m := groove.MeasuredVoice{Lean: middle(v.Lean), Scatter: middle(v.Scatter), Contour: pointers(v.Contour), Accent: pointers(v.Accent), StepCount: []int{}}
		if v.Velocity != nil {
			m.VelocityMean = v.Velocity.Middle()
		}
		if v.Density != nil {
			a.Groove.Density[f] = v.Density.Middle()
		}
		a.Feel.Voices[string(f)] = m
	}
	if len(p.Balance) == 5 {
		at := func(region string) float64 { return p.Balance[region].Low/2 + p.Balance[region].High/2 }
		a.Balance = &transcribe.Balance{Sub: at("sub"), Low: at("low"), LowMid: at("low_mid"), Presence: at("presence"), Air: at("air")}
	}
	return a
}

func middle(r *Range) *float64 {
	if r == nil {
		return nil
	}
	v := r.Middle()
	return &v
}

func pointers(table []float64) []*float64 {
	out := make([]*float64, len(table))
	for i := range table {
		out[i] = &table[i]
	}
	return out
}

// Room is how far from the middle a row of a comparison may lie because the
// profile allows a range; 0 where it says nothing. Rows go by their id, tempo, swing,
// measure.family: cents of fundamentals, percent of decay and brightness, else the unit of
// the range.
func (p *Profile) Room(row string) float64 {
	p = p.target()
	half := func(r *Range) float64 {
		if r == nil {
			return 0
		}
		return r.Half()
	}
	switch row {
	case "tempo":
		return half(p.Tempo)
	case "swing":
		return half(p.Swing)
	case "fundamental.kick":
		if p.KickHz != nil && p.Tones[sound.Kick].Fundamental == nil {
			return 1200 * math.Log2(p.KickHz.High/p.KickHz.Middle())
		}
	}
	share := func(r *Range) float64 {
		if r == nil || r.Middle() == 0 {
			return 0
		}
		return 100 * r.Half() / r.Middle()
	}
	for f, t := range p.Tones {
		switch row {
		case fmt.Sprintf("decay.%s", f):
			return share(t.Decay)
		case fmt.Sprintf("brightness.%s", f):
			return share(t.Brightness)
		case fmt.Sprintf("fundamental.%s", f):
			if t.Fundamental != nil {
				return 1200 * math.Log2(t.Fundamental.High/t.Fundamental.Middle())
			}
		}
	}
	for f, v := range p.Voices {
		for measure, r := range map[string]*Range{"lean": v.Lean, "scatter": v.Scatter, "velocity": v.Velocity, "density": v.Density} {
			if row == fmt.Sprintf("%s.%s", measure, f) {
				return half(r)
			}
		}
	}
	return 0
}
