package transcribe

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

func TestTimesAreOneOfTheGuesses(t *testing.T) {
	x := make([]float32, 6*rate)
	drummed(x, sound.Kick, []float64{0.3, 1.31, 2.3, 3.3, 4.3}, []int{110, 90, 100, 110, 90})
	drummed(x, sound.HatClosed, []float64{0.312, 0.8, 1.3, 1.8, 2.305, 2.8}, []int{90, 60, 90, 60, 90, 60})
	named := decide(drumnet.Trained().Hear(sceneOf(t, x)))
	env := newEnvelopes(x, drumnet.LowsOf(x))
	guessed := env.guess(named, nil)
	strikes := guessed.strikes()
	for i, c := range guessed.cases {
		near := math.Inf(1)
		for _, guess := range c.Times {
			near = math.Min(near, math.Abs(math.Max(guess, 0)-strikes[i].time))
		}
		assert.Zero(t, near, "hit %d is at a time that was measured", i)
		for _, v := range c.Inputs {
			require.False(t, math.IsNaN(v) || math.IsInf(v, 0))
		}
	}
}

// Covered is a hit placed by the grid where no guess by sound agrees.
func TestCoveredIsWhatNoSoundConfirms(t *testing.T) {
	c := TimeCase{Times: [Guesses]float64{1, 1.004, 1.009, 1.012, 1.012, 1.012, 1.0046}}
	assert.True(t, c.confirmed(), "the family's own part of the spectrum agrees")
	c.Times[ByGrid] = 1.0065
	assert.False(t, c.confirmed())
}

func TestMovedHitIsNoLongerCovered(t *testing.T) {
	raw := &Raw{Duration: 4, Unit: 4, Hits: []Hit{{ID: "r1", Time: 1, Family: sound.HatClosed, Velocity: 80, Confidence: 0.9, Covered: true}}}
	weighed := Finish(raw, []Correction{{Kind: "weigh", Hit: "r1", Velocity: 90}})
	assert.True(t, weighed.Hits[0].Covered, "its time is as unsure as before")
	moved := Finish(raw, []Correction{{Kind: "move", Hit: "r1", Time: 1.01}})
	assert.False(t, moved.Hits[0].Covered)
}

// A kick and a hat some ms apart keep their own times, either way round.
func TestTwoDrumsSomeMillisecondsApart(t *testing.T) {
	var worst []float64
	for _, apart := range []float64{-0.012, -0.006, 0.006, 0.012} {
		x := make([]float32, 5*rate)
		var kicks, hats []float64
		var loud, soft []int
		for i := range 8 {
			at := 0.3 + 0.55*float64(i)
			kicks, hats = append(kicks, at), append(hats, at+apart)
			loud, soft = append(loud, 110), append(soft, 80)
		}
		drummed(x, sound.Kick, kicks, loud)
		drummed(x, sound.HatClosed, hats, soft)
		for _, h := range hitsIn(t, x) {
			played := map[sound.Family][]float64{sound.Kick: kicks, sound.HatClosed: hats}[h.Family]
			near := math.Inf(1)
			for _, p := range played {
				near = math.Min(near, math.Abs(p-h.Time)*1000)
			}
			if len(played) > 0 {
				worst = append(worst, near)
			}
		}
	}
	require.Greater(t, len(worst), 55, "nearly all of 64 are heard")
	var sum float64
	for _, ms := range worst {
		sum += ms / float64(len(worst))
	}
	assert.Less(t, sum, 1.6, "mean error in ms")
}

func TestApartIsBounded(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		a, b := rapid.Float64Range(0, 1000).Draw(r, "a"), rapid.Float64Range(0, 1000).Draw(r, "b")
		assert.LessOrEqual(r, math.Abs(apart(a, b)), 4.0)
		assert.InDelta(r, -apart(a, b), apart(b, a), 1e-9)
	})
	assert.InDelta(t, 1, apart(0.005, 0), 1e-12)
}

// Derivation: nine strokes of one sound lie 2 ms after their template begins.
// The tail of another drum misleads the envelope of the whole at seven of them,
// by 9 to 15 ms; at two the sound's own part is covered; the network is 1 ms
// late, more or less.
func TestTheOthersOfASoundTellItsOnset(t *testing.T) {
	same := &template{members: 9}
	g := &guessed{}
	for i := range 9 {
		at := 1 + 0.5*float64(i)
		c := TimeCase{Family: sound.Shaker}
		c.Times[ByWhole], c.Times[ByPart], c.Times[ByNetwork] = at, at, at+0.001+0.001*float64(i%3-1)
		if i < 7 {
			c.Times[ByWhole] = at + 0.009 + 0.001*float64(i)
		} else {
			c.Times[ByPart] = at - 0.012
		}
		g.cases = append(g.cases, c)
		var again [Zones]repeat
		again[highZone] = repeat{kind: same, start: at - 0.002, fit: 0.8}
		g.again = append(g.again, again)
	}
	g.cases = append(g.cases, TimeCase{Family: sound.Ride, Times: [Guesses]float64{9, 9, 9.001}})
	g.again = append(g.again, [Zones]repeat{})
	g.byOthers()
	for i, c := range g.cases[:9] {
		at := 1 + 0.5*float64(i)
		assert.InDelta(t, at+0.011, c.Times[ByOthers+ByWhole], 0.0011)
		assert.InDelta(t, at, c.Times[ByOthers+ByPart], 1e-9)
		assert.InDelta(t, at+0.001, c.Times[ByOthers+ByNetwork], 1e-9)
		in := c.Inputs[othersInput:gridInput]
		assert.Equal(t, 0.8, in[0])
		assert.Greater(t, in[3], 0.3, "the whole is at odds with itself")
		assert.InDelta(t, 0, in[5], 1e-9, "the own part is not")
	}
	alone := g.cases[9]
	assert.Equal(t, 9.001, alone.Times[ByOthers], "nothing else of its sound: as the network hears it")
	assert.Zero(t, alone.Inputs[othersInput+1])
}
