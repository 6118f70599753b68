package compare

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
)

func exactly(v float64) *profile.Range { return &profile.Range{Low: v, High: v} }

// What the rows offer brings the drum inside.
func TestTonesOfAProfileAreReached(t *testing.T) {
	d := project.New("x")
	p := house(t)
	p.Tones = map[sound.Family]profile.Tone{
		sound.Snare: {Fundamental: exactly(230), Decay: exactly(120), Count: 4}, sound.HatClosed: {Brightness: exactly(9000)},
		sound.Kick: {Fundamental: exactly(50), Decay: exactly(300)}, sound.Cowbell: {Decay: exactly(100)},
	}
	a := &Against{Analysis: p.Analysis(), Profile: p}
	measured := func(d *project.Document) *Comparison {
		mine, err := MeasureMine(context.Background(), d, nil)
		require.NoError(t, err)
		return Compare(d, mine, a)
	}
	c := measured(d)
	assert.Equal(t, "no voice of mine", c.Row("decay.cowbell").Why)
	k := &Closer{Plain: true}
	for _, id := range []string{"fundamental.snare", "decay.snare", "decay.kick", "brightness.hat_closed"} {
		r := c.Row(id)
		require.NotNil(t, r.Inside, id)
		require.False(t, *r.Inside, id)
		require.Equal(t, ByMeasure, r.Act, id)
		edits, off, err := k.Close(context.Background(), d, r)
		require.NoError(t, err)
		require.NotEmpty(t, edits, id)
		next, _, err := d.Apply(edits, nil)
		require.NoError(t, err)
		after := measured(next).Row(id)
		assert.True(t, *after.Inside, "%s: %v against %v", id, *after.Mine, *after.Reference)
		assert.InDelta(t, off, abs(*after.Difference), 0.01, "%s: what was found is what is measured", id)
	}
	// A range is its own tolerance.
	wide := p.Tones[sound.Snare]
	wide.Decay = &profile.Range{Low: 50, High: 1000}
	p.Tones[sound.Snare] = wide
	assert.True(t, *measured(d).Row("decay.snare").Inside)
	assert.Nil(t, measured(d).Row("brightness.snare"), "nothing said, nothing asked")
}

// What sounds as it did is not measured again, and what does not is.
func TestTonesAreMeasuredOnce(t *testing.T) {
	d := project.New("x")
	m, err := MeasureMine(context.Background(), d, nil)
	require.NoError(t, err)
	next, _, err := d.Apply(project.Edits{project.SetNumber{At: "snare/pan", Value: 50}, project.AddHit{Voice: "kick", Tick: 480}}, nil)
	require.NoError(t, err)
	again := *m
	require.NoError(t, again.Measure(context.Background(), next, nil))
	fresh, err := MeasureMine(context.Background(), next, nil)
	require.NoError(t, err)
	assert.Equal(t, fresh, &again)
	assert.Same(t, m.Tones[sound.Kick], again.Tones[sound.Kick])
	assert.NotSame(t, m.Tones[sound.Snare], again.Tones[sound.Snare])
}

func abs(v float64) float64 { return max(v, -v) }
