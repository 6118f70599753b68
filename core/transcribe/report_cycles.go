package transcribe

import (
	"maps"
	"slices"

	"jubrak/core/sound"
)

const (
	mostCycleBars = 16
	enoughRepeats = 0.86
)

// findCycles looks for the shortest length after which the pattern repeats:
// for all together in whole bars, 1 to 16; for each family with enough hits
// also in steps that run against the bar (a line of 15 steps against 16). A
// length counts when nearly nine in ten hits have their like one cycle later
// and the file holds it twice. A family that stops playing for good, as hats do
// where a ride takes over, repeats as long as it plays.
func (a *Analysis) findCycles() {
	patterns := map[sound.Family]map[int]bool{}
	first, last := 1<<30, -1
	perBar := a.StepsPerBar()
	for _, h := range a.OnSteps() {
		at := *h.Bar*perBar + *h.Step
		if at < 0 {
			continue
		}
		if patterns[h.Family] == nil {
			patterns[h.Family] = map[int]bool{}
		}
		patterns[h.Family][at] = true
		first, last = min(first, at), max(last, at)
	}
	length := (last/perBar - first/perBar + 1) * perBar
	ends := map[sound.Family]int{}
	for f, at := range patterns {
		ends[f] = stops(at, perBar)
	}
	for bars := 1; bars <= mostCycleBars && 2*bars*perBar <= length; bars++ {
		same, all := 0, 0
		worst := 1.0
		for f, at := range patterns {
			s, n := repeated(at, bars*perBar, ends[f])
			same, all = same+s, all+n
			if n >= 8 {
				worst = min(worst, float64(s)/float64(n))
			}
		}
		if all > 0 && float64(same) >= enoughRepeats*float64(all) && worst >= enoughRepeats-0.1 {
			n := bars
			a.CycleBars = &n
			a.Cycles = append(a.Cycles, Cycle{Steps: bars * perBar, Bars: &n, Repeats: float64(same) / float64(all), Hits: all})
			break
		}
	}
	for _, f := range sound.Families {
		if c, ok := familyCycle(patterns[f], perBar, length, ends[f]); ok {
			c.Family = f
			a.Cycles = append(a.Cycles, c)
		}
	}
}

// stops is the end of the last bar that a family plays; single strays after it,
// up to three in a hundred of its hits, do not count.
func stops(at map[int]bool, perBar int) int {
	steps := slices.Sorted(maps.Keys(at))
	return (steps[len(steps)-1-len(steps)*3/100]/perBar + 1) * perBar
}

// repeated counts the hits that could have their like steps later, and those
// that have it.
func repeated(at map[int]bool, steps, end int) (same, all int) {
	for s := range at {
		if s+steps >= end {
			continue
		}
		all++
		if at[s+steps] {
			same++
		}
	}
	return same, all
}

// familyCycle is the shortest cycle of one family: whole bars, or a number of
// steps that is no part and no multiple of the bar and repeats clearly better,
// not only because a part of the bar does (eighths also repeat every six
// sixteenths).
func familyCycle(at map[int]bool, perBar, length, end int) (Cycle, bool) {
	if len(at) < 8 {
		return Cycle{}, false
	}
	fill := float64(len(at)) / float64(length) // chance of a like by accident
	score := func(steps int) (float64, int) {
		same, all := repeated(at, steps, end)
		if all < 6 {
			return 0, all
		}
		return float64(same) / float64(all), all
	}
	// pulse reports whether a part of both the steps and the bar repeats as well.
	pulse := func(steps int, repeats float64) bool {
		for part := 2; part <= steps/2; part++ {
			if steps%part != 0 || perBar%part != 0 {
				continue
			}
			if r, _ := score(part); r > repeats-0.05 {
				return true
			}
		}
		return false
	}
	best := Cycle{}
	for bars := 1; bars <= mostCycleBars && 2*bars*perBar <= length; bars++ {
		if r, n := score(bars * perBar); r >= enoughRepeats {
			b := bars
			best = Cycle{Steps: bars * perBar, Bars: &b, Repeats: r, Hits: n}
			break
		}
	}
	for steps := 3; steps <= 2*perBar && 3*steps <= length; steps++ {
		if steps%perBar == 0 || perBar%steps == 0 {
			continue
		}
		r, n := score(steps)
		better := r > best.Repeats+0.05 || (steps < best.Steps && best.Steps > perBar && r > best.Repeats-0.02)
		if r >= 0.92 && better && r > fill+0.4 && n >= 8 && !pulse(steps, r) {
			return Cycle{Steps: steps, Repeats: r, Hits: n}, true
		}
	}
	return best, best.Steps > 0
}
