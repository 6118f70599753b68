package project

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/param"
)

// Edits of hits. One that names several acts on them as a group: relative
// changes keep the differences between them and stop as a whole where the
// first would leave its range, and none is named twice.
var hitEdits = map[string]Edit{
	"hit.add": AddHit{}, "hit.put": PutHits{}, "hit.delete": DeleteHits{}, "hit.move": MoveHits{}, "hit.set": SetHits{}, "hit.by": ChangeHits{},
}

// HitRef names a hit by its voice and id.
type HitRef struct {
	Voice string `json:"voice"`
	Hit   string `json:"hit"`
}

// AddHit puts a hit on the lane of a voice. One that stands there already only
// takes its velocity.
type AddHit struct {
	Voice string `json:"voice"`
	// Tick is its place from the start of the lane, at 960 a quarter note.
	Tick int `json:"tick"`
	// Velocity is 1 to 127; 0 stands for 100.
	Velocity int `json:"velocity,omitempty"`
}

func (e AddHit) apply(d *Document, _ Env) ([]string, error) {
	row := groove.HitParams.Find("velocity")
	v := min(max(e.Velocity, int(row.Min)), int(row.Max))
	if e.Velocity == 0 {
		v = int(row.Default)
	}
	if l := d.Groove.Lane(e.Voice); l != nil {
		own(l)
		for i := range l.Hits {
			if l.Hits[i].Tick == e.Tick {
				l.Hits[i].Velocity = v // one hit a place: a second one replaces it
				return nil, nil
			}
		}
	}
	return PutHits{[]NewHit{{e.Voice, groove.Hit{Tick: e.Tick, Velocity: v}}}}.apply(d, nil)
}

func (e AddHit) name(before, after *Document) string {
	return fmt.Sprintf("%s: hit at %s", before.nameOf(e.Voice), after.placeName(e.Tick))
}

// placeName is a place as bar and beat.
func (d *Document) placeName(tick int) string {
	bar := d.Groove.Meter.BarTicks()
	beat := bar / d.Groove.Meter.Beats
	return fmt.Sprintf("bar %d, beat %s", tick/bar+1, amount(float64(tick%bar)/float64(beat)+1, ""))
}

// NewHit is a hit to be put on the lane of a voice.
type NewHit struct {
	Voice string `json:"voice"`
	// Hit is all that it has; its id is not used.
	Hit groove.Hit `json:"hit"`
}

// PutHits puts hits with all they have; each replaces what stands in its place with
// the same sound.
type PutHits struct {
	Hits []NewHit `json:"hits"`
}

func (e PutHits) apply(d *Document, _ Env) ([]string, error) {
	if len(e.Hits) > groove.MaxHits {
		return nil, fmt.Errorf("a groove holds at most %d hits", groove.MaxHits)
	}
	owned := map[string]bool{}
	for _, n := range e.Hits {
		if d.Kit.Voice(n.Voice) == nil {
			return nil, noVoice(n.Voice)
		}
		l := d.Groove.EnsureLane(n.Voice)
		if !owned[n.Voice] {
			own(l)
			owned[n.Voice] = true
		}
		l.Hits = slices.DeleteFunc(l.Hits, func(h groove.Hit) bool { return samePlace(&h, &n.Hit) })
		hit := n.Hit
		hit.ID = l.NewHitID()
		l.Hits = append(l.Hits, hit)
		l.Sort()
	}
	return nil, nil
}

// samePlace reports whether two hits of a lane cannot both be there.
func samePlace(a, b *groove.Hit) bool { return a.Tick == b.Tick && a.Sound == b.Sound }

func (e PutHits) name(_, _ *Document) string { return count(len(e.Hits), "hit") + " pasted" }

// SetHits sets a number of hits.
type SetHits struct {
	Hits []HitRef `json:"hits"`
	// Number is one of a hit's numbers, such as velocity or roll.strokes.
	Number string `json:"number"`
	// Value is held inside the number's range.
	Value float64 `json:"value"`
}

func (e SetHits) apply(d *Document, _ Env) ([]string, error) {
	row, hits, err := d.hitNumbers(e.Hits, e.Number)
	if err != nil {
		return nil, err
	}
	for _, h := range hits {
		if err := row.Set(h, e.Value); err != nil {
			return nil, err
		}
	}
	return append(heldNote(&row.Param, e.Value), cappedRolls(e.Number, hits)...), nil
}

// cappedRolls notes rolls that have fewer strokes than their number to a beat asks for,
// where a number that makes strokes was set.
func cappedRolls(number string, hits []*groove.Hit) []string {
	if number != "length_ticks" && !strings.HasPrefix(number, "roll.") {
		return nil
	}
	for _, h := range hits {
		if asked := h.AskedStrokes(); asked > groove.MaxStrokes {
			return []string{fmt.Sprintf("A roll has at most %d strokes: this one would have %d, so they lie wider apart.", groove.MaxStrokes, asked)}
		}
	}
	return nil
}

func (e SetHits) name(before, after *Document) string {
	return nameHits(e.Hits, e.Number, before, after)
}

// ChangeHits adds to a number of hits, as much to each: where the first reaches
// the end of its range all stop, so that accents stay.
type ChangeHits struct {
	Hits []HitRef `json:"hits"`
	// Number is one of a hit's numbers, such as velocity or roll.strokes.
	Number string  `json:"number"`
	By     float64 `json:"by"`
}

func (e ChangeHits) apply(d *Document, _ Env) ([]string, error) {
	row, hits, err := d.hitNumbers(e.Hits, e.Number)
	if err != nil {
		return nil, err
	}
	by := e.By
	for _, h := range hits {
		by = room(by, row.Min, row.Max, row.Get(h))
	}
	if row.Scale == param.Discrete {
		by = math.Round(by)
	}
	for _, h := range hits {
		if err := row.Set(h, row.Get(h)+by); err != nil {
			return nil, err
		}
	}
	notes := cappedRolls(e.Number, hits)
	if by != e.By && math.Abs(by-e.By) >= 0.5 || by == 0 && e.By != 0 {
		notes = append(notes, fmt.Sprintf("%s was moved by %s only: the first hit has reached the end of its range, %s to %s.", row.Label, amount(by, ""), amount(row.Min, ""), amount(row.Max, row.Unit)))
	}
	return notes, nil
}

func (e ChangeHits) name(before, after *Document) string {
	return nameHits(e.Hits, e.Number, before, after)
}

// hitNumbers finds hits to be changed and the number of theirs that is meant.
func (d *Document) hitNumbers(refs []HitRef, number string) (*param.Row[groove.Hit], []*groove.Hit, error) {
	row := groove.HitParams.Find(number)
	if row == nil {
		return nil, nil, fmt.Errorf("a hit has no number %q", number)
	}
	hits, err := d.findAll(refs)
	return row, hits, err
}

// nameHits returns how a number of hits changed.
func nameHits(refs []HitRef, number string, before, after *Document) string {
	row := groove.HitParams.Find(number)
	if len(refs) == 0 {
		return "Nothing"
	}
	of := count(len(refs), "hit")
	if ref := refs[0]; len(refs) == 1 {
		of = before.nameOf(ref.Voice)
		if a, b := before.hit(ref), after.hit(ref); a != nil && b != nil {
			return fmt.Sprintf("%s, %s: %s %s → %s", of, before.placeName(a.Tick), lower(row.Label), amount(row.Get(a), ""), amount(row.Get(b), row.Unit))
		}
	}
	return fmt.Sprintf("%s: %s", of, lower(row.Label))
}

func (d *Document) hit(ref HitRef) *groove.Hit {
	if l := d.Groove.Lane(ref.Voice); l != nil {
		return l.Find(ref.Hit)
	}
	return nil
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

// room is how far a change may go so that a value stays from low to high.
func room(by, low, high, value float64) float64 {
	return math.Max(math.Min(by, high-value), low-value)
}

// VelocityRoom is how much of a change of velocity all hits of a voice can take
// without losing their differences.
func (d *Document) VelocityRoom(voice string, by float64) float64 {
	l := d.Groove.Lane(voice)
	if l == nil {
		return 0
	}
	row := groove.HitParams.Find("velocity")
	for i := range l.Hits {
		by = room(by, row.Min, row.Max, float64(l.Hits[i].Velocity))
	}
	return by
}

// DeleteHits takes hits away.
type DeleteHits struct {
	Hits []HitRef `json:"hits"`
}

func (e DeleteHits) apply(d *Document, _ Env) ([]string, error) {
	if _, err := d.findAll(e.Hits); err != nil {
		return nil, err
	}
	going := map[HitRef]bool{}
	for _, ref := range e.Hits {
		going[ref] = true
	}
	for i := range d.Groove.Lanes {
		remove(&d.Groove.Lanes[i], func(h groove.Hit) bool { return going[HitRef{d.Groove.Lanes[i].Voice, h.ID}] })
	}
	return nil, nil
}

func (e DeleteHits) name(_, _ *Document) string { return count(len(e.Hits), "hit") + " deleted" }

// MoveHits moves hits, and to another lane where a voice is named. They keep
// their distances: where one would leave its lane, all go only as far as it can,
// in whole steps where whole steps were asked for. A hit that is not among them
// and stands where one lands is replaced.
type MoveHits struct {
	Hits []HitRef `json:"hits"`
	// Ticks is by how much, at 960 a quarter note; negative is earlier.
	Ticks int `json:"ticks"`
	// Voice is whose lane they go to; empty for their own.
	Voice string `json:"voice,omitempty"`
}

func (e MoveHits) name(_, _ *Document) string { return count(len(e.Hits), "hit") + " moved" }

func (e MoveHits) apply(d *Document, _ Env) ([]string, error) {
	refs := unique(e.Hits)
	hits, err := d.findAll(refs)
	if err != nil {
		return nil, err
	}
	type moved struct {
		to  string
		hit groove.Hit
	}
	var group []moved
	by := e.Ticks
	for i, h := range hits {
		to := refs[i].Voice
		if e.Voice != "" {
			to = e.Voice
		}
		if d.Kit.Voice(to) == nil {
			return nil, noVoice(to)
		}
		group = append(group, moved{to, *h})
	}
	for _, m := range group {
		d.Groove.EnsureLane(m.to)
		lane := slices.IndexFunc(d.Groove.Lanes, func(l groove.Lane) bool { return l.Voice == m.to })
		by = min(max(by, -m.hit.Tick), d.Groove.LaneTicks(lane)-1-m.hit.Tick)
	}
	if step := d.Groove.StepTicks(); e.Ticks%step == 0 {
		by -= by % step
	}
	type where struct {
		cell
		sound string
	}
	places := map[where]bool{}
	for i := range group {
		group[i].hit.Tick += by
		place := where{cell{group[i].to, group[i].hit.Tick}, group[i].hit.Sound}
		if places[place] {
			return nil, fmt.Errorf("two of the hits would land in one place; move them apart first")
		}
		places[place] = true
	}
	if _, err := (DeleteHits{refs}).apply(d, nil); err != nil {
		return nil, err
	}
	for i := range d.Groove.Lanes {
		l := &d.Groove.Lanes[i]
		remove(l, func(o groove.Hit) bool { return places[where{cell{l.Voice, o.Tick}, o.Sound}] })
	}
	for _, m := range group {
		l := d.Groove.Lane(m.to)
		own(l)
		if l.Find(m.hit.ID) != nil {
			m.hit.ID = l.NewHitID()
		}
		l.Hits = append(l.Hits, m.hit)
		l.Sort()
	}
	return nil, nil
}
