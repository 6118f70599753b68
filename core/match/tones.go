package match

import (
	"fmt"

	"jubrak/core/engine"
	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/synth"
	"jubrak/core/tone"
)

// toneTolerance is how far decay and brightness may lie off, as a share
// (common practice: smaller differences are hard to hear in a mix).
const toneTolerance = 0.2

// MeasureTones measures one hit of the first voice of each family that a
// profile has a tone for.
func (m *Mine) MeasureTones(d *project.Document, samples sound.Samples, p *profile.Profile) {
	m.Tones = map[sound.Family]*tone.Measures{}
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		if _, said := p.Tones[v.Family]; said && m.Tones[v.Family] == nil {
			m.Tones[v.Family] = tone.Measure(synth.Shot(v, samples, engine.Rate, d.Stroke(), 3000))
		}
	}
}

// tones sets the sound of each family of mine against the tones of a profile;
// nothing where the reference says none.
func (c *Comparison) tones(d *project.Document, mine *Mine) {
	if c.profile == nil {
		return
	}
	for _, f := range sound.Families {
		want, ok := c.profile.Tones[f]
		if !ok {
			continue
		}
		var v *sound.Voice
		for i := range d.Kit.Voices {
			if d.Kit.Voices[i].Family == f {
				v = &d.Kit.Voices[i]
				break
			}
		}
		got := mine.Tones[f]
		if v == nil || got == nil {
			got, v = &tone.Measures{}, &sound.Voice{}
		}
		if f != sound.Kick { // the kick's has a row of its own
			c.toneRow(f, "Fundamental", "ct", got.Fundamental, want.Fundamental, pitchTolerance, "Hz", scaled(v, "body.start_hz", "body.end_hz"))
		}
		c.toneRow(f, "Decay", "ms", got.Decay, want.Decay, 0, "ms", scaled(v, "body.decay_ms", "noise.decay_ms", "metal.decay_ms"))
		c.toneRow(f, "Brightness", "Hz", got.Centroid, want.Brightness, 0, "Hz", scaled(v, "noise.colour_hz", "metal.pitch_hz"))
	}
}

func (c *Comparison) toneRow(f sound.Family, measure, unit string, mine *float64, want *profile.Range, tolerance float64, said string, change func(ratio float64) project.Edits) {
	if want == nil {
		return
	}
	to := want.Middle()
	if tolerance == 0 {
		tolerance = toneTolerance * to
	}
	r := Row{ID: measure + "." + string(f), Measure: measure, Family: f, Unit: unit, Mine: mine, Reference: &to, Tolerance: tolerance}
	if mine == nil {
		c.add(r, "")
		return
	}
	c.add(r, fmt.Sprintf("%s %.0f → %.0f %s", measure, *mine, to, said), change(to / *mine)...)
}

// scaled multiplies parameters of a voice's synthesized layer; recordings are
// left alone.
func scaled(v *sound.Voice, params ...string) func(ratio float64) project.Edits {
	return func(ratio float64) (edits project.Edits) {
		l := v.Synth()
		if l == nil {
			return nil
		}
		for _, id := range params {
			value := sound.Params.Find(id).Get(l.Recipe) * ratio
			edits = append(edits, project.SetNumber{At: project.LayerAddress(v.ID, l.ID, id), Value: value})
		}
		return edits
	}
}
