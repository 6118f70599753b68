// Package synth turns voices and hits into samples. A voice is compiled when it
// changes; to strike it sets running state only.
package synth

import (
	"math"
	"slices"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/effect"
	"jubrak/core/sound"
)

// stride is how many samples are rendered in a run, over which pitch and filters
// are held and levels run straight; at 48 kHz two thirds of a millisecond.
const stride = 32

// Voice is a sound.Voice made ready to be struck at a rate: its layers that
// sound. It belongs to one engine, any number of whose notes may share it.
type Voice struct {
	rate    float64
	touch   float64 // exponent of velocity
	bend    float64 // of that, -1 to 1
	cut     float64 // ms
	layers  []layer
	turns   turns
	rumbles []sound.Layer `state:"shared"`
	alone   bool          // only the rumbles are heard, of layers that are not
}

// layer is a sound.Layer made ready. It is a recipe or a recording.
type layer struct {
	key       uint64       // of its noise
	gain      [2]float64   // of left and right, polarity included
	start     int          // frames after the stroke
	of        *sound.Layer `state:"shared"` // for velocities and turns; not changed
	filters   int          // how many of the next are used
	filter    [maxFilters]effect.Filter
	ring      int // frames that they ring on
	recipe    *recipe
	recording *recording `state:"shared"`
	attack    *borrowed  `state:"shared"`
	// Steps that all notes of the layer share, what it does after them, and where they run;
	// none where tail is nil.
	shared     []effect.Effect `state:"shared"`
	tailFilter []effect.Filter
	tail       *tail
}

// Mono reports whether both sides of the voice have the same sound.
func (v *Voice) Mono() bool {
	for i := range v.layers {
		if l := &v.layers[i]; l.channels() > 1 || l.shared != nil || l.gain[0] != l.gain[1] {
			return false
		}
	}
	return len(v.rumbles) == 0
}

// Compile makes a voice ready. Layers that are muted, or whose sound is not
// among the samples, are left out.
func Compile(v *sound.Voice, samples sound.Samples, rate int) *Voice {
	out := &Voice{rate: float64(rate), touch: 2 * v.Touch / 100, bend: v.TouchBend, cut: v.Release}
	key := dsp.KeyString(v.ID)
	sounding := v.Sounding()
	if out.alone = rumblesOnly(sounding); out.alone {
		// A rumble that is solo is still made of the other layers.
		for i := range v.Layers {
			if l := &v.Layers[i]; l.Rumble == nil && !l.Mute {
				sounding = append(sounding, l)
			}
		}
	}
	crossings := crossingsOf(v)
	for _, l := range sounding {
		if len(out.layers) == sound.MaxLayers {
			break
		}
		if l.Rumble != nil {
			out.rumbles = append(out.rumbles, *l)
			continue
		}
		ready := layer{key: dsp.KeyString(l.ID), gain: effect.Panned(l.Level, l.Pan), start: int(math.Round(l.Start / 1000 * out.rate))}
		if l.Flip {
			ready.gain = [2]float64{-ready.gain[0], -ready.gain[1]}
		}
		ready.of = l
		ready.addFilters(l, crossings, out.rate)
		if l.Recipe != nil {
			of := l.Recipe
			if from := sharedFrom(of); from < len(of.Effects) && l.Attack == nil {
				own := *of
				own.Effects, ready.shared = of.Effects[:from], of.Effects[from:]
				of = &own
				ready.tailFilter = slices.Clone(ready.filter[:ready.filters])
				ready.filters = 0
			}
			ready.recipe = compileRecipe(of, l.Pitch, l.Level, samples, out.rate)
		} else if s := samples[l.Recording.Blob]; s != nil && len(s.X) > 0 {
			ready.recording = compileRecording(l, s, out.rate)
		} else {
			continue
		}
		ready.attack = compileAttack(l, samples, out.rate)
		out.layers = append(out.layers, ready)
	}
	out.turns = turnsOf(out.layers, key)
	return out
}

// rumblesOnly reports whether all layers of some are rumbles, at least one.
func rumblesOnly(layers []*sound.Layer) bool {
	for _, l := range layers {
		if l.Rumble == nil {
			return false
		}
	}
	return len(layers) > 0
}

// maxFilters is a low and a high cut, and what a layer owns: at most two second-order
// filters for each frequency at which one of eight layers begins or ends.
const maxFilters = 2 + 2*(2*sound.MaxLayers)

// addFilters makes the cuts ready, and the crossovers of fourth order between what the
// layers of the voice own: at each of those frequencies two equal Butterworth filters for
// what lies above or below it, and the allpass of both together for what ends before it or
// goes across it. So the parts of layers that share their bounds add up flat, however many
// there are and however close (Linkwitz & Riley 1976, J. Audio Eng. Soc. 24:2; D'Appolito
// 1984, "Active realization of multiway all-pass crossover systems", 76th AES Convention).
func (ready *layer) addFilters(l *sound.Layer, crossings []float64, rate float64) {
	add := func(f effect.Filter) {
		ready.filter[ready.filters] = f
		ready.filters++
		ready.ring = max(ready.ring, f.Tail())
	}
	if l.LowCut > sound.NoLowCut {
		add(effect.NewLowCut(l.LowCut, rate))
	}
	if l.HighCut < sound.NoHighCut {
		add(effect.NewHighCut(l.HighCut, rate))
	}
	if !owns(l) {
		return
	}
	for _, hz := range crossings {
		switch {
		case hz <= l.Above:
			add(effect.NewLowCut(hz, rate))
			add(effect.NewLowCut(hz, rate))
		case hz == l.Below:
			add(effect.NewHighCut(hz, rate))
			add(effect.NewHighCut(hz, rate))
		default:
			add(effect.NewTurn(hz, rate))
		}
	}
}

// owns reports whether a layer owns a part of the spectrum.
func owns(l *sound.Layer) bool { return l.Above > sound.NoLowCut || l.Below < sound.NoHighCut }

// crossingsOf are the frequencies at which what a voice's layers own begins or ends, the
// lowest first; those that are silent count, so that muting turns no phase.
func crossingsOf(v *sound.Voice) (hz []float64) {
	for i := range v.Layers {
		l := &v.Layers[i]
		if l.Above > sound.NoLowCut {
			hz = append(hz, l.Above)
		}
		if l.Below < sound.NoHighCut {
			hz = append(hz, l.Below)
		}
	}
	slices.Sort(hz)
	return slices.Compact(hz)
}

// Life is about how many frames a note of the voice lasts from such a stroke,
// uncut.
func (v *Voice) Life(s Stroke) int {
	most := 0
	var c playing
	for i := range v.layers {
		l := &v.layers[i]
		if l.recipe != nil {
			var owner sounding
			c.start(l.recipe, s, l.key, &owner)
			c.room.used = nil
			most = max(most, l.start+c.left()+l.ring)
		} else {
			most = max(most, l.start+l.recording.life(s.Semitones)+l.ring)
		}
	}
	return most
}

// gain is the linear level of a velocity in 1..127: at a touch of 100 %, 40 dB per
// tenfold, so that 127 is full level and 40 lies 20 dB below it. The bend bows that: soft
// hits by up to 6 dB up, or their fall doubled.
func (v *Voice) gain(velocity int) float64 {
	x := float64(velocity) / 127
	if v.touch == 2 {
		x *= x
	} else {
		x = math.Pow(x, v.touch)
	}
	return x + v.bend*x*(1-x)
}

// nothing is the level at which a part has died away, dB.
const nothing = -84

// dies is the age in frames at which a part that starts at a level in dB has
// died away. Filters ring for 10 ms more.
func dies(attack, decay, level, rate float64) int {
	ms := attack + decay*max(level-nothing, 0)/60 + 10
	return int(ms / 1000 * rate)
}

// partGain is 0 for a part that is switched off.
func partGain(db float64) float64 {
	if db <= sound.Silent {
		return 0
	}
	return audio.Gain(db)
}
