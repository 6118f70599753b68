package dsp

import "math"

// FirstOrder designs a cut of 6 dB an octave at hz, of what lies below it with low and
// else above it, by the bilinear transform.
func FirstOrder(hz float64, low bool, rate float64) Biquad {
	k := math.Tan(math.Pi * min(hz, 0.49*rate) / rate)
	a1 := (k - 1) / (k + 1)
	if low {
		return Biquad{B0: 1 / (k + 1), B1: -1 / (k + 1), A1: a1}
	}
	return Biquad{B0: k / (k + 1), B1: k / (k + 1), A1: a1}
}
