package profile

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/sound"
)

func take(name string, swing, snare, hat float64, hits int) Profile {
	return Profile{Name: name, Source: "measured", Meter: "4/4", Pair: 16, Tempo: exactly(92), Swing: exactly(swing), Tones: map[sound.Family]Tone{}, Balance: map[string]Range{},
		Voices: map[sound.Family]Voice{
			sound.Snare:     {Lean: exactly(snare), Scatter: exactly(3), Velocity: exactly(100), Density: exactly(0.5), Hits: hits, Contour: []float64{0, 2}, Accent: []float64{}},
			sound.HatClosed: {Lean: exactly(hat), Scatter: exactly(4), Velocity: exactly(80), Density: exactly(2), Hits: 4 * hits, Contour: []float64{}, Accent: []float64{}},
		}}
}

func measured(t *testing.T, p *Profile, id string) HabitMeasure {
	t.Helper()
	for _, m := range p.Habit.Measures {
		if m.ID == id {
			return m
		}
	}
	t.Fatalf("no measure %s", id)
	return HabitMeasure{}
}

// Derivation: of leans 9, 10, 11, 12 and 40 ms the median is 11, the median distance 1,
// so that 40 is out of the ordinary; the others lie within 6 ms and are shared.
func TestAHabitOfSeveralRecordings(t *testing.T) {
	from := []Profile{take("one", 58, 10, 2, 20), take("two", 58.5, 11, 9, 30), take("three", 57.5, 12, -6, 25), take("four", 58, 40, 14, 40), take("five", 58, 9, 4, 10)}
	h, err := Combine("Lazy", from)
	require.NoError(t, err)
	lean := measured(t, h, "Lean.snare")
	assert.Equal(t, Range{9, 12}, lean.Range)
	assert.Equal(t, 11.0, lean.Median)
	assert.Equal(t, []int{3}, lean.Odd)
	assert.True(t, lean.Shared)
	assert.Equal(t, 5, lean.Speak)
	assert.Equal(t, 125, lean.Hits)
	assert.False(t, measured(t, h, "Lean.hat_closed").Shared, "from −6 to 14 it varies")
	assert.Equal(t, Range{57.5, 58.5}, *h.Swing)
	assert.Equal(t, Range{9, 12}, *h.Voices[sound.Snare].Lean)
	assert.Equal(t, []float64{0, 2}, h.Voices[sound.Snare].Contour)
	require.NoError(t, h.Validate())

	// It grows.
	more, err := Combine("Lazy", []Profile{*h, take("six", 58, 15, 3, 10)})
	require.NoError(t, err)
	assert.Len(t, more.Habit.Recordings, 6)
	assert.Equal(t, 135, measured(t, more, "Lean.snare").Hits)

	// It is a target by its ranges, or by one recording.
	assert.InDelta(t, 1.5, h.Room("lean.snare"), 1e-9)
	assert.InDelta(t, 10.5, *h.Analysis().Feel.Voices["snare"].Lean, 1e-9)
	h.Habit.Aim = 4
	assert.Zero(t, h.Room("lean.snare"))
	assert.InDelta(t, 40, *h.Analysis().Feel.Voices["snare"].Lean, 1e-9)

	mine := take("mine", 58, 38, 13, 1)
	assert.Equal(t, 4, h.Nearest(&mine))
	mine = take("mine", 57.6, 12, -5, 1)
	assert.Equal(t, 3, h.Nearest(&mine))
	assert.Zero(t, from[0].Nearest(&mine))

	_, err = Combine("x", from[:1])
	assert.Error(t, err)
	_, err = Combine("x", make([]Profile, 99))
	assert.Error(t, err)
}
