package listen

import (
	_ "embed"
	"math"
	"slices"
	"sort"

	"jubrak/core/ear"
	"jubrak/core/groove"
	"jubrak/core/sound"
)

// ContextInputs is the number of features of a family at a moment.
const ContextInputs = 21

// mostOdds bounds log odds as features.
const mostOdds = 8

// Context works out, for each moment and family, what the second network
// sees: how likely the family and the likeliest other one are there; how much
// of it there is in the file, how sure the surest of it, and the same for that
// other one; what was heard at the same place in other bars; and what the
// wave forms of the file prove of the two, if any are known. It returns
// ContextInputs numbers for each family of each moment. One network serves all
// families, so that it learns from the common ones for the rare.
func Context(heard []ear.Heard, grid *groove.BeatGrid, proofs [][ear.Classes]Proof) [][ear.Classes][ContextInputs]float64 {
	const n = ear.Classes
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
	at, places := folded(heard, grid, proofs)
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
			var sum, struck, bars, fits float64
			for _, p := range places[at[i].step] {
				if p.bar != at[i].bar {
					bars++
					if p.proofs != nil {
						fits += p.proofs[k].Fit[0]
					}
					sum += bounded(p.odds[k]) / 4
					if p.odds[k] > 0 {
						struck++
					}
				}
			}
			row[6] = 1
			row[7], row[8] = sum/math.Max(bars, 1), struck/math.Max(bars, 1)
			row[9] = math.Log2(1+bars) / 4
			row[10] = row[8] * row[9]
			row[18] = fits / math.Max(bars, 1)
			row[19] = row[18] * row[9]
			row[20] = row[18] * row[12]
		}
	}
	return out
}

func bounded(odds float64) float64 { return math.Min(math.Max(odds, -mostOdds), mostOdds) }

// gridPlace is a moment on the grid, and what was heard there.
type gridPlace struct {
	bar, step int
	odds      *[ear.Classes]float64
	proofs    *[ear.Classes]Proof // nil where none are known
}

// nothing is what was heard where there was no moment at all.
var nothing = func() *[ear.Classes]float64 {
	var o [ear.Classes]float64
	for k := range o {
		o[k] = -mostOdds
	}
	return &o
}()

// folded puts each moment on the nearest sixteenth, or nil where it lies
// between, and lists for each step of the bar what was heard in every bar.
func folded(heard []ear.Heard, grid *groove.BeatGrid, proofs [][ear.Classes]Proof) (at []*gridPlace, places map[int][]gridPlace) {
	at = make([]*gridPlace, len(heard))
	places = map[int][]gridPlace{}
	if grid == nil || len(heard) == 0 {
		return at, places
	}
	swing, pair := groove.Swing(onsets(heard), grid, 4)
	perBar := 4 * grid.PerBar
	best := map[[2]int]int{}
	first, last := math.MaxInt, math.MinInt
	for i := range heard {
		seconds := float64(heard[i].Frame) * hop / rate
		step, d := groove.NearestStep(grid.Position(seconds), 4, swing, pair)
		if d*grid.BeatSeconds(float64(step)/4) > 0.045 {
			continue
		}
		bar := int(math.Floor(float64(step) / float64(perBar)))
		p := gridPlace{bar: bar, step: step - bar*perBar, odds: &heard[i].Odds}
		if proofs != nil {
			p.proofs = &proofs[i]
		}
		at[i] = &p
		first, last = min(first, bar), max(last, bar)
		key := [2]int{p.bar, p.step}
		if j, taken := best[key]; !taken || strength(&heard[i]) > strength(&heard[j]) {
			best[key] = i
		}
	}
	for step := range perBar {
		for bar := first; bar <= last; bar++ {
			if i, ok := best[[2]int{bar, step}]; ok {
				places[step] = append(places[step], *at[i])
			} else {
				places[step] = append(places[step], gridPlace{bar: bar, step: step, odds: nothing})
			}
		}
	}
	return at, places
}

func strength(h *ear.Heard) float64 { return slices.Max(h.Odds[:]) }

func onsets(heard []ear.Heard) (out []groove.Heard) {
	for i := range heard {
		if strength(&heard[i]) > 0 {
			out = append(out, groove.Heard{Time: float64(heard[i].Frame) * hop / rate})
		}
	}
	return out
}

//go:embed context.bin.gz
var contextWeights []byte

var contextModel = ear.Shipped(contextWeights)

// settled is how unlikely a family is at a moment, log odds, for no context to
// change it.
const settled = -8

// reconsider judges every moment again in its context: the second network
// says by how much the odds change.
func reconsider(heard []ear.Heard, rows [][ear.Classes][ContextInputs]float64) {
	for i := range heard {
		for k := range ear.Classes {
			if heard[i].Odds[k] < settled {
				continue
			}
			heard[i].Odds[k] += contextModel().Run(rows[i][k][:])[0]
		}
	}
}

// FirstPass is the grid on which moments are first laid, before they are
// judged in their context; nil where none is found.
func FirstPass(heard []ear.Heard, duration float64) *groove.BeatGrid {
	named := decide(heard)
	loud := loudest(named)
	hits := make([]Hit, len(named))
	for i, n := range named {
		hits[i] = Hit{Time: n.time, Family: n.family, Velocity: velocity(n.level - loud[n.family]), Confidence: n.confidence}
	}
	sort.SliceStable(hits, func(i, j int) bool { return hits[i].Time < hits[j].Time })
	g, ok := findGrid(dropDoubles(hits), duration)
	if !ok {
		return nil
	}
	return &g.BeatGrid
}

// hear is all that the networks say of a scene: what was struck, judged in its
// context.
func hear(s *ear.Scene, env *envelopes) []ear.Heard {
	heard, rows := moments(s, env)
	reconsider(heard, rows)
	return heard
}

// suspected is what more likely was struck than not, and of families of which
// there is little also, without confidence, what may have been: what sounds
// alike proves each other.
func suspected(heard []ear.Heard) []found {
	const few, perhaps = 12, -1.5
	out := decide(heard)
	sure := map[sound.Family]int{}
	for _, h := range out {
		sure[h.family]++
	}
	for i := range heard {
		for k, f := range ear.Families {
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
func Moments(s *ear.Scene, x []float32) ([]ear.Heard, [][ear.Classes][ContextInputs]float64) {
	return moments(s, newEnvelopes(x, s.Lows))
}

func moments(s *ear.Scene, env *envelopes) ([]ear.Heard, [][ear.Classes][ContextInputs]float64) {
	heard := ear.Trained().Hear(s)
	suspects := suspected(heard)
	proofs := remember(env.x, s.Lows, suspects, env.about(suspects)).prove(heard)
	return heard, Context(heard, FirstPass(heard, float64(len(env.x))/rate), proofs)
}
