package profile

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/sound"
)

func TestAProfileStandsForARecording(t *testing.T) {
	for _, p := range Genres() {
		a := p.Analysis()
		require.NotNil(t, a.Tempo, p.Name)
		assert.InDelta(t, p.Tempo.Middle(), *a.Tempo, 1e-9)
		assert.InDelta(t, p.Swing.Middle(), *a.Feel.Swing, 1e-9)
		assert.Equal(t, p.Pair, a.Feel.Pair)
		assert.Nil(t, a.Grid, "it has no beats of its own")
		assert.NotNil(t, a.Hits)
		assert.NotNil(t, a.Facts)
		for f, v := range p.Voices {
			m := a.Feel.Voices[string(f)]
			require.NotNil(t, m.Lean, "%s %s", p.Name, f)
			assert.InDelta(t, v.Lean.Middle(), *m.Lean, 1e-9)
			assert.InDelta(t, v.Density.Middle(), a.Groove.Density[f], 1e-9)
		}
	}
}

func TestRoomIsHalfTheRange(t *testing.T) {
	p := genreCalled("genre-hiphop-lazy")
	assert.InDelta(t, 6, p.Room("tempo"), 1e-9)
	assert.InDelta(t, 4, p.Room("swing"), 1e-9)
	assert.InDelta(t, 5.5, p.Room("lean.snare"), 1e-9)
	assert.InDelta(t, 2, p.Room("scatter.hat_closed"), 1e-9)
	assert.InDelta(t, 1200*math.Log2(62/53.5), p.Room("fundamental.kick"), 1e-9)
	assert.Zero(t, p.Room("lean.cowbell"), "nothing is said of it")
	assert.Zero(t, p.Room("loudness"))
	assert.Zero(t, (&Profile{}).Room("tempo"))
}

func TestRangesHaveAMiddle(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		low := rapid.Float64Range(-50, 50).Draw(r, "low")
		x := Range{low, low + rapid.Float64Range(0, 50).Draw(r, "wide")}
		assert.InDelta(r, x.High, x.Middle()+x.Half(), 1e-9)
		assert.InDelta(r, x.Low, x.Middle()-x.Half(), 1e-9)
	})
}

func TestBalanceNeedsAllRegions(t *testing.T) {
	p := &Profile{Pair: 16, Voices: map[sound.Family]Voice{}, Balance: map[string]Range{"sub": {-3, -1}}}
	assert.Nil(t, p.Analysis().Balance)
	for _, region := range []string{"low", "low_mid", "presence", "air"} {
		p.Balance[region] = Range{-12, -8}
	}
	b := p.Analysis().Balance
	require.NotNil(t, b)
	assert.InDelta(t, -2, b.Sub, 1e-9)
	assert.InDelta(t, -10, b.Presence, 1e-9)
}
