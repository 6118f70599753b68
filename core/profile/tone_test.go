package profile

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/measure"
	"jubrak/core/sound"
)

func TestToneOfHits(t *testing.T) {
	v := func(x float64) *float64 { return &x }
	hit := func(hz, ms *float64, bright float64) *measure.Measures {
		return &measure.Measures{Fundamental: hz, Decay: ms, Centroid: v(bright)}
	}
	got := ToneOf([]*measure.Measures{hit(v(55), v(300), 900), hit(v(55.5), v(350), 1000), hit(nil, nil, 800)})
	assert.Equal(t, 3, got.Count)
	assert.Equal(t, &Range{55, 55.5}, got.Fundamental)
	assert.Equal(t, &Range{300, 350}, got.Decay)
	assert.Equal(t, &Range{800, 1000}, got.Brightness)
	assert.Nil(t, got.Attack)
	got = ToneOf([]*measure.Measures{hit(v(55), nil, 900), hit(nil, nil, 1000), hit(nil, nil, 800)})
	assert.Nil(t, got.Fundamental, "one of three is not enough")
	got = ToneOf([]*measure.Measures{hit(v(55), nil, 900), hit(v(190), nil, 900)})
	assert.Nil(t, got.Fundamental, "they do not agree")
	assert.Nil(t, ToneOf(nil).Brightness)

	p := Genres()[0]
	require.NoError(t, p.Validate())
	p.Tones = map[sound.Family]Tone{"spoon": {}}
	assert.Error(t, p.Validate())
	p.Tones = map[sound.Family]Tone{sound.Kick: {Decay: &Range{9, 3}}}
	assert.Error(t, p.Validate())
	p.Tones = map[sound.Family]Tone{sound.Kick: {Decay: &Range{300, 340}, Fundamental: &Range{50, 50}}}
	require.NoError(t, p.Validate())
	assert.InDelta(t, 6.25, p.Room("decay.kick"), 1e-9, "20 of 320, in percent")
	assert.Zero(t, p.Room("brightness.kick"))
	assert.Zero(t, p.Room("fundamental.kick"))
}
