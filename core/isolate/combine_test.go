package isolate

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Worked example: uncorrelated sound falls by 3 dB for each doubling of what is averaged
// (signal averaging, van Drongelen, Signal Processing for Neuroscientists, ch. 4).
func TestNoiseFallsByThreeDecibelsForEachDoubling(t *testing.T) {
	tr := newTransform(analysisSize)
	levels := map[int]float64{}
	for _, n := range []int{4, 8, 16, 32} {
		r := rand.New(rand.NewPCG(uint64(n), 3))
		x := make([]float32, (n+1)*rate/2)
		for i := range x {
			x[i] = float32(0.05 * r.NormFloat64())
		}
		drum := make([]float32, rate/4)
		for i := range drum {
			s := float64(i) / rate
			drum[i] = float32(math.Sin(2*math.Pi*60*s) * math.Exp(-s/0.05))
		}
		one := &row{length: lead + rate/5, field: &field{}}
		for i := range n {
			at := rate/10 + i*rate/2
			for j, v := range drum {
				x[at+j] += v
			}
			one.strokes = append(one.strokes, stroke{place: float64(at), gain: 1, match: 1, used: true, next: math.Inf(1)})
		}
		one.estimate(tr, x)
		alone := &row{length: one.length}
		alone.same = grid(len(one.same), tr.bins)
		tr.run(append(make([]float32, lead), drum...), 0, alone.same)
		var left float64
		for k := range one.same[:30] {
			for b := range one.same[k] {
				left += power(one.same[k][b] - alone.same[k][b])
			}
		}
		levels[n] = 10 * math.Log10(left)
	}
	for _, n := range []int{4, 8, 16} {
		assert.InDelta(t, -3, levels[2*n]-levels[n], 1, "from %d to %d strokes: %v", n, 2*n, levels)
	}
}

// The windows' squares add up to one: what goes through comes back.
func TestTheTransformComesBack(t *testing.T) {
	tr := newTransform(analysisSize)
	x := make([]float32, 9000)
	for i := range x {
		x[i] = float32(math.Sin(float64(i)*0.07) + math.Sin(float64(i)*0.9))
	}
	X := grid(tr.frames(len(x)), tr.bins)
	tr.run(x, 0, X)
	for i, v := range tr.inverse(X, len(x))[1000:8000] {
		assert.InDelta(t, x[i+1000], v, 1e-3, "at %d", i)
	}
	// From between two samples: the sine is later by a quarter.
	tr.run(x, 0.25, X)
	for i, v := range tr.inverse(X, len(x))[1000:8000] {
		at := float64(i+1000) + 0.25
		assert.InDelta(t, math.Sin(at*0.07)+math.Sin(at*0.9), v, 0.01)
	}
}

func TestAFieldTakesAwayWhatItWasGiven(t *testing.T) {
	tr := newTransform(analysisSize)
	r := &row{field: &field{}, own: plane(5, tr.bins), strokes: []stroke{{place: 9000, gain: 0.5}, {place: 9400, gain: 1}, {place: -800, gain: 1}}}
	for k := range r.own {
		for b := range r.own[k] {
			r.own[k][b] = 4
		}
	}
	r.expect(tr, 1)
	first := frameOf(tr, 9000)
	assert.EqualValues(t, 1, r.field.at(first)[7], "gain squared times power")
	assert.EqualValues(t, 5, r.field.at(first + 3)[7], "both")
	r.expect(tr, -1)
	assert.EqualValues(t, 0, r.field.at(first + 3)[7])
	assert.Nil(t, r.field.at(-1))
}
