package listen

import (
	_ "embed"
	"math"
	"slices"

	"jubrak/core/ear"
	"jubrak/core/sound"
)

// measureLevels replaces the levels that the network heard by finer ones,
// against their family's mean: a weighted mean of three measures, corrected by
// a network that sees them beside what else was struck at that moment and how
// much each part of the spectrum rose.
func measureLevels(s *ear.Scene, env *envelopes, hits []found) {
	for i, c := range levelCases(s, env, hits) {
		hits[i].level = c.Base + levelModel().Run(c.Inputs[:])[0]*levelUnit
	}
}

// LevelInputs is the number of features of a hit's level.
const LevelInputs = 3 + 2*len(risen) + 2*ear.Classes + 3

// levelUnit scales levels for the network, dB.
const levelUnit = 10

// risen are the bands in which an onset's rise is measured: from the first of
// each to that of the next.
var risen = [...]int{0, 2, 4, 8, 12, 16, 20, 24, 27}

// LevelCase is what is known of one hit before its level is told.
type LevelCase struct {
	Family sound.Family
	Time   float64 // seconds, as the network hears it
	// Base is the weighted mean of three measures against the family's mean,
	// dB.
	Base   float64
	Inputs [LevelInputs]float64
}

// LevelCases hears a recording up to the point where levels are told, to learn
// from.
func LevelCases(s *ear.Scene, x []float32) []LevelCase {
	return levelCases(s, &envelopes{x}, decide(hear(s, float64(len(x))/rate)))
}

func levelCases(s *ear.Scene, env *envelopes, hits []found) []LevelCase {
	out := make([]LevelCase, len(hits))
	columns := make([][]float64, 3+2*len(risen)) // heard, peaks, shared, rises at once and a little later
	for c := range columns {
		columns[c] = make([]float64, len(hits))
	}
	together := map[int][]int{}
	count := map[sound.Family]float64{}
	for i, h := range hits {
		columns[0][i], columns[1][i] = h.level, env.peak(h)
		for g, db := range groups(rise(s, h.frame, 0, 4)) {
			columns[3+g][i] = db
		}
		for g, db := range groups(rise(s, h.frame, 7, 12)) {
			columns[3+len(risen)+g][i] = db
		}
		together[h.frame] = append(together[h.frame], i)
		count[h.family]++
	}
	columns[2] = shareLevels(s, hits)
	for _, c := range columns {
		centre(hits, c)
	}
	for i, h := range hits {
		c := &out[i]
		c.Family, c.Time = h.family, h.time
		c.Base = 0.2*columns[0][i] + 0.45*columns[1][i] + 0.35*columns[2][i]
		for k, column := range columns {
			c.Inputs[k] = column[i] / levelUnit
		}
		at := len(columns)
		c.Inputs[at+slices.Index(ear.Families, h.family)] = 1
		louder := -30.0
		for _, j := range together[h.frame] {
			if j != i {
				c.Inputs[at+ear.Classes+slices.Index(ear.Families, hits[j].family)] = 1
				louder = math.Max(louder, hits[j].level-h.level)
			}
		}
		at += 2 * ear.Classes
		c.Inputs[at] = math.Min(math.Max(louder, -30), 30) / levelUnit
		c.Inputs[at+1] = math.Log2(count[h.family]) / 5
		c.Inputs[at+2] = h.confidence
	}
	return out
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
