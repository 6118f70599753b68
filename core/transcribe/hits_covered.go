package transcribe

import (
	"cmp"
	"math"
	"slices"

	"jubrak/core/groove"
	"jubrak/core/sound"
)

// A hit that another drum covers has no onset of its own to be seen. Where it
// lies is then reported best by the other hits of its family: so much before or
// after their steps, most of all on the same step in the bars about it.

// usualReach is how many bars about a hit show where it may lie, and usualFew
// how much of them there must be.
const (
	usualReach = 12
	usualFew   = 6
)

// stepped is a hit on the grid.
type stepped struct {
	hit, bar, step int
	seconds        float64 // of the step
	offset, trust  float64 // where the hit seems to lie against it, seconds, and how surely, 0..1
}

// byGrid guesses times by where a family's other hits lie on the grid.
func (g *guessed) byGrid(grid *groove.BeatGrid) {
	for i := range g.cases {
		c := &g.cases[i]
		c.Times[ByGrid] = c.Times[ByNetwork]
		_, apart := c.middle()
		c.Inputs[gridInput+3] = math.Min(apart*200, 4)
	}
	if grid == nil {
		return
	}
	for _, list := range g.stepped(grid) {
		for n, s := range list {
			offset, spread, weight := usually(list, n)
			if weight < usualFew {
				continue
			}
			c := &g.cases[s.hit]
			c.Times[ByGrid] = s.seconds + offset
			c.Inputs[gridInput] = apart(c.Times[ByGrid], c.Times[ByNetwork])
			c.Inputs[gridInput+1], c.Inputs[gridInput+2] = math.Min(spread*200, 4), math.Log2(1+weight)/5
		}
	}
}

// middle is the median of what sound alone returns of a hit's time, and how far
// that lies from it in the mean, seconds.
func (c *TimeCase) middle() (at, spread float64) {
	t := slices.Clone(c.Times[:ByGrid])
	slices.Sort(t)
	at = (t[len(t)/2-1] + t[len(t)/2]) / 2
	for _, v := range t {
		spread += math.Abs(v-at) / ByGrid
	}
	return at, spread
}

// stepped lays hits on the nearest swung sixteenths, by family, in order of
// time. What lies between steps is left out.
func (g *guessed) stepped(grid *groove.BeatGrid) map[sound.Family][]stepped {
	var all []groove.Heard
	for i := range g.cases {
		at, _ := g.cases[i].middle()
		all = append(all, groove.Heard{Time: at})
	}
	swing, pair := groove.Swing(all, grid, 4)
	out := map[sound.Family][]stepped{}
	for i, h := range all {
		step, d := groove.NearestStep(grid.Position(h.Time), 4, swing, pair)
		if d*grid.BeatSeconds(float64(step)/4) > 0.045 {
			continue
		}
		seconds := grid.Seconds(groove.SwungBeat(step, 4, swing, pair))
		_, spread := g.cases[i].middle()
		bar := int(math.Floor(float64(step) / float64(4*grid.PerBar)))
		f := g.cases[i].Family
		out[f] = append(out[f], stepped{
			hit: i, bar: bar, step: step - bar*4*grid.PerBar,
			seconds: seconds, offset: h.Time - seconds, trust: 1 / (1 + spread*spread/0.002/0.002),
		})
	}
	for _, list := range out {
		slices.SortStableFunc(list, func(a, b stepped) int { return cmp.Compare(a.bar, b.bar) })
	}
	return out
}

// usually is where the others of a list lie against their steps as seen from
// one of them: the weighted median, the mean distance from it, seconds, and the
// sum of the weights. list is in order of bars.
func usually(list []stepped, n int) (offset, spread, weight float64) {
	type voice struct{ offset, weight float64 }
	var voices []voice
	s := list[n]
	from := n
	for from > 0 && s.bar-list[from-1].bar <= usualReach {
		from--
	}
	for j := from; j < len(list) && list[j].bar-s.bar <= usualReach; j++ {
		if j == n {
			continue
		}
		w := list[j].trust * math.Exp(-math.Abs(float64(list[j].bar-s.bar))/6)
		if list[j].step == s.step {
			w *= 4
		}
		voices = append(voices, voice{list[j].offset, w})
		weight += w
	}
	slices.SortFunc(voices, func(a, b voice) int { return cmp.Compare(a.offset, b.offset) })
	half := 0.0
	for _, v := range voices {
		if half += v.weight; half >= weight/2 {
			offset = v.offset
			break
		}
	}
	for _, v := range voices {
		spread += v.weight * math.Abs(v.offset-offset) / math.Max(weight, 1e-9)
	}
	return offset, spread, weight
}
