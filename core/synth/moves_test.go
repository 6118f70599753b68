package synth

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/require"

	"jubrak/core/effect"
	"jubrak/core/sound"

	"jubrak/internal/brief"
)

// everything is a recipe whose parts all sound, with a step of a kind.
func everything(kind string) sound.Recipe {
	r := sound.DefaultRecipe(sound.Kick).With(map[string]float64{
		"body.level_db": -6, "sub.level_db": -12, "snap.level_db": -12, "noise.level_db": -18, "noise.bursts": 3, "metal.level_db": -20, "ring.level_db": -12, "body.copies": 2,
	})
	r.Effects, r.Curves, r.Modulations = nil, nil, nil
	if kind != "" {
		r = r.Then(kind, nil)
	}
	r.Tidy()
	return r
}

// Every number that a move may drive is driven to both of its ends, by velocity, by note
// and by a curve: what comes out is finite, and nothing breaks.
func TestEveryAddressIsDrivenToBothEnds(t *testing.T) {
	shot := func(r sound.Recipe, at string) {
		require.NoError(t, r.Validate(), at)
		v := sound.NewVoice("x", "X", sound.Kick)
		v.Layers = []sound.Layer{sound.Synthesized("l", "L", r)}
		for _, s := range []Stroke{Hard(1, 1), {Velocity: 127, Seed: 2, Semitones: 24, BeatMS: 500}, {Velocity: 127, Seed: 3, Semitones: -24, BeatMS: 500}} {
			b := Shot(&v, nil, 48000, s, 60)
			for _, x := range b.Channels {
				for _, y := range x {
					require.False(t, math.IsNaN(float64(y)) || math.IsInf(float64(y), 0), "%s at %+v", at, s)
				}
			}
		}
	}
	drive := func(r sound.Recipe, at string, low, high float64) {
		far := math.Max(high-low, 48)
		shot(r.By(sound.ByVelocity, at, -far, far), at)
		shot(r.By(sound.ByNote, at, far, -far), at)
		line := sound.Curve{Unit: sound.MS, Round: -1, Points: []sound.CurvePoint{{At: 0, Value: 1}, {At: 100, Value: 0}, {At: 200, Value: 1}}}
		shot(r.Curved(line, map[string][2]float64{at: {low, high}}), at)
	}
	bases := brief.First(1, everything(""), everything("").With(map[string]float64{"body.copies": 1}))
	for _, p := range sound.Params.Params() {
		if p.Continuous() {
			for _, r := range bases {
				drive(r, p.ID, p.Min, p.Max)
			}
		}
	}
	for _, kind := range effect.Kinds() {
		if !kind.Rows {
			r := everything(kind.ID)
			for _, p := range kind.Params {
				if p.Continuous() {
					drive(r, fmt.Sprintf("effects/%s/%s", r.Effects[0].ID, p.ID), p.Min, p.Max)
				}
			}
		}
	}
}
