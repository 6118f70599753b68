package dsp

import "math"

// Filters of second order whose response follows the analogue one up to half the rate,
// where the bilinear transform of the cookbook squeezes it: the poles are those of the
// analogue filter's impulse response, the zeros are chosen so that the response is the
// analogue one's at three frequencies (Vicanek 2016, "Matched second order digital
// filters"). A cut is the inverse of its boost.

// matched is a filter of two analogue poles at w, radians a sample, with a damping, whose
// squared magnitude is that of an analogue one at 0, at the corner, and between that and
// half the rate.
func matched(w, damping, corner float64, squared func(w float64) float64) Biquad {
	decay := math.Exp(-damping * w)
	var a1 float64
	if damping <= 1 {
		a1 = -2 * decay * math.Cos(math.Sqrt(1-damping*damping)*w)
	} else {
		a1 = -2 * decay * math.Cosh(math.Sqrt(damping*damping-1)*w)
	}
	a2 := decay * decay
	a := [3]float64{(1 + a1 + a2) * (1 + a1 + a2), (1 - a1 + a2) * (1 - a1 + a2), -4 * a2}
	b0 := a[0] * squared(0)
	// What the other two parts of the numerator's square have to be at two frequencies.
	type need struct{ high, both, rest float64 }
	at := func(w float64) need {
		high := math.Sin(w/2) * math.Sin(w/2)
		low := 1 - high
		both := 4 * low * high
		return need{high, both, (a[0]*low+a[1]*high+a[2]*both)*squared(w) - b0*low}
	}
	// At 48 kHz 20 kHz, or farther where the corner comes near that.
	p, q := at(corner), at(max(2*math.Pi*20/48, corner+0.4*(math.Pi-corner)))
	det := p.high*q.both - q.high*p.both
	b1 := (p.rest*q.both - q.rest*p.both) / det
	b2 := (p.high*q.rest - q.high*p.rest) / det
	// Sharp filters near half the rate ask for zeros beyond the unit circle: they are held
	// within it, so that the inverse is stable.
	root0, root1 := math.Sqrt(b0), math.Sqrt(max(b1, 0.01*a[1]*squared(math.Pi)))
	half := (root0 + root1) / 2
	sharp := half * (1 - a2) / (1 + a2) // as sharp as the poles
	first := (half + math.Sqrt(max(half*half+b2, sharp*sharp/20))) / 2
	b2 = 4 * first * (first - half)
	return Biquad{B0: first, B1: (root0 - root1) / 2, B2: -b2 / (4 * first), A1: a1, A2: a2}
}

// inverse is the filter that undoes another one of minimum phase.
func (f Biquad) inverse() Biquad {
	return Biquad{B0: 1 / f.B0, B1: f.A1 / f.B0, B2: f.A2 / f.B0, A1: f.B1 / f.B0, A2: f.B2 / f.B0}
}

// squaredOf is the squared magnitude of (s² + z·s + m) / (s² + p·s + n) at s = jx.
func squaredOf(x, z, m, p, n float64) float64 {
	x2 := x * x
	return ((m-x2)*(m-x2) + z*z*x2) / ((n-x2)*(n-x2) + p*p*x2)
}

// Bell designs a boost or cut of gain dB around hz with quality q: the analogue prototype
// of the Audio EQ Cookbook (W3C Note 2021), matched.
func Bell(hz, q, gain, rate float64) Biquad {
	w := 2 * math.Pi * min(hz, 0.49*rate) / rate
	a := math.Pow(10, math.Abs(gain)/40)
	f := matched(w, 1/(2*a*q), w, func(x float64) float64 { return squaredOf(x/w, a/q, 1, 1/(a*q), 1) })
	if gain < 0 {
		return f.inverse()
	}
	return f
}

// LowShelf designs a boost or cut of gain dB below hz with quality q, as Bell does.
func LowShelf(hz, q, gain, rate float64) Biquad {
	f := shelf(hz, q, math.Abs(gain), rate, 1)
	if gain < 0 {
		return f.inverse()
	}
	return f
}

// HighShelf designs a boost or cut of gain dB above hz with quality q, as Bell does.
func HighShelf(hz, q, gain, rate float64) Biquad {
	// Its cut is the low shelf's boost, as much softer: it has the lower poles, at which the
	// rate is less in the way.
	gain, up := math.Abs(gain), gain > 0
	f := shelf(hz, q, gain, rate, math.Pow(10, -gain/10))
	if up {
		return f.inverse()
	}
	return f
}

// shelf is a low shelf that boosts by gain dB, all of it times a squared magnitude.
func shelf(hz, q, gain, rate, times float64) Biquad {
	w := 2 * math.Pi * min(hz, 0.49*rate) / rate
	a := math.Pow(10, gain/40)
	return matched(w/math.Sqrt(a), 1/(2*q), w, func(x float64) float64 {
		return times * squaredOf(x/w, math.Sqrt(a)/q, a, 1/(math.Sqrt(a)*q), 1/a)
	})
}
