package listen

import (
	"math"
	"sort"

	"jubrak/core/groove"
	"jubrak/core/sound"
)

// heardGrid is a beat grid with how sure we are of it.
type heardGrid struct {
	groove.BeatGrid
	confidence float64
	steady     bool
}

// weight is how much a family speaks for the beat.
func weight(f sound.Family) float64 {
	switch f {
	case sound.Kick:
		return 1.5
	case sound.Snare:
		return 1.2
	}
	return 0.5
}

// findGrid tries the tempo candidates, fits a grid to each and keeps the one
// on which the hits lie best.
func findGrid(flux []float64, hits []Hit, duration float64) (heardGrid, bool) {
	if len(hits) < 4 || len(flux) < 200 {
		return heardGrid{}, false
	}
	var best heardGrid
	bestScore, second := math.Inf(-1), math.Inf(-1)
	for rank, bpm := range tempoCandidates(flux, 6) {
		g, fit := fitSteady(bpm, hits, duration)
		score := fit - 0.02*float64(rank)
		if score > bestScore {
			bestScore, second, best = score, bestScore, g
		} else if score > second {
			second = score
		}
	}
	if math.IsInf(bestScore, -1) {
		return heardGrid{}, false
	}
	best.confidence = math.Min(math.Max(bestScore, 0), 0.99)
	wandering := trackedGrid(flux, best.BPM(), hits, duration)
	if wandering != nil && (!best.steady || onBeats(&wandering.BeatGrid, hits) > onBeats(&best.BeatGrid, hits)+0.12) {
		wandering.confidence = 0.8 * best.confidence
		best = *wandering
	}
	best.Downbeat = barOne(&best.BeatGrid, hits)
	best.PerBar = 4
	best.trimBefore()
	best.trimAfter(hits[len(hits)-1].Time)
	return best, true
}

// trimAfter ends the grid where the drums end: no beat is heard in silence.
func (g *heardGrid) trimAfter(last float64) {
	for len(g.Beats) > 2 && g.Beats[len(g.Beats)-1] > last+0.05 {
		g.Beats = g.Beats[:len(g.Beats)-1]
	}
}

// fitSteady scans tempi within 2 % of bpm and all phases for the grid on
// which the hits' beats, eighths and sixteenths lie best, then refines both
// by least squares. The fit is 0 for chance and 1 for perfect.
func fitSteady(bpm float64, hits []Hit, duration float64) (heardGrid, float64) {
	period, start, _ := scan(60/bpm, 0.02, 60, hits)
	for _, width := range []float64{0.002, 0.0005} {
		period, start, _ = scan(period, width, 20, hits)
	}
	period, start = refine(period, start, hits)
	fit, rms := gridFit(period, start, hits)
	first := start - math.Floor(start/period)*period
	if first > period*0.9 {
		first -= period // a beat just before the file begins
	}
	n := max(int((duration-first)/period)+1, 2)
	g := heardGrid{BeatGrid: groove.SteadyGrid(first, 60/period, n, 4), steady: rms < 0.030}
	return g, fit
}

// scan looks for the period and start with the best score near a period.
func scan(period, width float64, steps int, hits []Hit) (bestPeriod, bestStart, best float64) {
	best = math.Inf(-1)
	for i := -steps; i <= steps; i++ {
		p := period * (1 + width*float64(i)/float64(steps))
		start, score := phase(p, hits)
		if score > best {
			bestPeriod, bestStart, best = p, start, score
		}
	}
	return bestPeriod, bestStart, best
}

// phase finds where beats of a period begin: the circular mean of the hits
// at the beat and at the half beat decides, weighted by family.
func phase(period float64, hits []Hit) (start, score float64) {
	var c1, s1, c2, s2, total float64
	for i := range hits {
		h := &hits[i]
		w := weight(h.Family) * (0.3 + float64(h.Velocity)/127)
		a := 2 * math.Pi * h.Time / period
		c1, s1 = c1+w*math.Cos(a), s1+w*math.Sin(a)
		c2, s2 = c2+w*math.Cos(2*a), s2+w*math.Sin(2*a)
		total += w
	}
	// The half-beat phase leaves two candidates; the beat chooses.
	half := math.Atan2(s2, c2) / 2
	if math.Cos(half)*c1+math.Sin(half)*s1 < 0 {
		half += math.Pi
	}
	beat := (math.Cos(half)*c1 + math.Sin(half)*s1) / total
	score = math.Hypot(c2, s2)/total + 0.7*beat
	return half / (2 * math.Pi) * period, score
}

// refine fits period and start to the hits on beats by least squares, three
// times, each time leaving out what lies far off.
func refine(period, start float64, hits []Hit) (float64, float64) {
	for _, reach := range []float64{0.12, 0.09, 0.08} {
		var n, sx, sy, sxx, sxy float64
		for i := range hits {
			h := &hits[i]
			k := math.Round((h.Time - start) / period)
			d := h.Time - start - k*period
			if math.Abs(d) > reach*period {
				continue
			}
			w := weight(h.Family)
			n, sx, sy, sxx, sxy = n+w, sx+w*k, sy+w*h.Time, sxx+w*k*k, sxy+w*k*h.Time
		}
		det := n*sxx - sx*sx
		if n < 4 || det < 1e-9 {
			return period, start
		}
		p := (n*sxy - sx*sy) / det
		if math.Abs(p/period-1) > 0.03 {
			return period, start
		}
		period, start = p, (sy-p*sx)/n
	}
	return period, start
}

// gridFit says how well the hits lie on swung sixteenths of the grid, how
// many beats are struck, and the spread of the hits on beats in seconds.
func gridFit(period, start float64, hits []Hit) (fit, rms float64) {
	g := groove.SteadyGrid(start, 60/period, 2, 4)
	heard := make([]groove.Heard, len(hits))
	for i := range hits {
		heard[i] = groove.Heard{Voice: string(hits[i].Family), Time: hits[i].Time, Velocity: hits[i].Velocity}
	}
	placed, _ := groove.Assign(heard, &g, 4)
	struck := map[int]bool{}
	lo, hi := math.MaxInt, math.MinInt
	var on, n, total, beatWeight float64
	mean, square := 0.0, 0.0
	for _, p := range placed {
		lo, hi = min(lo, p.Step), max(hi, p.Step)
		w := weight(sound.Family(p.Voice)) * (0.3 + float64(p.Velocity)/127)
		total += w
		if p.Step%4 == 0 {
			struck[p.Step] = true
			beatWeight += w
			on++
			mean += p.Offset / 1000
			square += p.Offset * p.Offset / 1e6
		} else if p.Step%2 == 0 {
			beatWeight += 0.4 * w
		}
		n++
	}
	beats := math.Max(float64(hi-lo)/4, 1)
	if on < 2 {
		return 0, 1
	}
	mean /= on
	rms = math.Sqrt(math.Max(square/on-mean*mean, 0))
	covered := math.Min(float64(len(struck))/beats, 1)
	sharp := math.Exp(-rms / 0.03)
	density := n / beats
	// A grid on which nearly everything is a beat is twice too fast; one
	// with more than four onsets a beat at every place is twice too slow.
	busy := math.Exp(-math.Pow(math.Log2(density/4)/2.2, 2) / 2)
	oct := math.Log2(60/period/105) / 0.75
	return (0.45*covered + 0.35*beatWeight/total + 0.2*sharp) * (0.4 + 0.6*busy) * (0.35 + 0.65*math.Exp(-oct*oct/2)), rms
}

// onBeats is the share of kicks and snares, by weight, that lie within 30 ms
// of a beat.
func onBeats(g *groove.BeatGrid, hits []Hit) float64 {
	var near, all float64
	for i := range hits {
		if hatless(hits[i].Family) == sound.HatClosed {
			continue
		}
		w := weight(hits[i].Family) * float64(hits[i].Velocity)
		at := g.Position(hits[i].Time)
		all += w
		if math.Abs(at-math.Round(at))*g.BeatSeconds(at) < 0.03 {
			near += w
		}
	}
	return near / math.Max(all, 1)
}

// trackedGrid follows a wandering tempo: beats by dynamic programming, drawn
// to the hits next to them and smoothed over five beats.
func trackedGrid(flux []float64, bpm float64, hits []Hit, duration float64) *heardGrid {
	frames := trackBeats(flux, bpm)
	if len(frames) < 6 {
		return nil
	}
	times := make([]float64, len(frames))
	sorted := append([]Hit(nil), hits...)
	sort.SliceStable(sorted, func(a, b int) bool { return sorted[a].Time < sorted[b].Time })
	for i, f := range frames {
		times[i] = float64(f) * hop / rate
		near, best := times[i], 0.05
		for j := range sorted {
			d := math.Abs(sorted[j].Time - times[i])
			if d/weight(sorted[j].Family) < best {
				near, best = sorted[j].Time, d/weight(sorted[j].Family)
			}
		}
		times[i] = near
	}
	g := &heardGrid{BeatGrid: groove.BeatGrid{Beats: smoothBeats(times), PerBar: 4}}
	step := g.Beats[1] - g.Beats[0]
	for g.Beats[0] > step*0.9 {
		g.Beats = append([]float64{g.Beats[0] - step}, g.Beats...)
	}
	last := len(g.Beats) - 1
	step = g.Beats[last] - g.Beats[last-1]
	for g.Beats[len(g.Beats)-1]+step < duration {
		g.Beats = append(g.Beats, g.Beats[len(g.Beats)-1]+step)
	}
	return g
}

// smoothBeats replaces each beat by the value there of a line fitted to the
// two beats on either side.
func smoothBeats(t []float64) []float64 {
	out := make([]float64, len(t))
	for i := range t {
		from, to := max(i-2, 0), min(i+2, len(t)-1)
		var n, sx, sy, sxx, sxy float64
		for j := from; j <= to; j++ {
			x := float64(j - i)
			n, sx, sy, sxx, sxy = n+1, sx+x, sy+t[j], sxx+x*x, sxy+x*t[j]
		}
		out[i] = (sy - (n*sxy-sx*sy)/(n*sxx-sx*sx)*sx) / n
	}
	for i := 1; i < len(out); i++ {
		out[i] = math.Max(out[i], out[i-1]+0.05)
	}
	return out
}

// barOne says which of the first four beats starts a bar: kicks on one and
// three, snares on two and four, and the kick weighs more on one; a loop
// that begins with a kick begins with a bar.
func barOne(g *groove.BeatGrid, hits []Hit) int {
	var score [4]float64
	first := math.Inf(1)
	for i := range hits {
		first = math.Min(first, hits[i].Time)
	}
	total := 0.0
	for i := range hits {
		h := &hits[i]
		at := g.Position(h.Time)
		beat := int(math.Round(at))
		if math.Abs(at-float64(beat)) > 0.13 {
			continue
		}
		w := float64(h.Velocity) / 127
		for p := range 4 {
			k := ((beat-p)%4 + 4) % 4
			switch {
			case h.Family == sound.Kick && k == 0:
				score[p] += 1.3 * w
			case h.Family == sound.Kick && k == 2:
				score[p] += 0.8 * w
			case h.Family == sound.Snare && (k == 1 || k == 3):
				score[p] += w
			case h.Family == sound.Snare:
				score[p] -= w
			case h.Family == sound.Crash && k == 0:
				score[p] += w
			}
		}
		total += w
	}
	start := ((int(math.Round(g.Position(first))) % 4) + 4) % 4
	score[start] += 0.12 * total
	best := 0
	for p := range score {
		if score[p] > score[best]+1e-9 {
			best = p
		}
	}
	return best
}

// trimBefore lets the grid start at the bar that holds the file's beginning.
func (g *heardGrid) trimBefore() {
	step := g.Beats[1] - g.Beats[0]
	for g.Downbeat > 0 && g.Downbeat < 4 && g.Beats[0]-step > -0.02 {
		g.Beats = append([]float64{g.Beats[0] - step}, g.Beats...)
		g.Downbeat++
	}
}
