package transcribe

import (
	"math"

	"jubrak/core/groove"
)

// A tempo may jump: two takes edited together, a half that is faster on
// purpose. One steady grid fits one side of the jump, a followed one loses
// itself at it.

const (
	jumpWindow = 8.0  // seconds in which a tempo is looked for
	jumpPlaces = 2.0  // between windows, at least
	jumpLooks  = 48   // windows in which it is looked for, at most
	jumpHits   = 8    // fewest in a window
	jumpLeast  = 0.03 // by which two tempi differ, of either
	onEnough   = 0.5  // share of drums on beats under which a window speaks against a grid
)

// jumping looks for parts of different tempo, if the grid fits the hits badly
// somewhere; ok is false where it fits, or nothing fits better.
func jumping(g *heardGrid, hits []Hit, duration float64) (out heardGrid, ok bool) {
	if !badSomewhere(&g.BeatGrid, hits) {
		return out, false
	}
	parts := tempoParts(hits)
	if len(parts) < 2 {
		return out, false
	}
	out = heardGrid{BeatGrid: groove.BeatGrid{PerBar: 4}, confidence: 1, barOne: 1}
	for i, p := range parts {
		own := between(hits, p.from, p.to)
		if len(own) < jumpHits {
			return out, false
		}
		w, found := weigh(own)
		if !found {
			return out, false
		}
		period, start, rms, found := steady(60/p.period, own)
		if !found || rms > 30 {
			return out, false
		}
		// The beat of this part that is likeliest to start a bar.
		one := start
		for beat := range 4 {
			if at := start + float64(beat)*period; w.barOne(period, at) > w.barOne(period, one) {
				one = at
			}
		}
		out.confidence = math.Min(out.confidence, w.tempo(period))
		out.barOne = math.Min(out.barOne, w.barOne(period, one))
		from, to := p.from, p.to
		if i == 0 {
			from = 0
		}
		if i == len(parts)-1 {
			to = duration
		}
		out.join(period, one, from, to)
	}
	if len(out.Beats) < 4 || onBeats(&out.BeatGrid, hits) < onBeats(&g.BeatGrid, hits)+0.1 {
		return out, false
	}
	return out, true
}

// join adds the beats of a part. At a jump the last beat of the part before is
// left out where the first of this one comes too soon after it.
func (g *heardGrid) join(period, one, from, to float64) {
	first := math.Ceil((from - one - 0.02*period) / period)
	if len(g.Beats) == 0 {
		g.Downbeat = wrap(-int(first), 4)
	}
	for k := first; one+k*period < to-0.02*period; k++ {
		at := one + k*period
		if n := len(g.Beats); n > 1 && at-g.Beats[n-1] < 0.6*min(period, g.Beats[n-1]-g.Beats[n-2]) {
			g.Beats[n-1] = at
			continue
		}
		g.Beats = append(g.Beats, at)
	}
}

// badSomewhere reports whether in some window most drums are off the beats.
func badSomewhere(g *groove.BeatGrid, hits []Hit) bool {
	last := hits[len(hits)-1].Time
	for at := hits[0].Time; at < last; at += jumpPlaces {
		part := between(hits, at, at+jumpWindow)
		if len(part) >= jumpHits && onBeats(g, part) < onEnough {
			return true
		}
	}
	return false
}

func between(hits []Hit, from, to float64) []Hit {
	var out []Hit
	for _, h := range hits {
		if h.Time >= from && h.Time < to {
			out = append(out, h)
		}
	}
	return out
}

// tempoPart is a stretch of one tempo.
type tempoPart struct{ from, to, period float64 }

// tempoParts finds the stretches of one tempo, each at least two windows long,
// and where they meet.
func tempoParts(hits []Hit) []tempoPart {
	var parts []tempoPart
	last := hits[len(hits)-1].Time
	step := math.Max(jumpPlaces, (last-hits[0].Time)/jumpLooks)
	for at := hits[0].Time; at+jumpWindow/2 < last; at += step {
		part := between(hits, at, at+jumpWindow)
		if len(part) < jumpHits {
			continue
		}
		for i := range part {
			part[i].Time -= at // what lies before would be searched in vain
		}
		w, ok := weigh(part)
		if !ok || w.tempo(w.best().Period) < 0.3 {
			continue
		}
		period := w.best().Period
		if n := len(parts); n > 0 {
			p := &parts[n-1]
			period *= math.Exp2(math.Round(math.Log2(p.period / period))) // double and half are the same
			if math.Abs(period/p.period-1) < jumpLeast {
				p.to = at + jumpWindow
				continue
			}
		}
		parts = append(parts, tempoPart{at, at + jumpWindow, period})
	}
	var long []tempoPart
	for _, p := range parts {
		if n := len(long); n > 0 && math.Abs(p.period/long[n-1].period-1) < jumpLeast {
			long[n-1].to = p.to
		} else if p.to-p.from > jumpWindow { // two windows at least
			long = append(long, p)
		}
	}
	for i := 1; i < len(long); i++ {
		at := meeting(hits, &long[i-1], &long[i])
		long[i-1].to, long[i].from = at, at
	}
	return long
}

// meeting is the hit at which one tempo gives way to another: where each side
// lies best on its own beats.
func meeting(hits []Hit, a, b *tempoPart) float64 {
	from, to := math.Min(a.to, b.from)-jumpWindow, math.Max(a.to, b.from)+jumpWindow
	from, to = math.Max(from, a.from), math.Min(to, b.to)
	near := between(hits, from, to)
	left, right := between(hits, a.from, math.Min(a.to, b.from)), between(hits, math.Max(a.to, b.from), b.to)
	if len(left) < jumpHits || len(right) < jumpHits {
		left, right = between(hits, a.from, (a.to+b.from)/2), between(hits, (a.to+b.from)/2, b.to)
	}
	if len(left) < 4 || len(right) < 4 || len(near) == 0 {
		return (a.to + b.from) / 2
	}
	pa, sa, _, okA := steady(60/a.period, left)
	pb, sb, _, okB := steady(60/b.period, right)
	if !okA || !okB {
		return (a.to + b.from) / 2
	}
	off := func(t, period, start float64) float64 {
		x := (t - start) / period * 2
		return math.Min(math.Abs(x-math.Round(x))*period/2, 0.06)
	}
	best, least := near[0].Time, math.Inf(1)
	for i := range near {
		sum := 0.0
		for j := range near {
			if j < i {
				sum += off(near[j].Time, pa, sa)
			} else {
				sum += off(near[j].Time, pb, sb)
			}
		}
		if sum < least {
			best, least = near[i].Time, sum
		}
	}
	return best - 0.005
}
