package dsp

import "math"

// StateVariable is a second-order filter whose corner may move while it runs,
// with all its outputs at once (trapezoidal integration: Zavalishin 2012, The
// Art of VA Filter Design, ch. 4).
type StateVariable struct{ s1, s2 float64 }

// Corner is the filter's coefficient for a corner in Hz.
func Corner(hz, rate float64) float64 {
	return math.Tan(math.Pi * min(hz, 0.49*rate) / rate)
}

// Next filters a sample at a Corner and a damping of 1/Q: below the corner,
// around it (0 dB at its top) and above.
func (f *StateVariable) Next(x, corner, damping float64) (low, band, high float64) {
	high = (x - (damping+corner)*f.s1 - f.s2) * (1 / (1 + corner*(damping+corner)))
	v := corner * high
	band = v + f.s1
	f.s1 = v + band
	v = corner * band
	low = v + f.s2
	f.s2 = v + low
	return low, band * damping, high
}

// FilterShape is which output of a StateVariable is heard.
type FilterShape int

// The shapes.
const (
	LowShape FilterShape = iota
	HighShape
	BandShape
	NotchShape
)

// Run filters a block in place at rest: the steps of Next as one matrix, so that a
// sample waits for no more than it must.
func (f *StateVariable) Run(x []float64, shape FilterShape, corner, damping float64) {
	sum, part := damping+corner, 1/(1+corner*(damping+corner))
	// What is above the corner, and around it, by input and state.
	h0, h1, h2 := part, -part*sum, -part
	b0, b1, b2 := corner*h0, 1+corner*h1, corner*h2
	var o0, o1, o2 float64
	switch shape {
	case LowShape:
		o0, o1, o2 = corner*b0, corner*b1, 1+corner*b2
	case HighShape:
		o0, o1, o2 = h0, h1, h2
	case BandShape:
		o0, o1, o2 = damping*b0, damping*b1, damping*b2
	default:
		o0, o1, o2 = 1-damping*b0, -damping*b1, -damping*b2
	}
	a0, a1, a2 := 2*corner*h0, 1+2*corner*h1, 2*corner*h2
	c0, c1, c2 := 2*corner*b0, 2*corner*b1, 1+2*corner*b2
	s1, s2 := f.s1, f.s2
	for i, v := range x {
		x[i] = o0*v + (o1*s1 + o2*s2)
		s1, s2 = a0*v+(a1*s1+a2*s2), c0*v+(c1*s1+c2*s2)
	}
	f.s1, f.s2 = s1, s2
}

// Reset forgets the past.
func (f *StateVariable) Reset() { *f = StateVariable{} }
