package compare

import (
	"jubrak/core/audio"
	"jubrak/core/groove"
	"jubrak/core/isolate"
	"jubrak/core/measure"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// References sets one reference against another, in the rows of Compare. There
// is nothing to change in a recording, so no row offers a change.
func References(a, b *Against) *Comparison {
	d := project.New("reference")
	if a.Analysis.Tempo != nil {
		d.Tempo = music.Steady(*a.Analysis.Tempo)
	}
	w := a.wholeOf()
	mine := &Mine{Density: a.Analysis.Groove.Density, Loudness: w.loudness, TruePeak: w.truePeak, Crest: w.crest, Balance: w.balance,
		Tones: map[sound.Family]*measure.Measures{}, Surfaces: map[sound.Family]*measure.Measures{}, Shots: map[sound.Family]*audio.Buffer{}, Levels: map[sound.Family]float64{}}
	if mine.Density == nil {
		mine.Density = map[sound.Family]float64{}
	}
	d.Kit.Voices = nil
	for _, f := range sound.Families {
		if mine.Density[f] > 0 {
			d.Kit.Voices = append(d.Kit.Voices, sound.NewVoice(string(f), f.Label(), f))
		}
	}
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		if drum := a.Drum(d, v); drum != nil {
			mine.Tones[v.Family], mine.Shots[v.Family] = measuresOf(&drum.Facts), DrumSound(drum)
			mine.Surfaces[v.Family] = measuresOf(surfaceOf(drum))
			if l, _ := levelOf(a.Drums, v.Family); l != nil {
				mine.Levels[v.Family] = *l
			}
		}
	}
	d.Groove.Lanes = nil
	if a.Analysis.Feel != nil {
		mine.Feel = *a.Analysis.Feel
		if g := taken(d, a); g != nil {
			d.Groove = *g
		}
		d.Groove.Feel = groove.Straight()
		d.Groove.Feel.Pair = a.Analysis.Feel.Pair
	}
	c := Compare(d, mine, b)
	c.Fixed()
	if r := c.Row("tempo"); a.Analysis.Tempo == nil {
		r.Mine, r.Difference, r.Inside, r.Why = nil, nil, nil, "no beat was found"
	}
	return c
}

// Fixed takes away what rows offer to do: what is compared cannot be changed from here.
func (c *Comparison) Fixed() {
	for i := range c.Rows {
		r := &c.Rows[i]
		r.Change, r.Act, r.Edits = "", NoAct, project.Edits{}
	}
}

// measuresOf are the facts of a drum as measures of a sound.
func measuresOf(f *isolate.Facts) *measure.Measures {
	m := &measure.Measures{Balance: map[string]float64{}}
	at := func(x *isolate.Measure) *float64 {
		if x == nil {
			return nil
		}
		return &x.Value
	}
	m.Fundamental, m.Settles, m.Decay, m.Attack = at(f.Fundamental), at(f.Settles), at(f.Decay), at(f.Attack)
	m.Snap, m.Centroid, m.Flatness, m.Correlation = at(f.Snap), at(f.Brightness), at(f.Noisiness), at(f.Width)
	for name, x := range f.Regions {
		m.Balance[name] = x.Value
	}
	return m
}

// Beside puts what another reference has beside the values of the active one: a value that
// lies inside for one of them, or between them, is inside.
func (c *Comparison) Beside(other *Comparison, name string) {
	c.Names = append(c.Names, name)
	for i := range c.Rows {
		r := &c.Rows[i]
		o := other.Row(r.ID)
		if o == nil || o.Reference == nil {
			r.Others = append(r.Others, nil)
			continue
		}
		r.Others = append(r.Others, o.Reference)
		if r.Inside == nil || *r.Inside || o.Difference == nil {
			continue
		}
		// Of a count of differences (hits) there is no between.
		between := r.Column != "hits" && *o.Difference**r.Difference <= 0
		if *o.Inside || between {
			r.Inside, r.Change, r.Act, r.Edits = new(true), "", NoAct, project.Edits{}
		}
	}
	c.Outside, c.Measurable, c.Parts = 0, 0, nil
	c.finish()
}
