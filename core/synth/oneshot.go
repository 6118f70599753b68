package synth

import (
	"jubrak/core/audio"
	"jubrak/core/sound"
)

// OneShot renders a single hit of the recipe, mono, until nothing is left of
// it but at most maxMS milliseconds.
func OneShot(r sound.Recipe, rate, velocity int, semitones float64, seed uint64, maxMS float64) *audio.Buffer {
	return Shot(&sound.Voice{Recipe: r}, nil, rate, velocity, semitones, seed, maxMS)
}

// Shot renders a single hit of a voice, layers included, as OneShot does.
func Shot(v *sound.Voice, samples sound.Samples, rate, velocity int, semitones float64, seed uint64, maxMS float64) *audio.Buffer {
	var n Note
	n.Strike(v, samples, rate, velocity, semitones, seed)
	frames := min(n.life, int(maxMS/1000*float64(rate)))
	b := audio.New(rate, 1, frames)
	n.Add(b.Channels[0])
	return b
}
