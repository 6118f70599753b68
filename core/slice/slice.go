// Package slice cuts the cleanest hits out of a reference as one-shots.
package slice

import (
	"math"
	"slices"
	"sort"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
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
	// LowCut is the corner, Hz, below which the slice is cut: what lies there
	// in a cymbal's slice is another drum's tail. 0 is none.
	LowCut float64 `json:"low_cut_hz"`
}

const (
	lead    = 0.002 // seconds before the onset
	longest = 1.2
	least   = 0.04
	beside  = 0.035 // hits closer than this sound in it
)

// lowCuts are corners of families that have nothing of their own in the lows
// (common practice).
var lowCuts = map[sound.Family]float64{
	sound.HatClosed: 300, sound.HatOpen: 300, sound.Shaker: 300, sound.Tambourine: 300, sound.Ride: 200, sound.Crash: 200,
	sound.Cowbell: 200, sound.Snare: 100, sound.Rim: 120, sound.Clap: 120,
}

// settle is how long before a slice its filter starts, so that a tail that is
// cut away does not click, seconds.
const settle = 0.05

// Find lists up to count slices of each family, the cleanest first: hits that
// were struck alone, loud, surely, with room before the next hit.
func Find(a *transcribe.Analysis, count int) map[sound.Family][]Slice {
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
			LowCut: lowCuts[h.Family], Clean: math.Round(100*alone*room*loud*h.Confidence) / 100})
	}
	for f := range out {
		sort.SliceStable(out[f], func(i, j int) bool { return out[f][i].Clean > out[f][j].Clean })
		out[f] = out[f][:min(len(out[f]), count)]
	}
	return out
}

// Cut is the sound of a slice, with a fade of 5 ms at its end. A low cut is
// a Butterworth filter of the fourth order.
func Cut(b *audio.Buffer, s Slice) *audio.Buffer {
	from, to := int(s.From*float64(b.Rate)), int(s.To*float64(b.Rate))
	start := from
	if s.LowCut > 0 {
		start = max(from-int(settle*float64(b.Rate)), 0)
	}
	out := &audio.Buffer{Rate: b.Rate}
	for _, ch := range b.Slice(start, to).Channels {
		x := slices.Clone(ch)
		if s.LowCut > 0 {
			// Q of the two halves: 1/(2 cos(π/8)) and 1/(2 cos(3π/8)).
			first, second := dsp.HighPass(s.LowCut, 0.5412, float64(b.Rate)), dsp.HighPass(s.LowCut, 1.3066, float64(b.Rate))
			for i, v := range x {
				x[i] = float32(second.Next(first.Next(float64(v))))
			}
			x = x[min(from-start, len(x)):]
		}
		n := min(b.Rate*5/1000, len(x))
		for i := range n {
			x[len(x)-1-i] *= float32(i) / float32(n)
		}
		out.Channels = append(out.Channels, x)
	}
	return out
}
