package mix

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"jubrak/core/param"
)

// Row is what a voice and a bus have in common: what the sound goes through, and where
// it goes from there.
type Row struct {
	// Chain are its steps, in the order in which sound goes through them.
	Chain []Step `json:"chain"`
	// To is the bus that it goes to; empty is the output.
	To string `json:"to"`
	// Sends are copies that go to other buses as well.
	Sends []Send `json:"sends"`
	// Like names the row whose chain this one's follows; empty is a chain of its own. Own
	// are the numbers that differ from it, by step and number ("equalizer1/band1.hz").
	Like string             `json:"like,omitempty"`
	Own  map[string]float64 `json:"own,omitempty"`
}

// Send is a copy of a row's sound, taken after its level and pan.
type Send struct {
	// To is the bus that gets it.
	To    string  `json:"to"`
	Level float64 `json:"level_db"`
	// Later holds the copy back, as the way to a microphone farther off does.
	Later float64 `json:"later_ms"`
	// Low and High cut the copy.
	Low  float64 `json:"low_cut_hz"`
	High float64 `json:"high_cut_hz"`
}

// SendParams is the table of a send's numbers.
var SendParams = param.Table[Send]{
	param.Number(db("level_db", "Level", -60, 12, -12), func(s *Send) *float64 { return &s.Level }),
	param.Number(ms("later_ms", "Later by", 0, 60, 0), func(s *Send) *float64 { return &s.Later }),
	param.Number(hz("low_cut_hz", "Low cut", 20, 2000, 20), func(s *Send) *float64 { return &s.Low }),
	param.Number(hz("high_cut_hz", "High cut", 200, 20000, 20000), func(s *Send) *float64 { return &s.High }),
}

// Bus is a row that voices and other buses go to. Buses send only to those after them,
// so that no loop can be built.
type Bus struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Level float64 `json:"level_db"`
	Pan   float64 `json:"pan"`
	Mute  bool    `json:"mute"`
	Row
}

// BusParams is the table of a bus's own numbers.
var BusParams = param.Table[Bus]{
	param.Number(db("level_db", "Level", -60, 12, 0), func(b *Bus) *float64 { return &b.Level }),
	param.Number(param.Param{ID: "pan", Label: "Pan", Min: -1, Max: 1, Scale: param.Linear}, func(b *Bus) *float64 { return &b.Pan }),
	param.Flag("mute", "Mute", func(b *Bus) *bool { return &b.Mute }),
}

// Output is where everything comes together.
type Output struct {
	Level float64 `json:"level_db"`
	Chain []Step  `json:"chain"`
}

// OutputParams is the table of the output's own numbers.
var OutputParams = param.Table[Output]{
	param.Number(db("level_db", "Level", -60, 12, 0), func(o *Output) *float64 { return &o.Level }),
}

// Shape is a level over a part of the song's time, drawn once and followed by any step
// of any row.
type Shape struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Beats is after how many it begins again.
	Beats float64 `json:"beats"`
	// Points are levels from 0 to 1, at even distances, straight from one to the next
	// and from the last to the first.
	Points []float64 `json:"points"`
}

// Move draws a number of the mix over the bars of the loop.
type Move struct {
	// At is the number's address: of a row's level or pan, of a send, or of a step.
	At string `json:"at"`
	// Points in the order of their bars; straight between them in the number's own scale,
	// and still before the first and after the last.
	Points []MovePoint `json:"points"`
}

// MovePoint is where a number has a value.
type MovePoint struct {
	// Bar counts from 0, fractions allowed.
	Bar float64 `json:"bar"`
	// Value is in the number's own unit.
	Value float64 `json:"value"`
}

// Validate checks the order of a move's points.
func (m *Move) Validate() error {
	if m.At == "" || len(m.Points) == 0 || len(m.Points) > MaxPoints*2 {
		return fmt.Errorf("a move has 1 to %d points", MaxPoints*2)
	}
	for i, p := range m.Points {
		if !(p.Bar >= 0 && p.Bar <= 1024) || i > 0 && p.Bar <= m.Points[i-1].Bar {
			return fmt.Errorf("the points of a move follow each other in time")
		}
	}
	return nil
}

// ValueAt is the move's value at a bar, for a number p.
func (m *Move) ValueAt(bar float64, p *param.Param) float64 {
	list := m.Points
	if bar <= list[0].Bar {
		return list[0].Value
	}
	for i := 1; i < len(list); i++ {
		if a, b := list[i-1], list[i]; bar < b.Bar {
			return p.Between(a.Value, b.Value, (bar-a.Bar)/(b.Bar-a.Bar))
		}
	}
	return list[len(list)-1].Value
}

// Limits of a mix.
const (
	MaxMoves  = 64
	MaxBuses  = 16
	MaxSends  = 8
	MaxChain  = 16
	MaxShapes = 16
	MaxPoints = 64
)

// Validate checks a shape.
func (s *Shape) Validate() error {
	if s.ID == "" || !(s.Beats >= 0.125 && s.Beats <= 32) || len(s.Points) < 2 || len(s.Points) > MaxPoints {
		return fmt.Errorf("a shape has 2 to %d points over an eighth of a beat to 32 beats", MaxPoints)
	}
	for _, p := range s.Points {
		if !(p >= 0 && p <= 1) {
			return fmt.Errorf("a shape's points lie from 0 to 1")
		}
	}
	return nil
}

// At is the level at a beat of the song.
func (s *Shape) At(beat float64) float64 {
	n := float64(len(s.Points))
	place := beat / s.Beats
	place = (place - float64(int(place))) * n
	if place < 0 {
		place += n
	}
	i := int(place) % len(s.Points)
	a, b := s.Points[i], s.Points[(i+1)%len(s.Points)]
	return a + (b-a)*(place-float64(int(place)))
}

// Desk is the mix beside the voices: buses, the output, shapes.
type Desk struct {
	// Buses in the order of rows.
	Buses  []Bus   `json:"buses"`
	Out    Output  `json:"out"`
	Shapes []Shape `json:"shapes"`
	Moves  []Move  `json:"moves"`
}

// Move finds the move of a number by its address, or nil.
func (d *Desk) Move(at string) *Move {
	for i := range d.Moves {
		if d.Moves[i].At == at {
			return &d.Moves[i]
		}
	}
	return nil
}

// Bus finds a bus by its id, or nil.
func (d *Desk) Bus(id string) *Bus {
	for i := range d.Buses {
		if d.Buses[i].ID == id {
			return &d.Buses[i]
		}
	}
	return nil
}

// Place is where a bus stands, or -1.
func (d *Desk) Place(id string) int {
	return slices.IndexFunc(d.Buses, func(b Bus) bool { return b.ID == id })
}

// Shape finds a shape by its id, or nil.
func (d *Desk) Shape(id string) *Shape {
	for i := range d.Shapes {
		if d.Shapes[i].ID == id {
			return &d.Shapes[i]
		}
	}
	return nil
}

// Validate checks the buses' ids, names, numbers and chains.
func (d *Desk) Validate() error {
	if len(d.Buses) > MaxBuses || len(d.Shapes) > MaxShapes {
		return fmt.Errorf("a mix has at most %d buses and %d shapes", MaxBuses, MaxShapes)
	}
	for i := range d.Buses {
		b := &d.Buses[i]
		if b.ID == "" || strings.ContainsAny(b.ID, "/:") || d.Place(b.ID) != i {
			return fmt.Errorf("bus %d needs an id of its own", i+1)
		}
		if n := utf8.RuneCountInString(strings.TrimSpace(b.Name)); n == 0 || n > 40 {
			return fmt.Errorf("a bus needs a name of 1 to 40 letters")
		}
		if err := BusParams.Validate(b); err != nil {
			return fmt.Errorf("bus %q: %w", b.Name, err)
		}
		if err := b.Validate(); err != nil {
			return fmt.Errorf("bus %q: %w", b.Name, err)
		}
		for _, to := range b.goes() {
			if to != "" && d.Place(to) <= i {
				return fmt.Errorf("bus %q can only go to a bus below it, so that the sound does not go round", b.Name)
			}
		}
	}
	for i := range d.Shapes {
		if err := d.Shapes[i].Validate(); err != nil {
			return err
		}
	}
	if len(d.Moves) > MaxMoves {
		return fmt.Errorf("a mix has at most %d moves", MaxMoves)
	}
	for i := range d.Moves {
		if err := d.Moves[i].Validate(); err != nil {
			return err
		}
	}
	if err := OutputParams.Validate(&d.Out); err != nil {
		return fmt.Errorf("the output: %w", err)
	}
	return ValidChain(d.Out.Chain)
}

// goes are the buses that a row goes to.
func (r *Row) goes() []string {
	out := []string{r.To}
	for _, s := range r.Sends {
		out = append(out, s.To)
	}
	return out
}

// Validate checks a row's chain and sends.
func (r *Row) Validate() error {
	if len(r.Sends) > MaxSends {
		return fmt.Errorf("a row has at most %d sends", MaxSends)
	}
	for i := range r.Sends {
		if err := SendParams.Validate(&r.Sends[i]); err != nil {
			return err
		}
		if r.Sends[i].To == "" || r.Send(r.Sends[i].To) != &r.Sends[i] {
			return fmt.Errorf("a row sends once to a bus")
		}
	}
	return ValidChain(r.Chain)
}

// Send finds the send to a bus, or nil.
func (r *Row) Send(bus string) *Send {
	for i := range r.Sends {
		if r.Sends[i].To == bus {
			return &r.Sends[i]
		}
	}
	return nil
}

// ValidChain checks the steps of a chain, those within steps too: every step has an id
// that no other of the chain has.
func ValidChain(steps []Step) error {
	seen := map[string]bool{}
	var check func(steps []Step, deep int) error
	check = func(steps []Step, deep int) error {
		if len(steps) > MaxChain || deep > 3 {
			return fmt.Errorf("a chain has at most %d steps, and chains within chains go three deep", MaxChain)
		}
		for i := range steps {
			s := &steps[i]
			if err := s.Validate(); err != nil {
				return err
			}
			if seen[s.ID] {
				return fmt.Errorf("two steps of a chain are called %q", s.ID)
			}
			seen[s.ID] = true
			for _, p := range s.Paths {
				if err := check(p, deep+1); err != nil {
					return err
				}
			}
		}
		return nil
	}
	return check(steps, 1)
}

// FindStep finds a step of a chain by its id, within steps too, or nil.
func FindStep(steps []Step, id string) *Step {
	for i := range steps {
		if steps[i].ID == id {
			return &steps[i]
		}
		for _, p := range steps[i].Paths {
			if found := FindStep(p, id); found != nil {
				return found
			}
		}
	}
	return nil
}

// EachStep visits the steps of a chain and of their paths, in order.
func EachStep(steps []Step, f func(*Step)) {
	for i := range steps {
		f(&steps[i])
		for _, p := range steps[i].Paths {
			EachStep(p, f)
		}
	}
}

// CountSteps is how many steps a chain has, those of paths included.
func CountSteps(steps []Step) (n int) {
	EachStep(steps, func(*Step) { n++ })
	return n
}

// FreeStep is an id of a kind that no step of a chain has.
func FreeStep(steps []Step, kind string) string {
	for n := 1; ; n++ {
		if id := fmt.Sprintf("%s%d", kind, n); FindStep(steps, id) == nil {
			return id
		}
	}
}
