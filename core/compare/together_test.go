package compare

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/dsp"
	"jubrak/core/engine"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// thump is a decaying sine that begins after some frames.
func thump(hz float64, after int, sign float32) *sound.Sample {
	x := make([]float32, engine.Rate/2)
	for i := after; i < len(x); i++ {
		t := float64(i-after) / engine.Rate
		x[i] = sign * float32(0.5*math.Sin(2*math.Pi*hz*t)*math.Exp(-t*14))
	}
	return &sound.Sample{Rate: engine.Rate, X: [][]float32{x}}
}

func layered(blobs ...string) *project.Document {
	d := project.New("x")
	v := &d.Kit.Voices[0]
	v.Layers = nil
	for _, b := range blobs {
		v.Layers = append(v.Layers, sound.Recorded(b, b, b))
	}
	return d
}

// Derivation: the same sound twice doubles the amplitude, 3 dB more than the
// energy of both; turned over it cancels; half a period late it does so too.
func TestLayersThatCancelAreToldAndAligned(t *testing.T) {
	late := engine.Rate / 60 / 2
	samples := sound.Samples{"a": thump(60, 0, 1), "same": thump(60, 0, 1), "flipped": thump(60, 0, -1), "late": thump(60, late, 1), "high": thump(3000, 0, 1)}
	same := AddUp(&layered("a", "same").Kit.Voices[0], samples)
	assert.Empty(t, same.Losses)
	assert.Empty(t, same.Edits)
	assert.Equal(t, "No cancellation between layers.", same.Text)
	apart := AddUp(&layered("a", "high").Kit.Voices[0], samples)
	assert.Empty(t, apart.Losses, "what shares nothing cancels nothing")
	for _, other := range []string{"flipped", "late"} {
		d := layered("a", other)
		got := AddUp(&d.Kit.Voices[0], samples)
		require.NotEmpty(t, got.Losses, other)
		assert.True(t, got.Losses[0].From < 60 && got.Losses[0].To > 60, "%s: %+v", other, got.Losses)
		assert.Less(t, got.Losses[0].By, -6.0)
		assert.Contains(t, got.Text, "Layers cancel: −")
		require.NotEmpty(t, got.Edits, other)
		next, _, err := d.Apply(got.Edits, nil)
		require.NoError(t, err)
		after := AddUp(&next.Kit.Voices[0], samples)
		assert.Empty(t, after.Losses, "%s: %s", other, got.Change)
		assert.Empty(t, after.Edits, "done once, it is done")
	}
	d := layered("late", "a")
	d.Kit.Voices[0].Layers[0].Level = 3 // the fullest, so that the other must come later
	got := AddUp(&d.Kit.Voices[0], samples)
	require.Len(t, got.Edits, 1)
	assert.InDelta(t, float64(late)/engine.Rate*1000, got.Edits[0].(project.SetNumber).Value, 0.1)
	one := AddUp(&layered("a").Kit.Voices[0], samples)
	assert.Empty(t, one.Text)
	d.Kit.Voices[0].Layers[1].Mute = true
	assert.Empty(t, AddUp(&d.Kit.Voices[0], samples).Text, "a muted layer adds nothing")
}

// Noises that have nothing in common neither win nor lose.
func TestNoisesAddUpByEnergy(t *testing.T) {
	noise := func(seed uint64) *sound.Sample {
		n := dsp.NewNoise(seed)
		x := make([]float32, engine.Rate/2)
		for i := range x {
			x[i] = float32(n.Next() * 0.3)
		}
		return &sound.Sample{Rate: engine.Rate, X: [][]float32{x}}
	}
	got := AddUp(&layered("a", "b").Kit.Voices[0], sound.Samples{"a": noise(1), "b": noise(2)})
	for _, l := range got.Losses {
		assert.Less(t, l.To, 120.0, "only where a band holds few waves")
	}
	assert.Empty(t, got.Edits)
}
