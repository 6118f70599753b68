package sound

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"jubrak/core/effect"
	"jubrak/core/param"
)

// Curve is a line over time from 0 to 1, which moves may map onto numbers.
type Curve struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Unit is that of its times: "ms", or "beats", which are as long as the tempo
	// makes them.
	Unit Unit `json:"unit"`
	// Round is the point from which it repeats, once it has come to its end, for
	// Lasts altogether; -1 where it runs once.
	Round  int          `json:"round"`
	Lasts  float64      `json:"lasts"`
	Points []CurvePoint `json:"points"`
}

// Unit is the unit of a curve's times.
type Unit string

// The units.
const (
	MS    Unit = "ms"
	Beats Unit = "beats"
)

// CurvePoint is a corner of a curve and the way from it to the next.
type CurvePoint struct {
	At    float64 `json:"at"`
	Value float64 `json:"value"`
	// Bend runs from -1 to 1: at 0 the way is straight, or of middle steepness for
	// a Smooth one; above 0 it is quick at first.
	Bend float64 `json:"bend"`
	// Smooth ways are s-shaped.
	Smooth bool `json:"smooth"`
}

// Limits of a curve.
const (
	MaxPoints     = 64
	MaxCurveMS    = 12000.0
	MaxCurveBeats = 32.0
)

// Bendiness is the exponent of a way at full bend.
const Bendiness = 7

// Way is how far along a way is at part u of its time, both 0 to 1.
func (p *CurvePoint) Way(u float64) float64 {
	switch {
	case p.Smooth:
		e := math.Exp2(1 + 1.5*p.Bend)
		a, b := math.Pow(u, e), math.Pow(1-u, e)
		return a / (a + b)
	case math.Abs(p.Bend) < 1e-6:
		return u
	}
	k := Bendiness * p.Bend
	return (1 - math.Exp(-k*u)) / (1 - math.Exp(-k))
}

// At is the curve's value at a time in its unit. Before its start it is the
// first point's, after its end the last one's.
func (c *Curve) At(t float64) float64 {
	last := len(c.Points) - 1
	if end := c.Points[last].At; c.Round >= 0 && t >= end {
		from := c.Points[c.Round].At
		t = from + math.Mod(math.Min(t, c.Lasts)-from, end-from)
	}
	if t <= c.Points[0].At {
		return c.Points[0].Value
	}
	for i := 0; i < last; i++ {
		a, b := &c.Points[i], &c.Points[i+1]
		if t < b.At {
			return a.Value + (b.Value-a.Value)*a.Way((t-a.At)/(b.At-a.At))
		}
	}
	return c.Points[last].Value
}

// End is when the curve has come to rest, in its unit.
func (c *Curve) End() float64 {
	end := c.Points[len(c.Points)-1].At
	if c.Round >= 0 {
		return math.Max(c.Lasts, end)
	}
	return end
}

// Scale is its unit in ms, where a beat lasts so many ms.
func (c *Curve) Scale(beatMS float64) float64 {
	if c.Unit == Beats {
		return beatMS
	}
	return 1
}

// Validate checks units, order and ranges.
func (c *Curve) Validate() error {
	most := MaxCurveMS
	switch c.Unit {
	case MS:
	case Beats:
		most = MaxCurveBeats
	default:
		return fmt.Errorf("a curve runs in ms or in beats")
	}
	if len(c.Points) < 2 || len(c.Points) > MaxPoints {
		return fmt.Errorf("a curve has 2 to %d points", MaxPoints)
	}
	for i := range c.Points {
		p := &c.Points[i]
		if !(p.At >= 0 && p.At <= most) || i > 0 && p.At <= c.Points[i-1].At {
			return fmt.Errorf("point %d must come after the one before, from 0 to %g %s", i+1, most, c.Unit)
		}
		if !(p.Value >= 0 && p.Value <= 1) || !(p.Bend >= -1 && p.Bend <= 1) {
			return fmt.Errorf("point %d must lie between 0 and 1, its bend between -1 and 1", i+1)
		}
	}
	if c.Round < -1 || c.Round > len(c.Points)-2 {
		return fmt.Errorf("a curve repeats from one of its points before the last")
	}
	if !(c.Lasts >= 0 && c.Lasts <= most) {
		return fmt.Errorf("a curve goes round for at most %g %s", most, c.Unit)
	}
	return nil
}

// Modulation maps a curve, or what a stroke brings along, onto a number.
//
// By a curve, the number is From where the curve is at 1 and To where it is at 0,
// on the number's own scale. By "velocity", "note" or "chance" it is moved by From
// to To on its scale (semitones where it is logarithmic, else its own unit): From
// at the softest and To at the hardest stroke; From two octaves down and To two
// octaves up; by chance somewhere between.
type Modulation struct {
	By   string  `json:"by"`
	At   string  `json:"at"`
	From float64 `json:"from"`
	To   float64 `json:"to"`
}

// What a stroke brings along.
const (
	ByVelocity = "velocity"
	ByNote     = "note"
	ByChance   = "chance"
)

func fixedSource(by string) bool { return by == ByVelocity || by == ByNote || by == ByChance }

// Curve reports whether a curve makes the move.
func (m *Modulation) Curve() bool { return !fixedSource(m.By) }

func (m *Modulation) kind() string {
	if m.Curve() {
		return "curve "
	}
	return m.By + " "
}

// Number is a number of a recipe: what it is, and its value.
type Number struct {
	*param.Param
	row *param.Row[Recipe]
	fx  *effect.Effect
}

// Number finds a number of the recipe: "body.end_hz", or of an effect,
// "effects/s1/amount_percent". The recipe must be the caller's own to set it.
func (r *Recipe) Number(at string) (Number, bool) {
	if rest, ok := strings.CutPrefix(at, "effects/"); ok {
		effectID, id, _ := strings.Cut(rest, "/")
		s := r.Effect(effectID)
		if s == nil || effect.KindOf(s.Kind) == nil {
			return Number{}, false
		}
		if p, _ := effect.KindOf(s.Kind).Param(id); p != nil {
			return Number{Param: p, fx: s}, true
		}
		return Number{}, false
	}
	if row := Params.Find(at); row != nil {
		return Number{Param: &row.Param, row: row}, true
	}
	return Number{}, false
}

// Get is its value in r.
func (n Number) Get(r *Recipe) float64 {
	if n.fx != nil {
		return n.fx.Values[n.ID]
	}
	return n.row.Get(r)
}

// Set writes a value, held inside its range.
func (n Number) Set(r *Recipe, v float64) error {
	if n.fx == nil {
		return n.row.Set(r, v)
	}
	v, err := n.Held(v)
	if err == nil {
		n.fx.Values[n.ID] = v
	}
	return err
}

func (r *Recipe) validateModulation(m *Modulation) error {
	n, ok := r.Number(m.At)
	if !ok || !n.Param.Continuous() {
		return fmt.Errorf("there is no number at %q that can be moved", m.At)
	}
	if m.Curve() {
		if r.Curve(m.By) == nil {
			return fmt.Errorf("%s is moved by a curve that is not there", n.Label)
		}
		if err := n.Check(m.From); err != nil {
			return err
		}
		return n.Check(m.To)
	}
	most := math.Max(n.Max-n.Min, 48)
	if !(math.Abs(m.From) <= most && math.Abs(m.To) <= most) {
		return fmt.Errorf("%s cannot be moved so far", n.Label)
	}
	return nil
}

// Own gives the recipe lists and maps of its own, so that it may be changed.
func (r *Recipe) Own() {
	r.Effects = slices.Clone(r.Effects)
	for i := range r.Effects {
		values := make(map[string]float64, len(r.Effects[i].Values))
		for k, v := range r.Effects[i].Values {
			values[k] = v
		}
		r.Effects[i].Values = values
	}
	r.Curves = slices.Clone(r.Curves)
	for i := range r.Curves {
		r.Curves[i].Points = slices.Clone(r.Curves[i].Points)
	}
	r.Modulations = slices.Clone(r.Modulations)
}
