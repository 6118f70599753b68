package project

import (
	"fmt"
	"slices"
	"strings"

	"jubrak/core/arrange"
)

// Edits of what is heard behind the drums. Its numbers are set by their addresses.
var backingEdits = map[string]Edit{
	"backing.add": AddBacking{}, "backing.stand_in": AddStandIn{}, "backing.set": SetBacking{}, "backing.remove": RemoveBacking{},
}

// AddBacking puts a recording behind the drums.
type AddBacking struct {
	// Backing is its id.
	Backing arrange.Backing `json:"backing"`
}

func (e AddBacking) apply(d *Document, _ Env) ([]string, error) {
	b := e.Backing
	if b.StandIn != nil {
		b.StandIn = new(*b.StandIn)
	}
	if d.Arrangement.Backing(b.ID) != nil {
		return nil, fmt.Errorf("there is a backing %q already", b.ID)
	}
	d.Arrangement.Backings = append(d.Arrangement.Backings, b)
	return nil, nil
}

func (e AddBacking) name(_, _ *Document) string { return "Backing " + e.Backing.Name }

// AddStandIn puts a stand-in behind the drums: a voice that speaks, and chords.
type AddStandIn struct {
	// Progression are its chords, as in "Fm | Db Ab"; empty are those of the key.
	Progression string `json:"progression,omitempty"`
}

func (e AddStandIn) apply(d *Document, _ Env) ([]string, error) {
	id := ""
	for n := 1; id == ""; n++ {
		if at := fmt.Sprintf("standin%d", n); d.Arrangement.Backing(at) == nil {
			id = at
		}
	}
	d.Arrangement.Backings = append(d.Arrangement.Backings, arrange.NewStandIn(id, strings.TrimSpace(e.Progression)))
	return nil, nil
}

func (e AddStandIn) name(_, _ *Document) string { return "A stand-in behind the drums" }

// SetBacking changes what of a backing is no number; what is left out stays.
type SetBacking struct {
	// Backing is its id.
	Backing string  `json:"backing"`
	Name    *string `json:"name,omitempty"`
	// At is the tick of the piece at which it begins.
	At *int `json:"at,omitempty"`
	// Fit is own, stretched or tape.
	Fit *arrange.Fit `json:"fit,omitempty"`
	// DuckBy is the voice that turns it down; empty is all.
	DuckBy *string `json:"duck_by,omitempty"`
	// Progression are the chords of a stand-in.
	Progression *string `json:"progression,omitempty"`
}

func (e SetBacking) apply(d *Document, _ Env) ([]string, error) {
	b := d.Arrangement.Backing(e.Backing)
	if b == nil {
		return nil, fmt.Errorf("there is no backing %q any more", e.Backing)
	}
	if e.Name != nil {
		b.Name = strings.TrimSpace(*e.Name)
	}
	set(&b.At, e.At)
	set(&b.Fit, e.Fit)
	set(&b.DuckBy, e.DuckBy)
	if b.DuckBy != "" && d.Kit.Voice(b.DuckBy) == nil {
		return nil, noVoice(b.DuckBy)
	}
	if e.Progression != nil && b.StandIn != nil {
		own := *b.StandIn
		own.Progression = strings.TrimSpace(*e.Progression)
		b.StandIn = &own
	}
	return nil, nil
}

func (e SetBacking) name(before, _ *Document) string {
	if b := before.Arrangement.Backing(e.Backing); b != nil {
		return b.Name + " changed"
	}
	return "Backing changed"
}

// RemoveBacking takes a backing away.
type RemoveBacking struct {
	// Backing is its id.
	Backing string `json:"backing"`
}

func (e RemoveBacking) apply(d *Document, _ Env) ([]string, error) {
	n := len(d.Arrangement.Backings)
	d.Arrangement.Backings = slices.DeleteFunc(d.Arrangement.Backings, func(b arrange.Backing) bool { return b.ID == e.Backing })
	if len(d.Arrangement.Backings) == n {
		return nil, fmt.Errorf("there is no backing %q any more", e.Backing)
	}
	return nil, nil
}

func (e RemoveBacking) name(before, _ *Document) string {
	if b := before.Arrangement.Backing(e.Backing); b != nil {
		return b.Name + " removed"
	}
	return "Backing removed"
}

func (d *Document) backingNumber(backing, id string) *Number {
	b := d.Arrangement.Backing(backing)
	if b == nil {
		return nil
	}
	if n := numberOf(arrange.BackingParams, id, b, b.Name); n != nil {
		return n
	}
	if b.StandIn == nil {
		return nil
	}
	own := *b.StandIn
	n := numberOf(arrange.StandInParams, id, &own, b.Name)
	if n != nil {
		write := n.set
		n.set = func(v float64) error {
			err := write(v)
			d.Arrangement.Backing(backing).StandIn = &own
			return err
		}
	}
	return n
}
