package compare

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// heardOnly is an environment in which all references are one analysis.
type heardOnly struct{ a *transcribe.Analysis }

func (e heardOnly) Analysis(*project.Reference) (*transcribe.Analysis, error) { return e.a, nil }

// taken is the reference's pattern on the lanes of a project: all bars where the project
// has as many, else the cycle that repeats; nil where there is none.
func taken(d *project.Document, a *Against) *groove.Groove {
	if a.Profile != nil || a.Analysis.Grid == nil || a.Analysis.Feel == nil {
		return nil
	}
	all := a.Analysis.Bars
	if n := a.Analysis.LoopBars; n != nil {
		all = *n
	}
	take := project.TakePattern{Bars: project.OnlyCycle}
	if a.Analysis.CycleBars == nil || d.Groove.Bars == all {
		take.Bars = project.AllBars
	}
	of := *d
	of.References, of.Active = []project.Reference{{ID: "r", Name: "r", Kind: "audio"}}, "r"
	of.Targets = []project.Target{}
	next, _, err := of.Apply(project.Edits{take}, heardOnly{a.Analysis})
	if err != nil {
		return nil
	}
	return &next.Groove
}

// hitsApart is how the hits of one lane differ from the reference's.
type hitsApart struct {
	missing []groove.Hit
	extra   []groove.Hit
	moved   [][2]groove.Hit // mine, then where it is in the reference
}

func (h *hitsApart) count() int { return len(h.missing) + len(h.extra) + len(h.moved) }

// words say what to do.
func (h *hitsApart) words(g *groove.Groove) string {
	var out []string
	say := func(verb string, hits []groove.Hit) {
		if len(hits) == 0 {
			return
		}
		places := []string{}
		for i := range min(len(hits), 3) {
			places = append(places, stepOf(g, hits[i].Tick))
		}
		if more := len(hits) - len(places); more > 0 {
			places = append(places, fmt.Sprintf("%d more", more))
		}
		out = append(out, fmt.Sprintf("%s %d (%s)", verb, len(hits), strings.Join(places, ", ")))
	}
	say("add", h.missing)
	say("remove", h.extra)
	moved := make([]groove.Hit, len(h.moved))
	for i := range h.moved {
		moved[i] = h.moved[i][0]
	}
	say("move", moved)
	if len(out) == 0 {
		return ""
	}
	text := strings.Join(out, ", ")
	return strings.ToUpper(text[:1]) + text[1:] + " hits"
}

// apartHits sets two lists of hits against each other; of the reference's, each pass of
// every ticks up to length. An extra hit within a step of a missing one has moved.
func apartHits(mine, theirs []groove.Hit, every, length, step int) *hitsApart {
	out := &hitsApart{}
	want := map[int]groove.Hit{}
	for from := 0; from < length; from += max(every, 1) {
		for _, h := range theirs {
			if h.Tick+from < length {
				h.Tick += from
				want[h.Tick] = h
			}
		}
	}
	for _, h := range mine {
		if h.Tick >= length {
			continue
		}
		if _, ok := want[h.Tick]; ok {
			delete(want, h.Tick)
		} else {
			out.extra = append(out.extra, h)
		}
	}
	for _, h := range want {
		out.missing = append(out.missing, h)
	}
	slices.SortFunc(out.missing, func(a, b groove.Hit) int { return a.Tick - b.Tick })
	for i := 0; i < len(out.missing); i++ {
		m := out.missing[i]
		k := slices.IndexFunc(out.extra, func(e groove.Hit) bool { return e.Tick-m.Tick <= step && m.Tick-e.Tick <= step })
		if k < 0 {
			continue
		}
		out.moved = append(out.moved, [2]groove.Hit{out.extra[k], m})
		out.extra = slices.Delete(out.extra, k, k+1)
		out.missing = slices.Delete(out.missing, i, i+1)
		i--
	}
	return out
}

// edits make one lane as the reference has it.
func (h *hitsApart) edits(voice string) (out project.Edits) {
	if gone := slices.Clone(h.extra); len(gone)+len(h.moved) > 0 {
		refs := []project.HitRef{}
		for _, m := range h.moved {
			gone = append(gone, m[0])
		}
		for _, e := range gone {
			refs = append(refs, project.HitRef{Voice: voice, Hit: e.ID})
		}
		out = append(out, project.DeleteHits{Hits: refs})
	}
	put := project.PutHits{}
	for _, m := range h.missing {
		m.ID = ""
		put.Hits = append(put.Hits, project.NewHit{Voice: voice, Hit: m})
	}
	for _, m := range h.moved {
		moved := m[0] // its velocity stays
		moved.ID, moved.Tick = "", m[1].Tick
		put.Hits = append(put.Hits, project.NewHit{Voice: voice, Hit: moved})
	}
	if len(put.Hits) > 0 {
		out = append(out, put)
	}
	return out
}

// hits adds what is measured of one family's pattern.
func (c *Comparison) hits(d *project.Document, f sound.Family, mine *Mine, a *Against, theirs *groove.Groove) {
	v := Voice(d, f)
	if a.Analysis.Groove.Density[f] == 0 && mine.Density[f] == 0 {
		return
	}
	id := ""
	if v != nil {
		id = v.ID
	}
	r := row("hits", f, id)
	var off *hitsApart
	switch {
	case theirs == nil:
		r.Why = "the reference has no pattern"
	case v == nil:
		r.Why = "no voice of mine"
	default:
		off = laneApart(d, theirs, id)
		mineCount := lenOf(d.Groove.Lane(id))
		r.Mine, r.Difference = value(float64(mineCount)), value(float64(off.count()))
		r.Reference = value(float64(mineCount - len(off.extra) + len(off.missing)))
	}
	text, edits := "", project.Edits{}
	if off != nil {
		text, edits = off.words(&d.Groove), off.edits(id)
		if short := theirs.Bars - d.Groove.Bars; short > 0 {
			edits = append(project.Edits{project.SetBars{Bars: theirs.Bars}}, edits...)
		}
	}
	c.add(r, ByEdits, text, edits...)

	density := row("density", f, id)
	density.Mine, density.Reference = value(mine.Density[f]), value(a.Analysis.Groove.Density[f])
	act := ByEdits
	if off == nil || off.count() == 0 {
		act = NoAct // a profile says how many, not which
		text, edits = "Add or take away hits in Groove", nil
	}
	c.add(density, act, text, edits...)

	s := row("syncopation", f, id)
	if theirs == nil || v == nil {
		s.Why = r.Why
		c.add(s, NoAct, "")
		return
	}
	here, ok := d.Groove.Syncopated()[id]
	there, also := theirs.Syncopated()[id]
	if ok && also {
		s.Mine, s.Reference = value(here), value(there)
	}
	c.add(s, act, text, edits...)
}

func lenOf(l *groove.Lane) int {
	if l == nil {
		return 0
	}
	return len(l.Hits)
}

// laneApart sets a lane of mine against the reference's, over the longer of both; one of a
// length of its own goes round until then.
func laneApart(d *project.Document, theirs *groove.Groove, voice string) *hitsApart {
	var own, other []groove.Hit
	bar := d.Groove.Meter.BarTicks()
	length := max(d.Groove.Bars, theirs.Bars) * bar
	if l := d.Groove.Lane(voice); l != nil {
		own = l.Hits
		if l.Steps > 0 {
			grid := d.Groove.Grid
			if l.Grid > 0 {
				grid = l.Grid
			}
			own = goingRound(l.Hits, l.Steps*music.PPQ/max(grid, 1), length)
		}
	}
	if l := theirs.Lane(voice); l != nil {
		other = l.Hits
	}
	return apartHits(own, other, theirs.Bars*bar, length, int(math.Max(float64(d.Groove.StepTicks()), 1)))
}

// goingRound are the hits of a lane of a length of its own up to a place; only the first
// pass can be edited.
func goingRound(hits []groove.Hit, every, length int) (out []groove.Hit) {
	for from := 0; from < length && every > 0; from += every {
		for _, h := range hits {
			if h.Tick += from; h.Tick < length {
				out = append(out, h)
			}
		}
	}
	return out
}

// SameHits is how many hits of a voice are where the reference has them, and how many of
// the reference's are not there; -1 where it has no pattern.
func SameHits(d *project.Document, a *Against, voice string) (same, missing int) {
	theirs := taken(d, a)
	if theirs == nil {
		return -1, 0
	}
	off := laneApart(d, theirs, voice)
	return max(lenOf(d.Groove.Lane(voice))-len(off.extra)-len(off.moved), 0), len(off.missing)
}
