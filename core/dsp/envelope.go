package dsp

import "math"

// Fall is an exponential decay after a linear attack and, where asked, a hold: the
// level curve of every drum part.
type Fall struct {
	level, step float64 // attack: rising by step until 1
	hold        int     // then so many frames there
	decay       float64 // then multiplied by decay each sample
	falling     bool
}

// NewFall rises over attack ms and then falls by 60 dB in decay60 ms.
func NewFall(attack, decay60, rate float64) Fall {
	f := Fall{decay: math.Pow(10, -3/(decay60/1000*rate))}
	n := attack / 1000 * rate
	if n < 1 {
		f.level, f.falling = 1, true
	} else {
		f.step = 1 / n
	}
	return f
}

// NewHeldFall is NewFall with so many ms at the top.
func NewHeldFall(attack, hold, decay60, rate float64) Fall {
	f := NewFall(attack, decay60, rate)
	f.hold = int(hold / 1000 * rate)
	return f
}

// Next returns the present level and moves on by one sample.
func (f *Fall) Next() float64 {
	v := f.level
	if f.falling {
		if f.hold > 0 {
			f.hold--
		} else {
			f.level *= f.decay
		}
	} else if f.level += f.step; f.level >= 1 {
		f.level, f.falling = 1, true
	}
	return v
}

// Times multiplies a block by the level.
func (f *Fall) Times(x []float64) {
	i := 0
	for ; i < len(x) && (!f.falling || f.hold > 0); i++ {
		x[i] *= f.Next()
	}
	level := f.level
	for ; i < len(x); i++ {
		x[i] *= level
		level *= f.decay
	}
	if f.falling && f.hold == 0 {
		f.level = level
	}
}
