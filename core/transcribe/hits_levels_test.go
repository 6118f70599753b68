package transcribe

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/sound"
	"jubrak/core/synth"
	"jubrak/core/transcribe/drumnet"
)

// drummed strikes drums of a family's default recipe at times with velocities.
func drummed(x []float32, f sound.Family, times []float64, velocities []int) {
	for i, at := range times {
		shot := synth.OneShot(sound.DefaultRecipe(f), rate, synth.Hard(velocities[i], uint64(i)), 2000).Channels[0]
		for j, v := range shot {
			if k := int(at*rate) + j; k < len(x) {
				x[k] += 0.6 * v
			}
		}
	}
}

func sceneOf(t require.TestingT, x []float32) *drumnet.Scene {
	s, err := drumnet.NewSpectrum(context.Background(), x, func(float64) {})
	require.NoError(t, err)
	return drumnet.NewScene(s)
}

// hitsIn hears what was struck, without its context.
func hitsIn(t require.TestingT, x []float32) []Hit {
	s := sceneOf(t, x)
	named := decide(drumnet.Trained().Hear(s))
	return timeHits(newEnvelopes(x, s.Lows), s, named, nil)
}

// Derivation: amplitude goes by the square of velocity, so levels lie
// 40·log10 of its ratio apart.
func TestLevelsOfAKnownPlayer(t *testing.T) {
	x := make([]float32, 9*rate)
	var times []float64
	var velocities []int
	for i := range 16 {
		times = append(times, 0.3+0.5*float64(i))
		velocities = append(velocities, []int{120, 60, 100, 80}[i%4])
	}
	drummed(x, sound.Kick, times, velocities)
	hits := hitsIn(t, x)
	var kicks []Hit
	for _, h := range hits {
		if h.Family == sound.Kick {
			kicks = append(kicks, h)
		}
	}
	require.Len(t, kicks, 16)
	for i, h := range kicks {
		assert.InDelta(t, times[i], h.Time, 0.002)
		ratio := float64(h.Velocity) / float64(kicks[0].Velocity)
		assert.InDelta(t, 40*math.Log10(float64(velocities[i])/120), 40*math.Log10(ratio), 2.5, "hit %d, dB", i)
	}
}

func TestLevelCasesAreCentred(t *testing.T) {
	x := make([]float32, 6*rate)
	drummed(x, sound.Kick, []float64{0.3, 1.3, 2.3, 3.3, 4.3}, []int{110, 90, 70, 110, 50})
	drummed(x, sound.HatClosed, []float64{0.3, 0.8, 1.3, 1.8, 2.3, 2.8}, []int{90, 60, 90, 60, 90, 60})
	cases := LevelCases(sceneOf(t, x), x)
	require.GreaterOrEqual(t, len(cases), 8)
	sum := map[sound.Family]float64{}
	for _, c := range cases {
		sum[c.Family] += c.Usual()
		for _, v := range c.Inputs {
			require.False(t, math.IsNaN(v) || math.IsInf(v, 0))
		}
	}
	for f, s := range sum {
		assert.InDelta(t, 0, s, 1e-6, "%s lies around its own mean", f)
	}
}

// Levels do not depend on how loud the file is.
func TestLevelsFollowNoGain(t *testing.T) {
	x := make([]float32, 5*rate)
	drummed(x, sound.Snare, []float64{0.3, 0.9, 1.5, 2.1, 2.7, 3.3}, []int{110, 50, 100, 40, 115, 60})
	reference := hitsIn(t, x)
	for _, g := range []float32{0.02, 0.17, 0.5} {
		y := make([]float32, len(x))
		for i, v := range x {
			y[i] = g * v
		}
		got := hitsIn(t, y)
		require.Len(t, got, len(reference))
		for i := range got {
			require.InDelta(t, reference[i].Velocity, got[i].Velocity, 2)
			require.InDelta(t, reference[i].Time, got[i].Time, 0.001)
		}
	}
}

// Drums alone, and under a chord of known loudness.
func TestDrumsAgainstTheRest(t *testing.T) {
	drums := make([]float32, 12*rate)
	var times []float64
	var kick, hat []int
	for i := range 22 {
		times = append(times, 0.2+0.5*float64(i))
		kick, hat = append(kick, 110), append(hat, 80)
	}
	drummed(drums, sound.Kick, times, kick)
	drummed(drums, sound.HatClosed, times, hat)
	chord := make([]float32, len(drums))
	for i := range chord {
		for _, hz := range []float64{110, 220, 277.2, 329.6} {
			chord[i] += float32(0.2 * math.Sin(2*math.Pi*hz*float64(i)/rate))
		}
	}
	shareAt := func(gain float32) *Share {
		b := audio.New(rate, 1, len(drums))
		for i := range drums {
			b.Channels[0][i] = 0.5 * (drums[i] + gain*chord[i])
		}
		raw, err := Analyze(context.Background(), b, func(string, float64) {})
		require.NoError(t, err)
		require.NotNil(t, raw.Share)
		return raw.Share
	}
	alone := shareAt(0)
	assert.True(t, alone.Alone, "%+v", alone)
	loud, soft := shareAt(1), shareAt(0.1)
	assert.False(t, loud.Alone)
	assert.Greater(t, soft.DB-loud.DB, 8.0, "20 dB less of the chord")
	assert.Positive(t, loud.Error)
	raw, err := Analyze(context.Background(), audio.New(rate, 1, 3*rate), func(string, float64) {})
	require.NoError(t, err)
	assert.Nil(t, raw.Share, "silence has no balance")
}

func TestTheMixIsSeenToDuck(t *testing.T) {
	// Noise that falls by 6 dB for 60 ms at each hit, and noise that does not.
	r := rand.New(rand.NewPCG(3, 4))
	ducked, steady := make([]float32, 4*rate), make([]float32, 4*rate)
	var hits []found
	for n := range 6 {
		hits = append(hits, found{frame: (n*rate/2 + rate/4) / hop, family: sound.Kick, time: float64(n)/2 + 0.25})
	}
	for i := range ducked {
		v := float32(0.1 * r.NormFloat64())
		steady[i], ducked[i] = v, v
		if since := (i + rate/4) % (rate / 2); since < rate*6/100 {
			ducked[i] = v / 2
		}
	}
	a, b := newMixLevels(sceneOf(t, ducked), hits), newMixLevels(sceneOf(t, steady), hits)
	assert.Less(t, a.file[1], b.file[1]-4, "dB")
	assert.Len(t, a.inputs(0, sound.Kick), mixInputs)
	assert.NotPanics(t, func() { newMixLevels(sceneOf(t, steady), nil) })
}

func TestSharesAreHeld(t *testing.T) {
	share := []float64{-60, 1, 30}
	holdTo(share, []float64{-4, 0, 2}, []float64{-6, 0, 0})
	assert.Equal(t, []float64{-17, 1, 13}, share)
}
