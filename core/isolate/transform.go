package isolate

import (
	"math"

	"gonum.org/v1/gonum/dsp/fourier"

	"jubrak/core/dsp"
)

// transform takes frames of a sound to bins up to 20 kHz and back: windows whose squares add up to one
// (the root of a Hann window, three quarters overlapping).
type transform struct {
	size, hop, bins int
	window          []float64
	fft             *dsp.FFT
	back            *fourier.FFT
	buf             []float64
	coeff           []complex128
}

func newTransform(size int) *transform {
	t := &transform{size: size, hop: size / 4, bins: size * 20 / 48, window: make([]float64, size), fft: dsp.NewFFT(size / 2), back: fourier.NewFFT(size), buf: make([]float64, size), coeff: make([]complex128, size/2+1)}
	for i := range t.window {
		t.window[i] = math.Sqrt((0.5 - 0.5*math.Cos(2*math.Pi*(float64(i)+0.5)/float64(size))) / 2)
	}
	return t
}

// frames is how many cover so many samples.
func (t *transform) frames(samples int) int { return (samples+t.size-t.hop)/t.hop + 1 }

// run writes the frames of x from a place on, which may lie between two samples, to out:
// frame k begins at from + k·hop - (size - hop). What lies outside of x is silence.
func (t *transform) run(x []float32, from float64, out [][]complex128) {
	whole := int(math.Floor(from))
	part := from - float64(whole)
	for k := range out {
		at := whole + k*t.hop - (t.size - t.hop)
		for i := range t.buf {
			t.buf[i] = 0
			if j := at + i; j >= 0 && j < len(x) {
				t.buf[i] = float64(x[j]) * t.window[i]
			}
		}
		t.fft.Real(t.buf, out[k])
		if part == 0 {
			continue
		}
		// Turned by the rest of the place.
		sin, cos := math.Sincos(2 * math.Pi * part / float64(t.size))
		step, turn := complex(cos, sin), complex(1, 0)
		for b := range out[k] {
			out[k][b] *= turn
			turn *= step
		}
	}
}

// inverse adds frames up to a sound of so many samples.
func (t *transform) inverse(frames [][]complex128, samples int) []float32 {
	out := make([]float64, samples)
	for k := range frames {
		copy(t.coeff, frames[k])
		clear(t.coeff[t.bins:])
		x := t.back.Sequence(t.buf, t.coeff)
		at := k*t.hop - (t.size - t.hop)
		for i, v := range x {
			if j := at + i; j >= 0 && j < samples {
				out[j] += v * t.window[i] / float64(t.size)
			}
		}
	}
	y := make([]float32, samples)
	for i, v := range out {
		y[i] = float32(v)
	}
	return y
}

// grid is frames of bins.
func grid(frames, bins int) [][]complex128 {
	all := make([]complex128, frames*bins)
	out := make([][]complex128, frames)
	for k := range out {
		out[k] = all[k*bins : (k+1)*bins]
	}
	return out
}

// plane is frames of numbers.
func plane(frames, bins int) [][]float64 {
	all := make([]float64, frames*bins)
	out := make([][]float64, frames)
	for k := range out {
		out[k] = all[k*bins : (k+1)*bins]
	}
	return out
}

func power(c complex128) float64 { return real(c)*real(c) + imag(c)*imag(c) }

// strokeFrame is the frame in which a stroke is first in the middle.
func strokeFrame(t *transform) int { return (lead + t.size - t.hop - t.size/2) / t.hop }
