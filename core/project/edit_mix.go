package project

import (
	"fmt"
	"slices"
	"strings"

	"jubrak/core/mix"
	"jubrak/core/sound"
)

// Edits of the mix: chains of rows, buses, sends, shapes.
var mixEdits = map[string]Edit{
	"chain.add": AddToChain{}, "chain.remove": RemoveFromChain{}, "chain.move": MoveInChain{}, "chain.switch": SwitchInChain{},
	"chain.key": SetStepKey{}, "chain.shape": SetStepShape{}, "chain.set": SetChain{}, "chain.link": LinkChain{},
	"bus.add": AddBus{}, "bus.remove": RemoveBus{}, "bus.rename": RenameBus{}, "bus.move": MoveBus{},
	"row.to": SetRowTo{}, "send.add": AddSend{}, "send.remove": RemoveSend{}, "shape.set": SetShape{}, "shape.remove": RemoveShape{},
	"mix.move": SetMixMove{},
}

// AddToChain adds a step to the chain of a row.
type AddToChain struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Kind is one of the kinds of step.
	Kind string `json:"kind"`
	// To is the place it comes to, counted from 0; beyond the end it is the last.
	To int `json:"to"`
	// Values are numbers that are not the kind's defaults.
	Values map[string]float64 `json:"values,omitempty"`
	// In is the step within which it stands; empty is the chain itself.
	In string `json:"in,omitempty"`
	// Path is on which of that step's paths, counted from 0.
	Path int `json:"path,omitempty"`
	// Key is the voice that steers it; empty is its own sound.
	Key string `json:"key,omitempty"`
}

func (e AddToChain) apply(d *Document, _ Env) ([]string, error) {
	chain, err := d.ownChain(e.Row)
	if err != nil {
		return nil, err
	}
	k := mix.KindOf(e.Kind)
	if k == nil {
		return nil, fmt.Errorf("there is no step of kind %q", e.Kind)
	}
	for id := range e.Values {
		if p, _ := k.Param(id); p == nil {
			return nil, fmt.Errorf("a %s has no number %q", k.Label, id)
		}
	}
	if e.Key != "" && (!k.Keyed || d.Kit.Voice(e.Key) == nil) {
		return nil, fmt.Errorf("%q cannot steer a %s", e.Key, lower(k.Label))
	}
	list, err := inPath(chain, e.In, e.Path)
	if err != nil {
		return nil, err
	}
	s := mix.NewStep(mix.FreeStep(*chain, e.Kind), k, e.Values)
	s.Key = e.Key
	*list = slices.Insert(*list, min(max(e.To, 0), len(*list)), s)
	return nil, nil
}

func (e AddToChain) name(before, _ *Document) string {
	return fmt.Sprintf("%s: %s added", before.RowName(e.Row), lower(mix.KindOf(e.Kind).Label))
}

// RemoveFromChain takes a step out of the chain of a row.
type RemoveFromChain struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Step is its id.
	Step string `json:"step"`
}

func (e RemoveFromChain) apply(d *Document, _ Env) ([]string, error) {
	list, i, err := d.stepOf(e.Row, e.Step)
	if err != nil {
		return nil, err
	}
	*list = slices.Delete(*list, i, i+1)
	return nil, nil
}

func (e RemoveFromChain) name(before, _ *Document) string {
	return before.chainName(e.Row, e.Step) + " removed"
}

// stepOf finds a step of a draft's chain, which becomes the draft's own.
func (d *Document) stepOf(row, step string) (*[]mix.Step, int, error) {
	chain, err := d.ownChain(row)
	if err != nil {
		return nil, 0, err
	}
	list, i := chainWith(chain, step)
	if list == nil {
		return nil, 0, fmt.Errorf("the step is no longer there")
	}
	return list, i, nil
}

// chainName names a step of a chain for people.
func (d *Document) chainName(row, step string) string {
	if c := d.Chain(row); c != nil {
		if s := mix.FindStep(*c, step); s != nil {
			return d.RowName(row) + ", " + lower(mix.KindOf(s.Kind).Label)
		}
	}
	return d.RowName(row) + ", a step"
}

// MoveInChain moves a step to another place, perhaps on another path of its chain.
type MoveInChain struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Step is its id.
	Step string `json:"step"`
	// To is the place it comes to, counted from 0.
	To int `json:"to"`
	// In is the step that it comes into; empty is the chain itself.
	In string `json:"in,omitempty"`
	// Path is which of that step's paths, counted from 0.
	Path int `json:"path,omitempty"`
}

func (e MoveInChain) apply(d *Document, _ Env) ([]string, error) {
	from, i, err := d.stepOf(e.Row, e.Step)
	if err != nil {
		return nil, err
	}
	moved := (*from)[i]
	if e.In != "" && mix.FindStep([]mix.Step{moved}, e.In) != nil {
		return nil, fmt.Errorf("a step cannot stand within itself")
	}
	*from = slices.Delete(*from, i, i+1)
	list, err := inPath(d.Chain(e.Row), e.In, e.Path)
	if err != nil {
		return nil, err
	}
	*list = slices.Insert(*list, min(max(e.To, 0), len(*list)), moved)
	return nil, nil
}

func (e MoveInChain) name(before, _ *Document) string {
	return before.chainName(e.Row, e.Step) + " moved"
}

// SwitchInChain switches a step off or on.
type SwitchInChain struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Step is its id.
	Step string `json:"step"`
	// Off lets the sound pass as it is.
	Off bool `json:"off"`
}

func (e SwitchInChain) apply(d *Document, _ Env) ([]string, error) {
	list, i, err := d.stepOf(e.Row, e.Step)
	if err != nil {
		return nil, err
	}
	(*list)[i].Off = e.Off
	return nil, nil
}

func (e SwitchInChain) name(before, _ *Document) string {
	return before.chainName(e.Row, e.Step) + map[bool]string{true: " off", false: " on"}[e.Off]
}

// SetStepKey says which voice steers a step.
type SetStepKey struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Step is its id.
	Step string `json:"step"`
	// Key is a voice of the kit, also a muted one; empty is its own sound.
	Key string `json:"key"`
}

func (e SetStepKey) apply(d *Document, _ Env) ([]string, error) {
	list, i, err := d.stepOf(e.Row, e.Step)
	if err != nil {
		return nil, err
	}
	s := &(*list)[i]
	if k := mix.KindOf(s.Kind); !k.Keyed {
		return nil, fmt.Errorf("a %s listens to nothing else", lower(k.Label))
	}
	if e.Key != "" && d.Kit.Voice(e.Key) == nil {
		return nil, noVoice(e.Key)
	}
	s.Key = e.Key
	return nil, nil
}

func (e SetStepKey) name(before, _ *Document) string {
	if e.Key == "" {
		return before.chainName(e.Row, e.Step) + " steered by its own sound"
	}
	return before.chainName(e.Row, e.Step) + " steered by " + before.nameOf(e.Key)
}

// SetStepShape says which shape a step follows.
type SetStepShape struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Step is its id.
	Step string `json:"step"`
	// Shape is one of the project's; empty ducks on every beat.
	Shape string `json:"shape"`
}

func (e SetStepShape) apply(d *Document, _ Env) ([]string, error) {
	list, i, err := d.stepOf(e.Row, e.Step)
	if err != nil {
		return nil, err
	}
	if e.Shape != "" && d.Mix.Shape(e.Shape) == nil {
		return nil, fmt.Errorf("there is no shape %q", e.Shape)
	}
	(*list)[i].Shape = e.Shape
	return nil, nil
}

func (e SetStepShape) name(before, _ *Document) string {
	return before.chainName(e.Row, e.Step) + " follows another shape"
}

// SetChain puts other steps in the place of a row's, or behind them.
type SetChain struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Steps are given ids of their own where they need them.
	Steps []mix.Step `json:"steps"`
	// Behind keeps what is there.
	Behind bool `json:"behind,omitempty"`
	// Title says where they come from, for the history.
	Title string `json:"title,omitempty"`
}

func (e SetChain) apply(d *Document, _ Env) ([]string, error) {
	chain, err := d.ownChain(e.Row)
	if err != nil {
		return nil, err
	}
	if !e.Behind {
		*chain = []mix.Step{}
	}
	steps := mix.CloneSteps(e.Steps)
	taken := map[string]bool{}
	mix.EachStep(*chain, func(s *mix.Step) { taken[s.ID] = true })
	var notes []string
	mix.EachStep(steps, func(s *mix.Step) {
		if s.ID == "" || taken[s.ID] {
			for n := 1; s.ID == "" || taken[s.ID]; n++ {
				s.ID = fmt.Sprintf("%s%d", s.Kind, n)
			}
		}
		taken[s.ID] = true
		if s.Key != "" && d.Kit.Voice(s.Key) == nil {
			notes = append(notes, fmt.Sprintf("There is no voice %q here: %s listens to its own sound.", s.Key, s.ID))
		}
		if s.Shape != "" && d.Mix.Shape(s.Shape) == nil {
			notes = append(notes, fmt.Sprintf("There is no shape %q here: %s ducks on every beat.", s.Shape, s.ID))
		}
	})
	*chain = append(*chain, steps...)
	return notes, nil
}

func (e SetChain) name(before, _ *Document) string {
	what := "another chain"
	if e.Title != "" {
		what = "chain " + e.Title
	}
	return fmt.Sprintf("%s: %s", before.RowName(e.Row), what)
}

// LinkChain lets a row follow the chain of another one: what is changed there is changed
// here, but for the numbers that are set here.
type LinkChain struct {
	// Row is a voice or "bus:" with a bus.
	Row string `json:"row"`
	// Like is the row that it follows; empty makes it a copy.
	Like string `json:"like"`
}

func (e LinkChain) apply(d *Document, _ Env) ([]string, error) {
	r := d.Row(e.Row)
	if r == nil {
		return nil, fmt.Errorf("there is no row %q in the mix that could follow another one", e.Row)
	}
	if e.Like == "" {
		r.Like, r.Own = "", nil
		return nil, nil
	}
	other := d.Row(e.Like)
	if other == nil || e.Like == e.Row || other.Like != "" {
		return nil, fmt.Errorf("a row follows another one that has a chain of its own")
	}
	for _, name := range d.Rows() {
		if f := d.Row(name); f != nil && f.Like == e.Row {
			return nil, fmt.Errorf("%s follows this row: it cannot follow another one", d.RowName(name))
		}
	}
	r.Like, r.Own = e.Like, nil
	return nil, nil
}

func (e LinkChain) name(before, _ *Document) string {
	if e.Like == "" {
		return before.RowName(e.Row) + ": a chain of its own"
	}
	return fmt.Sprintf("%s follows the chain of %s", before.RowName(e.Row), before.RowName(e.Like))
}

// AddBus adds a bus, before the first one that it could go to or as the last.
type AddBus struct {
	// Name has 1 to 40 letters; where it is empty the bus is called by its number.
	Name string `json:"name,omitempty"`
	// Rows are voices and buses that go to it from now on.
	Rows []string `json:"rows,omitempty"`
	// Chain are its steps.
	Chain []mix.Step `json:"chain,omitempty"`
	// Sends are rows that send to it, at -12 dB.
	Sends []string `json:"sends,omitempty"`
}

func (e AddBus) apply(d *Document, _ Env) ([]string, error) {
	name := strings.TrimSpace(e.Name)
	if name == "" {
		name = fmt.Sprintf("Bus %d", len(d.Mix.Buses)+1)
	}
	id := busID(name)
	for n := 2; d.Mix.Bus(id) != nil; n++ {
		id = fmt.Sprintf("%s%d", busID(name), n)
	}
	b := mix.Bus{ID: id, Name: name, Row: mix.Row{Chain: mix.CloneSteps(e.Chain), Sends: []mix.Send{}}}
	d.Mix.Buses = append(d.Mix.Buses, b)
	for _, row := range e.Rows {
		r := d.Row(row)
		if r == nil {
			return nil, fmt.Errorf("there is no row %q in the mix", row)
		}
		r.To = id
	}
	for _, row := range e.Sends {
		if _, err := (AddSend{row, id}).apply(d, nil); err != nil {
			return nil, err
		}
	}
	return nil, nil
}

// busID makes an id of a name: its letters and digits.
func busID(name string) string {
	id := strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return -1
	}, strings.ToLower(name))
	if id == "" {
		return "bus"
	}
	return id
}

func (e AddBus) name(_, after *Document) string {
	if name := strings.TrimSpace(e.Name); name != "" {
		return "Bus " + name + " added"
	}
	return "Bus added"
}

// RemoveBus takes a bus away; what went to it goes where it went.
type RemoveBus struct {
	// Bus is its id.
	Bus string `json:"bus"`
}

func (e RemoveBus) apply(d *Document, _ Env) ([]string, error) {
	i := d.Mix.Place(e.Bus)
	if i < 0 {
		return nil, noBus(e.Bus)
	}
	to := d.Mix.Buses[i].To
	for _, name := range d.Rows() {
		if r := d.Row(name); r != nil && r.To == e.Bus {
			r.To = to
		}
	}
	d.Mix.Buses = slices.Delete(d.Mix.Buses, i, i+1)
	return nil, nil
}

func noBus(id string) error { return fmt.Errorf("there is no bus %q", id) }

func (e RemoveBus) name(before, _ *Document) string {
	return "Bus " + before.RowName(BusRow(e.Bus)) + " removed"
}

// RenameBus gives a bus another name; its id stays.
type RenameBus struct {
	// Bus is its id.
	Bus string `json:"bus"`
	// Name has 1 to 40 letters.
	Name string `json:"name"`
}

func (e RenameBus) apply(d *Document, _ Env) ([]string, error) {
	b := d.Mix.Bus(e.Bus)
	if b == nil {
		return nil, noBus(e.Bus)
	}
	b.Name = strings.TrimSpace(e.Name)
	return nil, nil
}

func (e RenameBus) name(before, after *Document) string {
	return fmt.Sprintf("Bus %s renamed to %s", before.RowName(BusRow(e.Bus)), after.RowName(BusRow(e.Bus)))
}

// MoveBus moves a bus up or down. It stops where it would come behind a bus that it goes
// to, or before one that goes to it.
type MoveBus struct {
	// Bus is its id.
	Bus string `json:"bus"`
	// To is the place among the buses, counted from 0.
	To int `json:"to"`
}

func (e MoveBus) apply(d *Document, _ Env) ([]string, error) {
	i := d.Mix.Place(e.Bus)
	if i < 0 {
		return nil, noBus(e.Bus)
	}
	b := d.Mix.Buses[i]
	rest := slices.Delete(d.Mix.Buses, i, i+1)
	d.Mix.Buses = slices.Insert(rest, min(max(e.To, 0), len(rest)), b)
	return nil, nil
}

func (e MoveBus) name(before, _ *Document) string {
	return "Bus " + before.RowName(BusRow(e.Bus)) + " moved"
}

// SetRowTo says where a row goes.
type SetRowTo struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// To is a bus; empty is the output.
	To string `json:"to"`
}

func (e SetRowTo) apply(d *Document, _ Env) ([]string, error) {
	r := d.Row(e.Row)
	if r == nil {
		return nil, fmt.Errorf("there is no row %q in the mix", e.Row)
	}
	if e.To != "" && d.Mix.Bus(e.To) == nil {
		return nil, noBus(e.To)
	}
	r.To = e.To
	return nil, nil
}

func (e SetRowTo) name(before, _ *Document) string {
	to := "the output"
	if e.To != "" {
		to = before.RowName(BusRow(e.To))
	}
	return fmt.Sprintf("%s to %s", before.RowName(e.Row), to)
}

// AddSend lets a copy of a row go to a bus as well, at -12 dB.
type AddSend struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// To is the bus.
	To string `json:"to"`
}

func (e AddSend) apply(d *Document, _ Env) ([]string, error) {
	r := d.Row(e.Row)
	if r == nil {
		return nil, fmt.Errorf("there is no row %q in the mix", e.Row)
	}
	if d.Mix.Bus(e.To) == nil {
		return nil, noBus(e.To)
	}
	if r.Send(e.To) != nil {
		return nil, fmt.Errorf("%s sends to %s already", d.RowName(e.Row), d.RowName(BusRow(e.To)))
	}
	s := mix.Send{To: e.To}
	mix.SendParams.Reset(&s)
	r.Sends = append(slices.Clone(r.Sends), s)
	return nil, nil
}

func (e AddSend) name(before, _ *Document) string {
	return fmt.Sprintf("%s sends to %s", before.RowName(e.Row), before.RowName(BusRow(e.To)))
}

// RemoveSend takes a send away.
type RemoveSend struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// To is the bus.
	To string `json:"to"`
}

func (e RemoveSend) apply(d *Document, _ Env) ([]string, error) {
	r := d.Row(e.Row)
	if r == nil || r.Send(e.To) == nil {
		return nil, fmt.Errorf("there is no such send")
	}
	r.Sends = slices.DeleteFunc(slices.Clone(r.Sends), func(s mix.Send) bool { return s.To == e.To })
	return nil, nil
}

func (e RemoveSend) name(before, _ *Document) string {
	return fmt.Sprintf("%s no longer sends to %s", before.RowName(e.Row), before.RowName(BusRow(e.To)))
}

// SetShape draws a shape that steps may follow, or changes one.
type SetShape struct {
	// Shape with the id of one that is there takes its place; without an id it is new.
	Shape mix.Shape `json:"shape"`
}

func (e SetShape) apply(d *Document, _ Env) ([]string, error) {
	s := e.Shape
	s.Points = slices.Clone(s.Points)
	if at := d.Mix.Shape(s.ID); s.ID != "" && at != nil {
		*at = s
		return nil, nil
	}
	if s.ID == "" {
		for n := 1; ; n++ {
			if s.ID = fmt.Sprintf("shape%d", n); d.Mix.Shape(s.ID) == nil {
				break
			}
		}
	}
	if s.Name == "" {
		s.Name = fmt.Sprintf("Shape %d", len(d.Mix.Shapes)+1)
	}
	d.Mix.Shapes = append(d.Mix.Shapes, s)
	return nil, nil
}

func (e SetShape) name(_, _ *Document) string { return "Shape drawn" }

// RemoveShape takes a shape away; steps that follow it duck on every beat.
type RemoveShape struct {
	// Shape is its id.
	Shape string `json:"shape"`
}

func (e RemoveShape) apply(d *Document, _ Env) ([]string, error) {
	if d.Mix.Shape(e.Shape) == nil {
		return nil, fmt.Errorf("there is no shape %q", e.Shape)
	}
	d.Mix.Shapes = slices.DeleteFunc(d.Mix.Shapes, func(s mix.Shape) bool { return s.ID == e.Shape })
	return nil, nil
}

func (e RemoveShape) name(_, _ *Document) string { return "Shape removed" }

// SetMixMove draws a number of the mix over the bars of the loop.
type SetMixMove struct {
	// At is the address of a row's level or pan, of a send's level, or of a number of a step.
	At string `json:"at"`
	// Points follow each other in time; none lets the number stay where it is set.
	Points []mix.MovePoint `json:"points"`
}

func (e SetMixMove) apply(d *Document, _ Env) ([]string, error) {
	n, err := d.movable(e.At)
	if err != nil {
		return nil, err
	}
	d.Mix.Moves = slices.DeleteFunc(slices.Clone(d.Mix.Moves), func(m mix.Move) bool { return m.At == e.At })
	if len(e.Points) == 0 {
		return nil, nil
	}
	points := slices.Clone(e.Points)
	for i := range points {
		if points[i].Value, err = n.Held(points[i].Value); err != nil {
			return nil, err
		}
	}
	d.Mix.Moves = append(d.Mix.Moves, mix.Move{At: e.At, Points: points})
	return nil, nil
}

// movable finds a number of the mix that a move may draw.
func (d *Document) movable(at string) (*Number, error) {
	part := strings.Split(at, "/")
	own := len(part) == 2 && (part[1] == "level_db" || part[1] == "pan") && d.Chain(part[0]) != nil
	send := len(part) == 4 && part[1] == "sends" && part[3] == "level_db"
	step := len(part) == 4 && part[1] == "chain"
	n, err := d.Number(at)
	if err != nil {
		return nil, err
	}
	if !own && !send && !step || !sound.Movable(&n.Param) {
		return nil, fmt.Errorf("%s, %s: this cannot be drawn over the bars", n.Of, lower(n.Label))
	}
	return n, nil
}

func (e SetMixMove) name(before, _ *Document) string {
	n, err := before.Number(e.At)
	switch {
	case err != nil:
		return "A move"
	case len(e.Points) == 0:
		return fmt.Sprintf("%s: %s no longer moves", n.Of, lower(n.Label))
	}
	return fmt.Sprintf("%s: %s over the bars", n.Of, lower(n.Label))
}
