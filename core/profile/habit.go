package profile

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"jubrak/core/sound"
)

// Habit is what several recordings have in common: what a drummer or a style does again
// and again is in no single loop.
type Habit struct {
	// Recordings are those that it was made of, each as its own profile, so that it can
	// grow.
	Recordings []Profile `json:"recordings"`
	// Aim is which of them is the target, counted from 1; 0 is their ranges.
	Aim int `json:"aim"`
	// Measures show what they share and what varies, those with most to say first.
	Measures []HabitMeasure `json:"measures"`
}

// HabitMeasure is one number over the recordings.
type HabitMeasure struct {
	// ID is the measure, and the family after a point: Lean.snare, swing, tempo, Decay.kick.
	ID   string `json:"id"`
	Unit string `json:"unit"`
	// Range is that of the recordings that are not out of the ordinary.
	Range  Range   `json:"range"`
	Median float64 `json:"median"`
	// Values are those of the recordings in their order, nil where one says nothing.
	Values []*float64 `json:"values"`
	// Odd are the recordings that are out of the ordinary, counted from 0.
	Odd []int `json:"odd"`
	// Shared reports that all the others lie within what one would hear; else it varies.
	Shared bool `json:"shared"`
	// Speak is how many recordings speak for it, Hits how many hits these have.
	Speak int `json:"speak"`
	Hits  int `json:"hits"`
}

// MaxRecordings is the most recordings of a habit.
const MaxRecordings = 64

// measureOf is a number of a profile that a habit has a range of.
type measureOf struct {
	id, unit string
	family   sound.Family
	unheard  float64 // of a spread, in its unit; below 0 it is a part of the value
	at       func(p *Profile) **Range
}

// measures are all numbers that the recordings have.
func measures(parts []Profile) (out []measureOf) {
	out = append(out,
		measureOf{"tempo", "BPM", "", 4, func(p *Profile) **Range { return &p.Tempo }},
		measureOf{"swing", "%", "", 2, func(p *Profile) **Range { return &p.Swing }},
		measureOf{"kick.pitch", "Hz", "", 2, func(p *Profile) **Range { return &p.KickHz }})
	for _, f := range sound.Families {
		if slices.ContainsFunc(parts, func(p Profile) bool { _, ok := p.Voices[f]; return ok }) {
			voice := func(id, unit string, unheard float64, at func(v *Voice) **Range) {
				out = append(out, measureOf{id + "." + string(f), unit, f, unheard, func(p *Profile) **Range {
					v, ok := p.Voices[f]
					if !ok {
						return nil
					}
					got := at(&v)
					p.Voices[f] = v
					return got
				}})
			}
			voice("Lean", "ms", 6, func(v *Voice) **Range { return &v.Lean })
			voice("Scatter", "ms", 2, func(v *Voice) **Range { return &v.Scatter })
			voice("Velocity", "", 8, func(v *Voice) **Range { return &v.Velocity })
			voice("Density", "a beat", 0.25, func(v *Voice) **Range { return &v.Density })
		}
		if slices.ContainsFunc(parts, func(p Profile) bool { _, ok := p.Tones[f]; return ok }) {
			for _, t := range []struct {
				id, unit string
				part     float64
				at       func(*Tone) **Range
			}{
				{"Decay", "ms", 0.3, func(t *Tone) **Range { return &t.Decay }}, {"Brightness", "Hz", 0.25, func(t *Tone) **Range { return &t.Brightness }},
				{"Fundamental", "Hz", 0.03, func(t *Tone) **Range { return &t.Fundamental }}, {"Attack", "ms", 0.5, func(t *Tone) **Range { return &t.Attack }},
			} {
				out = append(out, measureOf{t.id + "." + string(f), t.unit, f, -t.part, func(p *Profile) **Range {
					v, ok := p.Tones[f]
					if !ok {
						return nil
					}
					got := t.at(&v)
					p.Tones[f] = v
					return got
				}})
			}
		}
	}
	return out
}

// Combine makes one profile of several: of each number the range of those that are not
// out of the ordinary (further from the median than three robust standard deviations
// and than one would hear). Habits among them give their recordings.
func Combine(name string, from []Profile) (*Profile, error) {
	var parts []Profile
	for _, p := range from {
		if p.Habit != nil {
			parts = append(parts, p.Habit.Recordings...)
			continue
		}
		parts = append(parts, p)
	}
	if len(parts) < 2 {
		return nil, fmt.Errorf("a habit is measured from two recordings or more")
	}
	if len(parts) > MaxRecordings {
		return nil, fmt.Errorf("a habit is made of at most %d recordings", MaxRecordings)
	}
	pairs := map[int]int{}
	for i := range parts {
		parts[i].Tidy()
		pairs[parts[i].Pair]++
	}
	out := &Profile{Name: strings.TrimSpace(name), Tags: []string{}, Source: "habit", Meter: parts[0].Meter, Pair: 16, Voices: map[sound.Family]Voice{}, Tones: map[sound.Family]Tone{}, Balance: map[string]Range{}, Habit: &Habit{Recordings: parts}}
	if pairs[8] > pairs[16] {
		out.Pair = 8
	}
	for _, m := range measures(parts) {
		value, ok := m.over(parts)
		if !ok {
			continue
		}
		out.Habit.Measures = append(out.Habit.Measures, value)
		out.put(m, value.Range)
	}
	out.middles(parts)
	for _, region := range []string{"sub", "low", "low_mid", "presence", "air"} {
		r, n := Range{math.Inf(1), math.Inf(-1)}, 0
		for i := range parts {
			if b, ok := parts[i].Balance[region]; ok {
				r.Low, r.High = math.Min(r.Low, b.Low), math.Max(r.High, b.High)
				n++
			}
		}
		if n > 1 {
			out.Balance[region] = r
		}
	}
	sort.SliceStable(out.Habit.Measures, func(i, j int) bool {
		a, b := &out.Habit.Measures[i], &out.Habit.Measures[j]
		return cmp.Or(-cmp.Compare(a.Speak, b.Speak), -cmp.Compare(a.Hits, b.Hits)) < 0
	})
	return out, out.Validate()
}

// put sets a number of the profile.
func (p *Profile) put(m measureOf, r Range) {
	if m.family != "" {
		name, _, _ := strings.Cut(m.id, ".")
		switch name {
		case "Lean", "Scatter", "Velocity", "Density":
			v, ok := p.Voices[m.family]
			if !ok {
				v = Voice{Contour: []float64{}, Accent: []float64{}}
			}
			switch name {
			case "Lean":
				v.Lean = &r
			case "Scatter":
				v.Scatter = &r
			case "Velocity":
				v.Velocity = &r
			case "Density":
				v.Density = &r
			}
			p.Voices[m.family] = v
		default:
			t := p.Tones[m.family]
			switch name {
			case "Decay":
				t.Decay = &r
			case "Brightness":
				t.Brightness = &r
			case "Fundamental":
				t.Fundamental = &r
			case "Attack":
				t.Attack = &r
			}
			p.Tones[m.family] = t
		}
		return
	}
	*m.at(p) = &r
}

// over reports a number over the recordings; ok is false where fewer than two have it.
func (m *measureOf) over(parts []Profile) (HabitMeasure, bool) {
	out := HabitMeasure{ID: m.id, Unit: m.unit, Odd: []int{}}
	var values []float64
	for i := range parts {
		at := m.at(&parts[i])
		if at == nil || *at == nil {
			out.Values = append(out.Values, nil)
			continue
		}
		v := (*at).Middle()
		out.Values = append(out.Values, &v)
		values = append(values, v)
		out.Speak++
		out.Hits += parts[i].hits(m.family)
	}
	if out.Speak < 2 {
		return out, false
	}
	out.Median = median(values)
	away := make([]float64, len(values))
	for i, v := range values {
		away[i] = math.Abs(v - out.Median)
	}
	unheard := m.unheard
	if unheard < 0 {
		unheard = -unheard * math.Abs(out.Median)
	}
	limit := math.Max(3*1.4826*median(away), unheard)
	r := Range{math.Inf(1), math.Inf(-1)}
	for i, v := range out.Values {
		switch {
		case v == nil:
		case math.Abs(*v-out.Median) > limit && out.Speak > 2:
			out.Odd = append(out.Odd, i)
		default: // of a profile with ranges, these
			own := *m.at(&parts[i])
			r.Low, r.High = math.Min(r.Low, own.Low), math.Max(r.High, own.High)
		}
	}
	out.Range = Range{round(r.Low), round(r.High)}
	out.Median = round(out.Median)
	out.Shared = r.High-r.Low <= unheard
	return out, true
}

// hits is how many hits of a family, or of all, a recording speaks with.
func (p *Profile) hits(f sound.Family) int {
	n := 0
	for family, v := range p.Voices {
		if f == "" || f == family {
			n += v.Hits
		}
	}
	return n
}

// middles gives each family the mean contour and accents of the recordings that have
// them over as many steps.
func (p *Profile) middles(parts []Profile) {
	for f, v := range p.Voices {
		v.Contour = meanTable(parts, f, func(v *Voice) []float64 { return v.Contour })
		v.Accent = meanTable(parts, f, func(v *Voice) []float64 { return v.Accent })
		v.Hits = 0
		for i := range parts {
			v.Hits += parts[i].hits(f)
		}
		p.Voices[f] = v
	}
	for f, t := range p.Tones {
		for i := range parts {
			t.Count += parts[i].Tones[f].Count
		}
		p.Tones[f] = t
	}
}

func meanTable(parts []Profile, f sound.Family, of func(*Voice) []float64) []float64 {
	lengths := map[int]int{}
	for i := range parts {
		v := parts[i].Voices[f]
		lengths[len(of(&v))]++
	}
	best := 0
	for n, k := range lengths {
		if n > 0 && (best == 0 || k > lengths[best] || k == lengths[best] && n < best) {
			best = n
		}
	}
	out := make([]float64, best)
	for i := range parts {
		v := parts[i].Voices[f]
		if table := of(&v); len(table) == best {
			for j := range table {
				out[j] += table[j] / float64(lengths[best])
			}
		}
	}
	for j := range out {
		out[j] = round(out[j])
	}
	return out
}

// median of numbers, at least one.
func median(x []float64) float64 {
	y := slices.Clone(x)
	slices.Sort(y)
	n := len(y)
	if n%2 == 1 {
		return y[n/2]
	}
	return (y[n/2-1] + y[n/2]) / 2
}

// Nearest is which recording of a habit a profile is nearest to, counted from 1; 0 where
// it is no habit. Each number counts in units of what one would hear.
func (p *Profile) Nearest(to *Profile) int {
	if p.Habit == nil {
		return 0
	}
	best, near := 0, math.Inf(1)
	for i := range p.Habit.Recordings {
		r := &p.Habit.Recordings[i]
		var sum float64
		n := 0
		for _, m := range measures([]Profile{*r, *to}) {
			a, b := m.at(r), m.at(to)
			if a == nil || b == nil || *a == nil || *b == nil {
				continue
			}
			unit := m.unheard
			if unit < 0 {
				unit = -unit * math.Max((*a).Middle(), 1e-9)
			}
			d := ((*a).Middle() - (*b).Middle()) / unit
			sum += math.Min(d*d, 100)
			n++
		}
		if n > 0 && sum/float64(n) < near {
			best, near = i+1, sum/float64(n)
		}
	}
	return best
}

// target is the profile that is aimed at: itself, or the recording chosen.
func (p *Profile) target() *Profile {
	if p.Habit != nil && p.Habit.Aim > 0 && p.Habit.Aim <= len(p.Habit.Recordings) {
		return &p.Habit.Recordings[p.Habit.Aim-1]
	}
	return p
}
