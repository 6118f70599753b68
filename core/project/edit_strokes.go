package project

import (
	"fmt"
	"jubrak/core/groove"
	"jubrak/core/music"
	"math"
	"slices"
)

// StretchHits moves hits away from the first of them, or closer.
type StretchHits struct {
	Hits []HitRef `json:"hits"`
	// Percent of their distances; 100 leaves them.
	Percent float64 `json:"percent"`
}

func (e StretchHits) apply(d *Document, _ Env) ([]string, error) {
	if !(e.Percent > 0 && e.Percent <= 800) {
		return nil, fmt.Errorf("hits are stretched to at most 800 %%")
	}
	hits, err := d.findAll(e.Hits)
	if err != nil || len(hits) == 0 {
		return nil, err
	}
	first := hits[0].Tick
	for _, h := range hits {
		first = min(first, h.Tick)
	}
	for i, h := range hits {
		lane := slices.IndexFunc(d.Groove.Lanes, func(l groove.Lane) bool { return l.Voice == unique(e.Hits)[i].Voice })
		h.Tick = first + int(float64(h.Tick-first)*e.Percent/100+0.5)
		if h.Length > 0 {
			h.Length = max(int(float64(h.Length)*e.Percent/100+0.5), 1)
		}
		if h.Tick >= d.Groove.LaneTicks(lane) {
			return nil, fmt.Errorf("a hit would leave its lane; stretch less")
		}
	}
	for i := range d.Groove.Lanes {
		d.Groove.Lanes[i].Sort()
	}
	return nil, d.noDoubles()
}

func (e StretchHits) name(_, _ *Document) string {
	return fmt.Sprintf("%s stretched to %s %%", count(len(e.Hits), "hit"), amount(e.Percent, ""))
}

// TouchHits makes hits ghosts, accents or plain ones, or drops them without losing
// them.
type TouchHits struct {
	Hits []HitRef `json:"hits"`
	// As is ghost, accent, plain or drop; dropped again, a hit plays again.
	As string `json:"as"`
}

func (e TouchHits) apply(d *Document, _ Env) ([]string, error) {
	hits, err := d.findAll(e.Hits)
	if err != nil {
		return nil, err
	}
	to := map[string]int{"ghost": ghostVelocity, "plain": plainVelocity, "accent": accentVelocity}
	if e.As != "drop" && to[e.As] == 0 {
		return nil, fmt.Errorf("a hit is made a ghost, an accent, plain or dropped, not %q", e.As)
	}
	back := len(hits) > 0 && hits[0].Of > 0 && hits[0].Times == 0
	for _, h := range hits {
		switch {
		case e.As != "drop":
			h.Velocity = to[e.As]
		case back:
			h.Times, h.Of = 0, 0
		default:
			h.Times, h.Of = 0, 1
		}
	}
	return nil, nil
}

func (e TouchHits) name(_, _ *Document) string {
	words := map[string]string{"ghost": "made ghosts", "accent": "accented", "plain": "made plain", "drop": "dropped or back"}
	return fmt.Sprintf("%s %s", count(len(e.Hits), "hit"), words[e.As])
}

// SoundHits lets hits strike another voice's sound and stay where they are.
type SoundHits struct {
	Hits []HitRef `json:"hits"`
	// Sound is the voice; empty for the lane's own.
	Sound string `json:"sound"`
	// Every is 1 for all of the hits, 2 for every second one of each lane, and so on.
	Every int `json:"every,omitempty"`
}

func (e SoundHits) apply(d *Document, _ Env) ([]string, error) {
	if e.Sound != "" && d.Kit.Voice(e.Sound) == nil {
		return nil, noVoice(e.Sound)
	}
	refs := unique(e.Hits)
	hits, err := d.findAll(refs)
	if err != nil {
		return nil, err
	}
	if e.Sound != "" {
		d.Groove.EnsureLane(e.Sound) // a sound is a voice with a lane
		if hits, err = d.findAll(refs); err != nil {
			return nil, err
		}
	}
	order := make([]int, len(hits))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return hits[a].Tick - hits[b].Tick })
	seen := map[string]int{}
	for _, i := range order {
		seen[refs[i].Voice]++
		if seen[refs[i].Voice]%max(e.Every, 1) != 0 {
			continue
		}
		hits[i].Sound = e.Sound
		if e.Sound == refs[i].Voice {
			hits[i].Sound = ""
		}
	}
	return nil, d.noDoubles()
}

func (e SoundHits) name(before, _ *Document) string {
	if e.Sound == "" {
		return count(len(e.Hits), "hit") + ": own sound"
	}
	return fmt.Sprintf("%s: sound of %s", count(len(e.Hits), "hit"), before.nameOf(e.Sound))
}

// OpenHits makes the strokes of flams and rolls hits of their own.
type OpenHits struct {
	Hits []HitRef `json:"hits"`
}

func (e OpenHits) apply(d *Document, _ Env) ([]string, error) {
	refs := unique(e.Hits)
	if _, err := d.findAll(refs); err != nil {
		return nil, err
	}
	opened, replaced := 0, 0
	for _, ref := range refs {
		lane, l, err := d.laneOf(ref.Voice)
		if err != nil {
			return nil, err
		}
		found := l.Find(ref.Hit)
		if found == nil {
			replaced++ // a stroke of one that was opened before it came to its place
			continue
		}
		h := *found
		if h.Flam.Strokes == 0 && !h.Rolls() {
			continue
		}
		opened++
		own(l)
		l.Hits = slices.DeleteFunc(l.Hits, func(o groove.Hit) bool { return o.ID == ref.Hit })
		for _, one := range d.strokesOf(lane, &h) {
			one.ID = l.NewHitID()
			l.Hits = slices.DeleteFunc(l.Hits, func(o groove.Hit) bool {
				same := samePlace(&o, &one)
				if same {
					replaced++
				}
				return same
			})
			l.Hits = append(l.Hits, one)
		}
		l.Sort()
	}
	if opened == 0 {
		return nil, fmt.Errorf("none of these hits is a flam or a roll")
	}
	if replaced > 0 {
		return []string{fmt.Sprintf("%s stood where a stroke of another one falls and made way for it.", count(replaced, "hit"))}, nil
	}
	return nil, nil
}

// strokesOf are the strokes of a hit as hits of their own, without ids. Each falls where
// it did: what the feel does at its own place is taken off its nudge.
func (d *Document) strokesOf(lane int, h *groove.Hit) []groove.Hit {
	end := d.Groove.LaneTicks(lane)
	voice := d.Groove.Lanes[lane].Voice
	plain := *h
	plain.Flam, plain.Roll = groove.Flam{}, groove.Even{}
	if h.Rolls() && !h.Cut {
		plain.Length = 0
	}
	g := d.Groove
	line := groove.NewLine(&g, d.Tempo, 0)
	ms := func(tick int) float64 { return line.Seconds(float64(tick)) * 1000 }
	feel := func(tick int) float64 { return d.feelAt(voice, tick) }
	late := feel(h.Tick) + h.Nudge
	var out []groove.Hit
	for _, s := range h.Opened(nil) {
		one := plain
		at := h.Tick + s.Ticks // perhaps beyond the ends of the lane
		if s.Early > 0 {
			at -= max(int(s.Early/1000*d.Tempo[0].BPM/60*music.PPQ+0.5), 1)
		} else if at >= end {
			continue
		}
		one.Tick = (at%end + end) % end
		one.Velocity = min(max(int(float64(h.Velocity)*s.Velocity+0.5), 1), 127)
		one.Semitones += s.Semitones
		falls := late - s.Early
		if s.Ticks > 0 {
			falls += line.SwingAt(lane, h.Tick+s.Ticks) - line.SwingAt(lane, h.Tick)
		}
		away := ms(h.Tick+s.Ticks) + falls - ms(at) // from the straight place it has now
		if nudge := away - feel(one.Tick); math.Abs(nudge) > 0.005 {
			one.Nudge = limit(round2(nudge), groove.MaxNudge)
		} else {
			one.Nudge = 0
		}
		out = append(out, one)
	}
	return out
}

func (e OpenHits) name(_, _ *Document) string { return "Opened into hits" }
