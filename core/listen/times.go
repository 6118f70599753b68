package listen

import (
	"cmp"
	_ "embed"
	"math"
	"slices"

	"jubrak/core/ear"
	"jubrak/core/groove"
	"jubrak/core/sound"
)

// TimeInputs is the number of features by which a hit's time is chosen.
const TimeInputs = gridInput + 4

// Where the features by the others and by the grid begin.
const (
	othersInput = 4 + 2*ear.Classes + 4
	gridInput   = othersInput + 3
)

// Guesses is how many times are known for each hit: by the envelope of the
// whole spectrum, by that of the family's own part of it, by the network, by
// the other hits of the same sound, and by where its family usually lies on the
// grid. The first is the finest and the most often misled by another drum; the
// last tells of a hit that is covered by another.
const Guesses = 5

const (
	ByWhole = iota
	ByPart
	ByNetwork
	ByOthers
	ByGrid
)

// TimeCase is what is known of one hit before its time is told.
type TimeCase struct {
	Family sound.Family
	// Times are the guesses, seconds.
	Times  [Guesses]float64
	Inputs [TimeInputs]float64
}

// TimeCases hears a recording up to the point where times are told, to learn
// from.
func TimeCases(s *ear.Scene, x []float32) []TimeCase {
	env := newEnvelopes(x, s.Lows)
	heard, grid := hear(s, env)
	return env.guess(decide(heard), grid).cases
}

// strike is when a hit was struck, seconds, and whether its own onset is hidden.
type strike struct {
	time    float64
	covered bool
}

// strikes are the acoustic onsets of hits: of the guesses the one that a small
// network thinks nearest.
func (g *guessed) strikes() []strike {
	out := make([]strike, len(g.cases))
	for i, c := range g.cases {
		y := timeModel().Run(c.Inputs[:])
		best := 0
		for k := range y {
			if y[k] > y[best] {
				best = k
			}
		}
		out[i] = strike{math.Max(c.Times[best], 0), best == ByGrid && !c.confirmed()}
	}
	return out
}

// confirmed tells whether some guess by sound agrees with that by the grid.
func (c *TimeCase) confirmed() bool {
	return slices.ContainsFunc(c.Times[:ByGrid], func(t float64) bool { return math.Abs(t-c.Times[ByGrid]) < 0.001 })
}

// guessed is what is known of the times of hits, and where they were found
// again.
type guessed struct {
	cases []TimeCase
	again [][Zones]repeat
}

func (e *envelopes) guess(hits []found, grid *groove.BeatGrid) *guessed {
	g := &guessed{cases: e.timeCases(hits)}
	times := make([]float64, len(hits))
	for i, c := range g.cases {
		times[i] = nearby(c.Times[ByWhole], c.Times[ByNetwork])
	}
	g.again = remember(e.x, e.low, hits, times).find(hits, times)
	g.byOthers()
	g.byGrid(grid)
	return g
}

// nearby is an onset of the whole spectrum, or what the network hears where
// that lies too far away.
func nearby(whole, network float64) float64 {
	if math.Abs(whole-network) > 0.006 {
		return network
	}
	return whole
}

// about is about when hits are struck, without their own parts of the
// spectrum.
func (e *envelopes) about(hits []found) []float64 {
	out := make([]float64, len(hits))
	for i, h := range hits {
		if i > 0 && h.frame == hits[i-1].frame && math.Abs(h.time-hits[i-1].time) < 0.002 {
			out[i] = nearby(out[i-1], h.time)
			continue
		}
		out[i] = nearby(float64(e.onset(int(h.time*rate), whole).sample)/rate, h.time)
	}
	return out
}

// networkBias is by how much the network may be wrong about all hits of a sound
// alike, seconds.
const networkBias = 0.001

// byOthers guesses times by the other hits of the same sound: where its
// template lies against the onset, by the envelope that agrees most over them,
// or by the network where it agrees more. What rings beside a sound may mislead
// an envelope at every hit, but seldom by as much.
func (g *guessed) byOthers() {
	lies := map[*template]*[ByOthers][]sample{}
	for i, c := range g.cases {
		for _, r := range g.again[i] {
			if r.kind == nil {
				continue
			}
			if lies[r.kind] == nil {
				lies[r.kind] = &[ByOthers][]sample{}
			}
			for k := range lies[r.kind] {
				lies[r.kind][k] = append(lies[r.kind][k], sample{c.Times[k] - r.start, r.fit})
			}
		}
	}
	onset := map[*template]float64{}
	for t, by := range lies {
		least := math.Inf(1)
		for k, list := range by {
			at, spread := middleOf(list)
			if k == ByNetwork {
				spread += networkBias
			}
			if spread < least {
				onset[t], least = at, spread
			}
		}
	}
	for i := range g.cases {
		c := &g.cases[i]
		c.Times[ByOthers] = c.Times[ByNetwork]
		var best repeat
		for z, r := range g.again[i] {
			// Lows rise too slowly to tell a time where there is more.
			if r.kind != nil && (best.kind == nil || r.fit > best.fit || (z >= midZone && r.fit > best.fit/2)) {
				best = r
			}
		}
		at := othersInput
		if best.kind != nil {
			c.Times[ByOthers] = best.start + onset[best.kind]
			c.Inputs[at], c.Inputs[at+1] = best.fit, math.Log2(float64(best.kind.members))/5
		}
		c.Inputs[at+2] = apart(c.Times[ByOthers], c.Times[ByNetwork])
	}
}

// sample is where a template lies against one hit's onset, seconds, and how
// well it fits there.
type sample struct{ apart, weight float64 }

// middleOf is the weighted median, and that of the distances from it.
func middleOf(list []sample) (at, spread float64) {
	median := func(list []sample) float64 {
		slices.SortFunc(list, func(a, b sample) int { return cmp.Compare(a.apart, b.apart) })
		var sum, half float64
		for _, s := range list {
			sum += s.weight
		}
		for _, s := range list {
			if half += s.weight; half >= sum/2 {
				return s.apart
			}
		}
		return 0
	}
	at = median(list)
	off := make([]sample, len(list))
	for i, s := range list {
		off[i] = sample{math.Abs(s.apart - at), s.weight}
	}
	return at, median(off)
}

func (e *envelopes) timeCases(hits []found) []TimeCase {
	out := make([]TimeCase, len(hits))
	together := map[int][]int{}
	for i, h := range hits {
		together[h.frame] = append(together[h.frame], i)
	}
	for _, list := range together {
		var full, fullRise float64
		for n, i := range list {
			h := hits[i]
			at := int(h.time * rate)
			// Drums struck together share the whole spectrum: its onset is
			// looked for once where they agree on the place.
			if n == 0 || math.Abs(h.time-hits[list[0]].time) > 0.002 {
				o := e.onset(at, whole)
				full, fullRise = float64(o.sample)/rate, o.rise
			}
			mine, mineRise := full, fullRise
			if p, late := own(h.family); p != whole {
				o := e.onset(at, p)
				mine, mineRise = float64(o.sample)/rate-late, o.rise
			}
			c := &out[i]
			c.Family, c.Times = h.family, [Guesses]float64{ByWhole: full, ByPart: mine, ByNetwork: h.time}
			c.Inputs[0], c.Inputs[1] = apart(full, h.time), math.Log10(1+fullRise)/3
			c.Inputs[2], c.Inputs[3] = apart(mine, h.time), math.Log10(1+mineRise)/3
			c.Inputs[4+slices.Index(ear.Families, h.family)] = 1
			louder, nearest, count := -30.0, 0.0, 0.0
			for _, j := range list {
				if j == i {
					continue
				}
				o := hits[j]
				c.Inputs[4+ear.Classes+slices.Index(ear.Families, o.family)] = 1
				count++
				if o.level-h.level > louder {
					louder, nearest = o.level-h.level, apart(o.time, h.time)
				}
			}
			at = 4 + 2*ear.Classes
			c.Inputs[at], c.Inputs[at+1] = math.Min(louder, 30)/levelUnit, nearest
			c.Inputs[at+2], c.Inputs[at+3] = count/3, h.confidence
		}
	}
	return out
}

// apart is the distance of two times in units of 5 ms, held to 20 ms.
func apart(a, b float64) float64 { return math.Min(math.Max((a-b)*200, -4), 4) }

//go:embed times.bin.gz
var timeWeights []byte

var timeModel = ear.Shipped(timeWeights)
