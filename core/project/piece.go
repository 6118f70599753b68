package project

import (
	"fmt"
	"maps"
	"reflect"
	"slices"

	"jubrak/core/arrange"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/param"
	"jubrak/core/sound"
)

// Piece is the arrangement with the grooves that it plays. It shares memory with d.
func (d *Document) Piece() *engine.Piece {
	p := &engine.Piece{Arrangement: &d.Arrangement, Grooves: map[string]*groove.Groove{}}
	for _, id := range d.Arrangement.Uses() {
		if g := d.GrooveOf(id); g != nil {
			p.Grooves[id] = g
		}
	}
	return p
}

// PieceSong is Song with the arrangement in place of the groove.
func (d *Document) PieceSong(samples sound.Samples) engine.Song {
	s := d.Song(samples)
	s.Piece = d.Piece()
	return s
}

// PieceLine is the arrangement laid out in time.
func (d *Document) PieceLine() *arrange.Line {
	return arrange.NewLine(&d.Arrangement, d.GrooveOf, d.Tempo)
}

// oneSection is the arrangement of a project that has none yet: its groove, once.
func oneSection(d *Document) arrange.Arrangement {
	a := arrange.Arrangement{Sections: []arrange.Section{{ID: "s1", Name: "Loop", Variation: d.Variation, Bars: d.Groove.Bars}}}
	a.Tidy()
	return a
}

// section finds a section of a draft and makes its lists its own.
func (d *Document) section(id string) (int, *arrange.Section, error) {
	for i := range d.Arrangement.Sections {
		if s := &d.Arrangement.Sections[i]; s.ID == id {
			s.Own()
			return i, s, nil
		}
	}
	return 0, nil, fmt.Errorf("there is no section %q any more", id)
}

// place finds the section that a tick of the piece lies in, its lists its own, and how
// many ticks of it have gone by.
func (d *Document) place(tick int) (*arrange.Section, int, error) {
	at := 0
	for i := range d.Arrangement.Sections {
		s := &d.Arrangement.Sections[i]
		n := s.Ticks(d.GrooveOf(s.Variation))
		if tick >= at && tick < at+n {
			s.Own()
			return s, tick - at, nil
		}
		at += n
	}
	return nil, 0, fmt.Errorf("the piece ends before that place")
}

// newSection is an id that no section has, and a take of its own.
func (d *Document) newSection() (id string, take int) {
	used := map[string]bool{}
	note := func(list []arrange.Section) {
		for i := range list {
			used[list[i].ID] = true
			take = max(take, list[i].Take)
		}
	}
	note(d.Arrangement.Sections)
	for _, o := range d.Arrangement.Orders {
		note(o.Sections)
	}
	for n := len(used) + 1; ; n++ {
		if id = fmt.Sprintf("s%d", n); !used[id] {
			return id, take + 1
		}
	}
}

// keepVariation adds a groove to the variations and returns its id. One that is for a
// place alone goes when nothing plays it any more.
func (d *Document) keepVariation(g *groove.Groove, name string, here bool) (string, error) {
	if !here && d.named() >= MaxVariations {
		return "", fmt.Errorf("a project holds %d variations; remove one first", MaxVariations)
	}
	if here && len(d.Variations) >= mostGrooves {
		return "", fmt.Errorf("%d places of the piece play grooves of their own, which is the most; let some play their section's again", len(d.Variations)-d.named())
	}
	id := d.freeVariation(here)
	d.Variations = append(d.Variations, Variation{ID: id, Name: name, Here: here, Groove: g})
	return id, nil
}

// mostGrooves is the most variations with those of places.
const mostGrooves = 1500

// named is how many variations a project has without those of places.
func (d *Document) named() (n int) {
	for i := range d.Variations {
		if !d.Variations[i].Here {
			n++
		}
	}
	return n
}

// freeVariation is an id that no variation has: a letter, then two; of a place a number.
func (d *Document) freeVariation(here bool) string {
	for n := 0; ; n++ {
		id := string(rune('a' + n%26))
		if n >= 26 {
			id = string(rune('a'+n/26-1)) + id
		}
		if here {
			id = fmt.Sprintf("place%d", n+1)
		}
		if d.variation(id) == nil {
			return id
		}
	}
}

// cutGroove is a stretch of a groove as one of its own, lanes with lengths of their own
// played out. Ticks count on through the groove's repetitions.
func cutGroove(g *groove.Groove, from, length int, name string) *groove.Groove {
	bar := g.Meter.BarTicks()
	out := *g
	out.Name, out.Bars = name, min(max((length+bar-1)/bar, 1), groove.MaxBars)
	out.Lanes = nil
	for i := range g.Lanes {
		n := g.LaneTicks(i)
		l := groove.Lane{Voice: g.Lanes[i].Voice, Grid: g.Lanes[i].Grid, Hits: []groove.Hit{}}
		for base := from / n * n; base < from+length; base += n {
			for _, h := range g.Lanes[i].Hits {
				if at := base + h.Tick - from; at >= 0 && at < length {
					h.ID, h.Tick = fmt.Sprintf("h%d", len(l.Hits)+1), at
					l.Hits = append(l.Hits, h)
				}
			}
		}
		l.Sort()
		out.Lanes = append(out.Lanes, l)
	}
	steps, bars := from/g.StepTicks(), from/bar
	out.Feel.Voices = map[string]groove.VoiceFeel{}
	for id, v := range g.Feel.Voices {
		v.Contour, v.Accent = turned(v.Contour, steps), turned(v.Accent, steps)
		out.Feel.Voices[id] = v
	}
	out.Feel.Drift.Curve = turned(g.Feel.Drift.Curve, bars)
	out.Feel.Ramp.Curve = turned(g.Feel.Ramp.Curve, bars)
	return &out
}

// turned is a table that begins so many places later.
func turned(table []float64, by int) []float64 {
	if len(table) == 0 {
		return table
	}
	by %= len(table)
	return append(slices.Clone(table[by:]), table[:by]...)
}

// tidyPiece brings the arrangement in line with the rest of a draft: what lies behind the
// ends of sections goes, as do numbers that are no more and grooves of places that
// nothing plays.
func (d *Document) tidyPiece() (notes []string) {
	lost := 0
	for i := range d.Arrangement.Sections {
		s := &d.Arrangement.Sections[i]
		g := d.GrooveOf(s.Variation)
		if g == nil {
			continue // Validate says so
		}
		if s.Meter == nil && g.Meter.Validate() != nil || s.Meter != nil && s.Meter.Validate() != nil {
			continue
		}
		cut, gone := s.Clipped(g)
		cut.Automation = slices.DeleteFunc(slices.Clone(cut.Automation), func(m mixer.Automation) bool { return !d.automatable(m.At) })
		gone += len(s.Automation) - len(cut.Automation)
		if !reflect.DeepEqual(*s, cut) {
			lost += gone
			d.Arrangement.Sections[i] = cut
		}
	}
	d.Arrangement.Markers = slices.DeleteFunc(slices.Clone(d.Arrangement.Markers), func(m arrange.Marker) bool { return d.Arrangement.Section(m.Section) == nil })
	if d.Arrangement.Markers == nil {
		d.Arrangement.Markers = []arrange.Marker{}
	}
	uses := d.Arrangement.Uses()
	d.Variations = slices.DeleteFunc(d.Variations, func(v Variation) bool {
		_, used := slices.BinarySearch(uses, v.ID)
		return v.Here && v.ID != d.Variation && !used
	})
	if lost > 0 {
		notes = append(notes, fmt.Sprintf("%s of the arrangement had no place any more and went.", count(lost, "thing")))
	}
	return notes
}

// playInstead lets another variation play wherever one does.
func (d *Document) playInstead(gone, other string) []string {
	n := 0
	change := func(list []arrange.Section) {
		for i := range list {
			s := &list[i]
			s.Own()
			if s.Variation == gone {
				s.Variation = other
				n++
			}
			for k := range s.Placed {
				if s.Placed[k].Variation == gone {
					s.Placed[k].Variation = other
					n++
				}
			}
		}
	}
	change(d.Arrangement.Sections)
	for i := range d.Arrangement.Orders {
		o := &d.Arrangement.Orders[i]
		o.Sections = slices.Clone(o.Sections)
		change(o.Sections)
	}
	if n == 0 || len(d.Arrangement.Sections) == 1 && n == 1 {
		return nil
	}
	return []string{fmt.Sprintf("%s of the arrangement now played by %s.", count(n, "place"), d.variationName(other))}
}

// automatable reports whether a number may be drawn over a section.
func (d *Document) automatable(at string) bool {
	_, err := d.drawable(at)
	return err == nil
}

// drawable finds a number that may be drawn over a section: of the mix, of a sound, of
// the feel as a whole, or the tempo.
func (d *Document) drawable(at string) (*Number, error) {
	if n, err := d.loopParameter(at); err == nil {
		return n, nil
	}
	n, err := d.Number(at)
	if err != nil {
		return nil, err
	}
	dir, id, _ := cutLast(at)
	layer := false
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		layer = layer || len(at) > len(v.ID) && at[:len(v.ID)+1] == v.ID+"/" && v.Number(at[len(v.ID)+1:]) != nil
	}
	if !(layer || at == arrange.TempoAddress || dir == "groove/feel" && (id == "swing_percent" || id == "strength_percent")) || !n.Param.Continuous() {
		return nil, fmt.Errorf("%s, %s: this cannot be drawn automated", n.Of, lower(n.Label))
	}
	return n, nil
}

// Drawable are the addresses of all numbers that may be drawn over a section, in the
// order of rows, each with what it is.
func (d *Document) Drawable() (out []DrawableNumber) {
	add := func(at string) {
		if n, err := d.drawable(at); err == nil {
			out = append(out, DrawableNumber{at, n.Param, n.Of, n.Value})
		}
	}
	add(arrange.TempoAddress)
	add("groove/feel/swing_percent")
	add("groove/feel/strength_percent")
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		d.rowNumbers(v.ID, &v.Row, add)
		for _, l := range v.Layers {
			for _, id := range layerNumbers(&l) {
				add(LayerAddress(v.ID, l.ID, id))
			}
		}
	}
	for i := range d.Mix.Buses {
		b := &d.Mix.Buses[i]
		d.rowNumbers(BusRow(b.ID), &b.Row, add)
	}
	d.rowNumbers(OutRow, &mixer.Row{Chain: d.Mix.Out.Chain}, add)
	return out
}

// Drawn are the numbers that some section draws, or the loop, in order of their addresses.
func (d *Document) Drawn() []DrawableNumber {
	at := map[string]bool{}
	for _, s := range d.Arrangement.Sections {
		for _, m := range s.Automation {
			at[m.At] = true
		}
	}
	for _, m := range d.Mix.Automation {
		at[m.At] = true
	}
	out := []DrawableNumber{}
	for _, a := range slices.Sorted(maps.Keys(at)) {
		if n, err := d.drawable(a); err == nil {
			out = append(out, DrawableNumber{a, n.Param, n.Of, n.Value})
		}
	}
	return out
}

// DrawableNumber is a number that may be drawn over a section.
type DrawableNumber struct {
	At    string      `json:"at"`
	Param param.Param `json:"param"`
	Of    string      `json:"of"`
	Value float64     `json:"value"`
}

// rowNumbers calls add with the addresses of a row's numbers.
func (d *Document) rowNumbers(name string, r *mixer.Row, add func(at string)) {
	add(name + "/level_db")
	add(name + "/pan")
	for _, s := range r.Sends {
		add(name + "/sends/" + s.To + "/level_db")
	}
	effect.Each(r.Chain, func(s *effect.Effect) {
		for _, p := range effect.KindOf(s.Kind).Params {
			add(name + "/chain/" + s.ID + "/" + p.ID)
		}
	})
}

// layerNumbers are the ids of the numbers that a layer has.
func layerNumbers(l *sound.Layer) (out []string) {
	ids := func(list []param.Param) {
		for _, p := range list {
			out = append(out, p.ID)
		}
	}
	ids(sound.LayerParams.Params())
	switch {
	case l.Recipe != nil:
		ids(sound.Params.Params())
		for i := range l.Recipe.Effects {
			s := &l.Recipe.Effects[i]
			for _, p := range effect.KindOf(s.Kind).Params {
				out = append(out, "effects/"+s.ID+"/"+p.ID)
			}
		}
	case l.Recording != nil:
		ids(sound.RecordingParams.Params())
	}
	return out
}
