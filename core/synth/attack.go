package synth

import (
	"math"

	"jubrak/core/sound"
)

// borrowed is a sound.Attack made ready.
type borrowed struct {
	x      [][]float32
	gain   float64
	length int // frames at full level
	frames int // until it has faded
}

func compileAttack(l *sound.Layer, samples sound.Samples, rate float64) *borrowed {
	if l.Attack == nil {
		return nil
	}
	m := materialOf(samples, l.Attack.Blob, rate)
	if m == nil {
		return nil
	}
	a := &borrowed{x: m.x, gain: math.Pow(10, l.Attack.Level/20)}
	a.length = int(l.Attack.Length / 1000 * rate)
	a.frames = a.length + int(l.Attack.Fade/1000*rate)
	return a
}

// begin puts the borrowed attack in place of the start of the run that was just
// rendered.
func (s *sounding) begin(l *layer) {
	a := l.attack
	age := s.age
	if l.recipe != nil {
		age -= l.recipe.late
	}
	if age >= a.frames {
		return
	}
	var x [stride]float64
	skip := min(max(-age, 0), stride) // before the stroke itself
	if skip < stride {
		var part [stride]float64
		read(a.x, float64(age+skip), 1, &part)
		copy(x[skip:], part[:])
	}
	for i := range x {
		own := 1.0
		if at := age + i; at < a.length {
			own = 0
		} else if at < a.frames {
			own = float64(at-a.length+1) / float64(a.frames-a.length+1)
		}
		for c := range l.channels() {
			s.run[c][i] = s.run[c][i]*own + x[i]*a.gain*(1-own)
		}
	}
}
