package drums

import (
	"math"

	"jubrak/core/audio"
)

// Print is the level of one drum, which begins with its stroke, by UsualEnds and band, dB.
func Print(b *audio.Buffer) [][]float64 {
	b = b.Resample(rate)
	x := make([]float32, lead+b.Frames())
	for i, v := range b.Mono() {
		x[lead+i] = float32(v)
	}
	t := newTransform(analysisSize)
	X := grid(t.frames(len(x)+t.size), t.bins)
	t.run(x, 0, X)
	bands := bandsOf(t)
	out := plane(len(UsualEnds), len(bands))
	zone := 0
	count := 0
	for k := strokeFrame(t) - 1; k < len(X); k++ {
		for k-strokeFrame(t) >= UsualEnds[zone] {
			zone++
			count = 0
		}
		count++
		for n, band := range bands {
			sum := 0.0
			for b := band[0]; b < band[1]; b++ {
				sum += power(X[k][b])
			}
			out[zone][n] += (sum - out[zone][n]) / float64(count)
		}
	}
	for z := range out {
		for n, v := range out[z] {
			out[z][n] = 10 * math.Log10(v+1e-20)
		}
	}
	return out
}

// strokeFrame is the frame in which a stroke is first in the middle.
func strokeFrame(t *transform) int { return (lead + t.size - t.hop - t.size/2) / t.hop }
