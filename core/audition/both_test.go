package audition

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"jubrak/core/audio"
	"jubrak/core/measure"
)

// Two hits, 20 dB apart and of other rates: each as loud, in order, then a quarter as fast.
func TestOneAfterOther(t *testing.T) {
	hit := func(rate int, hz, gain float64) *audio.Buffer {
		b := audio.New(rate, 1, rate)
		for i := range b.Channels[0] {
			at := float64(i) / float64(rate)
			b.Channels[0][i] = float32(gain * math.Sin(2*math.Pi*hz*at) * math.Exp(-at/0.2))
		}
		return b
	}
	out := OneAfterOther(hit(48000, 800, 0.9), hit(44100, 1600, 0.09))
	assert.Len(t, out.Channels, 2)
	assert.InDelta(t, 2*(0.7+0.25)+2*(2.8+0.25), out.Seconds(), 0.01)
	part := func(from, to float64) *audio.Buffer { return out.Slice(int(from*48000), int(to*48000)) }
	first, second := part(0, 0.7), part(0.95, 1.65)
	assert.InDelta(t, measure.Loudest(first, 0.1), measure.Loudest(second, 0.1), 0.2)
	hz := func(b *audio.Buffer) float64 { return *measure.MeasureSpectrum(b).Centroid }
	assert.InDelta(t, 800, hz(first), 60)
	assert.InDelta(t, 1600, hz(second), 100)
	assert.InDelta(t, 200, hz(part(1.9, 4.7)), 30, "slowed with its pitch")
	assert.InDelta(t, 400, hz(part(4.95, 7.75)), 50)
	assert.InDelta(t, bothPeak, out.Peak(), 0.01, "nothing clips")
}
