package project

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/groove"
)

// Edits of hits. One that names several acts on them as a group: relative
// changes keep the differences between them and stop as a whole where the
// first would leave its range, and none is named twice.

func addHit(d *Document, e *Edit) error {
	v := velocity(e.Value)
	if e.Value == 0 {
		v = 100
	}
	if l := d.Groove.Lane(e.Voice); l != nil {
		own(l)
		for i := range l.Hits {
			if l.Hits[i].Tick == e.Tick {
				l.Hits[i].Velocity = v // one hit a place: a second one replaces it
				return nil
			}
		}
	}
	return putHits(d, &Edit{Put: []NewHit{{Voice: e.Voice, Tick: e.Tick, Velocity: v}}})
}

// putHits puts hits with all they have; each replaces what stands in its place.
func putHits(d *Document, e *Edit) error {
	owned := map[string]bool{}
	for _, n := range e.Put {
		if d.Kit.Voice(n.Voice) == nil {
			return fmt.Errorf("there is no voice %q", n.Voice)
		}
		l := d.Groove.EnsureLane(n.Voice)
		if !owned[n.Voice] {
			own(l)
			owned[n.Voice] = true
		}
		l.Hits = slices.DeleteFunc(l.Hits, func(h groove.Hit) bool { return h.Tick == n.Tick })
		l.Hits = append(l.Hits, groove.Hit{ID: l.NewHitID(), Tick: n.Tick, Velocity: n.Velocity, Nudge: n.Nudge, Semitones: n.Semitones})
		l.Sort()
	}
	return nil
}

func eachHit(f func(*groove.Hit, float64)) func(*Document, *Edit) error {
	return func(d *Document, e *Edit) error {
		hits, err := d.findAll(e.Hits)
		for _, h := range hits {
			f(h, e.Value)
		}
		return err
	}
}

// findAll finds hits, each once, to be changed; valid until the lanes change.
func (d *Document) findAll(refs []HitRef) ([]*groove.Hit, error) {
	places := map[string]map[string]int{} // by voice and id
	var out []*groove.Hit
	for _, ref := range unique(refs) {
		l := d.Groove.Lane(ref.Voice)
		if l != nil && places[ref.Voice] == nil {
			own(l)
			places[ref.Voice] = make(map[string]int, len(l.Hits))
			for i := range l.Hits {
				places[ref.Voice][l.Hits[i].ID] = i
			}
		}
		i, ok := places[ref.Voice][ref.Hit]
		if !ok {
			return nil, fmt.Errorf("the hit is no longer there")
		}
		out = append(out, &l.Hits[i])
	}
	return out, nil
}

func unique(refs []HitRef) []HitRef {
	seen := map[HitRef]bool{}
	return slices.DeleteFunc(slices.Clone(refs), func(r HitRef) bool {
		again := seen[r]
		seen[r] = true
		return again
	})
}

// room is how far a change may go so that no value leaves low to high.
func room(by, low, high float64, values []float64) float64 {
	for _, v := range values {
		by = math.Max(math.Min(by, high-v), low-v)
	}
	return by
}

// louder changes velocities by as much for all: at 127 or 1 the whole group
// stops, so that accents stay.
func louder(d *Document, e *Edit) error {
	hits, err := d.findAll(e.Hits)
	if err != nil {
		return err
	}
	by := math.Round(room(e.Value, 1, 127, valuesOf(hits, func(h *groove.Hit) float64 { return float64(h.Velocity) })))
	for _, h := range hits {
		h.Velocity = velocity(float64(h.Velocity) + by)
	}
	return nil
}

// VelocityRoom is how much of a change of velocity all hits of a voice can take
// without losing their differences.
func (d *Document) VelocityRoom(voice string, by float64) float64 {
	l := d.Groove.Lane(voice)
	if l == nil {
		return 0
	}
	for i := range l.Hits {
		by = room(by, 1, 127, []float64{float64(l.Hits[i].Velocity)})
	}
	return by
}

func nudgeBy(d *Document, e *Edit) error {
	hits, err := d.findAll(e.Hits)
	if err != nil {
		return err
	}
	by := room(e.Value, -groove.MaxNudge, groove.MaxNudge, valuesOf(hits, func(h *groove.Hit) float64 { return h.Nudge }))
	for _, h := range hits {
		h.Nudge = limit(h.Nudge+by, groove.MaxNudge)
	}
	return nil
}

func valuesOf(hits []*groove.Hit, f func(*groove.Hit) float64) (out []float64) {
	for _, h := range hits {
		out = append(out, f(h))
	}
	return out
}

func deleteHits(d *Document, e *Edit) error {
	if _, err := d.findAll(e.Hits); err != nil {
		return err
	}
	going := map[HitRef]bool{}
	for _, ref := range e.Hits {
		going[ref] = true
	}
	for i := range d.Groove.Lanes {
		remove(&d.Groove.Lanes[i], func(h groove.Hit) bool { return going[HitRef{d.Groove.Lanes[i].Voice, h.ID}] })
	}
	return nil
}

// moveHits moves hits by ticks, and to another lane where Voice names one. They
// keep their distances: where one would leave its lane, all go only as far as
// it can, in whole steps where whole steps were asked for. A hit that is not
// among them and stands where one lands is replaced.
func moveHits(d *Document, e *Edit) error {
	refs := unique(e.Hits)
	hits, err := d.findAll(refs)
	if err != nil {
		return err
	}
	type moved struct {
		to  string
		hit groove.Hit
	}
	var group []moved
	by := e.Tick
	for i, h := range hits {
		to := refs[i].Voice
		if e.Voice != "" {
			to = e.Voice
		}
		if d.Kit.Voice(to) == nil {
			return fmt.Errorf("there is no voice %q", to)
		}
		group = append(group, moved{to, *h})
	}
	for _, m := range group {
		d.Groove.EnsureLane(m.to)
		lane := slices.IndexFunc(d.Groove.Lanes, func(l groove.Lane) bool { return l.Voice == m.to })
		by = min(max(by, -m.hit.Tick), d.Groove.LaneTicks(lane)-1-m.hit.Tick)
	}
	if step := d.Groove.StepTicks(); e.Tick%step == 0 {
		by -= by % step
	}
	places := map[cell]bool{}
	for i := range group {
		group[i].hit.Tick += by
		place := cell{group[i].to, group[i].hit.Tick}
		if places[place] {
			return fmt.Errorf("two of the hits would land in one place; move them apart first")
		}
		places[place] = true
	}
	if err := deleteHits(d, &Edit{Hits: refs}); err != nil {
		return err
	}
	for i := range d.Groove.Lanes {
		l := &d.Groove.Lanes[i]
		remove(l, func(o groove.Hit) bool { return places[cell{l.Voice, o.Tick}] })
	}
	for _, m := range group {
		l := d.Groove.Lane(m.to)
		if l.Find(m.hit.ID) != nil {
			m.hit.ID = l.NewHitID()
		}
		l.Hits = append(l.Hits, m.hit)
		l.Sort()
	}
	return nil
}
