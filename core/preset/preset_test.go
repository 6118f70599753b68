package preset

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/engine"
	"jubrak/core/measure"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// Asked: at least 120 sounds, of every family, each in its family by the ranges of
// common practice unless it is meant to be strange, no two alike.
func TestTheShippedSounds(t *testing.T) {
	all := Sounds()
	assert.GreaterOrEqual(t, len(all), 120)
	seen, families := map[string]bool{}, map[sound.Family]int{}
	for _, s := range all {
		assert.False(t, seen[s.ID], s.ID)
		seen[s.ID] = true
		families[s.Family]++
		require.NoError(t, (&sound.Kit{Voices: []sound.Voice{s.Voice()}}).Validate(), s.ID)
		facts, ok := Known(s.ID)
		require.True(t, ok, "%s has not been measured: go run ./fixtures/sounds", s.ID)
		if in, why := InFamily(s.Family, facts); !in && !slices.Contains(s.Tags, "strange") {
			t.Errorf("%s is not as its family: %s", s.ID, why)
		}
		assert.NotEmpty(t, s.Tags, s.ID)
	}
	for _, f := range sound.Families {
		assert.GreaterOrEqual(t, families[f], 5, f)
	}
	for i, a := range all {
		for _, b := range all[i+1:] {
			if a.Family == b.Family {
				fa, fb := known[a.ID], known[b.ID]
				assert.Greater(t, fa.Print.Distance(fb.Print), 0.7, "%s and %s are the same", a.ID, b.ID)
			}
		}
	}
	assert.Nil(t, Find("nothing"))
	assert.Equal(t, "Rink floor", Find("kick-rink-floor").Name)
}

// What is known of the sounds is what they measure now, and they are as loud as their
// family is asked to be, or as their peak allows.
func TestFactsAreCurrent(t *testing.T) {
	for i, s := range Sounds() {
		if i%6 != 0 {
			continue
		}
		v := s.Voice()
		had := v.Layers[0].Level
		b := synth.Shot(&v, nil, engine.Rate, synth.Hard(127, 1), 4000)
		loud := measure.Loudest(b, 0.1)
		peak := 20 * math.Log10(b.Peak())
		want := loudness(s.Family)
		assert.True(t, math.Abs(loud-want) < 0.3 || math.Abs(peak-hardest) < 0.3 && loud < want || had == 12, "%s: %.1f LUFS, peak %.1f dBFS: go run ./fixtures/sounds", s.ID, loud, peak)
		v.Layers = slices.Clone(v.Layers)
		v.Layers[0].Level = 0
		now, was := Measure(&v, nil), known[s.ID]
		assert.InDelta(t, was.Level, now.Level, 0.15, s.ID)
		assert.Less(t, was.Print.Distance(now.Print), 0.5, s.ID)
	}
}

func TestVary(t *testing.T) {
	r := Find("kick-dirty-front").Layers[0].Recipe
	all := Vary(*r, 12, 30, Groups, 7)
	require.Len(t, all, 12)
	assert.Equal(t, Vary(*r, 12, 30, Groups, 7), all, "the same seed, the same recipes")
	assert.Equal(t, Vary(*r, 3, 30, Groups, 7), all[:3])
	assert.NotEqual(t, Vary(*r, 1, 30, Groups, 8)[0], all[0])
	for i := range all {
		require.NoError(t, all[i].Validate())
		assert.NotEqual(t, *r, all[i])
	}
	assert.Equal(t, *r, Vary(*r, 1, 0, Groups, 7)[0], "0 % changes nothing")
	pitch := Vary(*r, 1, 30, []string{Pitches}, 7)[0]
	assert.NotEqual(t, r.Body.End, pitch.Body.End)
	assert.Equal(t, r.Body.Decay, pitch.Body.Decay, "times were not asked for")
	assert.Equal(t, Groups, []string{Group(&sound.Params.Find("body.end_hz").Param), Group(&sound.Params.Find("body.decay_ms").Param), Group(&sound.Params.Find("noise.colour_hz").Param), Group(&sound.Params.Find("noise.level_db").Param)})
}

func TestPrints(t *testing.T) {
	print := func(id string) measure.Print { return known[id].Print }
	kick := print("kick-rink-floor")
	assert.Zero(t, kick.Distance(kick))
	assert.Less(t, kick.Distance(print("kick-house-lights")), kick.Distance(print("snare-rink-snap")))
	assert.Less(t, print("hat_closed-tight-one").Distance(print("hat_closed-wide-tick")), print("hat_closed-tight-one").Distance(print("hat_open-open-rink")))
	assert.Greater(t, kick.Distance(nil), 50.0)
}
