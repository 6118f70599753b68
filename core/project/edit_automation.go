package project

import (
	"fmt"
	"jubrak/core/effect"
	"jubrak/core/mixer"
	"slices"
	"strings"
)

// SetShape draws a shape that effects may follow, or changes one.
type SetShape struct {
	// Shape with the id of one that is there takes its place; without an id it is new.
	Shape effect.Shape `json:"shape"`
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

// RemoveShape takes a shape away; effects that follow it duck on every beat.
type RemoveShape struct {
	// Shape is its id.
	Shape string `json:"shape"`
}

func (e RemoveShape) apply(d *Document, _ Env) ([]string, error) {
	if d.Mix.Shape(e.Shape) == nil {
		return nil, fmt.Errorf("there is no shape %q", e.Shape)
	}
	d.Mix.Shapes = slices.DeleteFunc(d.Mix.Shapes, func(s effect.Shape) bool { return s.ID == e.Shape })
	return nil, nil
}

func (e RemoveShape) name(_, _ *Document) string { return "Shape removed" }

// SetAutomation draws a number of the mix over the bars of the loop.
type SetAutomation struct {
	// At is the address of a row's level or pan, of a send's level, or of a number of an effect.
	At string `json:"at"`
	// Points follow each other in time; none lets the number stay where it is set.
	Points []mixer.AutomationPoint `json:"points"`
}

func (e SetAutomation) apply(d *Document, _ Env) ([]string, error) {
	n, err := d.loopParameter(e.At)
	if err != nil {
		return nil, err
	}
	d.Mix.Automation = slices.DeleteFunc(slices.Clone(d.Mix.Automation), func(m mixer.Automation) bool { return m.At == e.At })
	if len(e.Points) == 0 {
		return nil, nil
	}
	points := slices.Clone(e.Points)
	for i := range points {
		if points[i].Value, err = n.Held(points[i].Value); err != nil {
			return nil, err
		}
	}
	d.Mix.Automation = append(d.Mix.Automation, mixer.Automation{At: e.At, Points: points})
	return nil, nil
}

// loopParameter finds a number of the mix that a move may draw.
func (d *Document) loopParameter(at string) (*Number, error) {
	part := strings.Split(at, "/")
	own := len(part) == 2 && (part[1] == "level_db" || part[1] == "pan") && d.Chain(part[0]) != nil
	send := len(part) == 4 && part[1] == "sends" && part[3] == "level_db"
	step := len(part) == 4 && part[1] == "chain"
	n, err := d.Number(at)
	if err != nil {
		return nil, err
	}
	if !own && !send && !step || !n.Param.Continuous() {
		return nil, fmt.Errorf("%s, %s: this cannot be drawn automated", n.Of, lower(n.Label))
	}
	return n, nil
}

func (e SetAutomation) name(before, _ *Document) string {
	n, err := before.Number(e.At)
	switch {
	case err != nil:
		return "A move"
	case len(e.Points) == 0:
		return fmt.Sprintf("%s: %s no longer moves", n.Of, lower(n.Label))
	}
	return fmt.Sprintf("%s: %s automated", n.Of, lower(n.Label))
}
