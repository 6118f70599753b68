package synth

import (
	"math"

	"jubrak/core/sound"
)

// body is the running state of the body and of the sub under it.
type body struct {
	sine   oscillator // one sine alone
	phases [8]float64 // of copies, periods
	sub    oscillator
	second float64    // level of the second tone
	turn   oscillator // the tone itself
}

// secondMost is the phase modulation of 100 %, radians.
const secondMost = 8

func (b *body) start(n *sound.Body) {
	phase := n.Phase / 360
	sin, cos := math.Sincos(2 * math.Pi * phase)
	if n.Phase == 0 || n.Phase == 360 {
		sin, cos = 0, 1 // to the bit
	}
	b.sine = oscillator{sin: sin, cos: cos}
	b.sub = oscillator{cos: 1}
	for i := range b.phases {
		b.phases[i] = phase
	}
	b.second, b.turn = 1, oscillator{cos: 1}
}

// plain reports whether the body is one sine; it then needs no wave.
func plain(n *sound.Body) bool { return n.Wave == 0 && n.Copies == 1 && n.Second == 0 }

// run renders the next stride at a step in periods a sample; to both sides where
// copies are spread.
func (b *body) run(n *sound.Body, w *wave, step, rate float64, left, right *[stride]float64) {
	if w == nil {
		b.sine.pitch(step)
		b.sine.run(left, 1)
		return
	}
	index := 0.0
	if n.Second > 0 {
		index = n.Second / 100 * secondMost * b.second / (2 * math.Pi) // periods
		b.second *= math.Exp(-3 * math.Ln10 * stride / (n.SecondDecay / 1000 * rate))
		// Carson's rule: what modulation adds stays below half the rate.
		index = min(index, max(0.45/step-1, 0)/n.SecondRatio/(2*math.Pi))
	}
	ratio := min(n.SecondRatio, 0.45/step)
	copies := n.Copies
	gain := 1 / math.Sqrt(float64(copies))
	if n.Detune == 0 {
		gain = 1 / float64(copies)
	}
	var mod [stride]float64
	if index > 0 {
		b.turn.pitch(ratio * step)
		b.turn.run(&mod, index)
	}
	for k := range copies {
		apart := 0.0
		if copies > 1 {
			apart = 2*float64(k)/float64(copies-1) - 1
		}
		own := step
		if n.Detune > 0 {
			own *= math.Exp2(apart * n.Detune / 1200)
		}
		v := w.at(own)
		phase := b.phases[k]
		if right == nil {
			for i := range left {
				left[i] += v.read(phase+mod[i]) * gain
				phase += own
			}
		} else {
			// Equal power from left to right.
			l, r := math.Cos((1+apart*n.Spread/100)*math.Pi/4)*math.Sqrt2, math.Sin((1+apart*n.Spread/100)*math.Pi/4)*math.Sqrt2
			for i := range left {
				x := v.read(phase+mod[i]) * gain
				left[i] += x * l
				right[i] += x * r
				phase += own
			}
		}
		b.phases[k] = phase - math.Floor(phase)
	}
}

// oscillator is a sine that turns a unit vector: sin and cos are the vector,
// turnSin and turnCos its turn in one sample.
type oscillator struct{ sin, cos, turnSin, turnCos float64 }

// pitch sets the frequency in cycles a sample and mends the vector's length.
func (o *oscillator) pitch(step float64) {
	o.turnSin, o.turnCos = math.Sincos(2 * math.Pi * step)
	mend := 1 / math.Hypot(o.sin, o.cos)
	o.sin, o.cos = o.sin*mend, o.cos*mend
}

func (o *oscillator) run(x *[stride]float64, gain float64) {
	sin, cos, ts, tc := o.sin, o.cos, o.turnSin, o.turnCos
	for i := range x {
		x[i] = sin * gain
		sin, cos = sin*tc+cos*ts, cos*tc-sin*ts
	}
	o.sin, o.cos = sin, cos
}
