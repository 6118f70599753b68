package fit_test

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/fit"
	"jubrak/core/preset"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// library is some of the shipped sounds, struck.
func library(every int) (out []fit.Candidate) {
	for i, s := range preset.Sounds() {
		if i%every == 0 {
			v := s.Voice()
			out = append(out, fit.Candidate{Name: s.Name, Shot: synth.Shot(&v, preset.Material(), 48000, synth.Hard(112, 1), 1200)})
		}
	}
	return out
}

// A target that is a sum of two sounds of the library: both are found, gains within 1 dB and
// starts within 1 ms.
func TestASumOfTwoIsFound(t *testing.T) {
	list := library(4)
	require.Greater(t, len(list), 20)
	r := rand.New(rand.NewPCG(26, 1))
	rounds := 4
	if testing.Short() {
		rounds = 2
	}
	for range rounds {
		a, b := r.IntN(len(list)), r.IntN(len(list))
		if a == b {
			continue
		}
		gain, start := -12+14*r.Float64(), math.Round(100*(1+11*r.Float64()))/100
		target := fit.Sum(list, []fit.Pick{{Candidate: a, LowCut: 20, HighCut: 20000}, {Candidate: b, Gain: gain, Start: start, LowCut: 20, HighCut: 20000}})
		for i := range target.Channels[0] {
			target.Channels[0][i] *= 0.5
		}
		c, err := fit.Combine(context.Background(), &fit.Target{Sound: target, Family: sound.Perc}, list, func(float64) {})
		require.NoError(t, err)
		require.Len(t, c.Picks, 2, "%s and %s at %.1f dB", list[a].Name, list[b].Name, gain)
		by := map[int]fit.Pick{c.Picks[0].Candidate: c.Picks[0], c.Picks[1].Candidate: c.Picks[1]}
		require.Contains(t, by, a)
		require.Contains(t, by, b)
		assert.InDelta(t, gain, by[b].Gain-by[a].Gain, 1)
		assert.InDelta(t, start, by[b].Start-by[a].Start, 1)
		assert.Less(t, c.Distance, 0.2)
	}
}

// A target that is none of them: levels are added up, and more sounds come nearer than one.
func TestLayersOfAStranger(t *testing.T) {
	list := library(6)
	target := audio.New(44100, 1, 30000)
	r := rand.New(rand.NewPCG(3, 3))
	for i := range target.Channels[0] {
		at := float64(i) / 44100
		target.Channels[0][i] = float32(0.6*math.Sin(2*math.Pi*190*at)*math.Exp(-at/0.05) + 0.3*r.NormFloat64()*math.Exp(-at/0.07))
	}
	c, err := fit.Combine(context.Background(), &fit.Target{Sound: target, Family: sound.Snare}, list, func(float64) {})
	require.NoError(t, err)
	assert.NotEmpty(t, c.Picks)
	assert.Less(t, c.Explained, 0.7)
	assert.Less(t, c.Distance, 7.0)
	_, err = fit.Combine(context.Background(), &fit.Target{Sound: audio.New(48000, 1, 48000)}, list, func(float64) {})
	assert.ErrorIs(t, err, fit.ErrSilent)
}
