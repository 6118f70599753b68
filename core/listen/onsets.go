package listen

import (
	"math"

	"jubrak/core/dsp"
)

// onset is a moment at which something starts, before it has a family: its
// frame, and the flux there of the whole and of the three parts.
type onset struct {
	frame    int
	strength float64 // of the flux
	low      float64
	mid      float64
	high     float64
}

// pickOnsets finds the local maxima of the onset function that rise above a
// moving mean (Böck, Krebs & Schedl, ISMIR 2012). Maxima of the low and the
// high part alone count as well, so that a soft hat over a ringing kick is
// not lost.
func pickOnsets(all, low, mid, high []float64) []onset {
	var out []onset
	add := func(f []float64, delta float64) {
		for i := range f {
			if !isPeak(f, i, 4) || f[i] < localMean(f, i, 18, 12)+delta {
				continue
			}
			near := false
			for j := range out {
				near = near || abs(out[j].frame-i) <= 4
			}
			if !near {
				out = append(out, onset{frame: i, strength: f[i]})
			}
		}
	}
	add(all, 0.09)
	add(high, 0.25)
	add(low, 0.45)
	sortOnsets(out)
	for i := range out {
		n := out[i].frame
		out[i].low, out[i].mid, out[i].high = around(low, n), around(mid, n), around(high, n)
	}
	return out
}

func around(f []float64, n int) float64 {
	var peak float64
	for i := max(n-2, 0); i <= min(n+2, len(f)-1); i++ {
		peak = math.Max(peak, f[i])
	}
	return peak
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

func abs(x int) int {
	if x < 0 {
		return -x
	}
	return x
}

// envelope is a part of the sound as energy over 1 ms, at every sample.
type envelope struct{ energy []float64 }

// newEnvelope filters the sound and smooths its square over 1 ms. The filters
// run forward only; their delay is below a millisecond at the onset.
func newEnvelope(x []float64, filters ...dsp.Biquad) envelope {
	w := rate / 1000
	energy := make([]float64, len(x))
	past := make([]float64, w)
	var sum float64
	for i, v := range x {
		for f := range filters {
			v = filters[f].Next(v)
		}
		sum += v*v - past[i%w]
		past[i%w] = v * v
		energy[i] = math.Max(sum, 0)
	}
	return envelope{energy}
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
		before = math.Max(before, e.energy[i])
	}
	for i := search; i <= to; i++ {
		peak = math.Max(peak, e.energy[i])
	}
	threshold := math.Max(peak/100, math.Min(2*before, peak/2))
	for i := search; i <= to; i++ {
		if e.energy[i] >= threshold && threshold > 0 {
			return max(i-rate/2000, 0), peak / math.Max(before, 1e-15)
		}
	}
	return at, 0
}

func sortOnsets(o []onset) {
	for i := 1; i < len(o); i++ {
		for j := i; j > 0 && o[j].frame < o[j-1].frame; j-- {
			o[j], o[j-1] = o[j-1], o[j]
		}
	}
}
