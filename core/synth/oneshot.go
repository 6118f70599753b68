package synth

import (
	"jubrak/core/audio"
	"jubrak/core/effect"
	"jubrak/core/sound"
)

// OneShot renders a single hit of a recipe until nothing is left of it but at
// most maxMS milliseconds: two channels, or one where both are the same.
func OneShot(r sound.Recipe, rate int, s Stroke, maxMS float64) *audio.Buffer {
	b := Shot(sound.Alone(sound.Synthesized("drum", "Drum", r)), nil, rate, s, maxMS)
	if ready := compileRecipe(&r, 0, 0, nil, float64(rate)); !ready.stereo {
		b.Channels = b.Channels[:1]
	}
	return b
}

// trimmed leaves out silence at the end.
func trimmed(b *audio.Buffer) *audio.Buffer {
	n := b.Frames()
	for n > 0 && b.Channels[0][n-1] == 0 && b.Channels[1][n-1] == 0 {
		n--
	}
	for c := range b.Channels {
		b.Channels[c] = b.Channels[c][:n]
	}
	return b
}

// Shot renders a single hit of a voice with all its layers, before its own level
// and pan, as OneShot does: two channels.
func Shot(v *sound.Voice, samples sound.Samples, rate int, s Stroke, maxMS float64) *audio.Buffer {
	ready := Compile(v, samples, rate)
	var n Note
	n.Trigger(ready, s)
	tails, rumbles := ready.Tails(nil), ready.NewRumbles(nil)
	most := int(maxMS / 1000 * float64(rate))
	ring := 0
	if rumbles != nil {
		rumbles.Follow(ready)
		ring = rumbles.Tail()
	}
	if tails != nil {
		ring += tails.Ring()
	}
	b := audio.New(rate, 2, 0)
	var l, r [effect.MaxBlock]float64
	for at := 0; at < most && (n.On() || ring > 0); at += effect.MaxBlock {
		part := effect.Block{Left: l[:], Right: r[:]}.Part(0, min(effect.MaxBlock, most-at))
		part.Clear()
		if !n.On() {
			ring -= part.Frames()
		}
		n.Add(part, 0)
		if tails != nil {
			tails.Process(part, effect.Clock{})
		}
		if rumbles != nil {
			rumbles.Process(part, effect.Clock{})
		}
		for c, x := range [2][]float64{part.Left, part.Right} {
			for _, v := range x {
				b.Channels[c] = append(b.Channels[c], float32(v))
			}
		}
	}
	return trimmed(b)
}
