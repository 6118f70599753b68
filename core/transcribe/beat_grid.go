package transcribe

import (
	"math"
	"sort"

	"jubrak/core/groove"
	"jubrak/core/sound"
)

// heardGrid is a beat grid with how sure we are of it.
type heardGrid struct {
	groove.BeatGrid
	confidence float64 // of the tempo
	barOne     float64 // of bar one, the tempo included
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

// findGrid weighs tempi, beats and bar ones against each other and keeps the
// likeliest. Where the tempo wanders it follows the hits, where it jumps it is
// reported part by part; where all returns after three or five beats, bars have as
// many.
func findGrid(hits []Hit, duration float64) (heardGrid, bool) {
	g, ok := gridOf(hits, duration)
	if !ok {
		return g, false
	}
	if j, ok := jumping(&g, hits, duration); ok {
		g = j
	}
	g.bars(hits)
	return g, true
}

// bars finds out how many beats make a bar, and lets the grid begin and end with
// what is struck.
func (g *heardGrid) bars(hits []Hit) {
	if n := beatsPerBar(&g.BeatGrid, hits); n != 4 {
		g.Downbeat = wrap(g.Downbeat+oddBarOne(&g.BeatGrid, hits, n), n)
		g.PerBar = n
		g.barOne = oddBarSure * g.confidence
	}
	g.confidence, g.barOne = math.Min(g.confidence, 0.99), math.Min(g.barOne, 0.99)
	g.trimBefore()
	g.trimAfter(hits[len(hits)-1].Time)
}

// gridOf is findGrid of a tempo that does not jump, in bars of four, beyond the
// ends of what is struck.
func gridOf(hits []Hit, duration float64) (heardGrid, bool) {
	if len(hits) < 4 {
		return heardGrid{}, false
	}
	w, ok := weigh(hits)
	if !ok {
		return heardGrid{}, false
	}
	best := w.best()
	best.closeLoop(hits, duration)
	g := steadyGrid(&best, duration)
	g.confidence, g.barOne = w.tempo(w.best().Period), w.barOne(w.best().Period, w.best().Start)
	least := -1.0 // of drums on beats, for the beats to be followed one by one
	if g.steady {
		least = onBeats(&g.BeatGrid, hits) + 0.12
	}
	if least < 1 {
		if t := trackedGrid(pulse(hits), g.BPM(), hits, duration); t != nil && onBeats(&t.BeatGrid, hits) > least {
			t.Downbeat = barOne(&t.BeatGrid, hits)
			t.sure(hits)
			g = *t
		}
	}
	return g, true
}

// oddBarSure is how sure bar one of bars of three or five is where the beat is:
// it is distinguished by kicks and snares alone, and there are too few such recordings to
// measure it.
const oddBarSure = 0.9

// steadyGrid lays beats of one tempo over a file.
func steadyGrid(h *Hypothesis, duration float64) heardGrid {
	bar := 4 * h.Period
	start := h.Start - math.Floor((h.Start+0.02)/bar)*bar - bar
	g := heardGrid{steady: h.RMS < 30}
	g.BeatGrid = groove.SteadyGrid(start, 60/h.Period, int((duration-start)/h.Period)+2, 4)
	for g.Beats[0] < -0.02 && len(g.Beats) > 2 {
		g.Beats = g.Beats[1:]
		g.Downbeat--
	}
	g.Downbeat = ((g.Downbeat % 4) + 4) % 4
	return g
}

// closeLoop takes a file that is a whole number of bars long for what it most
// likely is, a loop: its length then says the tempo more exactly than its hits
// can, if they do not object. A loop begins with a beat.
func (h *Hypothesis) closeLoop(hits []Hit, duration float64) {
	bars := math.Round(duration / (4 * h.Period))
	if bars < 1 {
		return
	}
	period := duration / (4 * bars)
	start := math.Round(h.Start/period) * period
	if math.Abs(period/h.Period-1) > 0.004+0.01/bars || math.Abs(h.Start-start) > 0.03+0.003*h.Start {
		return
	}
	now, n := distance(hits, h.Period, h.Start)
	// Hits near eighths must stay near them: those that drift away object, too.
	if closed, near := distance(hits, period, start); closed <= now*(1+8/math.Max(n, 1))+1.5 && near >= 0.9*n {
		h.Period, h.Start = period, start
	}
}

// distance is how far hits lie from eighths in the mean, ms, after a constant is
// taken away, and how many are near any.
func distance(hits []Hit, period, start float64) (ms, n float64) {
	var sum, squares float64
	for i := range hits {
		x := (hits[i].Time - start) / period * 2
		if d := (x - math.Round(x)) * period / 2; math.Abs(d) < 0.06*period {
			sum, squares, n = sum+d, squares+d*d, n+1
		}
	}
	if n == 0 {
		return math.Inf(1), 0
	}
	return 1000 * math.Sqrt(math.Max(squares/n-sum/n*sum/n, 0)), n
}

// sure judges a grid that follows the hits as a steady one is judged: on the
// hits as they would lie if its beats were all of one length.
func (g *heardGrid) sure(hits []Hit) {
	period := 60 / g.BPM()
	straight := make([]Hit, len(hits))
	first := math.Inf(1)
	for i, h := range hits {
		straight[i] = h
		straight[i].Time = g.Position(h.Time) * period
		first = math.Min(first, straight[i].Time)
	}
	for i := range straight {
		straight[i].Time -= first
	}
	g.confidence, g.barOne = 0, 0
	if w, ok := weigh(straight); ok {
		g.confidence, g.barOne = w.tempo(period), w.barOne(period, -first)
	}
}

// trimAfter ends the grid where the drums end: no beat is heard in silence.
func (g *heardGrid) trimAfter(last float64) {
	for len(g.Beats) > 2 && g.Beats[len(g.Beats)-1] > last+0.05 {
		g.Beats = g.Beats[:len(g.Beats)-1]
	}
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
	for g.Downbeat > 0 && g.Downbeat < g.PerBar && g.Beats[0]-step > -0.02 {
		g.Beats = append([]float64{g.Beats[0] - step}, g.Beats...)
		g.Downbeat++
	}
}
