package profile

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/groove"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Practice: tempos and fundamentals as the trade has them (slow hip-hop
// 90-100, house 118-126, techno 130-138, half-time 119-160; kicks 40-60 Hz).
func TestGenres(t *testing.T) {
	seen := map[string]bool{}
	for _, p := range Genres() {
		require.NoError(t, p.Validate(), p.Name)
		assert.False(t, seen[p.ID], p.ID)
		seen[p.ID] = true
		assert.Equal(t, "common practice", p.Source)
		assert.Less(t, p.Tempo.Low, p.Tempo.High, "%s: a range, not a value", p.Name)
		assert.NotEmpty(t, p.Notes)
		assert.Contains(t, p.Voices, sound.Kick, p.Name)
		assert.True(t, p.KickHz.Low < 60 && p.KickHz.High > 40, p.Name)
	}
	assert.GreaterOrEqual(t, len(seen), 12)
	overlaps := func(id string, low, high float64) {
		p := genreCalled(id)
		require.NotNil(t, p, id)
		assert.True(t, p.Tempo.Low <= high && p.Tempo.High >= low, id)
	}
	overlaps("genre-hiphop-straight", 90, 100)
	overlaps("genre-house-classic", 118, 126)
	overlaps("genre-techno-driving", 130, 138)
	overlaps("genre-half-time-rolls", 119, 160)
}

func TestSavedFromAReference(t *testing.T) {
	lean, swing, tempo := 11.04, 57.8, 92.0
	a := &transcribe.Analysis{Tempo: &tempo, Meter: "4/4", Groove: transcribe.Density{Density: map[sound.Family]float64{sound.Snare: 0.5}},
		Balance: &transcribe.Balance{Sub: -3},
		Feel: &groove.Measured{Pair: 16, Swing: &swing, Voices: map[string]groove.MeasuredVoice{
			"snare": {Lean: &lean, VelocityMean: 100, Contour: []*float64{nil, &lean}, Accent: []*float64{nil, nil}},
		}}}
	p, err := Of(a, nil, "  Lazy skate ", "from the rink", []string{"lazy"})
	require.NoError(t, err)
	assert.Equal(t, "Lazy skate", p.Name)
	assert.Equal(t, 11.04, p.Voices[sound.Snare].Lean.Middle())
	assert.Zero(t, p.Voices[sound.Snare].Lean.Half())
	assert.Equal(t, []float64{0, 11.04}, p.Voices[sound.Snare].Contour)
	assert.Empty(t, p.Voices[sound.Snare].Accent, "what was not given is not made up")
	assert.Equal(t, -3.0, p.Balance["sub"].Low)
	_, err = Of(&transcribe.Analysis{}, nil, "x", "", nil)
	assert.ErrorContains(t, err, "no beat")
	for _, bad := range []func(*Profile){
		func(p *Profile) { p.Name = " " }, func(p *Profile) { p.Pair = 7 }, func(p *Profile) { p.Tempo = &Range{90, 80} },
		func(p *Profile) { p.Notes = strings.Repeat("x", 5000) }, func(p *Profile) { p.Voices["spoon"] = Voice{} },
		func(p *Profile) { p.Voices[sound.Kick] = Voice{Lean: &Range{-900, 0}} },
	} {
		q, _ := Of(a, nil, "x", "", nil)
		bad(q)
		assert.Error(t, q.Validate())
	}
}

// genreCalled finds a genre by its id, or nil.
func genreCalled(id string) *Profile {
	for _, p := range Genres() {
		if p.ID == id {
			return &p
		}
	}
	return nil
}
