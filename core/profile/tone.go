package profile

import (
	"fmt"
	"math"

	"jubrak/core/measure"
)

// Tone is what a profile says of the sound of one family's hits; nil is
// nothing said.
type Tone struct {
	Fundamental *Range `json:"fundamental_hz"`
	Decay       *Range `json:"decay_60db_ms"`
	Brightness  *Range `json:"spectral_centroid_hz"`
	Attack      *Range `json:"attack_ms"`
	// Count is how many hits it was measured on.
	Count int `json:"count"`
}

// ToneOf is the tone of some hits of one family: each range from the least to
// the greatest. What most of them do not have, a pitch for instance, is left
// out, and so is a pitch on which they do not agree within a semitone.
func ToneOf(hits []*measure.Measures) Tone {
	over := func(get func(*measure.Measures) *float64) *Range {
		var r Range
		n := 0
		for _, m := range hits {
			v := get(m)
			if v == nil {
				continue
			}
			if n == 0 {
				r = Range{*v, *v}
			}
			r.Low, r.High = math.Min(r.Low, *v), math.Max(r.High, *v)
			n++
		}
		if n == 0 || 2*n < len(hits) {
			return nil
		}
		return &Range{round(r.Low), round(r.High)}
	}
	t := Tone{
		Count:       len(hits),
		Fundamental: over(func(m *measure.Measures) *float64 { return m.Fundamental }),
		Decay:       over(func(m *measure.Measures) *float64 { return m.Decay }),
		Brightness:  over(func(m *measure.Measures) *float64 { return m.Centroid }),
		Attack:      over(func(m *measure.Measures) *float64 { return m.Attack }),
	}
	if f := t.Fundamental; f != nil && f.High > f.Low*math.Exp2(1.0/12) {
		t.Fundamental = nil
	}
	return t
}

func (t *Tone) validate() error {
	for name, r := range map[string]*Range{"fundamental": t.Fundamental, "decay": t.Decay, "brightness": t.Brightness, "attack": t.Attack} {
		if r != nil && !(r.Low >= 0 && r.High <= 96000 && r.Low <= r.High) {
			return fmt.Errorf("%s must run upwards from 0", name)
		}
	}
	return nil
}
