package service

import (
	"context"
	"strconv"

	"jubrak/core/project"
	"jubrak/core/transcribe"
)

// ShapeOf is the outline of a reference, and what of it would be taken.
type ShapeOf struct {
	transcribe.Outline
	// Take are sections of that shape, with the rows of this kit that do not play in them.
	Take []project.SectionOf `json:"take"`
}

// Outline is the shape of a recording of a project.
func (s *Service) Outline(ctx context.Context, id, refID string) (*ShapeOf, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	ref, err := s.reference(id, refID)
	if err != nil {
		return nil, err
	}
	b, err := s.sound(ref)
	if err != nil {
		return nil, err
	}
	if b == nil {
		return nil, &Refusal{Code: "no_sound", Message: "Only a recording has a shape that can be mapped."}
	}
	a, err := s.analyzed(ctx, ref)
	if err != nil {
		return nil, err
	}
	out := &ShapeOf{Outline: *transcribe.OutlineOf(b, a)}
	out.Take = takeShape(&st.Document, &out.Outline)
	return out, nil
}

// shapeName is what a section of a shape is called, by how loud they are among all
// (common practice): the first and last, quiet, middle and full ones.
func shapeName(o *transcribe.Outline, i int) string {
	mean := func(s transcribe.OutlineSection) (sum float64) {
		for _, b := range o.Bars[s.From : s.From+s.Bars] {
			sum += b.Energy / float64(s.Bars)
		}
		return sum
	}
	low, high := 0.0, -200.0
	for _, s := range o.Sections {
		low, high = min(low, mean(s)), max(high, mean(s))
	}
	at := (mean(o.Sections[i]) - low) / max(high-low, 1)
	switch {
	case i == 0 && len(o.Sections) > 1 && at < 0.8:
		return "Intro"
	case i == len(o.Sections)-1 && i > 0 && at < 0.8:
		return "Outro"
	case at < 0.3:
		return "Break"
	case at < 0.8:
		return "Verse"
	}
	return "Hook"
}

// takeShape makes sections of an outline: each plays the variation in hand, without the
// rows whose families are not heard there.
func takeShape(d *project.Document, o *transcribe.Outline) []project.SectionOf {
	out := []project.SectionOf{}
	used := map[string]int{}
	for i, s := range o.Sections {
		name := shapeName(o, i)
		if used[name]++; used[name] > 1 {
			name += " " + strconv.Itoa(used[name])
		}
		section := project.SectionOf{Name: name, Variation: d.Variation, Bars: s.Bars}
		for k, f := range o.Families {
			silent := -1
			for bar := 0; bar <= s.Bars; bar++ {
				plays := bar == s.Bars || o.Bars[s.From+bar].Hits[k] > 0
				if !plays && silent < 0 {
					silent = bar
				}
				if plays && silent >= 0 {
					for j := range d.Kit.Voices {
						if v := &d.Kit.Voices[j]; v.Family == f && bar-silent >= min(2, s.Bars) {
							section.Out = append(section.Out, project.RowOut{Voice: v.ID, From: silent, To: bar})
						}
					}
					silent = -1
				}
			}
		}
		out = append(out, section)
	}
	return out
}
