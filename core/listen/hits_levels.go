package listen

import (
	_ "embed"
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"

	"jubrak/core/ear"
	"jubrak/core/sound"
)

// measureLevels replaces the levels that the network heard by finer ones,
// against their family's mean: a mean of several measures, weighted and
// corrected by a network that sees them, how well they agree in the file, what
// else was struck at that moment, and how much each part of the spectrum rose.
func measureLevels(s *ear.Scene, env *envelopes, hits []found, again [][Zones]repeat) {
	for i, c := range levelCases(s, env, hits, again) {
		hits[i].level = c.Level(levelModel().Run(c.Inputs[:]))
	}
}

// Measures is how many measures there are of a hit's level: what the network
// heard, the peak of the family's own part of the spectrum, the share of what
// the onset adds to the spectrum, and in each zone the gain of the family's
// wave form, and the energy that no other hit explains.
const Measures = 3 + 2*Zones

// LevelInputs is the number of features of a hit's level.
const LevelInputs = 2*Measures + 2*Zones + 2*len(risen) + 2*ear.Classes + 3 + mixInputs

// levelUnit scales levels for the network, dB.
const levelUnit = 10

// risen are the bands in which an onset's rise is measured: from the first of
// each to that of the next.
var risen = [...]int{0, 2, 4, 8, 12, 16, 20, 24, 27}

// LevelCase is what is known of one hit before its level is told.
type LevelCase struct {
	Family sound.Family
	Time   float64 // seconds, as the network hears it
	// Measured are the measures against the family's mean, dB.
	Measured [Measures]float64
	Inputs   [LevelInputs]float64
}

// Usual is a fixed mean of the measures that every hit has, dB.
func (c *LevelCase) Usual() float64 { return usual(c.Measured[:]) }

func usual(m []float64) float64 { return 0.2*m[0] + 0.45*m[1] + 0.35*m[2] }

// Weights are how much each measure counts by the network's outputs; they sum
// to one.
func Weights(out []float64) (w [Measures]float64) {
	top := slices.Max(out[:Measures])
	var sum float64
	for k := range w {
		w[k] = math.Exp(out[k] - top)
		sum += w[k]
	}
	for k := range w {
		w[k] /= sum
	}
	return w
}

// Level is the level by the network's outputs: the logarithms of the weights,
// and a correction.
func (c *LevelCase) Level(out []float64) float64 {
	db := out[Measures] * levelUnit
	for k, w := range Weights(out) {
		db += w * c.Measured[k]
	}
	return db
}

// LevelCases hears a recording up to the point where levels are told, to learn
// from.
func LevelCases(s *ear.Scene, x []float32) []LevelCase {
	env := newEnvelopes(x, s.Lows)
	heard, _, grid := hear(s, env)
	hits := decide(heard)
	return levelCases(s, env, hits, env.guess(hits, grid).again)
}

func levelCases(s *ear.Scene, env *envelopes, hits []found, again [][Zones]repeat) []LevelCase {
	out := make([]LevelCase, len(hits))
	measured := make([][]float64, 3)
	rises := make([][]float64, 2*len(risen)) // at once and a little later
	for _, columns := range [][][]float64{measured, rises} {
		for c := range columns {
			columns[c] = make([]float64, len(hits))
		}
	}
	together := map[int][]int{}
	members := map[sound.Family][]int{}
	for i, h := range hits {
		measured[0][i], measured[1][i] = h.level, env.peak(h)
		for g, db := range groups(rise(s, h.frame, 0, 4)) {
			rises[g][i] = db
		}
		for g, db := range groups(rise(s, h.frame, 7, 12)) {
			rises[len(risen)+g][i] = db
		}
		together[h.frame] = append(together[h.frame], i)
		members[h.family] = append(members[h.family], i)
	}
	measured[2] = shareLevels(s, hits)
	for _, c := range append(measured, rises...) {
		centre(hits, c)
	}
	holdTo(measured[2], measured[0], measured[1])
	centre(hits, measured[2])
	for i, h := range hits {
		out[i].Family, out[i].Time = h.family, h.time
		for k := range measured {
			out[i].Measured[k] = measured[k][i]
		}
	}
	mix := newMixLevels(s, hits)
	agreement := map[sound.Family][Measures]float64{}
	fits := map[sound.Family][Zones]float64{}
	for f, list := range members {
		for z := range Zones {
			byTemplate(out, list, again, z)
		}
		agreement[f] = agree(out, list)
		mix.learn(f, out, list)
		var sum [Zones]float64
		for _, i := range list {
			for z := range sum {
				sum[z] += again[i][z].fit / float64(len(list))
			}
		}
		fits[f] = sum
	}
	for i, h := range hits {
		c := &out[i]
		in := c.Inputs[:0]
		for k, db := range c.Measured {
			in = append(in, db/levelUnit, agreement[h.family][k])
		}
		for z, r := range again[i] {
			in = append(in, r.fit, fits[h.family][z])
		}
		for _, column := range rises {
			in = append(in, column[i]/levelUnit)
		}
		var family, other [ear.Classes]float64
		family[slices.Index(ear.Families, h.family)] = 1
		louder := -30.0
		for _, j := range together[h.frame] {
			if j != i {
				other[slices.Index(ear.Families, hits[j].family)] = 1
				louder = math.Max(louder, hits[j].level-h.level)
			}
		}
		in = append(append(in, family[:]...), other[:]...)
		in = append(in, math.Min(math.Max(louder, -30), 30)/levelUnit, math.Log2(float64(len(members[h.family])))/5, h.confidence)
		_ = append(in, mix.inputs(i, h.family)...)
	}
	return out
}

// byTemplate fills in the two measures of a zone for a family's hits: held to
// 20 dB from the usual, and so that on the whole they agree with it. Where a
// zone knows nothing the usual stands for it.
func byTemplate(cases []LevelCase, list []int, again [][Zones]repeat, z int) {
	var apart [2]float64
	weight := 1e-9
	for _, i := range list {
		if r := again[i][z]; r.kind != nil {
			weight += r.fit
			apart[0] += r.fit * (r.level - cases[i].Usual())
			apart[1] += r.fit * (r.whole - cases[i].Usual())
		}
	}
	for _, i := range list {
		u := cases[i].Usual()
		for k := range apart {
			v := u
			if r := again[i][z]; r.kind != nil {
				v = [2]float64{r.level, r.whole}[k] - apart[k]/weight
			}
			cases[i].Measured[3+2*z+k] = math.Min(math.Max(v, u-20), u+20)
		}
	}
}

// agree tells of each measure how well it goes with the others over a
// family's hits: the mean correlation.
func agree(cases []LevelCase, list []int) (out [Measures]float64) {
	if len(list) < 4 {
		return out
	}
	var columns [Measures][]float64
	for k := range columns {
		for _, i := range list {
			columns[k] = append(columns[k], cases[i].Measured[k])
		}
	}
	for a := range Measures {
		for b := a + 1; b < Measures; b++ {
			if r := stat.Correlation(columns[a], columns[b], nil); !math.IsNaN(r) {
				out[a] += r / (Measures - 1)
				out[b] += r / (Measures - 1)
			}
		}
	}
	return out
}

// holdTo keeps the share within 12 dB of the mean of two other measures: a
// share can shrink to nothing.
func holdTo(share, a, b []float64) {
	for i, v := range share {
		mean := (a[i] + b[i]) / 2
		share[i] = math.Min(math.Max(v, mean-12), mean+12)
	}
}

// groups sums a rise over the bands of risen, dB.
func groups(r [ear.Bands]float64) (db [len(risen)]float64) {
	for g, from := range risen {
		to := ear.Bands
		if g+1 < len(risen) {
			to = risen[g+1]
		}
		var sum float64
		for _, v := range r[from:to] {
			sum += v * v
		}
		db[g] = 10 * math.Log10(math.Max(sum, 1e-12))
	}
	return db
}

//go:embed levels.bin.gz
var levelWeights []byte

var levelModel = ear.Shipped(levelWeights)

// centre takes each family's mean off its levels.
func centre(hits []found, levels []float64) {
	sum, n := map[sound.Family]float64{}, map[sound.Family]float64{}
	for i, h := range hits {
		sum[h.family], n[h.family] = sum[h.family]+levels[i], n[h.family]+1
	}
	for i, h := range hits {
		levels[i] -= sum[h.family] / n[h.family]
	}
}

// shareLevels shares what each onset adds to the spectrum out between the
// families struck there, by non-negative factorisation with the
// Kullback-Leibler divergence (Lee & Seung 1999) in which it is known who is
// silent, while the spectra of the families follow the file. One more part
// stands for what plays beside the drums.
func shareLevels(s *ear.Scene, hits []found) []float64 {
	frames := map[int]int{}
	var v [][ear.Bands]float64
	row := make([]int, len(hits))
	for i, h := range hits {
		at, seen := frames[h.frame]
		if !seen {
			at = len(v)
			frames[h.frame] = at
			v = append(v, rise(s, h.frame, 0, 4))
		}
		row[i] = at
	}
	parts := map[sound.Family]int{}
	for _, h := range hits {
		if _, ok := parts[h.family]; !ok {
			parts[h.family] = len(parts)
		}
	}
	w := make([][ear.Bands]float64, len(parts))
	gain := make([]float64, len(hits))
	byRow := make([][]int, len(v))
	for i, h := range hits {
		byRow[row[i]] = append(byRow[row[i]], i)
		var total float64
		for b := range ear.Bands {
			total += v[row[i]][b]
		}
		gain[i] = total * math.Pow(10, h.level/20)
	}
	for r, list := range byRow { // shares as the network hears them
		var sum, total float64
		for b := range ear.Bands {
			total += v[r][b]
		}
		for _, i := range list {
			sum += gain[i]
		}
		for _, i := range list {
			gain[i] *= total / math.Max(sum, 1e-12)
			for b := range ear.Bands {
				weight := 1.0
				if len(list) > 1 {
					weight = 0.2 / float64(len(list))
				}
				w[parts[hits[i].family]][b] += weight * v[r][b] / math.Max(total, 1e-12)
			}
		}
	}
	bright := make([]bool, len(parts)+1)
	for f, k := range parts {
		bright[k] = hatless(f) == sound.HatClosed && f != sound.Tom && f != sound.Conga && f != sound.Perc && f != sound.Cowbell
	}
	var rest [ear.Bands]float64 // what plays beside the drums
	for i := range s.Power {
		for b := range ear.Bands {
			rest[b] += math.Sqrt(float64(s.Power[i][b]))
		}
	}
	w = append(w, rest)
	beside := make([]float64, len(v))
	for r := range v {
		for b := range ear.Bands {
			beside[r] += 0.1 * v[r][b]
		}
	}
	for k := range w {
		keepBright(&w[k], bright[k])
		unit(&w[k])
	}
	back := len(w) - 1
	for range 25 {
		next := make([][ear.Bands]float64, len(w))
		for r, list := range byRow {
			var total float64
			for b := range ear.Bands {
				total += v[r][b]
			}
			var ratio [ear.Bands]float64
			for b := range ear.Bands {
				model := 1e-12
				for _, i := range list {
					model += gain[i] * w[parts[hits[i].family]][b]
				}
				model += beside[r] * w[back][b]
				ratio[b] = v[r][b] / model
			}
			for _, i := range list {
				k := parts[hits[i].family]
				var sum float64
				for b := range ear.Bands {
					// Each onset speaks by its shape, not its level.
					next[k][b] += gain[i] * w[k][b] * ratio[b] / math.Max(total, 1e-12)
					sum += w[k][b] * ratio[b]
				}
				gain[i] *= sum
			}
			var sum float64
			for b := range ear.Bands {
				sum += w[back][b] * ratio[b]
			}
			beside[r] *= sum
		}
		for k := range w[:back] {
			keepBright(&next[k], bright[k])
			unit(&next[k])
			w[k] = next[k]
		}
	}
	for i := range gain {
		gain[i] = 20 * math.Log10(math.Max(gain[i], 1e-9))
	}
	return gain
}

// keepBright leaves a cymbal only its highs: what lies below is another's.
func keepBright(v *[ear.Bands]float64, bright bool) {
	if bright {
		clear(v[:20])
	}
}

func unit(v *[ear.Bands]float64) {
	var sum float64
	for _, x := range v {
		sum += x
	}
	for b := range v {
		v[b] /= math.Max(sum, 1e-12)
	}
}

// rise is what an onset adds to the spectrum: the root of the greatest band
// power in the frames from first to end after it, less that just before.
func rise(s *ear.Scene, frame, first, end int) (v [ear.Bands]float64) {
	last := len(s.Power) - 1
	for b := range ear.Bands {
		var after float64
		for i := frame + first; i <= min(frame+end, last); i++ {
			after = math.Max(after, float64(s.Power[i][b]))
		}
		before := math.Inf(1)
		for i := max(frame-5, 0); i <= max(frame-3, 0); i++ {
			before = math.Min(before, float64(s.Power[i][b]))
		}
		v[b] = math.Sqrt(math.Max(after-before, after*0.002))
	}
	return v
}
