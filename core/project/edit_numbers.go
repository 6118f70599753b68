package project

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"jubrak/core/param"
)

var numberEdits = map[string]Edit{"number.set": SetNumber{}, "number.by": ChangeNumber{}}

// SetNumber sets the number at an address, held inside its range.
type SetNumber struct {
	// At is the address of the number, such as kick/layers/drum/body.decay_ms.
	At string `json:"at"`
	// Value is in the number's own unit; a switch is on at 1.
	Value float64 `json:"value"`
}

func (e SetNumber) apply(d *Document, _ Env) ([]string, error) {
	n, err := d.number(e.At, true)
	if err != nil {
		return nil, err
	}
	return n.setTo(e.Value)
}

// setTo sets a number and notes where it was held at an end of its range.
func (n *Number) setTo(v float64) ([]string, error) {
	if err := n.set(v); err != nil {
		return nil, err
	}
	return heldNote(&n.Param, v), nil
}

// heldNote says that a value was held at an end of a number's range, if it was.
func heldNote(p *param.Param, v float64) []string {
	held, err := p.Held(v)
	if err != nil || held == v || v >= p.Min && v <= p.Max {
		return nil
	}
	return []string{fmt.Sprintf("%s was held at %s: it goes from %s to %s.", p.Label, amount(held, p.Unit), amount(p.Min, ""), amount(p.Max, p.Unit))}
}

func (e SetNumber) name(before, after *Document) string { return nameNumber(e.At, before, after) }

// ChangeNumber adds to the number at an address and stops at the ends of its
// range.
type ChangeNumber struct {
	// At is the address of the number.
	At string `json:"at"`
	// By is in the number's own unit.
	By float64 `json:"by"`
}

func (e ChangeNumber) apply(d *Document, _ Env) ([]string, error) {
	n, err := d.number(e.At, true)
	if err != nil {
		return nil, err
	}
	return n.setTo(n.Value + e.By)
}

func (e ChangeNumber) name(before, after *Document) string { return nameNumber(e.At, before, after) }

// nameNumber returns how a number changed: "Kick, body: decay 320 → 410 ms".
func nameNumber(at string, before, after *Document) string {
	b, err := after.Number(at)
	if err != nil {
		return "A parameter that no longer exists"
	}
	label := lower(b.Label)
	a, err := before.Number(at)
	switch {
	case b.Scale == param.Switch && b.Value == 0:
		return fmt.Sprintf("%s: %s off", b.Of, label)
	case b.Scale == param.Switch:
		return fmt.Sprintf("%s: %s on", b.Of, label)
	case err != nil:
		return fmt.Sprintf("%s: %s %s", b.Of, label, amount(b.Value, b.Unit))
	}
	return fmt.Sprintf("%s: %s %s → %s", b.Of, label, amount(a.Value, ""), amount(b.Value, b.Unit))
}

func lower(label string) string { return strings.ToLower(label[:1]) + label[1:] }

// amount is a value for people, as precise as one can hear.
func amount(v float64, unit string) string {
	digits := 2
	switch a := math.Abs(v); {
	case a >= 100:
		digits = 0
	case a >= 10:
		digits = 1
	}
	text := strconv.FormatFloat(v, 'f', digits, 64)
	if strings.Contains(text, ".") {
		text = strings.TrimRight(strings.TrimRight(text, "0"), ".")
	}
	text = strings.Replace(text, "-", "−", 1)
	if text == "−0" {
		text = "0"
	}
	if unit != "" {
		text += " " + unit
	}
	return text
}
