package measure

import "math"

// Running is the integrated loudness of a sound that comes block by block (ITU-R
// BS.1770-4): its gating blocks of 400 ms, a quarter apart, are those of a Meter.
type Running struct {
	meter  *Meter
	rate   int
	since  int // frames since the last block
	frames int
	blocks []float64 // mean squares
}

// NewRunning is at the beginning of a sound of a rate.
func NewRunning(rate int) *Running { return &Running{meter: NewMeter(rate), rate: rate} }

// Add takes the next frames.
func (r *Running) Add(left, right []float64) {
	step := r.rate / 10
	for at := 0; at < len(left); {
		n := min(step-r.since, len(left)-at)
		r.meter.Add(left[at:at+n], right[at:at+n])
		at += n
		r.since += n
		r.frames += n
		if r.since == step {
			r.since = 0
			if r.frames >= 4*step {
				r.blocks = append(r.blocks, math.Pow(10, (r.meter.Momentary()+0.691)/10))
			}
		}
	}
}

// Integrated is the loudness so far, LUFS; ok is false where all is silence.
func (r *Running) Integrated() (lufs float64, ok bool) {
	mean, n := gated(r.blocks, -70)
	if n == 0 {
		return 0, false
	}
	mean, n = gated(r.blocks, math.Max(-70, lkfs(mean)-10))
	return lkfs(mean), n > 0
}
