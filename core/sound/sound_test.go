package sound

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Published: General MIDI Level 1 percussion map.
func TestPercussionKeys(t *testing.T) {
	for key, f := range map[int]Family{35: Kick, 36: Kick, 37: Rim, 38: Snare, 40: Snare, 39: Clap, 42: HatClosed, 44: HatClosed, 46: HatOpen, 41: Tom, 43: Tom, 45: Tom, 47: Tom, 48: Tom, 50: Tom, 49: Crash, 57: Crash, 51: Ride, 59: Ride, 54: Tambourine, 56: Cowbell, 62: Conga, 63: Conga, 64: Conga, 70: Shaker, 0: Perc, 127: Perc} {
		assert.Equal(t, f, FamilyOfKey(key), "key %d", key)
	}
	for _, f := range Families {
		if f != Bass808 && f != Perc {
			assert.Equal(t, f, FamilyOfKey(f.Key()), "%s comes back", f)
		}
	}
}

// Every number of the recipe has a row in the table of parameters.
func TestParamsCoverTheRecipe(t *testing.T) {
	text, err := json.Marshal(DefaultRecipe(Kick))
	require.NoError(t, err)
	assert.Equal(t, len(Params), strings.Count(string(text), ":")-6, "numbers in %s", text)
	for i := range Params {
		p := &Params[i]
		r := DefaultRecipe(Snare)
		middle := (p.Min + p.Max) / 2
		require.NoError(t, p.Set(&r, middle))
		assert.Equal(t, middle, p.Get(&r), p.ID)
		require.NoError(t, p.Set(&r, p.Max*10+1))
		assert.Equal(t, p.Max, p.Get(&r), p.ID)
		assert.Error(t, p.Set(&r, math.NaN()), p.ID)
		changed, err := json.Marshal(r)
		require.NoError(t, err)
		part, field, ok := strings.Cut(p.ID, ".")
		if ok {
			assert.Contains(t, string(changed), `"`+part+`"`)
			assert.Contains(t, string(changed), `"`+field+`"`)
		}
	}
}

func TestDefaults(t *testing.T) {
	kit := DefaultKit()
	require.NoError(t, kit.Validate())
	assert.Len(t, kit.Voices, 5)
	assert.Equal(t, []string{"hat"}, kit.Voice("open").CutBy)
	assert.True(t, kit.Voice("808").Mono)
	for _, f := range Families {
		r := DefaultRecipe(f)
		assert.NoError(t, r.Validate(), f)
	}
	// Common practice.
	kick := DefaultRecipe(Kick)
	assert.InDelta(t, 50, kick.Body.End, 10)
	assert.InDelta(t, 105, kick.Body.Fall, 20)
	snare := DefaultRecipe(Snare)
	assert.InDelta(t, 200, snare.Body.End, 50)
}

func TestForFamily(t *testing.T) {
	kit := DefaultKit()
	assert.Equal(t, "snare", kit.ForFamily(Clap).ID)
	assert.Equal(t, "hat", kit.ForFamily(Shaker).ID)
	assert.Equal(t, "kick", kit.ForFamily(Kick).ID)
	assert.Nil(t, kit.ForFamily(Cowbell))
}

func TestKitRefusals(t *testing.T) {
	for name, spoil := range map[string]func(*Kit){
		"same id":        func(k *Kit) { k.Voices[1].ID = "kick" },
		"unknown family": func(k *Kit) { k.Voices[0].Family = "spoon" },
		"gain":           func(k *Kit) { k.Voices[0].Level = 30 },
		"not a number":   func(k *Kit) { k.Voices[0].Pan = math.NaN() },
		"recipe":         func(k *Kit) { k.Voices[0].Layers[0].Recipe.Body.End = -1 },
	} {
		kit := DefaultKit()
		spoil(&kit)
		assert.Error(t, kit.Validate(), name)
	}
}

func TestTunedMovesBothEnds(t *testing.T) {
	r := DefaultRecipe(Bass808)
	up := r.Tuned(12)
	assert.InDelta(t, 2*r.Body.End, up.Body.End, 1e-9)
	assert.InDelta(t, 2*r.Body.Start, up.Body.Start, 1e-9)
}
