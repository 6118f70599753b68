package dsp

import "math"

// StateVariable is a second-order filter whose corner may move while it runs,
// with all its outputs at once (trapezoidal integration: Zavalishin 2012, The
// Art of VA Filter Design, ch. 4).
type StateVariable struct{ s1, s2 float64 }

// Corner is the filter's coefficient for a corner in Hz.
func Corner(hz, rate float64) float64 {
	return math.Tan(math.Pi * math.Min(hz, 0.49*rate) / rate)
}

// Next filters a sample at a Corner and a damping of 1/Q: below the corner,
// around it (0 dB at its top) and above.
func (f *StateVariable) Next(x, corner, damping float64) (low, band, high float64) {
	high = (x - (damping+corner)*f.s1 - f.s2) / (1 + corner*(damping+corner))
	v := corner * high
	band = v + f.s1
	f.s1 = v + band
	v = corner * band
	low = v + f.s2
	f.s2 = v + low
	return low, band * damping, high
}

// Reset forgets the past.
func (f *StateVariable) Reset() { *f = StateVariable{} }
