package fit

import (
	"context"
	"fmt"
	"math"
	"reflect"
	"slices"
	"strings"

	"jubrak/core/measure"
	"jubrak/core/param"
	"jubrak/core/sound"
)

// Range is from Low to High.
type Range struct{ Low, High float64 }

// Ranges are the tones that a sound may have: fundamental and brightness, Hz, decay and
// attack, ms; nil says nothing.
type Ranges struct{ Fundamental, Decay, Brightness, Attack *Range }

// Middle is the same with each range at its middle.
func (r Ranges) Middle() Ranges {
	at := func(r *Range) *Range {
		if r == nil {
			return nil
		}
		m := (r.Low + r.High) / 2
		return &Range{m, m}
	}
	return Ranges{at(r.Fundamental), at(r.Decay), at(r.Brightness), at(r.Attack)}
}

// Differences that are heard (common practice): 10 cents, a tenth of a decay and of a
// brightness, a millisecond of attack.
const (
	heardCents  = 10.0
	heardRatio  = 0.1
	heardAttack = 1.0
)

// bound is a measure beside its range.
type bound struct {
	name, unit string
	mine       *float64
	of         *Range
	// steps are how many differences that are heard lie between the measure and a value.
	steps func(mine, of float64) float64
}

func (r *Ranges) bounds(m *measure.Measures) []bound {
	ratio := func(a, b float64) float64 { return math.Log(a/b) / math.Log(1+heardRatio) }
	return []bound{
		{"Fundamental", "Hz", m.Fundamental, r.Fundamental, func(a, b float64) float64 { return 1200 * math.Log2(a/b) / heardCents }},
		{"Decay", "ms", m.Decay, r.Decay, ratio},
		{"Brightness", "Hz", m.Centroid, r.Brightness, ratio},
		{"Attack", "ms", m.Attack, r.Attack, func(a, b float64) float64 { return (a - b) / heardAttack }},
	}
}

// outside is how many differences that are heard a measure lies outside its range, beyond
// half a one; 20 where it cannot be measured.
func (b *bound) outside() float64 {
	switch {
	case b.of == nil:
		return 0
	case b.mine == nil || *b.mine <= 0:
		return 20
	case *b.mine < b.of.Low:
		return math.Max(math.Abs(b.steps(*b.mine, math.Max(b.of.Low, 1e-3)))-0.5, 0)
	case *b.mine > b.of.High:
		return math.Max(math.Abs(b.steps(*b.mine, math.Max(b.of.High, 1e-3)))-0.5, 0)
	}
	return 0
}

// NumberChange is a number of a recipe that was changed.
type NumberChange struct {
	// At is its address in the recipe.
	At   string  `json:"at"`
	Name string  `json:"name"`
	Unit string  `json:"unit"`
	From float64 `json:"from"`
	To   float64 `json:"to"`
}

// Brought is a recipe that was brought into ranges.
type Brought struct {
	Recipe  sound.Recipe   `json:"recipe"`
	Changed []NumberChange `json:"changed"`
	Parts   []Part         `json:"parts"`
	// Words say which range was not reached.
	Words []string `json:"words"`
}

// Into changes as few numbers of a recipe as can be so that its sound lies inside ranges: of
// each measure that lies outside, the one number, or the pair that belongs together, that
// brings it inside by the smallest step (by secants). Parts that may not be changed are held.
func Into(ctx context.Context, from sound.Recipe, ranges Ranges, held []string) (*Brought, error) {
	r := copied(&from)
	m := &metered{ranges: ranges}
	for range 3 { // what is brought inside may push another out
		changed := false
		for i := range m.bounds(&r) {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			if m.bounds(&r)[i].outside() > 0 {
				changed = m.bring(&r, i, held) || changed
			}
		}
		if !changed {
			break
		}
	}
	out := &Brought{Recipe: r, Changed: changes(&from, &r), Parts: []Part{}, Words: []string{}}
	for _, b := range m.bounds(&r) {
		p := Part{Name: b.name, Unit: b.unit, Mine: b.mine}
		if b.of != nil {
			p.Low, p.High = &b.of.Low, &b.of.High
		}
		out.Parts = append(out.Parts, p)
		if b.outside() > 0 {
			mine := "cannot be measured"
			if b.mine != nil {
				mine = fmt.Sprintf("is %.1f %s", *b.mine, b.unit)
			}
			to := fmt.Sprintf("%.1f to %.1f", b.of.Low, b.of.High)
			if b.of.Low == b.of.High {
				to = fmt.Sprintf("%.1f", b.of.Low)
			}
			out.Words = append(out.Words, fmt.Sprintf("Its %s %s, not %s %s: no one number brings it there.", strings.ToLower(b.name), mine, to, b.unit))
		}
	}
	return out, nil
}

// NearestOf is which of some tones a sound is nearest to, counted from 0; -1 of none.
func NearestOf(r sound.Recipe, list []Ranges) int {
	m, best, least := measure.Measure(Render(r, 2500)), -1, math.Inf(1)
	for i := range list {
		sum := 0.0
		for _, b := range list[i].bounds(m) {
			sum += b.outside()
		}
		if sum < least {
			best, least = i, sum
		}
	}
	return best
}

// metered measures recipes.
type metered struct {
	ranges Ranges
	last   *sound.Recipe
	known  []bound
}

func (m *metered) bounds(r *sound.Recipe) []bound {
	if m.last == nil || !reflect.DeepEqual(*m.last, *r) {
		c := copied(r)
		m.last, m.known = &c, m.ranges.bounds(measure.Measure(Render(*r, 2500)))
	}
	return m.known
}

// handles are the numbers that move each measure, by its place among the bounds; those in
// one row move together.
var handles = [][][]string{
	{{"body.end_hz", "body.start_hz"}, {"ring.pitch_hz"}, {"metal.pitch_hz"}},
	{{"body.decay_ms"}, {"ring.decay_ms"}, {"noise.decay_ms"}, {"metal.decay_ms"}, {"body.decay_ms", "ring.decay_ms", "noise.decay_ms", "metal.decay_ms"}},
	{{"noise.level_db"}, {"noise.colour_hz"}, {"snap.level_db"}, {"metal.level_db"}, {"metal.pitch_hz"}},
	{{"body.attack_ms"}, {"noise.attack_ms"}, {"body.attack_ms", "noise.attack_ms"}},
}

// bring moves one handle so that a measure comes inside; false where none helps.
func (m *metered) bring(r *sound.Recipe, which int, held []string) bool {
	before := m.bounds(r)[which].outside()
	best, nearest, smallest := *r, before*0.5, math.Inf(1) // less is not worth a change
	for _, handle := range handles[which] {
		var free []string
		for _, at := range handle {
			part, _, _ := strings.Cut(at, ".")
			if _, ok := r.Number(at); ok && sounds(r, part) && !slices.Contains(held, part) {
				free = append(free, at)
			}
		}
		if len(free) == 0 {
			continue
		}
		got, step, off := m.secant(r, which, free)
		if off < nearest-0.05 || off <= nearest+0.05 && math.Abs(step) < smallest {
			best, nearest, smallest = got, math.Min(off, nearest), math.Abs(step)
		}
	}
	found := smallest < math.Inf(1)
	*r = best
	return found
}

// secant moves a handle by steps (octaves, or 6 dB) until the measure lies inside, at most
// six times.
func (m *metered) secant(r *sound.Recipe, which int, handle []string) (best sound.Recipe, step, off float64) {
	place := func(u float64) (sound.Recipe, float64) {
		c := copied(r)
		for _, at := range handle {
			turn(&c, at, u)
		}
		b := m.bounds(&c)[which]
		if b.mine == nil || *b.mine <= 0 {
			return c, math.NaN()
		}
		// Signed steps from the nearer end, a little inside.
		lo, hi := b.of.Low, b.of.High
		in := (hi - lo) * 0.1
		switch {
		case b.outside() == 0:
			return c, 0
		case *b.mine < lo:
			return c, b.steps(*b.mine, math.Max(lo+in, 1e-3))
		case *b.mine > hi:
			return c, b.steps(*b.mine, math.Max(hi-in, 1e-3))
		}
		return c, 0
	}
	_, at := place(0)
	if math.IsNaN(at) {
		return *r, 0, math.Inf(1)
	}
	u0, y0 := 0.0, at
	u1 := -math.Copysign(0.15, at)
	best, off = *r, math.Abs(at)
	for range 6 {
		c, y := place(u1)
		if math.IsNaN(y) {
			break
		}
		if math.Abs(y) < off {
			best, step, off = c, u1, math.Abs(y)
		}
		if y == 0 || math.Abs(y-y0) < 1e-6 {
			break
		}
		next := u1 - y*(u1-u0)/(y-y0)
		u0, y0, u1 = u1, y, math.Min(math.Max(next, -3), 3)
	}
	return best, step, off
}

// turn moves a number by so many octaves, or by six times as many dB; where a curve draws a
// level, its times are stretched in place of a decay, its top moved in place of a level.
func turn(r *sound.Recipe, at string, u float64) {
	n, ok := r.Number(at)
	if !ok {
		return
	}
	part, id, _ := strings.Cut(at, ".")
	if id == "decay_ms" {
		if modulation := r.DrivenBy(part + ".level_db"); modulation != nil {
			c := r.Curve(modulation.By)
			for i := range c.Points {
				c.Points[i].At = math.Min(c.Points[i].At*math.Exp2(u), sound.MaxCurveMS)
			}
			return
		}
	}
	if modulation := r.DrivenBy(at); modulation != nil {
		for i := range r.Modulations {
			if m := &r.Modulations[i]; m == modulation {
				m.From, m.To = n.Moved(m.From, amount(n.Scale, u)), n.Moved(m.To, amount(n.Scale, u))
			}
		}
		return
	}
	_ = n.Set(r, n.Moved(n.Get(r), amount(n.Scale, u)))
}

func amount(s param.Scale, u float64) float64 {
	if s == param.Log {
		return 12 * u
	}
	return 6 * u
}

// changes are the numbers in which two recipes differ; a curve that was stretched or moved
// is named by the number that it draws.
func changes(a, b *sound.Recipe) []NumberChange {
	out := []NumberChange{}
	for i := range sound.Params {
		p := &sound.Params[i]
		if x, y := p.Get(a), p.Get(b); x != y {
			out = append(out, NumberChange{p.ID, partLabel(p.Part) + ", " + strings.ToLower(p.Label), p.Unit, x, y})
		}
	}
	for i := range min(len(a.Modulations), len(b.Modulations)) {
		if x, y := a.Modulations[i], b.Modulations[i]; x != y {
			out = append(out, NumberChange{y.At, "The curve of " + y.At, "", x.From, y.From})
		}
	}
	for i := range min(len(a.Curves), len(b.Curves)) {
		if x, y := a.Curves[i].End(), b.Curves[i].End(); x != y {
			out = append(out, NumberChange{b.Curves[i].ID, b.Curves[i].Name + ", length", string(b.Curves[i].Unit), x, y})
		}
	}
	return out
}

func partLabel(part string) string { return strings.ToUpper(part[:1]) + part[1:] }
