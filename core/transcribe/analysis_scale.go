package transcribe

import (
	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// The analysis works at the rate and the frames of the ear.
const (
	rate    = drumnet.Rate
	hop     = drumnet.Hop
	frameMS = drumnet.FrameMS
)

// samePlace is how close two hits of one family are one, seconds.
const samePlace = 0.025

func wrap(i, n int) int { return ((i % n) + n) % n }

// hatless folds the families into the three parts of the spectrum.
func hatless(f sound.Family) sound.Family {
	switch f {
	case sound.Kick, sound.Snare:
		return f
	}
	return sound.HatClosed
}
