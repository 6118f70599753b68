package ear

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/dsp"
)

// Prepare gives mono at Rate without DC. Where left and right cancel, the
// louder side is taken instead of the sum.
func Prepare(b *audio.Buffer) []float64 {
	mono := &audio.Buffer{Rate: b.Rate, Channels: [][]float32{make([]float32, b.Frames())}}
	var sum, side float64
	for i, v := range b.Mono() {
		mono.Channels[0][i] = float32(v)
		sum += v * v
	}
	loudest := 0
	for c, ch := range b.Channels {
		var e float64
		for _, v := range ch {
			e += float64(v) * float64(v)
		}
		if e > side {
			side, loudest = e, c
		}
	}
	if sum < side/20 {
		mono.Channels[0] = b.Channels[loudest]
	}
	x := mono.Resample(Rate).Mono()
	cut := dsp.HighPass(20, math.Sqrt2/2, Rate)
	cut.Run(x)
	return x
}
