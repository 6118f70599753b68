package drumnet

import (
	"gonum.org/v1/gonum/floats"

	"jubrak/core/dsp"
)

// LowEvery is how many samples there are to one of the lows.
const LowEvery = 16

// FineBands is the number of finer bands of the lows: 11 Hz wide from 27 to
// 188 Hz, where kicks and basses have their fundamentals, 22 Hz wide from
// there to 296 Hz. The frames are four times as long as those of the other
// bands.
const FineBands = 20

const (
	fineSize    = 256 // samples of the lows, 93 ms
	fineFirst   = 3   // first bin
	fineSingles = 15  // bands of one bin
)

// fineEdge is the first bin of a finer band.
func fineEdge(b int) int { return fineFirst + b + max(b-fineSingles, 0) }

// LowsOf is the lows of a sound, one sample in LowEvery. A mean of four samples
// comes first: its nulls lie where the lows would be folded onto.
func LowsOf(x []float32) []float32 {
	const first = 4
	out := make([]float32, 0, len(x)/LowEvery+1)
	filters := []dsp.Biquad{dsp.LowPass(250, 0.54, Rate/first), dsp.LowPass(250, 1.3, Rate/first)}
	for i := 0; i < len(x); i += first {
		var v float64
		for _, sample := range x[i:min(i+first, len(x))] {
			v += float64(sample) / first
		}
		v = filters[1].Next(filters[0].Next(v))
		if i%LowEvery == 0 {
			out = append(out, float32(v))
		}
	}
	return out
}

// fineOf is the power of the lows in finer bands, frame n centred on sample
// n·Hop of the whole, on the scale of Spectrum.Power.
func fineOf(lows []float32, frames int) [][FineBands]float32 {
	const scale = (size / fineSize) * (size / fineSize)
	out := make([][FineBands]float32, frames)
	_ = powers(lows, fineSize, Hop/LowEvery, frames, func(n int, power []float64) error {
		for b := range FineBands {
			out[n][b] = float32(scale * floats.Sum(power[fineEdge(b):fineEdge(b+1)]))
		}
		return nil // nothing stops it
	})
	return out
}
