package groove

import (
	"math"
	"sort"
)

// Roll is strokes of one voice that divide the beat more finely than the steps
// of the grid do.
type Roll struct {
	Voice string
	// PerBeat is how many strokes would fill a beat.
	PerBeat int
	// Hits are the strokes in order of time, as indices of the hits given.
	Hits []int
	at   []float64 // their places in beats from bar one
}

// fewestStrokes make a roll: fewer may as well be one hit and a stray. After
// mostStrokes another begins, so that an hour of thirty-seconds is soon reported.
const fewestStrokes, mostStrokes = 3, 64

// rollRates are the strokes to a beat that rolls may have over so many steps:
// over sixteenths, sixteenth triplets, thirty-seconds, their triplets and
// sixty-fourths; over triplets, two and four to a step.
func rollRates(steps int) []int {
	if steps%2 != 0 {
		return []int{2 * steps, 4 * steps}
	}
	return []int{steps * 3 / 2, 2 * steps, 3 * steps, 4 * steps}
}

// findRolls finds the runs of at least three strokes of a voice, evenly closer
// to each other than steps, that have too few steps to stand on, swung as those
// are: of swung eighths the sixteenths from the second on are close together
// too. Nor is a drag one, grace notes before a stroke.
func findRolls(hits []Heard, grid *BeatGrid, steps int, swing float64, pair int) (out []Roll) {
	byVoice := map[string][]int{}
	for i, h := range hits {
		byVoice[h.Voice] = append(byVoice[h.Voice], i)
	}
	for voice, list := range byVoice {
		sort.SliceStable(list, func(a, b int) bool { return hits[list[a]].Time < hits[list[b]].Time })
		at := make([]float64, len(list))
		for k, i := range list {
			at[k] = grid.Position(hits[i].Time)
		}
		for from := 0; from+fewestStrokes <= len(list); {
			n, rate := rollAt(at[from:], steps)
			last := from + n - 1
			if n == 0 || !crowded(at[from:last+1], steps, swing, pair) || hits[list[last]].Time-hits[list[from]].Time <= longestFlam {
				from++
				continue
			}
			out = append(out, Roll{voice, rate, list[from : from+n], at[from : from+n]})
			from += n
		}
	}
	sort.Slice(out, func(a, b int) bool {
		x, y := hits[out[a].Hits[0]], hits[out[b].Hits[0]]
		return x.Time < y.Time || x.Time == y.Time && x.Voice < y.Voice
	})
	return out
}

// crowded reports whether two of some rising positions have the same nearest step.
func crowded(at []float64, steps int, swing float64, pair int) bool {
	last := math.MinInt
	for _, x := range at {
		step, _ := NearestStep(x, steps, swing, pair)
		if step <= last {
			return true
		}
		last = step
	}
	return false
}

// rollAt is how many of the strokes from the first on are a roll, the most that
// fit one rate, and its rate; none, 0.
func rollAt(at []float64, steps int) (n, rate int) {
	rates := rollRates(steps)
	widest := 1 / math.Sqrt(float64(steps*rates[0])) // half way to a step, by ratio
	for end := fewestStrokes; end <= min(len(at), mostStrokes) && at[end-1]-at[end-2] < widest; end++ {
		if end == fewestStrokes && at[1]-at[0] >= widest {
			return 0, 0
		}
		r, ok := even(at[:end], rates)
		if !ok {
			break
		}
		n, rate = end, r
	}
	return n, rate
}

// even returns which rate strokes have, if they keep to it: within a fifth of
// their distance from where they would fall.
func even(at []float64, rates []int) (rate int, ok bool) {
	each := (at[len(at)-1] - at[0]) / float64(len(at)-1)
	far := math.Log(1.2) // between neighbours among the rates
	for _, r := range rates {
		if d := math.Abs(math.Log(each * float64(r))); d < far {
			rate, far = r, d
		}
	}
	if rate == 0 {
		return 0, false
	}
	var middle float64
	for k, x := range at {
		middle += (x - float64(k)/float64(rate)) / float64(len(at))
	}
	for k, x := range at {
		if math.Abs(x-middle-float64(k)/float64(rate))*float64(rate) > 0.2 {
			return 0, false
		}
	}
	return rate, true
}

// start is the tick, 960 to a beat, at which a roll begins: a step of the grid,
// swung as it is, or a place of the roll's own rate, whichever lies nearest to
// its strokes; of two as near, the step.
func (r *Roll) start(steps int, swing float64, pair int) int {
	best, near := 0, math.Inf(1)
	try := func(per int, swing, slack float64) {
		base := int(math.Round(r.at[0] * float64(per)))
		for s := base - 1; s <= base+1; s++ {
			begin, off := SwungBeat(s, per, swing, pair), slack
			for k, x := range r.at {
				off += math.Abs(x-begin-float64(k)/float64(r.PerBeat)) / float64(len(r.at))
			}
			if off < near {
				best, near = s*960/per, off
			}
		}
	}
	try(steps, swing, 0)
	try(r.PerBeat, 50, 0.02)
	return best
}

// longestFlam is how far before its main stroke a grace note may come, seconds
// (common practice: a flam spreads over 10 to 50 ms, a drag over somewhat more).
const longestFlam = 0.07

// markGraces finds the strokes that a louder one of the same voice and step
// follows at once.
func markGraces(placed []Placed) {
	order := make([]int, len(placed))
	for i := range order {
		order[i] = i
	}
	sort.SliceStable(order, func(a, b int) bool { return placed[order[a]].Time < placed[order[b]].Time })
	for n, i := range order {
		p := &placed[i]
		for _, j := range order[n+1:] {
			main := &placed[j]
			if main.Time-p.Time > longestFlam {
				break
			}
			if main.Voice == p.Voice && main.Step == p.Step && main.Velocity > p.Velocity && p.Within == 0 && main.Within == 0 {
				p.Grace = true
			}
		}
	}
}
