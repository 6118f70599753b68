package drumnet

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
func Prepare(b *audio.Buffer) []float32 { return PrepareOver(b.Clone()) }

// PrepareOver is Prepare for a recording that is not needed any more: nothing is
// left in b, whose memory the result may have, as a long one is large.
func PrepareOver(b *audio.Buffer) []float32 {
	level := float32(1)
	if peak := b.Peak(); peak > mostPeak {
		level = float32(1 / peak)
	}
	mono := audio.Buffer{Rate: b.Rate, Channels: [][]float32{fold(b.Channels, level)}}
	b.Channels = nil
	x := mono.Resample(Rate).Channels[0]
	cut := dsp.HighPass(20, math.Sqrt2/2, Rate)
	for i, v := range x {
		x[i] = float32(cut.Next(float64(v)))
	}
	return x
}

// fold writes the mean of all channels, or the loudest where they cancel, to the
// memory of one of them.
func fold(channels [][]float32, level float32) []float32 {
	scale := level / float32(len(channels))
	mean := func(i int) (m float32) {
		for _, ch := range channels {
			m += ch[i] * scale
		}
		return m
	}
	var sum, side float64
	loudest := channels[0]
	for _, ch := range channels {
		var e float64
		for _, v := range ch {
			e += float64(v*level) * float64(v*level)
		}
		if e > side {
			side, loudest = e, ch
		}
	}
	for i := range loudest {
		m := float64(mean(i))
		sum += m * m
	}
	if sum < side/20 {
		for i := range loudest {
			loudest[i] *= level
		}
		return loudest
	}
	for i := range loudest {
		loudest[i] = mean(i)
	}
	return loudest
}
