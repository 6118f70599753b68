// Package synth turns voices and hits into samples. A voice is compiled when it
// changes; to strike it sets running state only.
package synth

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/mix"
	"jubrak/core/sound"
)

// stride is how many samples are rendered in a run, over which pitch and drive
// are held; at 48 kHz two thirds of a millisecond.
const stride = 32

// Voice is a sound.Voice made ready to be struck at a rate: its layers that
// sound. It is not changed, and any number of notes may share it.
type Voice struct {
	rate   float64
	layers []layer
}

// layer is a sound.Layer made ready. It is a recipe or a recording.
type layer struct {
	key       uint64     // of its noise
	gain      [2]float64 // of left and right, polarity included
	start     int        // frames after the stroke
	cutsLow   bool
	cutsHigh  bool
	low, high mix.Filter
	recipe    *recipe
	recording *recording
}

// Compile makes a voice ready. Layers that are muted, or whose sound is not
// among the samples, are left out.
func Compile(v *sound.Voice, samples sound.Samples, rate int) *Voice {
	out := &Voice{rate: float64(rate)}
	for i := range v.Layers {
		l := &v.Layers[i]
		if l.Mute || len(out.layers) == sound.MaxLayers {
			continue
		}
		ready := layer{key: dsp.KeyString(l.ID), gain: mix.Panned(l.Level, l.Pan), start: int(math.Round(l.Start / 1000 * out.rate))}
		if l.Flip {
			ready.gain = [2]float64{-ready.gain[0], -ready.gain[1]}
		}
		if ready.cutsLow = l.LowCut > sound.NoLowCut; ready.cutsLow {
			ready.low = mix.NewLowCut(l.LowCut, out.rate)
		}
		if ready.cutsHigh = l.HighCut < sound.NoHighCut; ready.cutsHigh {
			ready.high = mix.NewHighCut(l.HighCut, out.rate)
		}
		if l.Recipe != nil {
			ready.recipe = compileRecipe(l.Recipe, l.Pitch, l.Level, out.rate)
		} else if s := samples[l.Recording.Blob]; s != nil && len(s.X) > 0 {
			ready.recording = compileRecording(l, s, out.rate)
		} else {
			continue
		}
		out.layers = append(out.layers, ready)
	}
	return out
}

// Life is how many frames a note of the voice lasts from its stroke, uncut, with
// semitones above its own pitch.
func (v *Voice) Life(semitones float64) int {
	most := 0
	for i := range v.layers {
		l := &v.layers[i]
		if l.recipe != nil {
			most = max(most, l.start+l.recipe.life)
		} else {
			most = max(most, l.start+l.recording.life(semitones))
		}
	}
	return most
}

// VelocityGain is the linear level of a velocity in 1..127: 40 dB per
// tenfold, so that 127 is full level and 40 lies 20 dB below it.
func VelocityGain(velocity int) float64 {
	v := float64(velocity) / 127
	return v * v
}

// nothing is the level at which a part has died away, dB.
const nothing = -84

// dies is the age in frames at which a part that starts at a level in dB has
// died away. Filters ring for 10 ms more.
func dies(attack, decay, level, rate float64) int {
	ms := attack + decay*math.Max(level-nothing, 0)/60 + 10
	return int(ms / 1000 * rate)
}

// partGain is 0 for a part that is switched off.
func partGain(db float64) float64 {
	if db <= sound.Silent {
		return 0
	}
	return audio.Gain(db)
}
