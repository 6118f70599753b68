package synth

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/effect"
	"jubrak/core/measure"
	"jubrak/core/sound"
)

const rate = 48000

func TestKickSettlesWhereAsked(t *testing.T) {
	for _, hz := range []float64{41.2, 49, 55, 65} {
		r := sound.DefaultRecipe(sound.Kick)
		r.Body.End = hz
		m := measure.Measure(OneShot(r, rate, Hard(110, 1), 3000))
		require.NotNil(t, m.Fundamental)
		assert.InDelta(t, 0, 1200*math.Log2(*m.Fundamental/hz), 12, "cents from %g Hz", hz)
		require.NotNil(t, m.Decay)
		assert.InDelta(t, r.Body.Decay, *m.Decay, 0.1*r.Body.Decay, "decay in ms")
	}
}

func Test808HoldsItsNote(t *testing.T) {
	r := sound.DefaultRecipe(sound.Bass808)
	for semitones, hz := range map[float64]float64{0: 43.654, 2: 48.999, -3: 36.708} {
		m := measure.Measure(OneShot(r, rate, Stroke{Velocity: 110, Semitones: semitones, Seed: 1, BeatMS: 500}, 3000))
		require.NotNil(t, m.Fundamental)
		assert.InDelta(t, 0, 1200*math.Log2(*m.Fundamental/hz), 5, "cents from %g Hz", hz)
	}
}

func TestFamiliesSoundLikeThemselves(t *testing.T) {
	measure := func(f sound.Family) *measure.Measures {
		return measure.Measure(OneShot(sound.DefaultRecipe(f), rate, Hard(110, 1), 4000))
	}
	closed, open, snare, kick := measure(sound.HatClosed), measure(sound.HatOpen), measure(sound.Snare), measure(sound.Kick)
	assert.Greater(t, *closed.Centroid, 6000.0)
	assert.Greater(t, *open.Decay, 3**closed.Decay)
	assert.Less(t, *kick.Centroid, 500.0)
	assert.Greater(t, *snare.Centroid, *kick.Centroid)
	assert.Less(t, *closed.Centroid, 16000.0)
	for f, want := range map[sound.Family]string{sound.Kick: "kick", sound.HatClosed: "hat_closed", sound.HatOpen: "hat_open", sound.Snare: "snare", sound.Bass808: "808"} {
		assert.Equal(t, want, *measure(f).FamilyGuess, string(f))
	}
}

func TestVelocity(t *testing.T) {
	r := sound.DefaultRecipe(sound.Bass808)
	loud, soft := OneShot(r, rate, Hard(127, 1), 500), OneShot(r, rate, Hard(40, 1), 500)
	assert.InDelta(t, -20.07, 20*math.Log10(soft.Peak()/loud.Peak()), 0.1)
}

// Any recipe within its ranges gives finite sound that ends, the same each
// time, in blocks of any size.
func TestAnyRecipe(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := sound.DefaultRecipe(sound.Kick)
		for i := range sound.Params {
			p := &sound.Params[i]
			require.NoError(t, p.Set(&r, rapid.Float64Range(p.Min, p.Max).Draw(t, p.ID)))
		}
		for range rapid.IntRange(0, 5).Draw(t, "steps") {
			k := rapid.SampledFrom(recipeKinds()).Draw(t, "kind")
			values := map[string]float64{}
			for i := range k.Params {
				p := &k.Params[i]
				v, err := p.Held(rapid.Float64Range(p.Min, p.Max).Draw(t, p.ID))
				require.NoError(t, err)
				values[p.ID] = v
			}
			r = r.Then(k.ID, values)
		}
		r = r.Curved(sound.Curve{Round: 0, Lasts: rapid.Float64Range(0, 900).Draw(t, "lasts"), Points: []sound.CurvePoint{{At: 0, Value: 1, Bend: 0.5}, {At: 90, Value: 0.2, Smooth: true}, {At: 200, Value: 0.7}}},
			map[string][2]float64{"body.end_hz": {900, 60}, "noise.level_db": {0, -60}, "noise.colour_hz": {9000, 300}})
		r = r.By(sound.ByVelocity, "body.decay_ms", -100, 100).By(sound.ByNote, "noise.colour_hz", -12, 12).By(sound.ByChance, "snap.level_db", -6, 6)
		require.NoError(t, r.Validate())
		r.Body.Decay, r.Noise.Decay, r.Metal.Decay = math.Min(r.Body.Decay, 800), math.Min(r.Noise.Decay, 800), math.Min(r.Metal.Decay, 800)
		semitones := rapid.Float64Range(-36, 36).Draw(t, "semitones")
		a := OneShot(r, rate, Stroke{Velocity: 100, Semitones: semitones, Seed: 9, BeatMS: 500}, 500)
		for i, v := range a.Channels[0] {
			if x := float64(v); math.IsNaN(x) || math.Abs(x) > 1e6 {
				t.Fatalf("sample %d is %g", i, x)
			}
		}
		var n Note
		v := voiceOf(r)
		tails := v.Tails(nil)
		n.Trigger(v, Stroke{Velocity: 100, Semitones: semitones, Seed: 9, BeatMS: 500})
		for at := 0; at < a.Frames(); {
			step := min(rapid.IntRange(1, 512).Draw(t, "block"), a.Frames()-at)
			b := block(step)
			n.Add(b, 0)
			if tails != nil {
				tails.Process(b, effect.Clock{})
			}
			for i, v := range b.Left {
				if a.Channels[0][at+i] != float32(v) || a.Channels[len(a.Channels)-1][at+i] != float32(b.Right[i]) {
					t.Fatalf("frame %d is another in blocks", at+i)
				}
			}
			at += step
		}
	})
}

func voiceOf(r sound.Recipe) *Voice {
	return Compile(sound.Alone(sound.Synthesized("drum", "Drum", r)), nil, rate)
}

func block(n int) effect.Block {
	return effect.Block{Left: make([]float64, n), Right: make([]float64, n)}
}

func TestCutEndsSoon(t *testing.T) {
	var n Note
	n.Trigger(voiceOf(sound.DefaultRecipe(sound.HatOpen)), Hard(100, 1))
	n.Add(block(480), 0)
	n.Cut()
	n.Add(block(rate*4/1000+2), 0)
	assert.False(t, n.On())
}

func TestCurvesFollowTheRecipe(t *testing.T) {
	r := sound.DefaultRecipe(sound.Kick)
	c := CurvesOf(&r, Hard(110, 1), 400, 101)
	require.Len(t, c.Pitch, 1)
	assert.InDelta(t, r.Body.Start, c.Pitch[0].Points[0][1], 1e-6)
	assert.InDelta(t, r.Body.End, c.Pitch[0].Points[100][1], 0.1)
	assert.Len(t, c.Level, 2, "body and snap are on")
	assert.Equal(t, 1.0, c.Own[0].Points[0][1], "the drive falls")
	assert.Equal(t, 0.0, c.Own[0].Points[100][1])
}

// recipeKinds are the kinds of step that may stand in a recipe.
func recipeKinds() (out []*effect.Kind) {
	for _, k := range effect.Kinds() {
		if !k.Rows {
			out = append(out, k)
		}
	}
	return out
}
