package profile

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/sound"
)

// Leaning is how much of a number of a profile comes from a genre, percent.
type Leaning struct {
	// ID is the measure, and the family after a point: Lean.snare, swing.
	ID      string  `json:"id"`
	Percent float64 `json:"percent"`
}

// What is taken for the scatter of a hit where too few hits say it: ms, velocity, percent of
// a pair (common practice of players).
const (
	usualScatter  = 5.0
	usualVelocity = 15.0
	usualSwing    = 4.0
	// straight is how many hits speak for a step of the bar as much as its being straight.
	straight = 4.0
)

// Shrink leans a feel of few hits on a genre: each number is the mean of what was measured
// and the genre's middle, each weighted by how sure it is (the normal mean with a normal
// prior, Gelman et al., Bayesian Data Analysis, 2.5). A genre's range is taken for one and a
// half deviations either way.
func Shrink(p, genre *Profile, name string) (*Profile, error) {
	if genre.Source != practice {
		return nil, fmt.Errorf("a feel leans on a genre of the library")
	}
	if p.Source == practice || p.Habit != nil {
		return nil, fmt.Errorf("only what was measured of one recording leans on a genre")
	}
	out := *p
	out.ID, out.Name, out.Borrowed = "", name, []Leaning{}
	out.Tags = append(slices.Clone(p.Tags), "with "+genre.Name)
	if len(out.Tags) > maxTags {
		out.Tags = out.Tags[:maxTags]
	}
	if p.Swing != nil && genre.Swing != nil && p.Pair == genre.Pair {
		// About every second hit falls between.
		out.Swing = exactly(out.lean("swing", p.Swing.Middle(), usualSwing/math.Sqrt(math.Max(float64(p.hits(""))/4, 1)), *genre.Swing))
	}
	out.Voices = map[sound.Family]Voice{}
	for _, f := range sound.Families {
		v, ok := p.Voices[f]
		if !ok {
			continue
		}
		g := genre.Voices[f]
		n := math.Max(float64(v.Hits), 1)
		scatter := usualScatter
		if v.Scatter != nil && v.Hits > 4 {
			scatter = math.Max(v.Scatter.Middle(), 1)
		}
		id := func(measure string) string { return measure + "." + string(f) }
		if v.Lean != nil && g.Lean != nil {
			v.Lean = exactly(out.lean(id("Lean"), v.Lean.Middle(), scatter/math.Sqrt(n), *g.Lean))
		}
		if v.Scatter != nil && g.Scatter != nil {
			v.Scatter = exactly(out.lean(id("Scatter"), v.Scatter.Middle(), scatter/math.Sqrt(2*math.Max(n-1, 0.5)), *g.Scatter))
		}
		if v.Velocity != nil && g.Velocity != nil {
			v.Velocity = exactly(out.lean(id("Velocity"), v.Velocity.Middle(), usualVelocity/math.Sqrt(n), *g.Velocity))
		}
		// A genre is straight by step: so are steps of few hits.
		v.Contour, v.Accent = towards(v.Contour, 0, n), towards(v.Accent, 1, n)
		out.Voices[f] = v
	}
	return &out, out.Validate()
}

// lean is a number between what was measured, with its standard error, and a range.
func (p *Profile) lean(id string, measured, err float64, r Range) float64 {
	prior := math.Max(r.Half()/1.5, 0.5)
	w := prior * prior / (prior*prior + err*err)
	p.Borrowed = append(p.Borrowed, Leaning{id, math.Round(100 * (1 - w))})
	return round(w*measured + (1-w)*r.Middle())
}

func towards(table []float64, to, hits float64) []float64 {
	if len(table) == 0 {
		return []float64{}
	}
	each := hits / float64(len(table))
	out := make([]float64, len(table))
	for i, v := range table {
		out[i] = round(to + (v-to)*each/(each+straight))
	}
	return out
}
