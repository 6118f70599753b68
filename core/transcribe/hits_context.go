package transcribe

import (
	_ "embed"
	"math"
	"slices"
	"sort"

	"jubrak/core/groove"
	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// ContextInputs is the number of features of a family at a moment, and
// CompanyInput where those begin that show what is struck together.
const (
	ContextInputs = CompanyInput + 4
	CompanyInput  = 24
)

// mostOdds bounds log odds as features.
const mostOdds = 8

// Context works out, for each moment and family, what the second network
// sees: how likely the family and the likeliest other one are there; how much
// of it there is in the file, how sure the surest of it, and the same for that
// other one; how the two compare there against how they do in the file; what
// was heard at the same place in other bars; what the wave forms of the
// file prove of the two, if any are known; and how often the two come together
// in the file, and each alone. It returns
// ContextInputs numbers for each family of each moment. One network serves all
// families, so that it learns from the common ones for the rare.
func Context(heard []drumnet.Heard, grid *groove.BeatGrid, proofs [][drumnet.Classes]Proof) [][drumnet.Classes][ContextInputs]float64 {
	const n = drumnet.Classes
	out := make([][n][ContextInputs]float64, len(heard))
	if len(heard) == 0 {
		return out
	}
	var share, surest [n]float64
	column := make([]float64, len(heard))
	for k := range n {
		for i := range heard {
			column[i] = bounded(heard[i].Odds[k])
			share[k] += 1 / (1 + math.Exp(-heard[i].Odds[k])) / float64(len(heard))
		}
		sort.Float64s(column)
		surest[k] = column[(len(column)-1)*98/100]
	}
	company := newCompany(heard)
	at, steps := folded(heard, grid)
	sums := make([][n]said, len(steps))
	for step, bars := range steps {
		for _, i := range bars {
			for k := range n {
				sums[step][k].add(saidOf(heard, proofs, i, k), 1)
			}
		}
	}
	contrasts := map[[2]int]contrast{}
	for i := range heard {
		for k := range n {
			other := (k + 1) % n
			for j := range n {
				if j != k && heard[i].Odds[j] > heard[i].Odds[other] {
					other = j
				}
			}
			row := &out[i][k]
			row[0], row[1] = bounded(heard[i].Odds[k])/4, bounded(heard[i].Odds[other])/4
			row[2], row[3] = math.Log2(share[k]+0.001)/5, surest[k]/4
			row[4], row[5] = math.Log2(share[other]+0.001)/5, surest[other]/4
			between, known := contrasts[[2]int{k, other}]
			if !known {
				between = newContrast(heard, k, other)
				contrasts[[2]int{k, other}] = between
			}
			row[21], row[22], row[23] = between.place(&heard[i])
			company.rates(k, other, row[CompanyInput:])
			if proofs != nil && proofs[i][k].Known {
				p := &proofs[i][k]
				row[11] = 1
				row[12], row[13] = p.Fit[0], p.Fit[1]
				row[14], row[15] = math.Max(p.Level[0], -40)/20, math.Max(p.Level[1], -40)/20
			}
			if proofs != nil && proofs[i][other].Known {
				row[16], row[17] = proofs[i][other].Fit[0], proofs[i][other].Fit[1]
			}
			if at[i] == nil {
				continue
			}
			// What is said there in the other bars.
			bars := steps[at[i].step]
			sum, n := sums[at[i].step][k], float64(len(bars)-1)
			sum.add(saidOf(heard, proofs, bars[at[i].bar], k), -1)
			row[6] = 1
			row[7], row[8] = sum.odds/4/math.Max(n, 1), sum.struck/math.Max(n, 1)
			row[9] = math.Log2(1+n) / 4
			row[10] = row[8] * row[9]
			row[18] = sum.fit / math.Max(n, 1)
			row[19] = row[18] * row[9]
			row[20] = row[18] * row[12]
		}
	}
	return out
}

// contrast is how two families compare over a file, where either may have been
// struck: the low and the high end of their difference in log odds. What
// colours a whole mix shifts them together; two sounds lie at two ends.
type contrast struct {
	k, other  int
	low, high float64
}

func newContrast(heard []drumnet.Heard, k, other int) contrast {
	c := contrast{k: k, other: other}
	var all []float64
	for i := range heard {
		if math.Max(heard[i].Odds[k], heard[i].Odds[other]) > -0.5 {
			all = append(all, c.of(&heard[i]))
		}
	}
	if len(all) == 0 {
		return c
	}
	sort.Float64s(all)
	c.low, c.high = all[(len(all)-1)/10], all[(len(all)-1)*9/10]
	return c
}

func (c *contrast) of(h *drumnet.Heard) float64 {
	return bounded(h.Odds[c.k]) - bounded(h.Odds[c.other])
}

// place is where a moment lies between the ends, and how far they are apart.
func (c *contrast) place(h *drumnet.Heard) (fromLow, fromHigh, apart float64) {
	d := c.of(h)
	return bounded(d-c.low) / 4, bounded(d-c.high) / 4, (c.high - c.low) / 4
}

func bounded(odds float64) float64 { return math.Min(math.Max(odds, -mostOdds), mostOdds) }

// said is what is said of a family at a moment, or at several in sum: the log
// odds, whether it was struck, and how well its wave form fits.
type said struct{ odds, struck, fit float64 }

func (s *said) add(other said, times float64) {
	s.odds += times * other.odds
	s.struck += times * other.struck
	s.fit += times * other.fit
}

// saidOf is what is said at moment i; -1 is none.
func saidOf(heard []drumnet.Heard, proofs [][drumnet.Classes]Proof, i, k int) said {
	if i < 0 {
		return said{odds: -mostOdds}
	}
	s := said{odds: bounded(heard[i].Odds[k])}
	if s.odds > 0 {
		s.struck = 1
	}
	if proofs != nil {
		s.fit = proofs[i][k].Fit[0]
	}
	return s
}

// gridPlace is where a moment lies on the grid.
type gridPlace struct{ bar, step int }

// folded puts each moment on the nearest sixteenth, or nil where it lies
// between, and lists for each step of the bar the moment of each bar at which
// most was heard, or -1. Bars are counted from the first.
func folded(heard []drumnet.Heard, grid *groove.BeatGrid) (at []*gridPlace, steps [][]int) {
	at = make([]*gridPlace, len(heard))
	if grid == nil || len(heard) == 0 {
		return at, nil
	}
	swing, pair := groove.Swing(onsets(heard), grid, 4)
	perBar := 4 * grid.PerBar
	first, last := math.MaxInt, math.MinInt
	for i := range heard {
		seconds := float64(heard[i].Frame) * hop / rate
		step, d := groove.NearestStep(grid.Position(seconds), 4, swing, pair)
		if d*grid.BeatSeconds(float64(step)/4) > 0.045 {
			continue
		}
		bar := int(math.Floor(float64(step) / float64(perBar)))
		at[i] = &gridPlace{bar, step - bar*perBar}
		first, last = min(first, bar), max(last, bar)
	}
	if first > last {
		return at, nil
	}
	steps = make([][]int, perBar)
	for step := range steps {
		steps[step] = slices.Repeat([]int{-1}, last-first+1)
	}
	for i, p := range at {
		if p == nil {
			continue
		}
		p.bar -= first
		if best := &steps[p.step][p.bar]; *best < 0 || strength(&heard[i]) > strength(&heard[*best]) {
			*best = i
		}
	}
	return at, steps
}

func strength(h *drumnet.Heard) float64 { return slices.Max(h.Odds[:]) }

func onsets(heard []drumnet.Heard) (out []groove.Heard) {
	for i := range heard {
		if strength(&heard[i]) > 0 {
			out = append(out, groove.Heard{Time: float64(heard[i].Frame) * hop / rate})
		}
	}
	return out
}

//go:embed context.bin.gz
var contextWeights []byte

var contextModel = drumnet.Shipped(contextWeights)

// Settled is how unlikely a family is at a moment, log odds, for no context to
// change it.
const Settled = -8

// reconsider judges every moment again in its context: the second network
// says by how much the odds change.
func reconsider(heard []drumnet.Heard, rows [][drumnet.Classes][ContextInputs]float64) {
	for i := range heard {
		for k := range drumnet.Classes {
			if heard[i].Odds[k] < Settled {
				continue
			}
			heard[i].Odds[k] += contextModel().Run(rows[i][k][:])[0]
		}
	}
}

// FirstPass is the grid on which moments are first laid, before they are
// judged in their context; nil where none is found.
func FirstPass(heard []drumnet.Heard, duration float64) *groove.BeatGrid {
	named := decide(heard)
	loud := loudest(named)
	hits := make([]Hit, len(named))
	for i, n := range named {
		hits[i] = Hit{Time: n.time, Family: n.family, Velocity: velocity(n.level - loud[n.family]), Confidence: n.confidence}
	}
	sort.SliceStable(hits, func(i, j int) bool { return hits[i].Time < hits[j].Time })
	hits = dropDoubles(hits)
	g, ok := gridOf(hits, duration)
	if !ok {
		return nil
	}
	g.bars(hits)
	return &g.BeatGrid
}

// hear is all that the networks say of a scene: what was struck, judged in its
// context; how likely anything was before that, log odds; and the first grid,
// nil where none is found.
func hear(s *drumnet.Scene, env *envelopes) (heard []drumnet.Heard, first []float64, grid *groove.BeatGrid) {
	heard, grid, rows := moments(s, env)
	for i := range heard {
		first = append(first, strength(&heard[i]))
	}
	reconsider(heard, rows)
	return heard, first, grid
}

// suspected is what more likely was struck than not, and of families of which
// there is little also, without confidence, what may have been: what sounds
// alike proves each other.
func suspected(heard []drumnet.Heard) []found {
	const few, perhaps = 12, -1.5
	out := decide(heard)
	sure := map[sound.Family]int{}
	for _, h := range out {
		sure[h.family]++
	}
	for i := range heard {
		for k, f := range drumnet.Families {
			if o := heard[i].Odds[k]; o <= 0 && o > perhaps && sure[f] < few && k != openHat && k != closedHat {
				out = append(out, found{
					frame: heard[i].Frame, family: f, level: heard[i].Level[k],
					time: float64(heard[i].Frame)*hop/rate + heard[i].Delay[k]/1000,
				})
			}
		}
	}
	return out
}

// Moments hears a scene up to the point where moments are judged in their
// context, to learn from: what the first networks say, and what the second
// sees.
func Moments(s *drumnet.Scene, x []float32) ([]drumnet.Heard, [][drumnet.Classes][ContextInputs]float64) {
	heard, _, rows := moments(s, newEnvelopes(x, s.Lows))
	return heard, rows
}

func moments(s *drumnet.Scene, env *envelopes) ([]drumnet.Heard, *groove.BeatGrid, [][drumnet.Classes][ContextInputs]float64) {
	heard := drumnet.Trained().Hear(s)
	suspects := suspected(heard)
	proofs := remember(env.x, s.Lows, suspects, env.about(suspects), zones).prove(heard)
	grid := FirstPass(heard, float64(len(env.x))/rate)
	return heard, grid, Context(heard, grid, proofs)
}
