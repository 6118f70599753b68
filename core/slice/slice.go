// Package slice cuts the cleanest hits out of a reference as one-shots.
package slice

import (
	"math"
	"slices"
	"sort"

	"jubrak/core/audio"
	"jubrak/core/listen"
	"jubrak/core/sound"
	"jubrak/core/tone"
)

// Slice is one hit that can be cut out.
type Slice struct {
	Hit    string       `json:"hit"`
	Family sound.Family `json:"family"`
	From   float64      `json:"from_s"`
	To     float64      `json:"to_s"`
	// Clean is 0..1: how little of anything else sounds in it.
	Clean    float64 `json:"clean"`
	Velocity int     `json:"velocity"`
}

const (
	lead    = 0.002 // seconds before the onset
	longest = 1.2
	least   = 0.04
	beside  = 0.035 // hits closer than this sound in it
)

// Find lists up to count slices of each family, the cleanest first: hits that
// were struck alone, loud, surely, with room before the next hit.
func Find(a *listen.Analysis, count int) map[sound.Family][]Slice {
	out := map[sound.Family][]Slice{}
	loudest := map[sound.Family]int{}
	for _, h := range a.Hits {
		loudest[h.Family] = max(loudest[h.Family], h.Velocity)
	}
	for i, h := range a.Hits {
		to := math.Min(h.Time+longest, a.Duration)
		alone := 1.0
		for _, next := range a.Hits[i+1:] {
			if next.Time-h.Time > beside {
				to = math.Min(to, next.Time-0.003)
				break
			}
			alone = 0.25
		}
		for j := i - 1; j >= 0 && h.Time-a.Hits[j].Time < beside; j-- {
			alone = 0.25
		}
		from := math.Max(h.Time-lead, 0)
		if to-from < least {
			continue
		}
		room := 1 - math.Exp(-(to-from)/0.15)
		loud := float64(h.Velocity) / float64(loudest[h.Family])
		out[h.Family] = append(out[h.Family], Slice{Hit: h.ID, Family: h.Family, From: from, To: to, Velocity: h.Velocity,
			Clean: math.Round(100*alone*room*loud*h.Confidence) / 100})
	}
	for f := range out {
		sort.SliceStable(out[f], func(i, j int) bool { return out[f][i].Clean > out[f][j].Clean })
		out[f] = out[f][:min(len(out[f]), count)]
	}
	return out
}

// Cut is the sound of a slice, with a fade of 5 ms at its end.
func Cut(b *audio.Buffer, s Slice) *audio.Buffer {
	part := b.Slice(int(s.From*float64(b.Rate)), int(s.To*float64(b.Rate)))
	out := &audio.Buffer{Rate: b.Rate}
	for _, ch := range part.Channels {
		x := slices.Clone(ch)
		n := min(b.Rate*5/1000, len(x))
		for i := range n {
			x[len(x)-1-i] *= float32(i) / float32(n)
		}
		out.Channels = append(out.Channels, x)
	}
	return out
}

// Measure is the tone of a slice.
func Measure(b *audio.Buffer, s Slice) *tone.Measures { return tone.Measure(Cut(b, s)) }
