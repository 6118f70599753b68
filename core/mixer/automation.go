package mixer

import (
	"fmt"

	"jubrak/core/param"
)

// Automation draws a number of the mix over the bars of the loop.
type Automation struct {
	// At is the number's address: of a row's level or pan, of a send, or of an effect.
	At string `json:"at"`
	// Points in the order of their bars; straight between them in the number's own scale,
	// and still before the first and after the last.
	Points []AutomationPoint `json:"points"`
}

// AutomationPoint is where a number has a value.
type AutomationPoint struct {
	// Bar counts from 0, fractions allowed.
	Bar float64 `json:"bar"`
	// Value is in the number's own unit.
	Value float64 `json:"value"`
}

// Validate checks the order of a move's points.
func (m *Automation) Validate() error {
	if m.At == "" || len(m.Points) == 0 || len(m.Points) > maxPoints {
		return fmt.Errorf("a move has 1 to %d points", maxPoints)
	}
	for i, p := range m.Points {
		if !(p.Bar >= 0 && p.Bar <= 1024) || i > 0 && p.Bar <= m.Points[i-1].Bar {
			return fmt.Errorf("the points of a move follow each other in time")
		}
	}
	return nil
}

// ValueAt is the move's value at a bar, for a number p.
func (m *Automation) ValueAt(bar float64, p *param.Param) float64 {
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
