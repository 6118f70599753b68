package compare

import (
	"fmt"
	"math"

	"jubrak/core/audio"
	"jubrak/core/isolate"
	"jubrak/core/measure"
	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// toneColumns are measures of one hit: how each is read of a measured sound and of a drum
// of a reference.
var toneColumns = []struct {
	id, unit string // of values
	mine     func(m *measure.Measures) *float64
	theirs   func(f *isolate.Facts) *isolate.Measure
	profile  func(t *profile.Tone) *profile.Range
}{
	{"fundamental", "Hz", func(m *measure.Measures) *float64 { return m.Fundamental }, func(f *isolate.Facts) *isolate.Measure { return f.Fundamental }, func(t *profile.Tone) *profile.Range { return t.Fundamental }},
	{"settles", "ms", func(m *measure.Measures) *float64 { return m.Settles }, func(f *isolate.Facts) *isolate.Measure { return f.Settles }, nil},
	{"decay", "ms", func(m *measure.Measures) *float64 { return m.Decay }, func(f *isolate.Facts) *isolate.Measure { return f.Decay }, func(t *profile.Tone) *profile.Range { return t.Decay }},
	{"attack", "ms", func(m *measure.Measures) *float64 { return m.Attack }, func(f *isolate.Facts) *isolate.Measure { return f.Attack }, nil},
	{"snap", "dB", func(m *measure.Measures) *float64 { return m.Snap }, func(f *isolate.Facts) *isolate.Measure { return f.Snap }, nil},
	{"brightness", "Hz", func(m *measure.Measures) *float64 { return m.Centroid }, func(f *isolate.Facts) *isolate.Measure { return f.Brightness }, func(t *profile.Tone) *profile.Range { return t.Brightness }},
	{"noisiness", "", func(m *measure.Measures) *float64 { return m.Flatness }, func(f *isolate.Facts) *isolate.Measure { return f.Noisiness }, nil},
	{"hit_crest", "dB", func(m *measure.Measures) *float64 { return m.Crest }, nil, nil},
	{"width", "", func(m *measure.Measures) *float64 { return orOne(m.Correlation) }, func(f *isolate.Facts) *isolate.Measure { return f.Width }, nil},
}

// orOne is a correlation; sound of one side is all in the middle.
func orOne(v *float64) *float64 {
	if v == nil {
		return value(1)
	}
	return v
}

// tones sets one hit of a family against the reference's drum, or against the tones of a
// profile.
func (c *Comparison) tones(d *project.Document, f sound.Family, mine *Mine, a *Against) {
	v := Voice(d, f)
	got := mine.Tones[f]
	var ranges *profile.Tone
	var facts *isolate.Facts
	var crest *float64 // of the reference's drum
	switch {
	case a.Profile != nil:
		t, ok := a.Profile.Tones[f]
		if f == sound.Kick && t.Fundamental == nil && a.Profile.KickHz != nil {
			t.Fundamental, ok = a.Profile.KickHz, true
		}
		if ok {
			ranges = &t
		}
	case v != nil:
		if drum := a.Drum(d, v); drum != nil {
			facts, got = surfaceOf(drum), mine.Surfaces[f]
			if facts.Attack != nil { // its beginning is known
				crest = crestOf(DrumSound(drum))
			}
		}
	}
	if ranges == nil && facts == nil {
		if a.Profile != nil || v == nil || mine.Density[f] == 0 {
			return
		}
		facts = &isolate.Facts{} // it plays in mine alone: nothing to measure it by
	}
	id, why := "", ""
	if v != nil {
		id = v.ID
	}
	switch {
	case v == nil:
		got, why = &measure.Measures{}, "no voice of mine"
	case got == nil:
		got, why = &measure.Measures{}, "it is silent"
	}
	for _, k := range toneColumns {
		if ranges != nil && (k.profile == nil || k.profile(ranges) == nil) {
			continue
		}
		r := row(k.id, f, id)
		r.Mine, r.Why = k.mine(got), why
		if v == nil {
			r.Mine = nil
		}
		if ranges != nil {
			r.Reference = value(k.profile(ranges).Middle())
		} else if k.theirs == nil {
			r.Reference, r.Within = crest, crestWithin
			if crest == nil && r.Why == "" {
				r.Why = "not known of the reference's drum"
			}
		} else if m := k.theirs(facts); m != nil {
			r.Reference, r.Within = &m.Value, within(&r, m)
		} else if r.Why == "" {
			r.Why = "not known of the reference's drum"
		}
		if zero(&r) {
			r.Mine, r.Reference, r.Why = nil, nil, "one of both has none"
		}
		c.add(r, ByMeasure, changeOf(&r, k.unit))
	}
	if facts == nil {
		return
	}
	for _, reg := range measure.Regions {
		r := row("region_"+reg.Name, f, id)
		r.Why = why
		if x, ok := got.Balance[reg.Name]; ok {
			r.Mine = value(math.Max(x, regionLow))
		}
		if m := facts.Regions[reg.Name]; m != nil {
			r.Reference, r.Within = value(math.Max(m.Value, regionLow)), m.Within
		} else if r.Why == "" {
			r.Why = "not known of the reference's drum"
		}
		c.add(r, ByMeasure, changeOf(&r, "dB"))
	}
	level := row("level", f, id)
	if x, ok := mine.Levels[f]; ok {
		level.Mine = &x
	} else {
		level.Why = "no hits of mine"
	}
	if x, w := levelOf(a.Drums, f); x != nil {
		level.Reference, level.Within = x, w
	}
	by := 0.0
	if level.Mine != nil && level.Reference != nil {
		by = louder(*level.Mine, *level.Reference)
	}
	edits := project.Edits{}
	for i := range d.Kit.Voices {
		if o := &d.Kit.Voices[i]; o.Family == f {
			edits = append(edits, project.SetNumber{At: o.ID + "/level_db", Value: levelRange(o.Level + by)})
		}
	}
	c.add(level, ByEdits, fmt.Sprintf("Level %+.1f dB", by), edits...)
}

// louder is by how much a family must become louder, the others as they are, so that its
// share of all, dB, is another.
func louder(share, to float64) float64 {
	odds := func(db float64) float64 {
		p := math.Min(math.Pow(10, db/10), 0.9999)
		return 10 * math.Log10(p/(1-p))
	}
	return odds(to) - odds(share)
}

// surfaceOf are the facts of a drum with brightness and flatness of what is not far below,
// as far as they are known.
func surfaceOf(d *isolate.Drum) *isolate.Facts {
	out := d.Facts
	centroid, flatness := measure.Surface(DrumSound(d))
	as := func(m *isolate.Measure, v *float64) *isolate.Measure {
		if m == nil || v == nil || m.Value == 0 {
			return nil
		}
		return &isolate.Measure{Value: *v, Within: m.Within * *v / m.Value}
	}
	out.Brightness, out.Noisiness = as(out.Brightness, centroid), as(out.Noisiness, flatness)
	return &out
}

// crestSeconds is how much of a hit its crest is of, crestWithin how far that of a drum that
// was taken out of a recording may lie off, dB.
const (
	crestSeconds = 0.2
	crestWithin  = 1.0
)

// crestOf is peak over RMS of the first 200 ms from the onset on, dB; nil of silence.
func crestOf(b *audio.Buffer) *float64 {
	from := measure.Onset(b.Mono(), b.Rate)
	x := b.Slice(from, min(from+int(crestSeconds*float64(b.Rate)), b.Frames()))
	if x.Peak() == 0 {
		return nil
	}
	return value(audio.DB(x.Peak() / measure.RMS(x)))
}

// levelOf is how loud all drums of a family are against all drums, and how far that may lie
// off, dB.
func levelOf(list []isolate.Drum, f sound.Family) (db *float64, within float64) {
	sum := 0.0
	for i := range list {
		if l := list[i].Facts.Level; list[i].Family == f && l != nil {
			sum += math.Pow(10, l.Value/10)
			within = math.Max(within, l.Within)
		}
	}
	if sum == 0 {
		return nil, 0
	}
	return value(10 * math.Log10(sum)), within
}

// zero is whether a ratio or an interval of a row cannot be taken.
func zero(r *Row) bool {
	return (r.Unit == cents || r.Unit == percent) && r.Mine != nil && r.Reference != nil && (*r.Mine <= 0 || *r.Reference <= 0)
}

// within is how far a measure may lie off in the unit of the row.
func within(r *Row, m *isolate.Measure) float64 {
	switch {
	case m.Value == 0:
		return m.Within
	case r.Unit == cents:
		return 1200 * math.Log2(1+m.Within/m.Value)
	case r.Unit == percent:
		return 100 * m.Within / m.Value
	}
	return m.Within
}

// changeOf says what a tone is brought to.
func changeOf(r *Row, unit string) string {
	if r.Mine == nil || r.Reference == nil {
		return ""
	}
	digits := 0
	if *r.Reference < 100 {
		digits = 1
	}
	if unit == "" {
		digits = 2
	}
	text := fmt.Sprintf("%s %.*f → %.*f %s", r.Measure, digits, *r.Mine, digits, *r.Reference, unit)
	return text
}
