package transcribe

import (
	"cmp"
	_ "embed"
	"math"
	"slices"

	"gonum.org/v1/gonum/floats"

	"jubrak/core/groove"
	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// TimeInputs is the number of features by which a hit's time is chosen.
const TimeInputs = gridInput + 4

// Where the features by the others and by the grid begin.
const (
	othersInput = 4 + 2*drumnet.Classes + 4
	gridInput   = othersInput + 2 + 2*soundings
)

// soundings is how many times a hit's own sound reports: the onset of the whole
// spectrum, that of the family's own part of it, and what the network hears.
const soundings = 3

// Guesses is how many times are known for each hit: those of its own sound; what
// each of these says of all the hits of the same sound; and where its family
// usually lies on the grid. The first is the finest and the most often misled
// by another drum; the last returns of a hit that is covered by another.
const Guesses = 2*soundings + 1

// The guesses of a time in order: by the onset of the whole spectrum, by that of the family's
// own part of it, by the network, by what these say of the others of the same sound, by the
// grid.
const (
	ByWhole = iota
	ByPart
	ByNetwork
	ByOthers // as ByWhole, ByPart and ByNetwork say of the others
	ByGrid   = ByOthers + soundings
)

// TimeCase is what is known of one hit before its time is reported.
type TimeCase struct {
	Family sound.Family
	// Times are the guesses, seconds.
	Times  [Guesses]float64
	Inputs [TimeInputs]float64
}

// TimeCases hears a recording up to the point where times are reported, to learn
// from.
func TimeCases(s *drumnet.Scene, x []float32) []TimeCase {
	env := newEnvelopes(x, s.Lows)
	heard, _, grid := hear(s, env)
	return env.guess(decide(heard), grid).cases
}

// strike is when a hit was struck, seconds, and whether its own onset is hidden.
type strike struct {
	time    float64
	covered bool
}

// strikes are the acoustic onsets of hits: of the guesses the one that small
// networks, which estimate how far each is off, think nearest.
func (g *guessed) strikes() []strike {
	out := make([]strike, len(g.cases))
	for i, c := range g.cases {
		best := floats.MaxIdx(timeModel().Run(c.Inputs[:]))
		out[i] = strike{math.Max(c.Times[best], 0), best == ByGrid && !c.confirmed()}
	}
	return out
}

// confirmed reports whether some guess by sound agrees with that by the grid.
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
	g.again = remember(e.x, e.low, hits, times, searched).find(hits, times)
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

// byOthers guesses times by the other hits of the same sound: where its
// template lies against the onset is the median over them.
func (g *guessed) byOthers() {
	type onset struct {
		samples    [soundings][]sample
		at, spread [soundings]float64
	}
	onsets := map[*template]*onset{}
	for i, c := range g.cases {
		for _, r := range g.again[i] {
			if r.kind == nil {
				continue
			}
			if onsets[r.kind] == nil {
				onsets[r.kind] = &onset{}
			}
			for k := range soundings {
				list := &onsets[r.kind].samples[k]
				*list = append(*list, sample{c.Times[k] - r.start, r.fit})
			}
		}
	}
	for _, o := range onsets {
		for k := range soundings {
			o.at[k], o.spread[k] = middleOf(o.samples[k])
		}
	}
	for i := range g.cases {
		c := &g.cases[i]
		var best repeat
		for z, r := range g.again[i] {
			// Lows rise too slowly to show a time where there is more.
			if r.kind != nil && (best.kind == nil || r.fit > best.fit || (z >= midZone && r.fit > best.fit/2)) {
				best = r
			}
		}
		in := c.Inputs[othersInput:gridInput]
		if best.kind != nil {
			in[0], in[1] = best.fit, math.Log2(float64(best.kind.members))/5
		}
		for k := range soundings {
			c.Times[ByOthers+k] = c.Times[ByNetwork]
			if best.kind != nil {
				o := onsets[best.kind]
				c.Times[ByOthers+k] = best.start + o.at[k]
				in[2+2*k], in[3+2*k] = apart(c.Times[ByOthers+k], c.Times[ByNetwork]), math.Min(o.spread[k]*200, 4)
			}
		}
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
			c.Inputs[4+slices.Index(drumnet.Families, h.family)] = 1
			louder, nearest, count := -30.0, 0.0, 0.0
			for _, j := range list {
				if j == i {
					continue
				}
				o := hits[j]
				c.Inputs[4+drumnet.Classes+slices.Index(drumnet.Families, o.family)] = 1
				count++
				if o.level-h.level > louder {
					louder, nearest = o.level-h.level, apart(o.time, h.time)
				}
			}
			at = 4 + 2*drumnet.Classes
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

var timeModel = drumnet.Shipped(timeWeights)
