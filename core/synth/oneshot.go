package synth

import (
	"jubrak/core/audio"
	"jubrak/core/mix"
	"jubrak/core/sound"
)

// OneShot renders a single hit of a recipe until nothing is left of it but at
// most maxMS milliseconds: one channel.
func OneShot(r sound.Recipe, rate, velocity int, semitones float64, seed uint64, maxMS float64) *audio.Buffer {
	v := &sound.Voice{Layers: []sound.Layer{sound.Synthesized("drum", "Drum", r)}}
	b := Shot(v, nil, rate, velocity, semitones, seed, maxMS)
	b.Channels = b.Channels[:1]
	return b
}

// Shot renders a single hit of a voice with all its layers, before its own level
// and pan, as OneShot does: two channels.
func Shot(v *sound.Voice, samples sound.Samples, rate, velocity int, semitones float64, seed uint64, maxMS float64) *audio.Buffer {
	ready := Compile(v, samples, rate)
	var n Note
	n.Strike(ready, velocity, semitones, seed)
	frames := min(ready.Life(semitones), int(maxMS/1000*float64(rate)))
	b := audio.New(rate, 2, frames)
	var l, r [mix.MaxBlock]float64
	for at := 0; at < frames; at += mix.MaxBlock {
		part := mix.Block{Left: l[:], Right: r[:]}.Part(0, min(mix.MaxBlock, frames-at))
		part.Clear()
		n.Add(part)
		for i := range part.Left {
			b.Channels[0][at+i], b.Channels[1][at+i] = float32(part.Left[i]), float32(part.Right[i])
		}
	}
	return b
}
