package transcribe

import (
	_ "embed"
	"math"
	"slices"

	"gonum.org/v1/gonum/stat"

	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// measureLevels replaces the levels that the network heard by finer ones,
// against their family's mean: a mean of several measures, weighted and
// corrected by a network that sees them, how well they agree in the file, what
// else was struck at that moment, and how much each part of the spectrum rose.
func measureLevels(s *drumnet.Scene, env *envelopes, hits []found, again [][Zones]repeat) {
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
const LevelInputs = 2*Measures + 2*Zones + 2*len(risen) + 2*drumnet.Classes + 3 + mixInputs

// levelUnit scales levels for the network, dB.
const levelUnit = 10

// risen are the bands in which an onset's rise is measured: from the first of
// each to that of the next.
var risen = [...]int{0, 2, 4, 8, 12, 16, 20, 24, 27}

// LevelCase is what is known of one hit before its level is reported.
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

// LevelCases hears a recording up to the point where levels are reported, to learn
// from.
func LevelCases(s *drumnet.Scene, x []float32) []LevelCase {
	env := newEnvelopes(x, s.Lows)
	heard, _, grid := hear(s, env)
	hits := decide(heard)
	return levelCases(s, env, hits, env.guess(hits, grid).again)
}

func levelCases(s *drumnet.Scene, env *envelopes, hits []found, again [][Zones]repeat) []LevelCase {
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
		var family, other [drumnet.Classes]float64
		family[slices.Index(drumnet.Families, h.family)] = 1
		louder := -30.0
		for _, j := range together[h.frame] {
			if j != i {
				other[slices.Index(drumnet.Families, hits[j].family)] = 1
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

// agree returns of each measure how well it goes with the others over a
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
func groups(r [drumnet.Bands]float64) (db [len(risen)]float64) {
	for g, from := range risen {
		to := drumnet.Bands
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

var levelModel = drumnet.Shipped(levelWeights)

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
// stands for what plays beside the drums. It returns the level of each hit, dB.
func shareLevels(s *drumnet.Scene, hits []found) []float64 {
	f := newFactors(s, hits)
	f.begin(hits)
	for range 25 {
		f.iterate()
	}
	for i, g := range f.gain {
		f.gain[i] = 20 * math.Log10(math.Max(g, 1e-9))
	}
	return f.gain
}

// factors is a spectrum that is explained by parts: of each family, and the last of what plays
// beside the drums.
type factors struct {
	onsets [][drumnet.Bands]float64 // what each onset adds
	total  []float64                // its sum over the bands
	hitsOf [][]int                  // the hits of each onset
	part   []int                    // of each hit
	gain   []float64                // of each hit
	beside []float64                // of each onset: how much of it is no drum
	parts  [][drumnet.Bands]float64
	bright []bool // parts that have highs alone
}

func newFactors(s *drumnet.Scene, hits []found) *factors {
	f := &factors{part: make([]int, len(hits)), gain: make([]float64, len(hits))}
	frames, families := map[int]int{}, map[sound.Family]int{}
	for i, h := range hits {
		at, seen := frames[h.frame]
		if !seen {
			at = len(f.onsets)
			frames[h.frame] = at
			f.onsets = append(f.onsets, rise(s, h.frame, 0, 4))
			f.hitsOf = append(f.hitsOf, nil)
		}
		f.hitsOf[at] = append(f.hitsOf[at], i)
		k, seen := families[h.family]
		if !seen {
			k = len(families)
			families[h.family] = k
			f.bright = append(f.bright, hatless(h.family) == sound.HatClosed && h.family != sound.Tom && h.family != sound.Conga && h.family != sound.Perc && h.family != sound.Cowbell)
		}
		f.part[i] = k
	}
	f.parts = make([][drumnet.Bands]float64, len(families)+1)
	f.bright = append(f.bright, false)
	rest := &f.parts[len(families)]
	for i := range s.Power {
		for b := range drumnet.Bands {
			rest[b] += math.Sqrt(float64(s.Power[i][b]))
		}
	}
	f.total, f.beside = make([]float64, len(f.onsets)), make([]float64, len(f.onsets))
	for r := range f.onsets {
		for _, x := range f.onsets[r] {
			f.total[r] += x
		}
		f.beside[r] = 0.1 * f.total[r]
	}
	return f
}

// begin takes the shares as the network hears them, and the parts as they follow from them:
// onsets of one family alone count most.
func (f *factors) begin(hits []found) {
	for r, list := range f.hitsOf {
		sum := 0.0
		for _, i := range list {
			f.gain[i] = f.total[r] * math.Pow(10, hits[i].level/20)
			sum += f.gain[i]
		}
		for _, i := range list {
			f.gain[i] *= f.total[r] / math.Max(sum, 1e-12)
			weight := 1.0
			if len(list) > 1 {
				weight = 0.2 / float64(len(list))
			}
			for b, x := range f.onsets[r] {
				f.parts[f.part[i]][b] += weight * x / math.Max(f.total[r], 1e-12)
			}
		}
	}
	for k := range f.parts {
		keepBright(&f.parts[k], f.bright[k])
		unit(&f.parts[k])
	}
}

// iterate is one multiplicative update of gains and parts; what plays beside the drums keeps
// its spectrum.
func (f *factors) iterate() {
	back := len(f.parts) - 1
	next := make([][drumnet.Bands]float64, back)
	for r, list := range f.hitsOf {
		var ratio [drumnet.Bands]float64
		for b := range ratio {
			model := 1e-12 + f.beside[r]*f.parts[back][b]
			for _, i := range list {
				model += f.gain[i] * f.parts[f.part[i]][b]
			}
			ratio[b] = f.onsets[r][b] / model
		}
		for _, i := range list {
			k, sum := f.part[i], 0.0
			for b, x := range ratio {
				// Each onset counts by its shape, not its level.
				next[k][b] += f.gain[i] * f.parts[k][b] * x / math.Max(f.total[r], 1e-12)
				sum += f.parts[k][b] * x
			}
			f.gain[i] *= sum
		}
		sum := 0.0
		for b, x := range ratio {
			sum += f.parts[back][b] * x
		}
		f.beside[r] *= sum
	}
	for k := range next {
		keepBright(&next[k], f.bright[k])
		unit(&next[k])
		f.parts[k] = next[k]
	}
}

// keepBright leaves a cymbal only its highs: what lies below is another's.
func keepBright(v *[drumnet.Bands]float64, bright bool) {
	if bright {
		clear(v[:20])
	}
}

func unit(v *[drumnet.Bands]float64) {
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
func rise(s *drumnet.Scene, frame, first, end int) (v [drumnet.Bands]float64) {
	last := len(s.Power) - 1
	for b := range drumnet.Bands {
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
