package sound

import (
	"encoding/json"
	"math"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
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

// Every number of a recipe's parts has a row in the table of parameters.
func TestParamsCoverTheRecipe(t *testing.T) {
	r := DefaultRecipe(Kick)
	text, err := json.Marshal(struct {
		Body  Body  `json:"body"`
		Sub   Sub   `json:"sub"`
		Snap  Snap  `json:"snap"`
		Noise Noise `json:"noise"`
		Metal Metal `json:"metal"`
		Ring  Ring  `json:"ring"`
	}{r.Body, r.Sub, r.Snap, r.Noise, r.Metal, r.Ring})
	require.NoError(t, err)
	// The parts themselves, the drawn wave, two names of samples, the list of bursts and
	// the time of the first of them, which is the stroke's, are no numbers.
	assert.Equal(t, len(Params), strings.Count(string(text), ":")-6-1-2-2, "numbers in %s", text)
	for i := range Params {
		p := &Params[i]
		r := DefaultRecipe(Snare)
		middle, err := p.Held((p.Min + p.Max) / 2)
		require.NoError(t, err)
		require.NoError(t, p.Set(&r, middle))
		assert.Equal(t, middle, p.Get(&r), p.ID)
		require.NoError(t, p.Set(&r, p.Max*10+1))
		assert.Equal(t, p.Max, p.Get(&r), p.ID)
		assert.Error(t, p.Set(&r, math.NaN()), p.ID)
		changed, err := json.Marshal(r)
		require.NoError(t, err)
		part, field, ok := strings.Cut(p.ID, ".")
		require.True(t, ok)
		assert.Equal(t, part, p.Part)
		assert.Contains(t, string(changed), `"`+part+`"`)
		for _, name := range strings.Split(field, ".") { // numbers of a list stand between its names
			if _, err := strconv.Atoi(name); err != nil {
				assert.Contains(t, string(changed), `"`+name+`"`)
			}
		}
	}
}

// Derivations: ends, straight ways, and ways that bend.
func TestCurve(t *testing.T) {
	c := Curve{Unit: MS, Round: -1, Points: []CurvePoint{{At: 10, Value: 1}, {At: 20, Value: 0}, {At: 40, Value: 0.5, Bend: 1}, {At: 80, Value: 1}}}
	require.NoError(t, c.Validate())
	for at, want := range map[float64]float64{0: 1, 10: 1, 15: 0.5, 20: 0, 30: 0.25, 40: 0.5, 80: 1, 900: 1} {
		assert.InDelta(t, want, c.At(at), 1e-12, "at %g", at)
	}
	assert.Greater(t, c.At(50), 0.9, "quick at first")
	assert.Equal(t, 80.0, c.End())
	smooth := CurvePoint{Smooth: true}
	assert.InDelta(t, 0.5, smooth.Way(0.5), 1e-12)
	assert.Less(t, smooth.Way(0.1), 0.1)
	c.Round, c.Lasts = 1, 200
	assert.InDelta(t, c.At(20), c.At(80), 1e-12, "back to where it repeats from")
	assert.InDelta(t, c.At(30), c.At(90), 1e-12)
	assert.InDelta(t, c.At(30), c.At(150), 1e-12)
	assert.InDelta(t, c.At(200), c.At(5000), 1e-12, "it rests where it ends")
	assert.Equal(t, 200.0, c.End())
	assert.Equal(t, 1.0, c.Scale(500))
	c.Unit = Beats
	assert.Equal(t, 500.0, c.Scale(500))
}

func TestCurvesAreMonotoneBetweenPoints(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := CurvePoint{Bend: rapid.Float64Range(-1, 1).Draw(t, "bend"), Smooth: rapid.Bool().Draw(t, "smooth")}
		last := 0.0
		for u := 0.0; u <= 1; u += 0.05 {
			w := p.Way(u)
			require.GreaterOrEqual(t, w, last-1e-12)
			require.LessOrEqual(t, w, 1+1e-9)
			last = w
		}
		assert.InDelta(t, 0, p.Way(0), 1e-12)
		assert.InDelta(t, 1, p.Way(1), 1e-12)
	})
}

func TestRecipesThatAreRefused(t *testing.T) {
	line := []CurvePoint{{At: 0, Value: 1}, {At: 100, Value: 0}}
	good := DefaultRecipe(Kick).Then("clip", nil).Curved(Curve{ID: "c", Round: -1, Points: line}, map[string][2]float64{"body.end_hz": {100, 50}})
	require.NoError(t, good.Validate())
	for name, spoil := range map[string]func(*Recipe){
		"an effect of a kind that is not there": func(r *Recipe) { r.Effects[0].Kind = "spoon" },
		"an effect with a number too many":      func(r *Recipe) { r.Effects[0].Values["x"] = 1 },
		"an effect beyond its range":            func(r *Recipe) { r.Effects[0].Values["amount_percent"] = 101 },
		"two with one id":                       func(r *Recipe) { r.Effects[1].ID = r.Effects[0].ID },
		"a curve with one point":                func(r *Recipe) { r.Curves[0].Points = line[:1] },
		"points out of order":                   func(r *Recipe) { r.Curves[0].Points = []CurvePoint{{At: 5}, {At: 5}} },
		"a curve without a unit":                func(r *Recipe) { r.Curves[0].Unit = "" },
		"a curve called velocity":               func(r *Recipe) { r.Curves[0].ID = "velocity" },
		"a move of nothing":                     func(r *Recipe) { r.Modulations[0].At = "body.spoon" },
		"a move of a kind":                      func(r *Recipe) { r.Modulations[0].At = "body.wave" },
		"a move by a curve that is gone":        func(r *Recipe) { r.Modulations[0].By = "gone" },
		"a move beyond the range":               func(r *Recipe) { r.Modulations[len(r.Modulations)-1].From = 1e6 },
		"a number moved by two curves":          func(r *Recipe) { r.Modulations = append(r.Modulations, Modulation{"c", r.Modulations[0].At, 1, 2}) },
		"a drawn wave beyond full scale":        func(r *Recipe) { r.Body.Cycle = []float64{2} },
	} {
		r := good
		r.Own()
		spoil(&r)
		assert.Error(t, r.Validate(), name)
	}
	require.NoError(t, good.Validate(), "spoiling copies leaves it alone")
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
	up, err := r.Tuned(12)
	require.NoError(t, err)
	assert.InDelta(t, 2*r.Body.End, up.Body.End, 1e-9)
	assert.InDelta(t, 2*r.Body.Start, up.Body.Start, 1e-9)
}
