package drumnet

import "slices"

// Flux is the onset function by frame: the rise of log power, band by band,
// against the loudest of the neighbouring bands two frames before
// (maximum-filtered spectral flux: Böck & Widmer, DAFx-13), so that vibrato
// and ringing do not count. All is the mean of the three parts.
type Flux struct{ All, Low, Mid, High []float64 }

func newFlux(logs [][Bands]float32) *Flux {
	const lag = 2
	n := len(logs)
	f := &Flux{make([]float64, n), make([]float64, n), make([]float64, n), make([]float64, n)}
	var silence [Bands]float32 // before the file: a loop may begin with a hit
	for i := range n {
		past := &silence
		if i >= lag {
			past = &logs[i-lag]
		}
		for b := range Bands {
			before := past[b]
			if b > 0 {
				before = max(before, past[b-1])
			}
			if b+1 < Bands {
				before = max(before, past[b+1])
			}
			rise := float64(max(logs[i][b]-before, 0))
			switch {
			case b < lowBands:
				f.Low[i] += rise / lowBands
			case b < midBands:
				f.Mid[i] += rise / (midBands - lowBands)
			default:
				f.High[i] += rise / (Bands - midBands)
			}
		}
		f.All[i] = (f.Low[i] + f.Mid[i] + f.High[i]) / 3
	}
	return f
}

// candidates are the frames at which something may start: local maxima of
// the whole flux or of one part that rise a little above a moving mean
// (Böck, Krebs & Schedl, ISMIR 2012). They are many on purpose; the network
// says at which of them a drum was struck.
func (f *Flux) candidates() []int {
	taken := make([]bool, len(f.All))
	for _, part := range []struct {
		flux  []float64
		delta float64
	}{{f.All, 0.03}, {f.High, 0.07}, {f.Low, 0.15}, {f.Mid, 0.07}} {
		for i := range part.flux {
			if !isPeak(part.flux, i, 3) || part.flux[i] < localMean(part.flux, i, 14, 10)+part.delta {
				continue
			}
			taken[i] = !slices.Contains(taken[max(i-3, 0):min(i+4, len(taken))], true) || taken[i]
		}
	}
	var out []int
	for i, t := range taken {
		if t {
			out = append(out, i)
		}
	}
	return out
}

func isPeak(f []float64, i, reach int) bool {
	if f[i] <= 0 {
		return false
	}
	for j := max(i-reach, 0); j <= min(i+reach, len(f)-1); j++ {
		if f[j] > f[i] || (f[j] == f[i] && j < i) {
			return false
		}
	}
	return true
}

func localMean(f []float64, i, before, after int) float64 {
	from, to := max(i-before, 0), min(i+after, len(f)-1)
	var sum float64
	for j := from; j <= to; j++ {
		sum += f[j]
	}
	return sum / float64(to-from+1)
}

// quantile is what a part q of x, 0..1, does not exceed.
func quantile(x []float64, q float64) float64 { return quantiles(x, []float64{q})[0] }

// quantiles sorts a copy of x and reads off several.
func quantiles(x, q []float64) []float64 {
	out := make([]float64, len(q))
	if len(x) == 0 {
		return out
	}
	y := slices.Clone(x)
	slices.Sort(y)
	for i, part := range q {
		out[i] = y[int(part*float64(len(y)-1))]
	}
	return out
}
