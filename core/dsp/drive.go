package dsp

import "math"

// Drive is a soft clipper, y = g·x / sqrt(1 + (g·x)²), made level so that a
// full-scale input stays full scale. It runs at twice the sample rate with
// first-order antiderivative antialiasing (Parker, Zavalishin & Le Bivic,
// "Reducing the aliasing of nonlinear waveshaping using continuous-time
// convolution", DAFx-16). With this curve the divided difference of the
// antiderivative sqrt(1 + u²) is (u1 + u0) / (F1 + F0), which has no
// ill-conditioned case.
type Drive struct {
	u, f     float64 // last driven sample and sqrt(1+u²)
	up, down halfband
}

// NewDrive is a drive at rest.
func NewDrive() Drive { return Drive{f: 1} }

// DriveGain turns an amount in percent into the gain g before the curve:
// 0 % is clean, 100 % is about 30 dB.
func DriveGain(percent float64) float64 {
	a := percent / 100
	return 32 * a * a
}

// Next shapes one sample with the gain g of DriveGain.
func (d *Drive) Next(x, g float64) float64 {
	a, b := d.up.split(x)
	level := math.Sqrt(1+g*g) / math.Max(g, 1e-9)
	if g < 1e-3 {
		level, g = 1/1e-3, 1e-3 // as good as linear: keeps the filters' delay in place
	}
	return d.down.join(d.shape(a*g)*level, d.shape(b*g)*level)
}

func (d *Drive) shape(u float64) float64 {
	f := math.Sqrt(1 + u*u)
	y := (u + d.u) / (f + d.f)
	d.u, d.f = u, f
	return y
}

// halfband is a two-path allpass half-band filter of order 9 (Regalia, Mitra
// & Vaidyanathan 1988, Proc. IEEE 76:19): flat to 0.22 and at least 68 dB
// down from 0.30 of the doubled rate, as its test confirms.
type halfband struct {
	a0, a1, b0, b1 allpass
}

type allpass struct{ x, y float64 }

func (p *allpass) next(x, c float64) float64 {
	y := c*(x-p.y) + p.x
	p.x, p.y = x, y
	return y
}

const (
	evenA = 0.07986642623635751
	evenB = 0.5453536510711322
	oddA  = 0.28382934487410993
	oddB  = 0.8344118914807379
)

// split doubles the rate: two samples out for one in.
func (h *halfband) split(x float64) (first, second float64) {
	return h.a1.next(h.a0.next(x, evenA), evenB), h.b1.next(h.b0.next(x, oddA), oddB)
}

// join halves the rate: one sample out for two in.
func (h *halfband) join(first, second float64) float64 {
	even := h.a1.next(h.a0.next(second, evenA), evenB)
	odd := h.b1.next(h.b0.next(first, oddA), oddB)
	return 0.5 * (even + odd)
}
