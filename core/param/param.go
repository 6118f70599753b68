// Package param describes numbers that a user may set: what they are called,
// their units and their ranges. Everything that has such numbers keeps them in
// a Table, from which editing, checking, the interface and the API all take
// them, so that no limit is written twice.
package param

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Scale says what feels alike over the range of a number.
type Scale string

// The scales. Equal ratios feel alike on Log, equal differences on the others;
// Steps has whole numbers alone, Switch only 0 and 1.
const (
	Linear   Scale = "linear"
	Log      Scale = "log"
	DB       Scale = "dB"
	Discrete Scale = "discrete"
	Switch   Scale = "switch"
)

// Param is one number: its id within what holds it, the part it belongs to, its
// name for people, its unit, range and scale. Default is where it starts.
type Param struct {
	ID      string  `json:"id"`
	Part    string  `json:"part"`
	Label   string  `json:"label"`
	Unit    string  `json:"unit"`
	Min     float64 `json:"min"`
	Max     float64 `json:"max"`
	Default float64 `json:"default"`
	Scale   Scale   `json:"scale"`
	// Hint explains it where its label does not.
	Hint string `json:"hint,omitempty"`
	// When is where it means something; nil is always.
	When *When `json:"when,omitempty"`
	// Fixed is true of a number that cannot glide: where it changes, what has it is made anew
	// and faded to. Nothing is drawn over time or modulated by it.
	Fixed bool `json:"fixed,omitempty"`
	// Smooth is true of a choice that changes without a break, as that of a unit does.
	Smooth bool `json:"-"`
	// Names are what the whole values from Min on are called, where they are
	// kinds of something.
	Names []string `json:"names,omitempty"`
}

// When is a condition: another number has one of some values, or none of some.
type When struct {
	ID  string    `json:"id"`
	Is  []float64 `json:"is,omitempty"`
	Not []float64 `json:"not,omitempty"`
}

// Holds reports whether the condition holds for a value of that number.
func (w *When) Holds(v float64) bool {
	return w == nil || (len(w.Is) == 0 || slices.Contains(w.Is, v)) && !slices.Contains(w.Not, v)
}

// Choice is a number that says which of some kinds: the first is 0.
func Choice(id, part, label string, names ...string) Param {
	return Param{ID: id, Part: part, Label: label, Max: float64(len(names) - 1), Scale: Discrete, Names: names}
}

// Continuous reports whether a number may be modulated or automated: kinds of something may
// not, nor what cannot glide.
func (p *Param) Continuous() bool { return p.Scale != Discrete && p.Scale != Switch && !p.Fixed }

// Between is the value a part of the way from one value to another, 0 to 1, as it
// feels on the number's scale.
func (p *Param) Between(from, to, part float64) float64 {
	if p.Scale == Log && from > 0 && to > 0 {
		return from * math.Exp2(math.Log2(to/from)*part)
	}
	return from + (to-from)*part
}

// Moved is a value moved by an amount on the number's scale, held inside the
// range: semitones on Log, else the number's own unit.
func (p *Param) Moved(v, by float64) float64 {
	if p.Scale == Log {
		v *= math.Exp2(by / 12)
	} else {
		v += by
	}
	return math.Min(math.Max(v, p.Min), p.Max)
}

// Check refuses a value that is not a number or lies outside the range.
func (p *Param) Check(v float64) error {
	if !(v >= p.Min && v <= p.Max) {
		return fmt.Errorf("%s is %s, outside %g to %s", p.Label, p.text(v), p.Min, p.text(p.Max))
	}
	return nil
}

// text is a value with its unit.
func (p *Param) text(v float64) string { return strings.TrimSpace(fmt.Sprintf("%g %s", v, p.Unit)) }

// Held is v inside the range, whole where the scale has whole numbers alone. It
// refuses a value that is not a number.
func (p *Param) Held(v float64) (float64, error) {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, fmt.Errorf("%s must be a number from %g to %s", p.Label, p.Min, p.text(p.Max))
	}
	v = math.Min(math.Max(v, p.Min), p.Max)
	if p.Scale == Discrete || p.Scale == Switch {
		v = math.Round(v)
	}
	return v, nil
}

// Row is a Param of a T, with its place in it.
type Row[T any] struct {
	Param
	Get func(*T) float64
	put func(*T, float64)
}

// Set writes a value, held inside the range; it refuses what is not a number.
func (r *Row[T]) Set(of *T, v float64) error {
	v, err := r.Held(v)
	if err == nil {
		r.put(of, v)
	}
	return err
}

// Number is a row whose place is a float64.
func Number[T any](p Param, at func(*T) *float64) Row[T] {
	return Row[T]{p, func(of *T) float64 { return *at(of) }, func(of *T, v float64) { *at(of) = v }}
}

// Whole is a row whose place is an int, on the scale Steps.
func Whole[T any](p Param, at func(*T) *int) Row[T] {
	p.Scale = Discrete
	return Row[T]{p, func(of *T) float64 { return float64(*at(of)) }, func(of *T, v float64) { *at(of) = int(v) }}
}

// Flag is a row whose place is a bool, on the scale Switch: 0 is off, 1 is on.
func Flag[T any](id, label string, at func(*T) *bool) Row[T] {
	return Row[T]{Param{ID: id, Label: label, Max: 1, Scale: Switch}, func(of *T) float64 {
		if *at(of) {
			return 1
		}
		return 0
	}, func(of *T, v float64) { *at(of) = v != 0 }}
}

// Table is all numbers of a T, in order of the screen.
type Table[T any] []Row[T]

// Find is the row of an id, or nil.
func (t Table[T]) Find(id string) *Row[T] {
	for i := range t {
		if t[i].ID == id {
			return &t[i]
		}
	}
	return nil
}

// Params are the rows without their places.
func (t Table[T]) Params() []Param {
	out := make([]Param, len(t))
	for i := range t {
		out[i] = t[i].Param
	}
	return out
}

// Validate checks every number of a T.
func (t Table[T]) Validate(of *T) error {
	for i := range t {
		if err := t[i].Check(t[i].Get(of)); err != nil {
			return err
		}
	}
	return nil
}

// Reset writes every number's default.
func (t Table[T]) Reset(of *T) {
	for i := range t {
		t[i].put(of, t[i].Default)
	}
}
