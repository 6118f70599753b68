package mixreport

import (
	"jubrak/core/effect"
	"jubrak/core/project"
)

// Words say what an effect does in two short lines, so that a chain can be read aloud.
func Words(s *effect.Effect, d *project.Document, p *Picture) [2]string {
	said := effect.Said{Effect: s, Taken: max(-p.Most, 0), Changed: p.Changed}
	if s.Key != "" {
		said.Sidechain = d.RowName(s.Key)
	}
	if shape := d.Mix.Shape(s.Shape); shape != nil {
		said.ShapeName = shape.Name
	}
	return said.Lines()
}
