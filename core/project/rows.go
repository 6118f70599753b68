package project

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"jubrak/core/effect"
	"jubrak/core/mixer"
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
func (d *Document) Row(name string) *mixer.Row {
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
func (d *Document) Chain(row string) *[]effect.Effect {
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
func (d *Document) ownChain(row string) (*[]effect.Effect, error) {
	c := d.Chain(row)
	if c == nil {
		return nil, fmt.Errorf("there is no row %q in the mix", row)
	}
	*c = effect.CloneChain(*c)
	if r := d.Row(row); r != nil && r.Like != "" {
		r.Like, r.Own = "", nil // other effects than those it follows: a copy from now on
	}
	return c, nil
}

// chainWith finds the list, within a chain, that holds an effect, and its place there.
func chainWith(list *[]effect.Effect, effectID string) (*[]effect.Effect, int) {
	for i := range *list {
		s := &(*list)[i]
		if s.ID == effectID {
			return list, i
		}
		for k := range s.Paths {
			if found, at := chainWith(&s.Paths[k], effectID); found != nil {
				return found, at
			}
		}
	}
	return nil, -1
}

// inPath finds the list that an effect's path is, or the chain itself where no effect is
// named.
func inPath(chain *[]effect.Effect, effectID string, path int) (*[]effect.Effect, error) {
	if effectID == "" {
		return chain, nil
	}
	s := effect.Find(*chain, effectID)
	if s == nil || path < 0 || path >= len(s.Paths) {
		return nil, fmt.Errorf("there is no path %d in the effect %q", path+1, effectID)
	}
	return &s.Paths[path], nil
}

// chainNumber finds the number of an effect of a row's chain.
func (d *Document) chainNumber(row, effectID, id string, own bool) *Number {
	chain := d.Chain(row)
	if chain == nil || effect.Find(*chain, effectID) == nil {
		return nil
	}
	if own {
		*chain = effect.CloneChain(*chain)
	}
	s := effect.Find(*chain, effectID)
	k := effect.KindOf(s.Kind)
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
			r.Own[effectID+"/"+id] = held
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
	return numberOf(mixer.SendParams, id, r.Send(bus), fmt.Sprintf("%s to %s", d.RowName(row), d.RowName(BusRow(bus))))
}

// tidyMix makes lists that hold nothing empty, and lets no row go to what is no more, and
// no effect listen to it.
func (d *Document) tidyMix() {
	if d.Mix.Buses == nil {
		d.Mix.Buses = []mixer.Bus{}
	}
	if d.Mix.Automation == nil {
		d.Mix.Automation = []mixer.Automation{}
	}
	gone := func(m mixer.Automation) bool { _, err := d.loopParameter(m.At); return err != nil }
	if slices.ContainsFunc(d.Mix.Automation, gone) {
		d.Mix.Automation = slices.DeleteFunc(slices.Clone(d.Mix.Automation), gone)
	}
	if d.Mix.Shapes == nil {
		d.Mix.Shapes = []effect.Shape{}
	}
	d.followLinks()
	for _, name := range d.Rows() {
		chain := d.Chain(name)
		if chain == nil {
			continue // a voice that is called as a row is refused later
		}
		if *chain == nil {
			*chain = []effect.Effect{}
		}
		if d.strays(*chain) {
			*chain = effect.CloneChain(*chain)
			d.keep(*chain)
		}
		r := d.Row(name)
		if r == nil {
			continue
		}
		if r.Sends == nil {
			r.Sends = []mixer.Send{}
		}
		if r.To != "" && d.Mix.Bus(r.To) == nil {
			r.To = ""
		}
		gone := func(s mixer.Send) bool { return d.Mix.Bus(s.To) == nil }
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
		chain := effect.CloneChain(other.Chain)
		kept := map[string]float64{}
		for at, v := range r.Own {
			effectID, id, _ := strings.Cut(at, "/")
			if s := effect.Find(chain, effectID); s != nil {
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

// strays reports whether an effect listens to a voice or follows a shape that is no more.
func (d *Document) strays(effects []effect.Effect) bool {
	for i := range effects {
		s := &effects[i]
		if s.Key != "" && !d.isKey(s.Key) || s.Shape != "" && d.Mix.Shape(s.Shape) == nil {
			return true
		}
		if slices.ContainsFunc(s.Paths, d.strays) {
			return true
		}
	}
	return false
}

func (d *Document) keep(effects []effect.Effect) {
	for i := range effects {
		s := &effects[i]
		if s.Key != "" && !d.isKey(s.Key) {
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
