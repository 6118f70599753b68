package project

import (
	"fmt"
	"slices"
	"strings"

	"jubrak/core/arrange"
	"jubrak/core/music"
)

// Edits of the arrangement: its sections and their order.
var sectionEdits = map[string]Edit{
	"section.add": AddSection{}, "section.set": SetSection{}, "section.move": MoveSection{}, "section.repeat": RepeatSection{},
	"section.split": SplitSection{}, "section.remove": RemoveSection{}, "sections.set": SetSections{},
	"order.keep": KeepOrder{}, "order.use": UseOrder{}, "order.remove": RemoveOrder{},
	"marker.add": AddMarker{}, "marker.remove": RemoveMarker{}, "piece.speed": SetSpeed{},
}

// AddSection puts a section into the arrangement.
type AddSection struct {
	// Name has 1 to 40 letters.
	Name string `json:"name"`
	// Variation is the id of the groove that it plays; empty is the one in hand.
	Variation string `json:"variation,omitempty"`
	// Bars is how many.
	Bars int `json:"bars"`
	// After is the id of the section that it follows; empty puts it at the end.
	After string `json:"after,omitempty"`
}

func (e AddSection) apply(d *Document, _ Env) ([]string, error) {
	id, take := d.newSection()
	s := arrange.Section{ID: id, Name: strings.TrimSpace(e.Name), Variation: e.Variation, Bars: e.Bars, Take: take}
	if s.Variation == "" {
		s.Variation = d.Variation
	}
	if d.GrooveOf(s.Variation) == nil {
		return nil, fmt.Errorf("there is no variation %q", s.Variation)
	}
	at := len(d.Arrangement.Sections)
	if e.After != "" {
		i, _, err := d.section(e.After)
		if err != nil {
			return nil, err
		}
		at = i + 1
	}
	return nil, d.insert(at, s)
}

// insert puts a section into a draft's list, where it is not full.
func (d *Document) insert(at int, list ...arrange.Section) error {
	if len(d.Arrangement.Sections)+len(list) > arrange.MaxSections {
		return fmt.Errorf("a piece has at most %d sections", arrange.MaxSections)
	}
	d.Arrangement.Sections = slices.Insert(d.Arrangement.Sections, at, list...)
	return nil
}

func (e AddSection) name(_, _ *Document) string {
	return fmt.Sprintf("Section %s of %s", strings.TrimSpace(e.Name), count(e.Bars, "bar"))
}

// SetSection changes what a section is; what is left out stays.
type SetSection struct {
	// Section is its id.
	Section string `json:"section"`
	// Name has 1 to 40 letters.
	Name *string `json:"name,omitempty"`
	// Variation is the id of a groove.
	Variation *string `json:"variation,omitempty"`
	// Bars is how many.
	Bars *int `json:"bars,omitempty"`
	// From is how many bars of the variation have gone by where it begins.
	From *int `json:"from_bar,omitempty"`
	// Meter is like "7/8"; empty is that of the variation.
	Meter *string `json:"meter,omitempty"`
	// Tempo and TempoTo are in BPM; 0 goes on as before, or without a ramp.
	Tempo *float64 `json:"tempo_bpm,omitempty"`
	// TempoTo is what the tempo runs straight to over the section; 0 is no ramp.
	TempoTo *float64 `json:"tempo_to_bpm,omitempty"`
	// GoesOn lets lanes of other lengths go on from before.
	GoesOn *bool `json:"lanes_go_on,omitempty"`
	// Cuts stops what rings at its end.
	Cuts *bool `json:"cuts_tails,omitempty"`
}

func (e SetSection) apply(d *Document, _ Env) (notes []string, err error) {
	_, s, err := d.section(e.Section)
	if err != nil {
		return nil, err
	}
	set(&s.Variation, e.Variation)
	set(&s.Bars, e.Bars)
	set(&s.From, e.From)
	set(&s.Tempo, e.Tempo)
	set(&s.TempoTo, e.TempoTo)
	set(&s.GoesOn, e.GoesOn)
	set(&s.Cuts, e.Cuts)
	if e.Name != nil {
		s.Name = strings.TrimSpace(*e.Name)
	}
	g := d.GrooveOf(s.Variation)
	if g == nil {
		return nil, fmt.Errorf("there is no variation %q", s.Variation)
	}
	if e.Meter != nil {
		s.Meter = nil
		if *e.Meter != "" {
			m, err := music.ParseMeter(*e.Meter)
			if err != nil {
				return nil, err
			}
			s.Meter = &m
		}
	}
	if s.Bars < 1 || s.Bars > arrange.MaxBars {
		return nil, fmt.Errorf("a section has 1 to %d bars, not %d", arrange.MaxBars, s.Bars)
	}
	if s.Meter != nil && *s.Meter != g.Meter && e.Meter != nil {
		for _, l := range g.Lanes {
			if l.Steps > 0 && len(l.Hits) > 0 {
				notes = append(notes, fmt.Sprintf("%s repeats every %s and runs on through the bars of %s.", d.nameOf(l.Voice), count(l.Steps, "step"), s.Meter))
			}
		}
	}
	return notes, nil
}

// set writes a value where there is one.
func set[T any](to *T, v *T) {
	if v != nil {
		*to = *v
	}
}

func (e SetSection) name(before, after *Document) string {
	s, was := after.Arrangement.Section(e.Section), before.Arrangement.Section(e.Section)
	if s == nil || was == nil {
		return "Section changed"
	}
	switch {
	case e.Name != nil:
		return "Section named " + s.Name
	case e.Variation != nil:
		return fmt.Sprintf("%s plays %s", s.Name, after.variationName(s.Variation))
	case e.Bars != nil:
		return fmt.Sprintf("%s: %d → %s", s.Name, was.Bars, count(s.Bars, "bar"))
	case e.Meter != nil:
		return fmt.Sprintf("%s in %s", s.Name, s.MeterOf(after.GrooveOf(s.Variation)))
	case e.TempoTo != nil && s.TempoTo != 0:
		return fmt.Sprintf("%s: tempo runs to %g BPM", s.Name, s.TempoTo)
	case e.Tempo != nil && s.Tempo != 0:
		return fmt.Sprintf("%s at %g BPM", s.Name, s.Tempo)
	}
	return s.Name + " changed"
}

// MoveSection moves a section to another place in the order.
type MoveSection struct {
	// Section is its id.
	Section string `json:"section"`
	// To is its place, counted from 0.
	To int `json:"to"`
}

func (e MoveSection) apply(d *Document, _ Env) ([]string, error) {
	i, s, err := d.section(e.Section)
	if err != nil {
		return nil, err
	}
	moved := *s
	d.Arrangement.Sections = slices.Delete(d.Arrangement.Sections, i, i+1)
	return nil, d.insert(min(max(e.To, 0), len(d.Arrangement.Sections)), moved)
}

func (e MoveSection) name(before, _ *Document) string {
	return before.sectionName(e.Section) + " moved"
}

// RepeatSection puts copies of a section behind it.
type RepeatSection struct {
	// Section is its id.
	Section string `json:"section"`
	// Times is how many copies; 0 is one.
	Times int `json:"times,omitempty"`
	// Own gives each copy a variation of its own, so that it can be changed.
	Own bool `json:"own,omitempty"`
}

func (e RepeatSection) apply(d *Document, _ Env) ([]string, error) {
	i, s, err := d.section(e.Section)
	if err != nil {
		return nil, err
	}
	if e.Times < 0 || e.Times > arrange.MaxSections {
		return nil, fmt.Errorf("a section is repeated 1 to %d times", arrange.MaxSections)
	}
	of := *s
	for n := range max(e.Times, 1) {
		c := of
		c.ID, c.Take = d.newSection()
		c.Own()
		if e.Own {
			if c.Variation, err = d.keepVariation(kept(d.GrooveOf(of.Variation)), "", false); err != nil {
				return nil, err
			}
		}
		if err := d.insert(i+1+n, c); err != nil {
			return nil, err
		}
	}
	return nil, nil
}

func (e RepeatSection) name(before, _ *Document) string {
	if e.Own {
		return before.sectionName(e.Section) + " duplicated with a variation of its own"
	}
	return before.sectionName(e.Section) + " repeated"
}

// SplitSection divides a section before a bar; it sounds as before.
type SplitSection struct {
	// Section is its id.
	Section string `json:"section"`
	// Bar counts from 0 and is at least 1.
	Bar int `json:"bar"`
}

func (e SplitSection) apply(d *Document, _ Env) ([]string, error) {
	i, s, err := d.section(e.Section)
	if err != nil {
		return nil, err
	}
	if e.Bar < 1 || e.Bar >= s.Bars {
		return nil, fmt.Errorf("a section of %s can be split before its bars 2 to %d", count(s.Bars, "bar"), s.Bars)
	}
	first, second := s.Split(e.Bar, d.GrooveOf(s.Variation))
	second.ID, _ = d.newSection()
	for k, m := range d.Arrangement.Markers {
		if end := first.Ticks(d.GrooveOf(s.Variation)); m.Section == e.Section && m.Tick >= end {
			d.Arrangement.Markers[k].Section, d.Arrangement.Markers[k].Tick = second.ID, m.Tick-end
		}
	}
	d.Arrangement.Sections[i] = first
	return nil, d.insert(i+1, second)
}

func (e SplitSection) name(before, _ *Document) string {
	return fmt.Sprintf("%s split before its bar %d", before.sectionName(e.Section), e.Bar+1)
}

// RemoveSection takes a section out of the arrangement, with what lies on it.
type RemoveSection struct {
	// Section is its id.
	Section string `json:"section"`
}

func (e RemoveSection) apply(d *Document, _ Env) ([]string, error) {
	i, _, err := d.section(e.Section)
	if err != nil {
		return nil, err
	}
	if len(d.Arrangement.Sections) == 1 {
		return nil, fmt.Errorf("a piece has at least one section")
	}
	d.Arrangement.Sections = slices.Delete(d.Arrangement.Sections, i, i+1)
	return nil, nil
}

func (e RemoveSection) name(before, _ *Document) string {
	return before.sectionName(e.Section) + " removed"
}

// SetSections makes the arrangement anew: a run through the variations, or the shape of a
// reference.
type SetSections struct {
	// Sections are those of the arrangement, in order.
	Sections []SectionOf `json:"sections"`
	// Title says in the history where they come from, such as "a run".
	Title string `json:"title,omitempty"`
	// Adds puts them behind those that there are.
	Adds bool `json:"adds,omitempty"`
}

// SectionOf is a section in short.
type SectionOf struct {
	Name string `json:"name"`
	// Variation is the id of a groove.
	Variation string `json:"variation"`
	// Bars is how many.
	Bars int `json:"bars"`
	// Out are the voices that do not play, by the bars of the section from which, counted
	// from 0, up to which.
	Out []RowOut `json:"out,omitempty"`
}

// RowOut is where a row does not play, bars of a section.
type RowOut struct {
	Voice string `json:"voice"`
	// From is the tick of the piece at which it begins.
	From int `json:"from"`
	// To is the tick of the piece behind its end.
	To int `json:"to"`
}

func (e SetSections) apply(d *Document, _ Env) ([]string, error) {
	if len(e.Sections) == 0 {
		return nil, fmt.Errorf("a piece has at least one section")
	}
	if !e.Adds {
		d.Arrangement.Sections = nil
	}
	for _, of := range e.Sections {
		id, take := d.newSection()
		s := arrange.Section{ID: id, Name: strings.TrimSpace(of.Name), Variation: of.Variation, Bars: of.Bars, Take: take}
		g := d.GrooveOf(of.Variation)
		if g == nil {
			return nil, fmt.Errorf("there is no variation %q", of.Variation)
		}
		bar := g.Meter.BarTicks()
		for _, o := range of.Out {
			if from, to := max(o.From, 0), min(o.To, of.Bars); to > from {
				s.Paint([]string{o.Voice}, from*bar, to*bar, false)
			}
		}
		if err := d.insert(len(d.Arrangement.Sections), s); err != nil {
			return nil, err
		}
	}
	return nil, nil
}

func (e SetSections) name(_, _ *Document) string {
	what := fmt.Sprintf("Arrangement of %s", count(len(e.Sections), "section"))
	if e.Title != "" {
		what += " from " + e.Title
	}
	return what
}

// KeepOrder keeps the sections as they are, beside those that one goes on with.
type KeepOrder struct {
	// Name has 1 to 40 letters.
	Name string `json:"name"`
}

func (e KeepOrder) apply(d *Document, _ Env) ([]string, error) {
	id := ""
	for n := 1; id == ""; n++ {
		if at := fmt.Sprintf("order%d", n); !slices.ContainsFunc(d.Arrangement.Orders, func(o arrange.Order) bool { return o.ID == at }) {
			id = at
		}
	}
	d.Arrangement.Orders = append(d.Arrangement.Orders, arrange.Order{ID: id, Name: strings.TrimSpace(e.Name), Sections: slices.Clone(d.Arrangement.Sections)})
	return nil, nil
}

func (e KeepOrder) name(_, _ *Document) string { return "Order kept as " + strings.TrimSpace(e.Name) }

// UseOrder goes on with a kept order. Where Keep names it, the one that was played is kept.
type UseOrder struct {
	// Order is the id of a kept order.
	Order string `json:"order"`
	// Keep is the name under which the present order is kept; empty does not keep it.
	Keep string `json:"keep,omitempty"`
}

func (e UseOrder) apply(d *Document, env Env) ([]string, error) {
	i := slices.IndexFunc(d.Arrangement.Orders, func(o arrange.Order) bool { return o.ID == e.Order })
	if i < 0 {
		return nil, fmt.Errorf("there is no kept order %q", e.Order)
	}
	next := slices.Clone(d.Arrangement.Orders[i].Sections)
	if e.Keep != "" {
		if _, err := (KeepOrder{e.Keep}).apply(d, env); err != nil {
			return nil, err
		}
	}
	d.Arrangement.Sections = next
	return nil, nil
}

func (e UseOrder) name(before, _ *Document) string { return "To order " + before.orderName(e.Order) }

// RemoveOrder takes a kept order away.
type RemoveOrder struct {
	// Order is the id of a kept order.
	Order string `json:"order"`
}

func (e RemoveOrder) apply(d *Document, _ Env) ([]string, error) {
	n := len(d.Arrangement.Orders)
	d.Arrangement.Orders = slices.DeleteFunc(d.Arrangement.Orders, func(o arrange.Order) bool { return o.ID == e.Order })
	if len(d.Arrangement.Orders) == n {
		return nil, fmt.Errorf("there is no kept order %q", e.Order)
	}
	return nil, nil
}

func (e RemoveOrder) name(before, _ *Document) string {
	return "Order " + before.orderName(e.Order) + " removed"
}

// AddMarker names a place of the piece.
type AddMarker struct {
	// Name has 1 to 40 letters.
	Name string `json:"name"`
	// At is a tick of the piece.
	At int `json:"at"`
}

func (e AddMarker) apply(d *Document, _ Env) ([]string, error) {
	s, tick, err := d.place(e.At)
	if err != nil {
		return nil, err
	}
	id := ""
	for n := 1; id == ""; n++ {
		if at := fmt.Sprintf("m%d", n); !slices.ContainsFunc(d.Arrangement.Markers, func(m arrange.Marker) bool { return m.ID == at }) {
			id = at
		}
	}
	d.Arrangement.Markers = append(d.Arrangement.Markers, arrange.Marker{ID: id, Name: strings.TrimSpace(e.Name), Section: s.ID, Tick: tick})
	return nil, nil
}

func (e AddMarker) name(_, _ *Document) string { return "Marker " + strings.TrimSpace(e.Name) }

// RemoveMarker takes a marker away.
type RemoveMarker struct {
	// Marker is its id.
	Marker string `json:"marker"`
}

func (e RemoveMarker) apply(d *Document, _ Env) ([]string, error) {
	d.Arrangement.Markers = slices.DeleteFunc(d.Arrangement.Markers, func(m arrange.Marker) bool { return m.ID == e.Marker })
	return nil, nil
}

func (e RemoveMarker) name(_, _ *Document) string { return "Marker removed" }

// SetSpeed plays the whole piece faster or slower.
type SetSpeed struct {
	// Semitones are those of a tape that runs faster: tempo and pitch together.
	Semitones float64 `json:"semitones"`
	// Percent is the tempo without the pitch, 50 to 200.
	Percent float64 `json:"tempo_percent"`
}

func (e SetSpeed) apply(d *Document, _ Env) ([]string, error) {
	d.Arrangement.Speed = arrange.Speed{Semitones: e.Semitones, Percent: e.Percent}
	if e.Percent == 100 {
		d.Arrangement.Speed.Percent = 0
	}
	return nil, nil
}

func (e SetSpeed) name(_, _ *Document) string {
	if e.Semitones != 0 {
		return fmt.Sprintf("Tape %+g semitones", e.Semitones)
	}
	return fmt.Sprintf("Tempo of the whole %g %%", e.Percent)
}

func (d *Document) sectionName(id string) string {
	if s := d.Arrangement.Section(id); s != nil {
		return s.Name
	}
	return "Section"
}

func (d *Document) orderName(id string) string {
	for _, o := range d.Arrangement.Orders {
		if o.ID == id {
			return o.Name
		}
	}
	return id
}
