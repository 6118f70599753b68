// Package mixer is where rows go: buses, sends, the output, and numbers drawn over bars.
// It is plain data with its checks; package engine mixes by it.
package mixer

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"jubrak/core/effect"
	"jubrak/core/param"
)

// Limits of a mix.
const (
	MaxAutomation = 64
	MaxBuses      = 16
	MaxSends      = 8
	maxPoints     = 128 // of a number that is drawn
)

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
	param.Number(param.Decibels("level_db", "Level", -60, 12, 0), func(b *Bus) *float64 { return &b.Level }),
	param.Number(param.Param{ID: "pan", Label: "Pan", Min: -1, Max: 1, Scale: param.Linear}, func(b *Bus) *float64 { return &b.Pan }),
	param.Flag("mute", "Mute", func(b *Bus) *bool { return &b.Mute }),
}

// Output is where everything comes together.
type Output struct {
	Level float64         `json:"level_db"`
	Chain []effect.Effect `json:"chain"`
}

// OutputParams is the table of the output's own numbers.
var OutputParams = param.Table[Output]{
	param.Number(param.Decibels("level_db", "Level", -60, 12, 0), func(o *Output) *float64 { return &o.Level }),
}

// Desk is the mix beside the voices: buses, the output, shapes.
type Desk struct {
	// Buses in the order of rows.
	Buses      []Bus          `json:"buses"`
	Out        Output         `json:"out"`
	Shapes     []effect.Shape `json:"shapes"`
	Automation []Automation   `json:"automation"`
}

// AutomationOf finds the move of a number by its address, or nil.
func (d *Desk) AutomationOf(at string) *Automation {
	for i := range d.Automation {
		if d.Automation[i].At == at {
			return &d.Automation[i]
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
func (d *Desk) Shape(id string) *effect.Shape {
	for i := range d.Shapes {
		if d.Shapes[i].ID == id {
			return &d.Shapes[i]
		}
	}
	return nil
}

// Validate checks the buses' ids, names, numbers and chains.
func (d *Desk) Validate() error {
	if len(d.Buses) > MaxBuses || len(d.Shapes) > effect.MaxShapes {
		return fmt.Errorf("a mix has at most %d buses and %d shapes", MaxBuses, effect.MaxShapes)
	}
	for i := range d.Buses {
		b := &d.Buses[i]
		if b.ID == "" || strings.ContainsAny(b.ID, "/:") || d.Place(b.ID) != i {
			return fmt.Errorf("bus %d needs an id of its own", i+1)
		}
		if n := utf8.RuneCountInString(strings.TrimSpace(b.Name)); n == 0 || n > 40 {
			return fmt.Errorf("a bus needs a name of 1 to 40 characters")
		}
		if err := BusParams.Validate(b); err != nil {
			return fmt.Errorf("bus %q: %w", b.Name, err)
		}
		if err := b.Validate(); err != nil {
			return fmt.Errorf("bus %q: %w", b.Name, err)
		}
		for _, to := range b.goes() {
			if to != "" && d.Place(to) <= i {
				return fmt.Errorf("bus %q can only feed a bus below it, to prevent feedback. Move it up first", b.Name)
			}
		}
	}
	for i := range d.Shapes {
		if err := d.Shapes[i].Validate(); err != nil {
			return err
		}
	}
	if len(d.Automation) > MaxAutomation {
		return fmt.Errorf("a mix has at most %d moves", MaxAutomation)
	}
	for i := range d.Automation {
		if err := d.Automation[i].Validate(); err != nil {
			return err
		}
	}
	if err := OutputParams.Validate(&d.Out); err != nil {
		return fmt.Errorf("the output: %w", err)
	}
	return effect.ValidChain(d.Out.Chain)
}
