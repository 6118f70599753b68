package synth

import (
	"testing"

	"jubrak/core/sound"
)

// rich has every part and five steps of colour, moved by curves.
func rich() sound.Recipe {
	type v = map[string]float64
	r := sound.DefaultRecipe(sound.Kick).With(v{
		"body.wave": 2, "body.copies": 3, "body.detune_ct": 4, "body.decay_ms": 900, "body.second_percent": 10,
		"sub.level_db": -6, "sub.decay_ms": 900, "noise.level_db": -12, "noise.kind": 1, "noise.decay_ms": 900, "noise.pitch_st": -3,
		"metal.level_db": -18, "metal.decay_ms": 900, "ring.level_db": -6, "ring.decay_ms": 900, "snap.decay_ms": 60,
	})
	r = r.Then("eq", v{"band2.gain_db": -4, "band4.gain_db": 3}).Then("compressor", nil).Then("transient", nil).Then("comb", v{"mix_percent": 20})
	at := "effects/eq1/band4.gain_db"
	return r.Curved(sound.Curve{Round: -1, Points: []sound.CurvePoint{{At: 0, Value: 1, Bend: 0.5}, {At: 300, Value: 0}}}, map[string][2]float64{at: {9, 0}, "noise.colour_hz": {9000, 2000}})
}

// A second of a sound with every part and five steps of colour; asked for is 10 ms.
func BenchmarkRichSecond(b *testing.B) {
	v := Compile(sound.Alone(sound.Synthesized("a", "A", rich())), nil, rate)
	out := block(256)
	var n Note
	for b.Loop() {
		n.Trigger(v, Hard(110, 1))
		for range rate / 256 {
			n.Add(out, 0)
		}
	}
	b.ReportMetric(b.Elapsed().Seconds()/float64(b.N)*1000, "ms/second")
}

// What it costs to make a voice ready, as on every step of a drag.
func BenchmarkCompileRich(b *testing.B) {
	v := sound.Alone(sound.Synthesized("a", "A", rich()))
	for b.Loop() {
		Compile(v, nil, rate)
	}
}
