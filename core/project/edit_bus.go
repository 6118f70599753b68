package project

import (
	"fmt"
	"jubrak/core/effect"
	"jubrak/core/mixer"
	"slices"
	"strings"
)

// AddBus adds a bus, before the first one that it could go to or as the last.
type AddBus struct {
	// Name has 1 to 40 letters; where it is empty the bus is called by its number.
	Name string `json:"name,omitempty"`
	// Rows are voices and buses that go to it from now on.
	Rows []string `json:"rows,omitempty"`
	// Chain are its effects.
	Chain []effect.Effect `json:"chain,omitempty"`
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
	b := mixer.Bus{ID: id, Name: name, Row: mixer.Row{Chain: effect.CloneChain(e.Chain), Sends: []mixer.Send{}}}
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
	s := mixer.Send{To: e.To}
	mixer.SendParams.Reset(&s)
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
	r.Sends = slices.DeleteFunc(slices.Clone(r.Sends), func(s mixer.Send) bool { return s.To == e.To })
	return nil, nil
}

func (e RemoveSend) name(before, _ *Document) string {
	return fmt.Sprintf("%s no longer sends to %s", before.RowName(e.Row), before.RowName(BusRow(e.To)))
}
