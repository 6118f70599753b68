package project

import (
	"jubrak/core/groove"

	"encoding/json"
	"maps"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// place and stroke are a hit in the plainest terms: where, and what.
type place struct {
	voice string
	tick  int
}

type stroke struct {
	velocity    int
	nudge, semi float64
}

// plain is a groove without ids, lanes or order: what a user sees of it.
type plainGroove map[place]stroke

func plainOf(d *Document) plainGroove {
	out := plainGroove{}
	for _, l := range d.Groove.Lanes {
		for _, h := range l.Hits {
			out[place{l.Voice, h.Tick}] = stroke{h.Velocity, h.Nudge, h.Semitones}
		}
	}
	return out
}

func (d *Document) refs(places []place) (refs []HitRef) {
	for _, p := range places {
		for _, h := range d.Groove.Lane(p.voice).Hits {
			if h.Tick == p.tick {
				refs = append(refs, HitRef{p.voice, h.ID})
			}
		}
	}
	return refs
}

// Random edits on a plain map of hits and on the document give the same hits.
func TestEditsOfHitsAgainstAModel(t *testing.T) {
	voices := []string{"kick", "snare", "hat"}
	rapid.Check(t, func(t *rapid.T) {
		d, model, end := New("x"), plainGroove{}, 2*3840
		for range 30 {
			places := slices.SortedFunc(maps.Keys(model), func(a, b place) int {
				if a.voice != b.voice {
					return slices.Index(voices, a.voice) - slices.Index(voices, b.voice)
				}
				return a.tick - b.tick
			})
			var picked []place
			if len(places) > 0 {
				picked = rapid.SliceOfN(rapid.SampledFrom(places), 0, 5).Draw(t, "picked")
			}
			once := slices.Compact(slices.SortedFunc(slices.Values(picked), func(a, b place) int {
				return slices.Index(places, a) - slices.Index(places, b)
			}))
			each := func(f func(s *stroke)) {
				for _, p := range once {
					s := model[p]
					f(&s)
					model[p] = s
				}
			}
			voice := rapid.SampledFrom(voices).Draw(t, "voice")
			tick := rapid.IntRange(0, 31).Draw(t, "step") * 240
			value := rapid.IntRange(-30, 130).Draw(t, "value")
			refs, number := d.refs(picked), float64(value)
			var e Edit
			refused := false
			op := rapid.SampledFrom([]string{"hit.add", "hit.put", "hit.delete", "hit.move", "hit.velocity", "hit.louder", "hit.nudge", "hit.nudge_by", "hit.pitch", "groove.bars", "groove.clear"}).Draw(t, "op")
			switch op {
			case "hit.add":
				e = AddHit{voice, tick, value}
				s := model[place{voice, tick}]
				if s.velocity = min(max(value, 1), 127); value == 0 {
					s.velocity = 100
				}
				if refused = tick >= end; !refused {
					model[place{voice, tick}] = s
				}
			case "hit.put":
				e = PutHits{[]NewHit{nudged(voice, tick, 90, 4.5, -3)}}
				if refused = tick >= end; !refused {
					model[place{voice, tick}] = stroke{90, 4.5, -3}
				}
			case "hit.delete":
				e = DeleteHits{refs}
				for _, p := range picked {
					delete(model, p)
				}
			case "hit.move":
				by, group := rapid.IntRange(-20, 20).Draw(t, "steps")*240, plainGroove{}
				e = MoveHits{Hits: refs, Ticks: by}
				for _, p := range once {
					by = min(max(by, -p.tick), end-240-p.tick)
				}
				for _, p := range once {
					group[place{p.voice, p.tick + by}] = model[p]
					delete(model, p)
				}
				maps.Copy(model, group)
			case "hit.velocity":
				e = SetHits{refs, "velocity", number}
				each(func(s *stroke) { s.velocity = min(max(value, 1), 127) })
			case "hit.louder":
				e = ChangeHits{refs, "velocity", number}
				by := value
				for _, p := range once {
					by = min(max(by, 1-model[p].velocity), 127-model[p].velocity)
				}
				each(func(s *stroke) { s.velocity += by })
			case "hit.nudge":
				e = SetHits{refs, "nudge_ms", number}
				each(func(s *stroke) { s.nudge = float64(value) })
			case "hit.nudge_by":
				e = ChangeHits{refs, "nudge_ms", number}
				by := float64(value)
				for _, p := range once {
					by = math.Min(math.Max(by, -200-model[p].nudge), 200-model[p].nudge)
				}
				each(func(s *stroke) { s.nudge += by })
			case "hit.pitch":
				e = SetHits{refs, "semitones", number}
				each(func(s *stroke) { s.semi = min(max(float64(value), -36), 36) })
			case "groove.bars":
				bars := rapid.IntRange(1, 2).Draw(t, "bars")
				e, end = SetBars{bars}, bars*3840
				maps.DeleteFunc(model, func(p place, _ stroke) bool { return p.tick >= end })
			case "groove.clear":
				e = Clear{voice}
				maps.DeleteFunc(model, func(p place, _ stroke) bool { return p.voice == voice })
			}
			before, err := json.Marshal(d)
			require.NoError(t, err)
			next, _, err := d.Apply(Edits{e}, nil)
			after, _ := json.Marshal(d)
			require.Equal(t, string(before), string(after), "%s changed what it was made from", op)
			if refused {
				require.Error(t, err)
				continue
			}
			require.NoError(t, err, op)
			d = next
			require.Equal(t, model, plainOf(d), op)
		}
	})
}

func nudged(voice string, tick, velocity int, nudge, semitones float64) NewHit {
	return NewHit{voice, groove.Hit{Tick: tick, Velocity: velocity, Nudge: nudge, Semitones: semitones}}
}

func put(t *testing.T, hits ...NewHit) *Document {
	t.Helper()
	d, _, err := New("x").Apply(Edits{PutHits{Hits: hits}}, nil)
	require.NoError(t, err)
	return d
}

func TestAMoveActsOnTheGroup(t *testing.T) {
	move := func(d *Document, by int, to string, places ...place) plainGroove {
		t.Helper()
		next, _, err := d.Apply(Edits{MoveHits{Hits: d.refs(places), Ticks: by, Voice: to}}, nil)
		require.NoError(t, err)
		return plainOf(next)
	}
	a, b, c := nudged("hat", 0, 100, 1, 2), nudged("hat", 240, 50, -3, 0), nudged("hat", 480, 20, 0, 0)
	d := put(t, a, b, c)
	got := move(d, 240, "", place{"hat", 0}, place{"hat", 240})
	assert.Equal(t, plainGroove{{"hat", 240}: {100, 1, 2}, {"hat", 480}: {50, -3, 0}}, got, "neighbours move together, and replace what stood there")
	end := 2*3840 - 240
	got = move(d, 500*240, "", place{"hat", 0}, place{"hat", 240})
	assert.Equal(t, plainGroove{{"hat", end - 240}: {100, 1, 2}, {"hat", end}: {50, -3, 0}, {"hat", 480}: {20, 0, 0}}, got, "at the end they stop as a whole, on the grid")
	got = move(d, -240, "", place{"hat", 240}, place{"hat", 480})
	assert.Equal(t, plainGroove{{"hat", 0}: {50, -3, 0}, {"hat", 240}: {20, 0, 0}}, got)
	got = move(d, 0, "snare", place{"hat", 0}, place{"hat", 240})
	assert.Equal(t, plainGroove{{"snare", 0}: {100, 1, 2}, {"snare", 240}: {50, -3, 0}, {"hat", 480}: {20, 0, 0}}, got)
	d = put(t, nudged("hat", 0, 9, 0, 0), nudged("kick", 0, 9, 0, 0))
	_, _, err := d.Apply(Edits{MoveHits{Hits: d.refs([]place{{"hat", 0}, {"kick", 0}}), Voice: "snare"}}, nil)
	assert.ErrorContains(t, err, "one place", "two hits of the selection never melt into one")
}
