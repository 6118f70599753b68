package project

import (
	"fmt"

	"jubrak/core/effect"
)

// Edits of the mix: whole chains of rows, buses, sends, shapes, automation.
var mixEdits = map[string]Edit{
	"chain.set": SetChain{}, "chain.link": LinkChain{},
	"bus.add": AddBus{}, "bus.remove": RemoveBus{}, "bus.rename": RenameBus{}, "bus.move": MoveBus{},
	"row.to": SetRowTo{}, "send.add": AddSend{}, "send.remove": RemoveSend{}, "shape.set": SetShape{}, "shape.remove": RemoveShape{},
	"automation.set": SetAutomation{},
}

// SetChain replaces the chain of a row, or appends to it.
type SetChain struct {
	// Row is a voice, "bus:" with a bus, or "out".
	Row string `json:"row"`
	// Effects are given ids of their own where they need them.
	Effects []effect.Effect `json:"effects"`
	// Append keeps what is there and adds the effects at the end.
	Append bool `json:"append,omitempty"`
	// Title says where they come from, for the history.
	Title string `json:"title,omitempty"`
}

func (e SetChain) apply(d *Document, _ Env) ([]string, error) {
	chain, err := d.ownChain(e.Row)
	if err != nil {
		return nil, err
	}
	if !e.Append {
		*chain = []effect.Effect{}
	}
	effects := effect.CloneChain(e.Effects)
	taken := map[string]bool{}
	effect.Each(*chain, func(s *effect.Effect) { taken[s.ID] = true })
	var notes []string
	effect.Each(effects, func(s *effect.Effect) {
		if s.ID == "" || taken[s.ID] {
			for n := 1; s.ID == "" || taken[s.ID]; n++ {
				s.ID = fmt.Sprintf("%s%d", s.Kind, n)
			}
		}
		taken[s.ID] = true
		if s.Key != "" && !d.isKey(s.Key) {
			notes = append(notes, fmt.Sprintf("There is no %q here: %s has no sidechain.", s.Key, s.ID))
		}
		if s.Shape != "" && d.Mix.Shape(s.Shape) == nil {
			notes = append(notes, fmt.Sprintf("There is no shape %q here: %s ducks on every beat.", s.Shape, s.ID))
		}
	})
	*chain = append(*chain, effects...)
	return notes, nil
}

func (e SetChain) name(before, _ *Document) string {
	what := "chain changed"
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
