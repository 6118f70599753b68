package dsp

import "math"

// Curve is a waveshaping curve with slope 1 at rest.
type Curve int

// The curves. Soft is y = u / sqrt(1+u²), Hard cuts at full scale, Even is Soft
// off its middle, which adds even harmonics, Fold is a sine that turns back on
// itself, Diode bends its two sides unlike.
const (
	Soft Curve = iota
	Hard
	Even
	Fold
	Diode
)

// evenBias is how far Even stands from the middle of Soft.
const evenBias = 0.6

var (
	evenRest  = soft(evenBias)
	evenSlope = math.Pow(1+evenBias*evenBias, -1.5)
)

func soft(u float64) float64 { return u / math.Sqrt(1+u*u) }

// At is the curve at u.
func (c Curve) At(u float64) float64 {
	switch c {
	case Hard:
		return math.Min(math.Max(u, -1), 1)
	case Even:
		return soft(u/evenSlope+evenBias) - evenRest
	case Fold:
		return math.Sin(u)
	case Diode:
		if u > 0 {
			return 1 - math.Exp(-u)
		}
		return -(1 - math.Exp(2*u)) / 2
	}
	return soft(u)
}

// area is the antiderivative of the curve.
func (c Curve) area(u float64) float64 {
	switch c {
	case Hard:
		if a := math.Abs(u); a > 1 {
			return a - 0.5
		}
		return u * u / 2
	case Even:
		v := u/evenSlope + evenBias
		return evenSlope*math.Sqrt(1+v*v) - evenRest*u
	case Fold:
		return -math.Cos(u)
	case Diode:
		if u > 0 {
			return u + math.Exp(-u) - 1
		}
		return -u/2 + math.Exp(2*u)/4 - 0.25
	}
	return math.Sqrt(1 + u*u)
}

// enough is up to which gain a curve runs at two and at four times the sample rate
// with images 60 dB down, as its test confirms; above that it runs at eight times.
var enough = [...][2]float64{Soft: {3.3, 18}, Hard: {1.2, 12}, Even: {2.9, 9}, Fold: {6, 1e9}, Diode: {2.3, 17}}

// Shaper runs a Curve at two to eight times the sample rate with first-order
// antiderivative antialiasing (Parker, Zavalishin & Le Bivic, "Reducing the
// aliasing of nonlinear waveshaping using continuous-time convolution", DAFx-16),
// so that what it adds above half the rate does not fold back. Silence stays
// silence.
type Shaper struct {
	curve   Curve
	times   int // the sample rate
	u, area float64
	up      band2
	steepUp band6
	up2     band2
	up3     band2
	down3   band2
	down2   band2
	down    band6
	// Unlike sides have a mean of their own, which is no sound and is blocked.
	blockX, blockY, r float64
}

// NewShaper is a shaper at rest for gains up to most, linear.
func NewShaper(c Curve, most, rate float64) Shaper {
	s := Shaper{curve: c, area: c.area(0), r: 1 - 2*math.Pi*8/rate}
	s.Expect(most)
	return s
}

// Expect makes the shaper fit for gains up to most. While it runs it may only get
// finer, with a jump that is small.
func (s *Shaper) Expect(most float64) {
	times := 8
	switch e := enough[s.curve]; {
	case most <= e[0]:
		times = 2
	case most <= e[1]:
		times = 4
	}
	s.times = max(s.times, times)
}

// shaped is how many samples are shaped at a time.
const shaped = 32

// Run shapes samples, which were already made louder, in place.
func (s *Shaper) Run(x []float64) {
	for len(x) > 0 {
		n := min(len(x), shaped)
		s.run(x[:n])
		x = x[n:]
	}
}

func (s *Shaper) run(x []float64) {
	var two [2 * shaped]float64
	at2 := two[:2*len(x)]
	if s.curve == Fold { // its images are folded, too
		s.steepUp.up(x, at2, &steepEven, &steepOdd)
	} else {
		s.up.up(x, at2, &quickEven, &quickOdd)
	}
	if s.times == 2 {
		s.shape(at2)
	} else {
		var four [4 * shaped]float64
		at4 := four[:2*len(at2)]
		s.up2.up(at2, at4, &wideEven, &wideOdd)
		if s.times == 4 {
			s.shape(at4)
		} else {
			var eight [8 * shaped]float64
			at8 := eight[:2*len(at4)]
			s.up3.up(at4, at8, &wideEven, &wideOdd)
			s.shape(at8)
			s.down3.down(at8, at4, &wideEven, &wideOdd)
		}
		s.down2.down(at4, at2, &wideEven, &wideOdd)
	}
	s.down.down(at2, x, &steepEven, &steepOdd)
	if s.curve != Even && s.curve != Diode {
		return
	}
	for i, y := range x {
		s.blockY = y - s.blockX + s.r*s.blockY
		s.blockX = y
		x[i] = s.blockY
	}
}

// shape replaces each sample by the mean of the curve between the last one and it.
func (s *Shaper) shape(x []float64) {
	u0, area0 := s.u, s.area
	if s.curve == Soft {
		// The divided difference of sqrt(1+u²) has no ill-conditioned case so.
		for i, u := range x {
			area := math.Sqrt(1 + u*u)
			x[i] = (u + u0) / (area + area0)
			u0, area0 = u, area
		}
	} else {
		for i, u := range x {
			d := u - u0
			area := s.curve.area(u)
			if math.Abs(d) > 1e-5 {
				x[i] = (area - area0) / d
			} else {
				x[i] = s.curve.At((u + u0) / 2)
			}
			u0, area0 = u, area
		}
	}
	s.u, s.area = u0, area0
}

// Reset forgets the past, and takes gains up to most from now on.
func (s *Shaper) Reset(most float64) {
	*s = Shaper{curve: s.curve, area: s.curve.area(0), r: s.r}
	s.Expect(most)
}
