package transcribe

import (
	"math"

	"jubrak/core/dsp"
)

// envelope is a part of the sound as energy over 1 ms, at every sample.
type envelope struct{ energy []float64 }

// newEnvelope filters the sound and smooths its square over 1 ms. The filters
// run forward only; their delay is below a millisecond at the onset.
func newEnvelope(x []float32, filters ...dsp.Biquad) envelope {
	y := make([]float64, len(x))
	for i, v := range x {
		y[i] = float64(v)
	}
	dsp.Cascade(y, filters)
	const w = rate / 1000
	var past [w]float64
	var sum float64
	for i, v := range y {
		p := &past[i%w]
		sum += v*v - *p
		*p = v * v
		y[i] = max(sum, 0)
	}
	return envelope{y}
}

// start finds the acoustic onset near sample at: the first instant, not
// earlier than 13 ms before, at which the energy comes within 20 dB of the
// peak that follows (see docs/measures.md, onset). Where an earlier sound
// rings on louder than that, the threshold is twice what rang just before.
// rise is the peak over that earlier level, in power.
func (e *envelope) start(at int) (sample int, rise float64) {
	const reach, lead, after = rate * 25 / 1000, rate * 13 / 1000, rate * 35 / 1000
	last := len(e.energy) - 1
	from, search, to := max(at-reach, 0), max(at-lead, 0), min(at+after, last)
	var before, peak float64
	for i := from; i < search; i++ {
		before = max(before, e.energy[i])
	}
	for i := search; i <= to; i++ {
		peak = max(peak, e.energy[i])
	}
	threshold := math.Max(peak/100, math.Min(2*before, peak/2))
	for i := search; i <= to; i++ {
		if e.energy[i] >= threshold && threshold > 0 {
			return max(i-rate/2000, 0), peak / math.Max(before, 1e-15)
		}
	}
	return at, 0
}
