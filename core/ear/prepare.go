package ear

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/dsp"
)

// mostPeak is the highest peak that is taken as it is. A float file may hold any
// number; far beyond full scale, sums of squares would no longer fit.
const mostPeak = 16

// Prepare gives mono at Rate without DC. Where left and right cancel, the
// louder side is taken instead of the mean. What goes far beyond full scale is
// brought to it.
func Prepare(b *audio.Buffer) []float32 {
	mono := audio.New(b.Rate, 1, b.Frames())
	x := mono.Channels[0]
	level := float32(1)
	if peak := b.Peak(); peak > mostPeak {
		level = float32(1 / peak)
	}
	scale := level / float32(len(b.Channels))
	var side float64
	loudest := 0
	for c, ch := range b.Channels {
		var e float64
		for i, v := range ch {
			x[i] += v * scale
			e += float64(v*level) * float64(v*level)
		}
		if e > side {
			side, loudest = e, c
		}
	}
	var sum float64
	for _, v := range x {
		sum += float64(v) * float64(v)
	}
	if sum < side/20 {
		for i, v := range b.Channels[loudest] {
			x[i] = v * level
		}
	}
	x = mono.Resample(Rate).Channels[0]
	cut := dsp.HighPass(20, math.Sqrt2/2, Rate)
	for i, v := range x {
		x[i] = float32(cut.Next(float64(v)))
	}
	return x
}
