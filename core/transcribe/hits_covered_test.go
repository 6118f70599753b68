package transcribe

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jubrak/core/groove"
	"jubrak/core/sound"
)

// Derivation: eight bars of hats at 120 BPM, 12 ms late on the second step and
// on time on the third; one on the second step of bar four is covered, and
// sound alone says four different things.
func TestCoveredHitLiesWhereItsFamilyLies(t *testing.T) {
	grid := groove.SteadyGrid(0, 120, 40, 4)
	var g guessed
	covered, truth := -1, 0.0
	for bar := range 8 {
		for step, late := range map[int]float64{1: 0.012, 2: 0} {
			at := 2*float64(bar) + 0.125*float64(step) + late
			c := TimeCase{Family: sound.HatClosed, Times: [Guesses]float64{at, at, at, at, at, at}}
			if bar == 3 && step == 1 {
				covered, truth = len(g.cases), at
				c.Times = [Guesses]float64{at - 0.012, at - 0.012, at - 0.004, at + 0.003, at - 0.012, at + 0.003}
			}
			g.cases = append(g.cases, c)
		}
	}
	g.byGrid(&grid)
	c := g.cases[covered]
	assert.InDelta(t, truth, c.Times[ByGrid], 1e-6)
	assert.InDelta(t, apart(truth, c.Times[ByNetwork]), c.Inputs[gridInput], 1e-6)
	assert.Greater(t, c.Inputs[gridInput+2], 0.0, "others speak for it")
	assert.Greater(t, c.Inputs[gridInput+3], 0.5, "and sound alone is at odds")
	for i, c := range g.cases {
		if i != covered {
			assert.InDelta(t, c.Times[ByNetwork], c.Times[ByGrid], 1e-6, "one that is out of place moves no other")
		}
	}
}

func TestFewHitsSayNothingOfTheGrid(t *testing.T) {
	grid := groove.SteadyGrid(0, 120, 40, 4)
	var g guessed
	for _, at := range []float64{0.012, 2.012} {
		g.cases = append(g.cases, TimeCase{Family: sound.Snare, Times: [Guesses]float64{at, at, at, at, at, at}})
	}
	g.byGrid(&grid)
	assert.Equal(t, g.cases[0].Times[ByNetwork], g.cases[0].Times[ByGrid])
	assert.Zero(t, g.cases[0].Inputs[gridInput+2])
	g.byGrid(nil)
	assert.Equal(t, g.cases[1].Times[ByNetwork], g.cases[1].Times[ByGrid])
}

// What the others say lies among them, and a hit does not speak for itself.
func TestUsuallyLiesAmongTheOthers(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		n := rapid.IntRange(2, 40).Draw(r, "hits")
		list := make([]stepped, n)
		low, high := math.Inf(1), math.Inf(-1)
		mine := rapid.IntRange(0, n-1).Draw(r, "which")
		for i := range list {
			list[i] = stepped{bar: i / 4, step: i % 4, trust: rapid.Float64Range(0.1, 1).Draw(r, "trust"), offset: rapid.Float64Range(-0.03, 0.03).Draw(r, "offset")}
			if i != mine {
				low, high = math.Min(low, list[i].offset), math.Max(high, list[i].offset)
			}
		}
		list[mine].offset = 1
		offset, spread, weight := usually(list, mine)
		assert.GreaterOrEqual(r, offset, low)
		assert.LessOrEqual(r, offset, high)
		assert.GreaterOrEqual(r, spread, 0.0)
		assert.Greater(r, weight, 0.0)
	})
}
