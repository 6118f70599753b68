package ear

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/dsp"
)

// Prepare gives mono at Rate without DC. Where left and right cancel, the
// louder side is taken instead of the mean.
func Prepare(b *audio.Buffer) []float32 {
	mono := audio.New(b.Rate, 1, b.Frames())
	x := mono.Channels[0]
	scale := 1 / float32(len(b.Channels))
	var side float64
	loudest := 0
	for c, ch := range b.Channels {
		var e float64
		for i, v := range ch {
			x[i] += v * scale
			e += float64(v) * float64(v)
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
		copy(x, b.Channels[loudest])
	}
	x = mono.Resample(Rate).Channels[0]
	cut := dsp.HighPass(20, math.Sqrt2/2, Rate)
	for i, v := range x {
		x[i] = float32(cut.Next(float64(v)))
	}
	return x
}
