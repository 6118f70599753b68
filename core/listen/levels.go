package listen

import (
	"math"

	"jubrak/core/ear"
	"jubrak/core/sound"
)

// measureLevels replaces the levels that the network heard by finer ones: the
// weighted mean of three measures, each against its family's mean.
func measureLevels(s *ear.Scene, env *envelopes, hits []found) {
	heard, peaks := make([]float64, len(hits)), make([]float64, len(hits))
	for i, h := range hits {
		heard[i], peaks[i] = h.level, env.peak(h)
	}
	shared := shareLevels(s, hits)
	centre(hits, heard)
	centre(hits, peaks)
	centre(hits, shared)
	for i := range hits {
		hits[i].level = 0.2*heard[i] + 0.45*peaks[i] + 0.35*shared[i]
	}
}

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
			v = append(v, rise(s, h.frame))
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

// rise is what an onset adds to the spectrum: the root of band power in the
// 25 ms after it less that just before.
func rise(s *ear.Scene, frame int) (v [ear.Bands]float64) {
	last := len(s.Power) - 1
	for b := range ear.Bands {
		var after float64
		for i := frame; i <= min(frame+4, last); i++ {
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
