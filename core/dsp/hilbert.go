package dsp

import "math"

// hilbertSections is how many allpass sections each path of Hilbert has.
const hilbertSections = 6

// Hilbert makes of a signal two that are a quarter of a turn apart at every
// frequency from 20 Hz up: two paths of allpass sections (the polyphase half-band
// filter of Valenzuela & Constantinides 1983, IEE Proc. G 130:225, turned by a
// quarter of the rate).
type Hilbert struct {
	paths [2][hilbertSections]hilbertSection
	last  float64
}

type hilbertSection struct{ x1, x2, y1, y2 float64 }

// hilbertCoefficients are those of the two paths.
var hilbertCoefficients = func() (out [2][hilbertSections]float64) {
	for i := range 2 * hilbertSections {
		out[i%2][i/2] = halfbandCoefficient(i, 2*hilbertSections, 0.0008)
	}
	return out
}()

// Next is the signal's two parts: real and a quarter of a turn later.
func (h *Hilbert) Next(x float64) (re, im float64) {
	a, b := x, x
	for i := range h.paths[0] {
		a = h.paths[0][i].next(a, hilbertCoefficients[0][i])
		b = h.paths[1][i].next(b, hilbertCoefficients[1][i])
	}
	re, h.last = h.last, b
	return a, re
}

func (s *hilbertSection) next(x, c float64) float64 {
	y := c*(x+s.y2) - s.x2
	s.x2, s.x1 = s.x1, x
	s.y2, s.y1 = s.y1, y
	return y
}

// halfbandCoefficient is the coefficient of section i of count of an elliptic
// polyphase half-band filter whose transition is so wide, of the sample rate
// (Valenzuela & Constantinides 1983).
func halfbandCoefficient(i, count int, transition float64) float64 {
	k := math.Tan((1 - 2*transition) * math.Pi / 4)
	k *= k
	root := math.Pow(1-k*k, 0.25)
	e := 0.5 * (1 - root) / (1 + root)
	e4 := e * e * e * e
	q := e * (1 + e4*(2+e4*(15+150*e4)))
	order, c := float64(2*count+1), float64(i+1)
	var num float64
	den := 0.5
	for j, sign := 0, 1.0; j < 12; j, sign = j+1, -sign {
		n := float64(j)
		num += sign * math.Pow(q, n*(n+1)) * math.Sin((2*n+1)*c*math.Pi/order)
		if j > 0 {
			den += sign * math.Pow(q, n*n) * math.Cos(2*n*c*math.Pi/order)
		}
	}
	ww := num * math.Pow(q, 0.25) / den
	ww *= ww
	x := math.Sqrt((1-ww*k)*(1-ww/k)) / (1 + ww)
	return (1 - x) / (1 + x)
}
