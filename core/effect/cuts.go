package effect

import (
	"math"

	"jubrak/core/dsp"
)

// Filter is a second-order filter of both channels.
type Filter struct {
	side [2]dsp.Moving
	tail int
}

// NewLowCut takes away what is below hz, 12 dB an octave (Butterworth).
func NewLowCut(hz, rate float64) Filter {
	return newFilter(dsp.HighPass(hz, math.Sqrt2/2, rate), hz, rate)
}

// NewHighCut takes away what is above hz, 12 dB an octave (Butterworth).
func NewHighCut(hz, rate float64) Filter {
	return newFilter(dsp.LowPass(hz, math.Sqrt2/2, rate), hz, rate)
}

// NewTurn turns the phase as a crossover of fourth order at hz does, and leaves the rest.
func NewTurn(hz, rate float64) Filter {
	return newFilter(dsp.AllPass(hz, math.Sqrt2/2, rate), hz, rate)
}

func newFilter(f dsp.Biquad, hz, rate float64) Filter {
	// The envelope of a Butterworth pair falls with 2π·hz/√2: 120 dB down after
	// 3.2 periods.
	m := dsp.Moving{Biquad: f}
	return Filter{[2]dsp.Moving{m, m}, int(3.2 / hz * rate)}
}

// to goes to other coefficients over so many frames.
func (f *Filter) to(o dsp.Biquad, glide int) {
	for c := range f.side {
		f.side[c].To(o, glide)
	}
}

// Follow goes to the corner of another one over so many frames.
func (f *Filter) Follow(o Filter, glide int) {
	f.to(o.side[0].Biquad, glide)
	f.tail = o.tail
}

// Process filters.
func (f *Filter) Process(b Block, _ []float64) {
	f.side[0].Run(b.Left)
	f.side[1].Run(b.Right)
}

// Latency is 0.
func (f *Filter) Latency() int { return 0 }

// Tail is until the filter's ringing is 120 dB down.
func (f *Filter) Tail() int { return f.tail }

// Reset forgets the past.
func (f *Filter) Reset() {
	f.side[0].Reset()
	f.side[1].Reset()
}
