package project

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"jubrak/core/mix"
)

// Rows of the mix are named as in addresses: a voice by its id, a bus by "bus:" and its
// id, the output by "out".
const (
	busRow = "bus:"
	// OutRow is the row of the output.
	OutRow = "out"
)

// BusRow is the name of a bus's row.
func BusRow(bus string) string { return busRow + bus }

// Rows are the rows of the mix in order: voices, buses, the output.
func (d *Document) Rows() []string {
	var out []string
	for i := range d.Kit.Voices {
		out = append(out, d.Kit.Voices[i].ID)
	}
	for i := range d.Mix.Buses {
		out = append(out, BusRow(d.Mix.Buses[i].ID))
	}
	return append(out, OutRow)
}

// Row finds the row of a voice or a bus by its name, or nil.
func (d *Document) Row(name string) *mix.Row {
	if id, ok := strings.CutPrefix(name, busRow); ok {
		if b := d.Mix.Bus(id); b != nil {
			return &b.Row
		}
		return nil
	}
	if v := d.Kit.Voice(name); v != nil {
		return &v.Row
	}
	return nil
}

// Chain is the chain of a row, or nil where there is no such row.
func (d *Document) Chain(row string) *[]mix.Step {
	if row == OutRow {
		return &d.Mix.Out.Chain
	}
	if r := d.Row(row); r != nil {
		return &r.Chain
	}
	return nil
}

// RowName names a row for people.
func (d *Document) RowName(row string) string {
	if row == OutRow {
		return "Output"
	}
	if id, ok := strings.CutPrefix(row, busRow); ok {
		if b := d.Mix.Bus(id); b != nil {
			return b.Name
		}
		return "A bus"
	}
	return d.nameOf(row)
}

// ownChain makes a draft's chain its own, so that it may be changed.
func (d *Document) ownChain(row string) (*[]mix.Step, error) {
	c := d.Chain(row)
	if c == nil {
		return nil, fmt.Errorf("there is no row %q in the mix", row)
	}
	*c = mix.CloneSteps(*c)
	if r := d.Row(row); r != nil && r.Like != "" {
		r.Like, r.Own = "", nil // other steps than those it follows: a copy from now on
	}
	return c, nil
}

// chainWith finds the list, within a chain, that holds a step, and its place there.
func chainWith(list *[]mix.Step, step string) (*[]mix.Step, int) {
	for i := range *list {
		s := &(*list)[i]
		if s.ID == step {
			return list, i
		}
		for k := range s.Paths {
			if found, at := chainWith(&s.Paths[k], step); found != nil {
				return found, at
			}
		}
	}
	return nil, -1
}

// inPath finds the list that a step's path is, or the chain itself where no step is
// named.
func inPath(chain *[]mix.Step, step string, path int) (*[]mix.Step, error) {
	if step == "" {
		return chain, nil
	}
	s := mix.FindStep(*chain, step)
	if s == nil || path < 0 || path >= len(s.Paths) {
		return nil, fmt.Errorf("there is no path %d in the step %q", path+1, step)
	}
	return &s.Paths[path], nil
}

// chainNumber finds the number of a step of a row's chain.
func (d *Document) chainNumber(row, step, id string, own bool) *Number {
	chain := d.Chain(row)
	if chain == nil || mix.FindStep(*chain, step) == nil {
		return nil
	}
	if own {
		*chain = mix.CloneSteps(*chain)
	}
	s := mix.FindStep(*chain, step)
	k := mix.KindOf(s.Kind)
	if k == nil {
		return nil
	}
	p, _ := k.Param(id)
	if p == nil || s.Values == nil {
		return nil
	}
	return &Number{*p, d.RowName(row) + ", " + lower(k.Label), s.Values[id], func(v float64) error {
		held, err := p.Held(v)
		s.Values[id] = held
		if r := d.Row(row); err == nil && r != nil && r.Like != "" {
			r.Own = maps.Clone(r.Own)
			if r.Own == nil {
				r.Own = map[string]float64{}
			}
			r.Own[step+"/"+id] = held
		}
		return err
	}}
}

// sendNumber finds the number of a row's send.
func (d *Document) sendNumber(row, bus, id string, own bool) *Number {
	r := d.Row(row)
	if r == nil || r.Send(bus) == nil {
		return nil
	}
	if own {
		r.Sends = slices.Clone(r.Sends)
	}
	return numberOf(mix.SendParams, id, r.Send(bus), fmt.Sprintf("%s to %s", d.RowName(row), d.RowName(BusRow(bus))))
}

// tidyMix makes lists that hold nothing empty, and lets no row go to what is no more, and
// no step listen to it.
func (d *Document) tidyMix() {
	if d.Mix.Buses == nil {
		d.Mix.Buses = []mix.Bus{}
	}
	if d.Mix.Moves == nil {
		d.Mix.Moves = []mix.Move{}
	}
	gone := func(m mix.Move) bool { _, err := d.movable(m.At); return err != nil }
	if slices.ContainsFunc(d.Mix.Moves, gone) {
		d.Mix.Moves = slices.DeleteFunc(slices.Clone(d.Mix.Moves), gone)
	}
	if d.Mix.Shapes == nil {
		d.Mix.Shapes = []mix.Shape{}
	}
	d.followLinks()
	for _, name := range d.Rows() {
		chain := d.Chain(name)
		if chain == nil {
			continue // a voice that is called as a row is refused later
		}
		if *chain == nil {
			*chain = []mix.Step{}
		}
		if d.strays(*chain) {
			*chain = mix.CloneSteps(*chain)
			d.keep(*chain)
		}
		r := d.Row(name)
		if r == nil {
			continue
		}
		if r.Sends == nil {
			r.Sends = []mix.Send{}
		}
		if r.To != "" && d.Mix.Bus(r.To) == nil {
			r.To = ""
		}
		gone := func(s mix.Send) bool { return d.Mix.Bus(s.To) == nil }
		if slices.ContainsFunc(r.Sends, gone) {
			r.Sends = slices.DeleteFunc(slices.Clone(r.Sends), gone)
		}
	}
}

// followLinks gives rows that follow another one's chain that chain, with the numbers that
// are their own.
func (d *Document) followLinks() {
	for _, name := range d.Rows() {
		r := d.Row(name)
		if r == nil || r.Like == "" {
			continue
		}
		other := d.Row(r.Like)
		if other == nil || r.Like == name || other.Like != "" {
			r.Like, r.Own = "", nil
			continue
		}
		chain := mix.CloneSteps(other.Chain)
		kept := map[string]float64{}
		for at, v := range r.Own {
			step, id, _ := strings.Cut(at, "/")
			if s := mix.FindStep(chain, step); s != nil {
				if _, ok := s.Values[id]; ok {
					s.Values[id], kept[at] = v, v
				}
			}
		}
		r.Chain = chain
		if len(kept) < len(r.Own) {
			r.Own = kept
		}
	}
}

// strays tells whether a step listens to a voice or follows a shape that is no more.
func (d *Document) strays(steps []mix.Step) bool {
	for i := range steps {
		s := &steps[i]
		if s.Key != "" && d.Kit.Voice(s.Key) == nil || s.Shape != "" && d.Mix.Shape(s.Shape) == nil {
			return true
		}
		if slices.ContainsFunc(s.Paths, d.strays) {
			return true
		}
	}
	return false
}

func (d *Document) keep(steps []mix.Step) {
	for i := range steps {
		s := &steps[i]
		if s.Key != "" && d.Kit.Voice(s.Key) == nil {
			s.Key = ""
		}
		if s.Shape != "" && d.Mix.Shape(s.Shape) == nil {
			s.Shape = ""
		}
		for _, p := range s.Paths {
			d.keep(p)
		}
	}
}
