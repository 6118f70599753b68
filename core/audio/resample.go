package audio

import (
	"math"

	"jubrak/core/dsp"
)

// Resample converts the buffer to another rate with a windowed-sinc
// polyphase filter (Kaiser window, about 110 dB stop band; Oppenheim & Schafer,
// Discrete-Time Signal Processing, ch. 7). The pass band ends at 0.45 of the
// lower rate or higher. The buffer itself is returned when the rates agree.
func (b *Buffer) Resample(rate int) *Buffer {
	if rate == b.Rate || b.Frames() == 0 {
		return b
	}
	out := &Buffer{Rate: rate, Channels: make([][]float32, len(b.Channels))}
	r := newResampler(b.Rate, rate)
	for c, ch := range b.Channels {
		out.Channels[c] = r.run(ch)
	}
	return out
}

const (
	resampleZeros = 48   // zero crossings of the sinc on each side
	kaiserBeta    = 11.5 // about 115 dB
)

type resampler struct {
	up, down int
	half     int // taps on each side, in input samples
	phases   [][]float64
}

// newResampler builds one filter per output phase. Ratios with more than
// 4,096 phases are rounded to the nearest that has fewer, an error in rate
// below 1e-4.
func newResampler(from, to int) *resampler {
	g := gcd(from, to)
	up, down := to/g, from/g
	if up > 4096 {
		down = int(math.Round(float64(down) * 4096 / float64(up)))
		up = 4096
	}
	cut := math.Min(1, float64(up)/float64(down)) // of the input's Nyquist
	half := int(math.Ceil(resampleZeros / cut))
	r := &resampler{up: up, down: down, half: half, phases: make([][]float64, up)}
	// The window's main lobe takes its transition band off the pass band.
	edge := cut * (1 - 3.7/resampleZeros)
	for p := range r.phases {
		taps := make([]float64, 2*half)
		frac := float64(p) / float64(up)
		var sum float64
		for k := range taps {
			x := float64(k-half+1) - frac
			taps[k] = edge * dsp.Sinc(x*edge) * dsp.Kaiser(x/float64(half), kaiserBeta)
			sum += taps[k]
		}
		for k := range taps {
			taps[k] /= sum
		}
		r.phases[p] = taps
	}
	return r
}

func (r *resampler) run(in []float32) []float32 {
	n := (len(in)*r.up + r.down - 1) / r.down
	out := make([]float32, n)
	for i := range out {
		pos := i * r.down
		at, taps := pos/r.up, r.phases[pos%r.up]
		first := at - r.half + 1
		lo, hi := max(0, -first), min(len(taps), len(in)-first)
		var sum float64
		for k := lo; k < hi; k++ {
			sum += taps[k] * float64(in[first+k])
		}
		out[i] = float32(sum)
	}
	return out
}

func gcd(a, b int) int {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}
