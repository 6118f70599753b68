package dsp

import "math"

// Biquad is a second-order filter, direct form II transposed, normalised so
// that a0 = 1. The zero value passes nothing; use a constructor.
type Biquad struct {
	B0, B1, B2, A1, A2 float64
	z1, z2             float64
}

// HighPass designs a second-order high-pass at hz with quality q (Audio EQ
// Cookbook, W3C Note 2021). Frequencies are held below 0.49 of the rate.
func HighPass(hz, q, rate float64) Biquad {
	w := 2 * math.Pi * min(hz, 0.49*rate) / rate
	cos, alpha := math.Cos(w), math.Sin(w)/(2*q)
	a0 := 1 + alpha
	return Biquad{B0: (1 + cos) / 2 / a0, B1: -(1 + cos) / a0, B2: (1 + cos) / 2 / a0, A1: -2 * cos / a0, A2: (1 - alpha) / a0}
}

// LowPass designs a second-order low-pass at hz with quality q (Audio EQ
// Cookbook, W3C Note 2021).
func LowPass(hz, q, rate float64) Biquad {
	w := 2 * math.Pi * min(hz, 0.49*rate) / rate
	cos, alpha := math.Cos(w), math.Sin(w)/(2*q)
	a0 := 1 + alpha
	return Biquad{B0: (1 - cos) / 2 / a0, B1: (1 - cos) / a0, B2: (1 - cos) / 2 / a0, A1: -2 * cos / a0, A2: (1 - alpha) / a0}
}

// BandPass designs a second-order band-pass with 0 dB at its centre hz and
// the given width in octaves between its -3 dB points (Audio EQ Cookbook,
// W3C Note 2021).
func BandPass(hz, octaves, rate float64) Biquad {
	w := 2 * math.Pi * min(hz, 0.45*rate) / rate
	sin := math.Sin(w)
	alpha := min(sin*math.Sinh(math.Ln2/2*octaves*w/sin), 50)
	a0 := 1 + alpha
	return Biquad{B0: alpha / a0, B2: -alpha / a0, A1: -2 * math.Cos(w) / a0, A2: (1 - alpha) / a0}
}

// AllPass designs a second-order allpass at hz with quality q (Audio EQ Cookbook,
// W3C Note 2021).
func AllPass(hz, q, rate float64) Biquad {
	w := 2 * math.Pi * min(hz, 0.49*rate) / rate
	cos, alpha := math.Cos(w), math.Sin(w)/(2*q)
	a0 := 1 + alpha
	return Biquad{B0: (1 - alpha) / a0, B1: -2 * cos / a0, B2: 1, A1: -2 * cos / a0, A2: (1 - alpha) / a0}
}

// Notch designs a filter that takes hz away, with quality q (Audio EQ Cookbook,
// W3C Note 2021).
func Notch(hz, q, rate float64) Biquad {
	w := 2 * math.Pi * min(hz, 0.49*rate) / rate
	cos, alpha := math.Cos(w), math.Sin(w)/(2*q)
	a0 := 1 + alpha
	return Biquad{B0: 1 / a0, B1: -2 * cos / a0, B2: 1 / a0, A1: -2 * cos / a0, A2: (1 - alpha) / a0}
}

// Take gives the filter the coefficients of another one and lets it go on.
func (f *Biquad) Take(o Biquad) { f.B0, f.B1, f.B2, f.A1, f.A2 = o.B0, o.B1, o.B2, o.A1, o.A2 }

// Next filters one sample.
func (f *Biquad) Next(x float64) float64 {
	y := f.B0*x + f.z1
	f.z1 = f.B1*x - f.A1*y + f.z2
	f.z2 = f.B2*x - f.A2*y
	return y
}

// Run filters a block in place.
func (f *Biquad) Run(x []float64) {
	b0, b1, b2, a1, a2, z1, z2 := f.B0, f.B1, f.B2, f.A1, f.A2, f.z1, f.z2
	for i, v := range x {
		y := b0*v + z1
		z1 = b1*v - a1*y + z2
		z2 = b2*v - a2*y
		x[i] = y
	}
	f.z1, f.z2 = z1, z2
}

// RunBoth filters two channels in place with two filters of the same coefficients, in
// step, so that neither waits for itself.
func RunBoth(f, g *Biquad, x, y []float64) {
	b0, b1, b2, a1, a2 := f.B0, f.B1, f.B2, f.A1, f.A2
	z1, z2, w1, w2 := f.z1, f.z2, g.z1, g.z2
	y = y[:len(x)]
	for i, v := range x {
		u := y[i]
		p, q := b0*v+z1, b0*u+w1
		z1, w1 = b1*v-a1*p+z2, b1*u-a1*q+w2
		z2, w2 = b2*v-a2*p, b2*u-a2*q
		x[i], y[i] = p, q
	}
	f.z1, f.z2, g.z1, g.z2 = z1, z2, w1, w2
}

// Cascade filters a block in place with one filter after the other, each from
// rest. Two at a time run in step, so that neither waits for itself.
func Cascade(x []float64, filters []Biquad) {
	for ; len(filters) >= 2; filters = filters[2:] {
		f, g := filters[0], filters[1]
		var z1, z2, w1, w2 float64
		for i, v := range x {
			y := f.B0*v + z1
			z1 = f.B1*v - f.A1*y + z2
			z2 = f.B2*v - f.A2*y
			u := g.B0*y + w1
			w1 = g.B1*y - g.A1*u + w2
			w2 = g.B2*y - g.A2*u
			x[i] = u
		}
	}
	for _, f := range filters {
		f.z1, f.z2 = 0, 0
		f.Run(x)
	}
}

// Reset forgets the past.
func (f *Biquad) Reset() { f.z1, f.z2 = 0, 0 }

// Magnitude is the gain of the filter at hz, linear.
func (f *Biquad) Magnitude(hz, rate float64) float64 {
	w := 2 * math.Pi * hz / rate
	c1, s1, c2, s2 := math.Cos(w), math.Sin(w), math.Cos(2*w), math.Sin(2*w)
	num := math.Hypot(f.B0+f.B1*c1+f.B2*c2, f.B1*s1+f.B2*s2)
	den := math.Hypot(1+f.A1*c1+f.A2*c2, f.A1*s1+f.A2*s2)
	return num / den
}
