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

// At is the curve at u.
func (c Curve) At(u float64) float64 {
	switch c {
	case Hard:
		return math.Min(math.Max(u, -1), 1)
	case Even:
		v := u/evenSlope + evenBias
		return soft(v) - evenRest
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

func soft(u float64) float64 { return u / math.Sqrt(1+u*u) }

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

// Shaper runs a Curve at eight times the sample rate with first-order
// antiderivative antialiasing (Parker, Zavalishin & Le Bivic, DAFx-16), so that
// what it adds above half the rate does not fold back. Silence stays silence.
type Shaper struct {
	curve             Curve
	u, area           float64
	up                steep
	up2, up3          wide
	down2, down3      wide
	down              steep
	fast              bool
	blockX, blockY, r float64
}

// NewShaper is a shaper at rest for gains up to most, linear.
func NewShaper(c Curve, most, rate float64) Shaper {
	// Soft bends need half of the room that corners and folds need.
	fast := most <= 2.5 || c == Soft || c == Diode
	return Shaper{curve: c, area: c.area(0), fast: fast, r: 1 - 2*math.Pi*8/rate}
}

// Next shapes one sample that was already made louder.
func (s *Shaper) Next(u float64) float64 {
	a, b := s.up.split(u)
	a1, a2 := s.up2.split(a)
	b1, b2 := s.up2.split(b)
	var y float64
	if s.fast {
		first := s.down2.join(s.shape(a1), s.shape(a2))
		y = s.down.join(first, s.down2.join(s.shape(b1), s.shape(b2)))
	} else {
		first := s.down2.join(s.twice(a1), s.twice(a2))
		y = s.down.join(first, s.down2.join(s.twice(b1), s.twice(b2)))
	}
	if s.curve != Even && s.curve != Diode {
		return y
	}
	// Unlike sides have a mean of their own, which is no sound.
	s.blockY = y - s.blockX + s.r*s.blockY
	s.blockX = y
	return s.blockY
}

func (s *Shaper) twice(u float64) float64 {
	a, b := s.up3.split(u)
	return s.down3.join(s.shape(a), s.shape(b))
}

// shape is the mean of the curve between the last sample and this one.
func (s *Shaper) shape(u float64) float64 {
	d := u - s.u
	area := s.curve.area(u)
	var y float64
	if math.Abs(d) > 1e-5 {
		y = (area - s.area) / d
	} else {
		y = s.curve.At((u + s.u) / 2)
	}
	s.u, s.area = u, area
	return y
}

// Reset forgets the past.
func (s *Shaper) Reset() {
	*s = Shaper{curve: s.curve, area: s.curve.area(0), fast: s.fast, r: s.r}
}
