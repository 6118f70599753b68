package match

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
		sound.Snare: {Fundamental: exactly(230), Decay: exactly(120), Count: 4}, sound.HatClosed: {Brightness: exactly(10500)},
		sound.Kick: {Fundamental: exactly(50), Decay: exactly(300)}, sound.Cowbell: {Decay: exactly(100)},
	}
	measured := func(d *project.Document) *Comparison {
		mine, err := MeasureMine(context.Background(), d, nil, nil)
		require.NoError(t, err)
		mine.MeasureTones(d, nil, p)
		return Compare(d, mine, p.Analysis(), p)
	}
	c := measured(d)
	assert.Nil(t, c.row("Fundamental.kick"), "the kick's fundamental has a row of its own")
	assert.Equal(t, "not enough in mine to say", c.row("Decay.cowbell").Why)
	for _, id := range []string{"Fundamental.snare", "Decay.snare", "Decay.kick"} {
		r := c.row(id)
		require.NotNil(t, r.Inside, id)
		require.False(t, *r.Inside, id)
		require.NotEmpty(t, r.Edits, id)
		next, _, err := d.Apply(r.Edits, nil)
		require.NoError(t, err)
		after := measured(next).row(id)
		assert.True(t, *after.Inside, "%s: %v against %v", id, *after.Mine, *after.Reference)
	}
	// A range is its own tolerance.
	wide := p.Tones[sound.Snare]
	wide.Decay = &profile.Range{Low: 50, High: 1000}
	p.Tones[sound.Snare] = wide
	assert.True(t, *measured(d).row("Decay.snare").Inside)
	assert.Nil(t, measured(d).row("Brightness.snare"), "nothing said, nothing asked")
}
