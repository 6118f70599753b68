package synth

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/sound"
)

// snap is the running state of the beater or stick.
type snap struct {
	white  dsp.Noise
	filter dsp.Biquad
	fall   dsp.Fall
	chirp  oscillator
	at     float64
}

func (s *snap) start(n *sound.Snap, seed uint64, rate float64) {
	s.white, s.at = dsp.NewNoise(seed), 0
	s.fall = dsp.NewFall(0, n.Decay, rate)
	s.chirp = oscillator{cos: 1}
	if n.Kind == 1 {
		s.filter = dsp.LowPass(n.Colour, math.Sqrt2/2, rate)
	} else {
		s.filter = dsp.HighPass(n.Colour, 0.7, rate)
	}
}

// run renders the next stride.
func (s *snap) run(n *sound.Snap, of *material, age int, rate float64, x *[stride]float64) {
	switch n.Kind {
	case 0:
		s.white.Run(x[:])
		s.filter.Run(x[:])
	case 1: // one pulse, as high whatever its colour
		clear(x[:])
		if age == 0 {
			x[0] = min(0.32*rate/n.Colour, 60)
		}
		s.filter.Run(x[:])
	case 2: // four octaves down over its decay, from two above its colour
		hz := n.Colour * 4 * math.Exp2(-4*min(float64(age)/rate*1000/n.Decay*2, 1))
		s.chirp.pitch(min(hz/rate, 0.45))
		s.chirp.run(x, 1)
	default:
		clear(x[:])
		if of != nil {
			read(of.x, s.at, 1, x)
			s.at += stride
		}
	}
	s.fall.Times(x[:])
}

// material is a recorded sound that a part is made of, one channel at the engine's rate.
type material struct{ x [][]float32 }

func materialOf(samples sound.Samples, blob string, rate float64) *material {
	s := samples[blob]
	if s == nil || len(s.X) == 0 {
		return nil
	}
	return &material{s.At(int(rate)).X[:1]}
}
