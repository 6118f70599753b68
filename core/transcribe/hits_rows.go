package transcribe

import (
	"math"
	"slices"

	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// Hits of one source of noise are named by the networks after one family here
// and after another there, or after two at once. So a second row of noise
// stands only where its hits differ from the first one's by more than the
// first one's among themselves; else both are one row.

// noises are the families whose sounds are noise in the highs.
var noises = []sound.Family{sound.HatClosed, sound.HatOpen, sound.Shaker, sound.Tambourine}

// What a hit of a noise sounds like: log power by band above noiseHz just
// after its onset, and a little later.
const (
	noiseHz      = 1500
	noiseNear    = 4  // frames after the onset, 23 ms
	noiseLater   = 10 // frames after it, 58 ms
	noiseFrames  = 4  // that later is averaged over, 23 ms
	noiseFloor   = 30 // dB under the loudest band, below which all is alike
	noiseClear   = 8  // frames from a drum of another kind, 46 ms
	onePlace     = 5  // frames within which two hits lie on one place, 29 ms
	fewestAlone  = 3  // hits that a row is known by
	fewestNoises = 8  // hits of both rows
)

// noiseOf is the sound of the hit at a frame, level aside, dB.
func noiseOf(s *drumnet.Scene, frame int) []float64 {
	var out []float64
	for _, part := range [][2]int{{1, noiseNear}, {noiseLater, noiseFrames}} {
		for b := range drumnet.Bands {
			if drumnet.BandHz(b) < noiseHz {
				continue
			}
			var sum float64
			for k := range part[1] {
				sum += float64(s.Power[min(frame+part[0]+k, len(s.Power)-1)][b]) / float64(part[1])
			}
			out = append(out, 10*math.Log10(sum+1e-12))
		}
	}
	top := slices.Max(out)
	level := 0.0
	for i := range out {
		out[i] = math.Max(out[i], top-noiseFloor)
		level += out[i] / float64(len(out))
	}
	for i := range out {
		out[i] -= level
	}
	return out
}

// row is what hits of one family sound like.
type row struct {
	middle []float64
	spread float64 // mean square of its hits about their middle
}

func newRow(s *drumnet.Scene, named []found, hits []int) row {
	var all [][]float64
	for _, i := range hits {
		all = append(all, noiseOf(s, named[i].frame))
	}
	r := row{middle: make([]float64, len(all[0]))}
	for _, x := range all {
		for k := range x {
			r.middle[k] += x[k] / float64(len(all))
		}
	}
	for _, x := range all {
		r.spread += square(x, r.middle) / math.Max(float64(len(all)-1), 1)
	}
	return r
}

func near(a, b found, frames int) bool {
	return max(a.frame-b.frame, b.frame-a.frame) < frames
}

// beside reports whether another hit of such a family lies within so many frames of
// hit i; hits come in the order of their frames.
func beside(named []found, i, frames int, such func(sound.Family) bool) bool {
	for j := i - 1; j >= 0 && near(named[i], named[j], frames); j-- {
		if such(named[j].family) {
			return true
		}
	}
	for j := i + 1; j < len(named) && near(named[i], named[j], frames); j++ {
		if such(named[j].family) {
			return true
		}
	}
	return false
}

// square is the mean square of the difference of two sounds.
func square(a, b []float64) (sum float64) {
	for k := range a {
		sum += (a[k] - b[k]) * (a[k] - b[k]) / float64(len(a))
	}
	return sum
}

// oneSource names after one family what the networks named after two and what
// sounds like one source. A closed and an open hat are one instrument already,
// and are distinguished elsewhere.
func oneSource(s *drumnet.Scene, heard []drumnet.Heard, named []found) []found {
	for i := 0; i < len(noises); i++ {
		for _, other := range noises[i+1:] {
			if f := noises[i]; other != sound.HatOpen && alike(s, named, f, other) {
				named = merged(heard, named, f, other)
				i = -1 // the row has grown: from the beginning
				break
			}
		}
	}
	return named
}

// alike reports whether the hits of two families are of one source: those of the
// second differ from those of the first by no more than hits of one of them
// among themselves. Hits with both names speak for a row that has none of its
// own that is clear of other drums. False where a family has no hits.
func alike(s *drumnet.Scene, named []found, first, second sound.Family) bool {
	var rows [3][]int // of the first alone, of the second alone, of both, clear of other drums
	count := map[sound.Family]int{}
	for i, n := range named {
		k := slices.Index([]sound.Family{first, second}, n.family)
		if k < 0 {
			continue
		}
		count[n.family]++
		other := second
		if k == 1 {
			other = first
		}
		both := beside(named, i, onePlace, func(f sound.Family) bool { return f == other })
		if beside(named, i, noiseClear, func(f sound.Family) bool { return !slices.Contains(noises, f) }) {
			continue // what it sounds like is not known
		}
		switch {
		case !both:
			rows[k] = append(rows[k], i)
		case k == 0:
			rows[2] = append(rows[2], i)
		}
	}
	if count[first] == 0 || count[second] == 0 || count[first]+count[second] < fewestNoises {
		return false
	}
	a, b := rows[0], rows[1]
	if len(a) == 0 {
		a = rows[2]
	}
	if len(b) == 0 {
		b = rows[2]
	}
	if len(a) == 0 || len(b) == 0 || max(len(a), len(b)) < fewestAlone {
		return true // nothing shows that there are two
	}
	x, y := newRow(s, named, a), newRow(s, named, b)
	return square(x.middle, y.middle) <= math.Max(x.spread, y.spread)
}

// merged names two families' hits after one: after a hat that has at least a
// fifth of them, since hats are played most, else after the larger. Of two on
// one place the surer stays.
func merged(heard []drumnet.Heard, named []found, first, second sound.Family) []found {
	count := map[sound.Family]int{}
	for _, n := range named {
		count[n.family]++
	}
	keep := first
	hat := first == sound.HatClosed || first == sound.HatOpen
	if all := count[first] + count[second]; hat && 5*count[first] < all || !hat && 2*count[first] < all {
		keep = second
	}
	at := map[int]*drumnet.Heard{}
	for i := range heard {
		at[heard[i].Frame] = &heard[i]
	}
	k := slices.Index(drumnet.Families, keep)
	var out []found
	last := -1
	for _, n := range named {
		if n.family != first && n.family != second {
			out = append(out, n)
			continue
		}
		if h := at[n.frame]; n.family != keep {
			n.family, n.level, n.time = keep, h.Level[k], float64(n.frame)*hop/rate+h.Delay[k]/1000
		}
		if last >= 0 && near(out[last], n, onePlace) {
			if n.odds > out[last].odds {
				out[last] = n
			}
			continue
		}
		last = len(out)
		out = append(out, n)
	}
	return out
}
