package fit_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/fit"
	"jubrak/core/sound"
)

// pattern is kicks, snares and hats over four seconds.
func pattern() *audio.Buffer {
	b := audio.New(48000, 1, 4*48000)
	put := func(f sound.Family, every, from float64, gain float32) {
		shot := fit.Render(sound.DefaultRecipe(f), 800).Mono()
		for at := from; at < 4; at += every {
			for i, v := range shot {
				if j := int(at*48000) + i; j < b.Frames() {
					b.Channels[0][j] += gain * float32(v)
				}
			}
		}
	}
	put(sound.Kick, 1, 0.02, 0.5)
	put(sound.Snare, 1, 0.52, 0.4)
	put(sound.HatClosed, 0.25, 0.02, 0.3)
	return b
}

func treated(b *audio.Buffer, effects ...effect.Effect) *audio.Buffer {
	chain, _ := effect.NewChain(effects, 48000)
	out := b.Clone()
	x := make([]float64, effect.MaxBlock)
	for at := 0; at < b.Frames(); at += effect.MaxBlock {
		n := min(effect.MaxBlock, b.Frames()-at)
		for i := range n {
			x[i] = float64(b.Channels[0][at+i])
		}
		chain.Process(effect.Block{Left: x[:n]}, nil)
		for i := range n {
			out.Channels[0][at+i] = float32(x[i])
		}
	}
	return out
}

// A known equalizer and compressor are undone: third octaves within 1.5 dB in the mean, the
// crest within 1 dB. Here the reference went through them, or my sound did.
func TestChainOfAKnownTreatment(t *testing.T) {
	eq := effect.New("eq", effect.KindOf("eq"), map[string]float64{"band1.gain_db": 5, "band1.hz": 90, "band3.gain_db": -6, "band3.hz": 1500, "band4.gain_db": 4, "band4.hz": 7000})
	comp := effect.New("c", effect.KindOf("compressor"), map[string]float64{"threshold_db": -20, "ratio": 4, "attack_ms": 5})
	dry := pattern()
	wet := treated(dry, eq, comp)
	for name, c := range map[string][2]*audio.Buffer{"towards": {dry, wet}, "undone": {wet, dry}} {
		got, err := fit.Chain(t.Context(), c[0], c[1])
		require.NoError(t, err)
		t.Logf("%s: before %+v after %+v, %v", name, got.Before, got.After, got.Does)
		assert.Greater(t, got.Before.Balance, 1.5, name)
		assert.Less(t, got.After.Balance, 1.5, name)
		assert.Less(t, math.Abs(got.After.Crest), 1.0, name)
		for _, s := range got.Effects {
			assert.NoError(t, s.Validate())
		}
	}
	same, err := fit.Chain(t.Context(), dry, dry)
	require.NoError(t, err)
	assert.Len(t, same.Effects, 1, "an equalizer that does next to nothing")
	assert.Contains(t, same.Does[0], "nothing")
	_, err = fit.Chain(t.Context(), dry, audio.New(48000, 1, 48000))
	assert.ErrorIs(t, err, fit.ErrSilent)
}

// A room is heard, and one is added.
func TestChainOfARoom(t *testing.T) {
	dry := pattern()
	wet := treated(dry, effect.New("r", effect.KindOf("reverb"), map[string]float64{"decay_ms": 600, "mix_percent": 25}))
	got, err := fit.Chain(t.Context(), dry, wet)
	require.NoError(t, err)
	assert.Greater(t, got.Before.Space, 2.0)
	assert.Less(t, math.Abs(got.After.Space), 1.5)
	assert.Contains(t, got.Does[len(got.Does)-1], "Room")
}
