package isolate

import (
	"math"
	"math/cmplx"
	"slices"

	"gonum.org/v1/gonum/dsp/fourier"
)

// Strokes are aligned by cross-correlation with what they have in common, each frequency
// weighted by how little else there is (the maximum likelihood weighting of Knapp & Carter
// 1976), within reach of where they were heard.
const (
	alignSize   = 8192
	alignBegin  = 480  // samples before the stroke
	alignFull   = 2400 // after it: from here on it counts less
	alignReach  = 192  // 4 ms
	alignRounds = 4
	leastMatch  = 0.3 // less is no likeness
)

type aligner struct {
	fft *fourier.FFT
	buf []float64
}

func newAligner() *aligner {
	return &aligner{fft: fourier.NewFFT(alignSize), buf: make([]float64, alignSize)}
}

// spectrum of what follows a place, faded out.
func (a *aligner) spectrum(x []float32, place float64) []complex128 {
	whole := int(math.Floor(place))
	for i := range a.buf {
		a.buf[i] = 0
		j := whole - alignBegin + i
		if j < 0 || j >= len(x) || i >= alignSize/2 {
			continue
		}
		g := 1.0
		if i < alignBegin-96 {
			g = float64(i) / (alignBegin - 96)
		}
		if i > alignBegin+alignFull {
			g = math.Max(1-float64(i-alignBegin-alignFull)/(alignSize/2-alignBegin-alignFull), 0)
		}
		a.buf[i] = g * float64(x[j])
	}
	out := a.fft.Coefficients(nil, a.buf)
	turn(out, place-float64(whole))
	return out
}

// turn moves a spectrum to an earlier time by a part of a sample.
func turn(c []complex128, part float64) {
	if part == 0 {
		return
	}
	sin, cos := math.Sincos(2 * math.Pi * part / alignSize)
	step, at := complex(cos, sin), complex(1, 0)
	for k := range c {
		c[k] *= at
		at *= step
	}
}

// align moves the strokes of a row to where they are most alike, and says how much.
func (a *aligner) align(x []float32, r *row) {
	n := len(r.strokes)
	spectra := make([][]complex128, n)
	order := make([]int, n)
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(i, j int) int { return -compare(r.strokes[i].gain, r.strokes[j].gain) })
	for i, s := range r.strokes {
		spectra[i] = a.spectrum(x, s.place)
	}
	for round := range alignRounds {
		common, rest := a.common(spectra, r.strokes, order[:min(n, 24)], round)
		for i := range r.strokes {
			s := &r.strokes[i]
			move, match := a.best(spectra[i], common, rest)
			s.match = match
			if match < leastMatch || math.Abs(move) < 1e-3 {
				continue
			}
			s.place += move
			spectra[i] = a.spectrum(x, s.place)
		}
	}
	r.inside(len(x))
}

// common is the mean of strokes and the power of what is left, smoothed.
func (a *aligner) common(spectra [][]complex128, strokes []stroke, of []int, round int) (mean []complex128, rest []float64) {
	bins := alignSize/2 + 1
	mean, rest = make([]complex128, bins), make([]float64, bins)
	var weights float64
	for _, i := range of {
		g := strokes[i].gain
		if round > 0 {
			g *= math.Max(strokes[i].match, 0.05)
		}
		weights += g * strokes[i].gain
		for k, c := range spectra[i] {
			mean[k] += complex(g, 0) * c
		}
	}
	for k := range mean {
		mean[k] /= complex(weights, 0)
	}
	for _, i := range of {
		for k, c := range spectra[i] {
			rest[k] += power(c-complex(strokes[i].gain, 0)*mean[k]) / float64(len(of))
		}
	}
	smooth := make([]float64, bins)
	floor := slices.Max(rest) * 1e-7
	for k := range smooth {
		reach := 3 + k/12
		sum, n := 0.0, 0.0
		for j := max(k-reach, 0); j <= min(k+reach, bins-1); j += max(reach/6, 1) {
			sum, n = sum+rest[j], n+1
		}
		smooth[k] = sum/n + floor + 1e-12
	}
	return mean, smooth
}

// best is by how many samples a stroke lies later than it was taken for, and how alike it
// then is, -1..1.
func (a *aligner) best(c, common []complex128, rest []float64) (move, match float64) {
	cross := make([]complex128, len(c))
	var own, all float64
	for k := range c {
		w := 1 / rest[k]
		cross[k] = c[k] * cmplx.Conj(common[k]) * complex(w, 0)
		own += w * power(common[k])
		all += w * power(c[k])
	}
	if own == 0 || all == 0 {
		return 0, 0
	}
	x := a.fft.Sequence(a.buf, cross)
	at := func(i int) float64 { return x[(i+alignSize)%alignSize] }
	top := 0
	favour := func(i int) float64 { return 1 - 0.3*math.Pow(float64(i)/alignReach, 2) }
	for i := -alignReach; i <= alignReach; i++ {
		if at(i)*favour(i) > at(top)*favour(top) {
			top = i
		}
	}
	y0, y1, y2 := at(top-1), at(top), at(top+1)
	part := 0.0
	if d := y0 - 2*y1 + y2; d < 0 && y1 >= y0 && y1 >= y2 {
		part = 0.5 * (y0 - y2) / d
	}
	// The sum over positive frequencies counts each but the ends twice.
	return float64(top) + part, y1 / 2 / math.Sqrt(own*all)
}
