package transcribe

import (
	"math"
	"sort"
)

// Tempo limits of the search, beats per minute.
const (
	slowest = 55
	fastest = 210
)

// tempoCandidates reads tempi off the autocorrelation of the onset function,
// summed at one, two and four beats and weighted by a preference for about
// 110 BPM (log-Gaussian, as in Ellis 2007). Best first.
func tempoCandidates(flux []float64, count int) []float64 {
	x := make([]float64, len(flux))
	var mean float64
	for _, v := range flux {
		mean += v / float64(len(flux))
	}
	for i, v := range flux {
		x[i] = v - mean
	}
	longest := min(790, len(x)-1) // four beats and a little at the slowest tempo
	acf := make([]float64, longest+1)
	for lag := range acf {
		var sum float64
		for i := lag; i < len(x); i++ {
			sum += x[i] * x[i-lag]
		}
		acf[lag] = sum / float64(len(x)-lag+200)
	}
	at := func(lag float64) float64 {
		i := int(lag)
		if i+1 >= len(acf) {
			return 0
		}
		f := lag - float64(i)
		return acf[i]*(1-f) + acf[i+1]*f
	}
	type scored struct{ bpm, score float64 }
	var all []scored
	for bpm := float64(slowest); bpm <= fastest; bpm *= 1.003 {
		lag := 60000 / bpm / frameMS
		oct := math.Log2(bpm/108) / 0.9
		score := (at(lag) + 0.8*at(2*lag) + 0.8*at(4*lag) + 0.4*at(3*lag)) * math.Exp(-oct*oct/2)
		all = append(all, scored{bpm, score})
	}
	sort.SliceStable(all, func(a, b int) bool { return all[a].score > all[b].score })
	var out []float64
	for _, c := range all {
		distinct := true
		for _, o := range out {
			distinct = distinct && math.Abs(math.Log2(c.bpm/o)) > 0.03
		}
		if distinct && c.score > 0.3*all[0].score {
			out = append(out, c.bpm)
		}
		if len(out) == count {
			break
		}
	}
	return out
}

// trackBeats is beat tracking by dynamic programming (Ellis 2007, J. New
// Music Res. 36(1)): the chain of frames with most onset strength and least
// departure from the period. Returns frames.
func trackBeats(flux []float64, bpm float64) []int {
	period := 60000 / bpm / frameMS
	const tightness = 400
	var sd float64
	for _, v := range flux {
		sd += v * v / float64(len(flux))
	}
	sd = math.Sqrt(sd) + 1e-12
	local := smooth(flux, period/32, sd)
	score, from := make([]float64, len(flux)), make([]int, len(flux))
	near, far := int(period/2), int(2*period)
	cost := make([]float64, far+1) // by distance from the beat before
	for d := near; d <= far; d++ {
		off := math.Log(float64(d) / period)
		cost[d] = tightness * off * off
	}
	for i := range flux {
		from[i] = -1
		best := 0.0
		for j := max(i-far, 0); j <= i-near; j++ {
			if s := score[j] - cost[i-j]; s > best {
				best, from[i] = s, j
			}
		}
		score[i] = local[i] + best
	}
	end := max(len(score)-int(period), 0)
	for i := end; i < len(score); i++ {
		if score[i] > score[end] {
			end = i
		}
	}
	var beats []int
	for i := end; i >= 0; i = from[i] {
		beats = append(beats, i)
	}
	for i, j := 0, len(beats)-1; i < j; i, j = i+1, j-1 {
		beats[i], beats[j] = beats[j], beats[i]
	}
	return beats
}

// smooth blurs the onset function with a Gaussian of the given width in
// frames and scales it to unit deviation.
func smooth(f []float64, width, scale float64) []float64 {
	reach := int(3*width) + 1
	kernel := make([]float64, 2*reach+1)
	for k := range kernel {
		d := float64(k-reach) / math.Max(width, 0.5)
		kernel[k] = math.Exp(-d * d / 2)
	}
	out := make([]float64, len(f))
	for i := range f {
		for k, w := range kernel {
			if j := i + k - reach; j >= 0 && j < len(f) {
				out[i] += w * f[j] / scale
			}
		}
	}
	return out
}
