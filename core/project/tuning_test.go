package project

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/music"
	"jubrak/core/preset"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// settledHz is where the pitch of a sound's tone settles: the tone alone, held long, its
// zero crossings counted over the last second.
func settledHz(t *testing.T, v sound.Voice) float64 {
	l := v.Layers[0]
	r := *l.Recipe
	r.Own()
	body := r.Body.Level > sound.Silent || r.DrivenBy("body.level_db") != nil
	r.Effects = nil
	r.Modulations = slices.DeleteFunc(r.Modulations, func(m sound.Modulation) bool { return m.At != "body.end_hz" && m.At != "ring.pitch_hz" })
	r = r.With(map[string]float64{
		"sub.level_db": -60, "snap.level_db": -60, "noise.level_db": -60, "metal.level_db": -60, "ring.wires_db": -60, "ring.modes": 1, "ring.damping_percent": 0,
		"body.wave": 0, "body.copies": 1, "body.second_percent": 0, "body.level_db": -60, "ring.level_db": -60,
	})
	if body {
		r = r.With(map[string]float64{"body.level_db": 0, "body.decay_ms": 4000})
	} else {
		r = r.With(map[string]float64{"ring.level_db": 0, "ring.decay_ms": 4000})
	}
	r.Tidy()
	l.Recipe = &r
	v.Layers = []sound.Layer{l}
	require.NoError(t, r.Validate())
	x := synth.Shot(&v, nil, 48000, synth.Stroke{Velocity: 110, Seed: 1, BeatMS: 500}, 3000).Mono()
	var first, last float64
	n := 0
	for i := 96000; i < min(len(x), 143000); i++ {
		if a, b := x[i-1], x[i]; a < 0 && b >= 0 {
			last = float64(i) - b/(b-a)
			if n == 0 {
				first = last
			}
			n++
		}
	}
	require.Greater(t, n, 10, v.Name)
	return float64(n-1) / (last - first) * 48000
}

// Every kick, tom and 808 that ships is tuned by note within 3 cents, also where a curve
// drives its pitch.
func TestEveryPitchedSoundIsTuned(t *testing.T) {
	measured, curved := 0, 0
	for _, s := range preset.Sounds() {
		if s.Family != sound.Kick && s.Family != sound.Tom && s.Family != sound.Bass808 {
			continue
		}
		d := apply(t, New("x"), SetSound{"kick", s.Layers, s.Name})
		v := d.Kit.Voice("kick")
		root := v.RootHz()
		require.Greater(t, root, 0.0, s.ID)
		if v.Layers[0].Recipe.DrivenBy("body.end_hz") != nil {
			curved++
		}
		for _, by := range []float64{3, -2} {
			note := music.NoteOf(root) + by
			next := apply(t, d, SetNote{Voice: "kick", Note: music.NoteText(note)})
			tuned := next.Kit.Voice("kick")
			assert.InDelta(t, note, music.NoteOf(tuned.RootHz()), 0.01, s.ID)
			measured++
			hz := settledHz(t, *tuned)
			assert.InDelta(t, 0, 1200*math.Log2(hz/music.Hz(note)), 3, "%s: %.2f Hz for %.2f", s.ID, hz, music.Hz(note))
		}
	}
	assert.Greater(t, measured, 60)
	assert.Greater(t, curved, 1)
}
