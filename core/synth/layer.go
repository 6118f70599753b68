package synth

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/sound"
)

// layer is the sounding part of one sound.Layer.
type layer struct {
	x        []float32
	at, step float64 // position in x and its step, samples; before 0 it waits
	gain     float64
	falls    bool
	fall     dsp.Fall
	low      dsp.Biquad
	high     dsp.Biquad
	cutsLow  bool
	cutsHigh bool
}

// Strike begins a voice's hit: its synthesized drum, unless that is off, and
// its layers. It allocates nothing.
func (n *Note) Strike(v *sound.Voice, samples sound.Samples, rate, velocity int, semitones float64, seed uint64) {
	if v.SynthOff {
		*n = Note{on: true, rate: float64(rate), level: VelocityGain(velocity), cut: 1, bare: true}
	} else {
		n.Start(v.Recipe, rate, velocity, semitones, seed)
	}
	for i := range v.Layers {
		l := &v.Layers[i]
		s := samples[l.Blob]
		if s == nil || l.Mute || n.layerCount == len(n.layers) {
			continue
		}
		n.layers[n.layerCount] = n.prepare(l, s, semitones)
		n.layerCount++
	}
	n.on = n.life > 0
}

func (n *Note) prepare(l *sound.Layer, s *sound.Sample, semitones float64) layer {
	out := layer{x: s.X, gain: audio.Gain(l.Level)}
	out.step = math.Exp2((l.Pitch+semitones)/12) * float64(s.Rate) / n.rate
	// A delay counts in what is heard, a start left out in the sound.
	if l.Delay > 0 {
		out.at = -l.Delay / 1000 * n.rate * out.step
	} else {
		out.at = -l.Delay / 1000 * float64(s.Rate)
	}
	if l.Flip {
		out.gain = -out.gain
	}
	length := (float64(len(s.X)) - out.at) / out.step
	if l.Decay > 0 {
		out.falls, out.fall = true, dsp.NewFall(0, l.Decay, n.rate)
		wait := math.Max(-out.at/out.step, 0)
		length = math.Min(length, wait+(l.Decay*math.Max(l.Level-nothing, 0)/60+10)/1000*n.rate)
	}
	if out.cutsLow = l.LowCut > 20; out.cutsLow {
		out.low = dsp.HighPass(l.LowCut, math.Sqrt2/2, n.rate)
	}
	if out.cutsHigh = l.HighCut < 20000; out.cutsHigh {
		out.high = dsp.LowPass(l.HighCut, math.Sqrt2/2, n.rate)
	}
	n.life = max(n.life, int(length))
	return out
}

// next is the layer's next sample: four-point Hermite interpolation (Niemitalo
// 2001, "Polynomial interpolators for high-quality resampling").
func (l *layer) next() float64 {
	if l.at < 0 {
		l.at += l.step
		return 0
	}
	i := int(l.at)
	if i >= len(l.x) {
		return 0
	}
	t := l.at - float64(i)
	l.at += l.step
	x := float64(l.x[i])
	if t > 0 {
		before, next, after := l.sample(i-1), l.sample(i+1), l.sample(i+2)
		c1 := (next - before) / 2
		c2 := before - 2.5*x + 2*next - after/2
		c3 := (after-before)/2 + 1.5*(x-next)
		x = ((c3*t+c2)*t+c1)*t + x
	}
	if l.cutsLow {
		x = l.low.Next(x)
	}
	if l.cutsHigh {
		x = l.high.Next(x)
	}
	if l.falls {
		x *= l.fall.Next()
	}
	return x * l.gain
}

func (l *layer) sample(i int) float64 {
	if i < 0 || i >= len(l.x) {
		return 0
	}
	return float64(l.x[i])
}
