package stretch

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jubrak/core/audio"
)

const rate = 44100

// A tone keeps its pitch, longer and shorter.
func TestPitchIsKept(t *testing.T) {
	b := audio.New(rate, 1, rate)
	for i := range b.Channels[0] {
		b.Channels[0][i] = float32(math.Sin(2 * math.Pi * 330 * float64(i) / rate))
	}
	for _, speed := range []float64{0.25, 0.5, 0.84, 1.19, 2, 4} {
		out := Sound(b, speed, []float64{0})
		assert.InDelta(t, rate/speed, out.Frames(), 1)
		x, crossings := out.Channels[0], 0
		from, to := len(x)/5, len(x)*4/5
		for i := from; i < to; i++ {
			if x[i-1] < 0 && x[i] >= 0 {
				crossings++
			}
		}
		assert.InEpsilon(t, 330, float64(crossings)/float64(to-from)*rate, 0.02, "at %g times the speed", speed)
	}
}

func TestKeptSpansAreInOrder(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		times := rapid.SliceOfN(rapid.Float64Range(-0.2, 2.2), 0, 20).Draw(r, "onsets")
		speed := rapid.Float64Range(0.25, 1).Draw(r, "speed")
		spans := kept(times, speed, 2*rate, rate)
		for i, s := range spans {
			assert.Less(r, s.from, s.to)
			if i > 0 {
				before := spans[i-1]
				assert.Less(r, before.to, s.from, "in the source")
				assert.LessOrEqual(r, before.out+before.to-before.from, s.out+1, "and in what is heard")
			}
		}
	})
}
