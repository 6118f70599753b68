package project

import (
	"maps"
	"slices"

	"jubrak/core/groove"
)

// A document that has been handed out is never changed. An edit works on a
// draft: a copy that shares the hits of the lanes and the layers of the voices
// with what it was made from until it owns them, chains of rows likewise, and tables and
// profiles, which edits replace whole.

// draft is a copy in which everything but hits, layers, tables and profiles may
// be changed in place.
func (d *Document) draft() *Document {
	out := *d
	out.Tempo = slices.Clone(d.Tempo)
	out.Kit.Voices = slices.Clone(d.Kit.Voices)
	out.Groove.Lanes = slices.Clone(d.Groove.Lanes)
	for i := range out.Groove.Lanes { // what is appended never lands behind shared hits
		out.Groove.Lanes[i].Hits = slices.Clip(out.Groove.Lanes[i].Hits)
	}
	out.Groove.Feel.Voices = maps.Clone(d.Groove.Feel.Voices)
	out.References = slices.Clone(d.References)
	for i := range out.References {
		out.References[i].Corrections = slices.Clone(out.References[i].Corrections)
	}
	out.Targets = slices.Clone(d.Targets)
	out.Mix.Buses, out.Mix.Shapes = slices.Clone(d.Mix.Buses), slices.Clone(d.Mix.Shapes)
	out.Variations = slices.Clone(d.Variations)
	out.Arrangement.Sections = slices.Clone(d.Arrangement.Sections)
	out.Arrangement.Orders = slices.Clone(d.Arrangement.Orders)
	out.Arrangement.Backings = slices.Clone(d.Arrangement.Backings)
	out.Arrangement.Markers = slices.Clone(d.Arrangement.Markers)
	return &out
}

// own makes the hits of a draft's lane its own, so that they may be changed.
func own(l *groove.Lane) { l.Hits = slices.Clone(l.Hits) }

// remove takes hits out of a draft's lane.
func remove(l *groove.Lane, which func(groove.Hit) bool) {
	if slices.ContainsFunc(l.Hits, which) {
		own(l)
		l.Hits = slices.DeleteFunc(l.Hits, which)
	}
}
