package synth_test

import (
	"fmt"

	"jubrak/core/sound"
	"jubrak/core/synth"
)

// A voice with two synthesized layers, the second softer and a little later.
func ExampleShot() {
	v := sound.NewVoice("kick", "Kick", sound.Kick)
	slap := sound.Synthesized("slap", "Slap", sound.DefaultRecipe(sound.Snare))
	slap.Level, slap.Start = -12, 4
	v.Layers = append(v.Layers, slap)
	b := synth.Shot(&v, nil, 48000, synth.Hard(110, 1), 2000)
	fmt.Println(len(b.Channels), b.Rate, b.Seconds() > 0.3)
	// Output: 2 48000 true
}
