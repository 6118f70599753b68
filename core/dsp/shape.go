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
		return min(max(u, -1), 1)
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

// ShaperLatency is by how many frames what a Shaper gives is late, at every frequency.
var ShaperLatency = oversampled().latency

// Shaper runs a Curve at two to eight times the sample rate with first-order
// antiderivative antialiasing (Parker, Zavalishin & Le Bivic, "Reducing the
// aliasing of nonlinear waveshaping using continuous-time convolution", DAFx-16),
// so that what it adds above half the rate does not fold back. Its filters are of linear
// phase: what the curve leaves as it is comes out as it went in, ShaperLatency later, up
// to 18.2 of 48 parts of the rate. Silence stays silence.
//
// While what goes in is so soft that the curve leaves it alone (see bends) it is only held
// back, which is the same and costs nothing.
type Shaper struct {
	curve Curve
	pipe  pipe
	// Where the curve needs a higher rate than it has, the next pipe warms up beside this
	// one and is then faded to, for so many frames in all.
	next   pipe
	nextIn int
	// What went in last, how many frames ago it was loud enough to be bent, and whether it
	// is only held back.
	past  [pastFrames]float64
	at    int
	calm  int
	rests bool
	// Unlike sides have a mean of their own, which is no sound and is blocked. Only what
	// the curve adds goes through that, so that it does not turn the lows.
	blockX, blockY, r float64
}

const (
	// shaped is how many samples are shaped at a time.
	shaped = 32
	// reach is as far as the filters look back and more, a number of times shaped.
	reach = 4 * shaped
	// warmUp is how long a pipe runs unheard before it is faded to, and the fade.
	warmUp, pipeFade = 96, 96
	pastFrames       = 256 // a power of two above reach
)

// bends is from which level on a curve changes a sound by more than 1e-5 of it; of Hard 6 dB
// below its corner, for what lies between the samples; uneven ones shift even soft sounds.
var bends = [...]float64{Soft: 4e-3, Hard: 0.5, Even: 1e-9, Fold: 7e-3, Diode: 1e-9}

// NewShaper is a shaper at rest for gains up to most, linear.
func NewShaper(c Curve, most, rate float64) Shaper {
	s := Shaper{curve: c, r: 1 - 2*math.Pi*8/rate}
	s.Reset(most)
	return s
}

// timesFor is at how many times the rate a curve must run for gains up to most.
func timesFor(c Curve, most float64) int {
	switch e := enough[c]; {
	case most <= e[0]:
		return 2
	case most <= e[1]:
		return 4
	}
	return 8
}

// Expect makes the shaper fit for gains up to most. While it runs it only gets finer.
func (s *Shaper) Expect(most float64) {
	times := timesFor(s.curve, most)
	if s.rests {
		s.pipe.times = max(s.pipe.times, times)
		return
	}
	if times > s.pipe.times && (s.nextIn == 0 || times > s.next.times) {
		s.next, s.nextIn = newPipe(s.curve, times), warmUp+pipeFade
	}
}

// Run shapes samples, which were already made louder, in place.
func (s *Shaper) Run(x []float64) {
	limit := bends[s.curve]
	for len(x) > 0 {
		n := 0
		if s.rests {
			for n < len(x) && math.Abs(x[n]) < limit {
				n++
			}
			s.hold(x[:n])
			if n < len(x) {
				s.wake()
			}
		} else {
			for n < min(len(x), shaped) && s.calm < reach {
				if s.calm++; math.Abs(x[n]) >= limit {
					s.calm = 0
				}
				n++
			}
			s.bend(x[:n])
			if s.calm >= reach {
				s.rests = s.nextIn == 0
				s.calm = 0
			}
		}
		x = x[n:]
	}
}

// push keeps a sample and returns the one that comes out where nothing bends.
func (s *Shaper) push(x float64) float64 {
	s.past[s.at&(pastFrames-1)] = x
	dry := s.past[(s.at-ShaperLatency)&(pastFrames-1)]
	s.at++
	return dry
}

// hold holds samples back.
func (s *Shaper) hold(x []float64) {
	for i, v := range x {
		x[i] = s.push(v)
	}
	if s.blockX != 0 || s.blockY != 0 {
		for i := range x {
			x[i] += s.block(0)
		}
	}
}

// wake brings the filters to where they would be had they run all the time.
func (s *Shaper) wake() {
	s.rests, s.calm = false, 0
	s.pipe = newPipe(s.curve, s.pipe.times)
	for from := s.at - reach; from < s.at; from += shaped {
		var x [shaped]float64
		for i := range x {
			x[i] = s.past[(from+i)&(pastFrames-1)]
		}
		s.pipe.run(s.curve, x[:])
	}
}

// bend shapes up to shaped samples.
func (s *Shaper) bend(x []float64) {
	var dry, other [shaped]float64
	copy(other[:], x)
	for i, v := range x {
		dry[i] = s.push(v)
	}
	s.pipe.run(s.curve, x)
	if s.nextIn > 0 {
		s.next.run(s.curve, other[:len(x)])
		for i := range x {
			if s.nextIn = max(s.nextIn-1, 0); s.nextIn < pipeFade {
				x[i] += (other[i] - x[i]) * (1 - float64(s.nextIn)/pipeFade)
			}
		}
		if s.nextIn == 0 {
			s.pipe = s.next
		}
	}
	if s.curve == Even || s.curve == Diode {
		for i, y := range x {
			x[i] = dry[i] + s.block(y-dry[i])
		}
	}
}

// block takes the mean off what a curve adds.
func (s *Shaper) block(added float64) float64 {
	s.blockY = added - s.blockX + s.r*s.blockY
	s.blockX = added
	if math.Abs(s.blockY) < 1e-18 {
		s.blockY = 0
	}
	return s.blockY
}

// Reset forgets the past, and takes gains up to most from now on.
func (s *Shaper) Reset(most float64) {
	*s = Shaper{curve: s.curve, r: s.r, rests: true, pipe: newPipe(s.curve, timesFor(s.curve, most))}
}

// pipe is a way up to a multiple of the rate, through a curve and down again.
type pipe struct {
	times   int
	u, area float64
	// The past of each filter: up to 2, 4 and 8 times, from 8, 4 and 2 times down.
	up   [29]float64
	up2  [13]float64
	up3  [13]float64
	out8 [15]float64
	out4 [15 + pad8]float64
	out2 [89]float64
	late [mostLate2]float64
}

// mostLate2 is the most that the lower rates are held back, frames.
const mostLate2 = 16

func newPipe(c Curve, times int) pipe {
	return pipe{times: times, area: c.area(0)}
}

func (p *pipe) run(c Curve, x []float64) {
	o := oversampled()
	// What is made four at a time is made of a whole number of them; what is over is not
	// kept.
	n := len(x)
	var at1 [29 + shaped + 4]float64
	past(p.up[:], at1[:], x)
	var at2 [89 + 2*shaped + 8]float64
	switch p.times {
	case 2:
		in := at2[len(p.out2) : len(p.out2)+2*n]
		double(&o.up, at1[:], even(at2[len(p.out2):], 2*n))
		p.shape(c, in)
		past(p.out2[:], at2[:], in)
		p.end(&o.from2, at2[:], x, o.late2)
	case 4:
		var up2 [13 + 2*shaped + 8]float64
		double(&o.up, at1[:], even(up2[13:], 2*n))
		past(p.up2[:], up2[:], up2[13:13+2*n])
		var at4 [15 + pad8 + 4*shaped + 8]float64
		in := at4[len(p.out4) : len(p.out4)+4*n]
		doubleHigh(&o.upHigh, up2[:], even(at4[len(p.out4):], 4*n))
		p.shape(c, in)
		past(p.out4[:], at4[:], in)
		halveHigh(&o.from4, at4[pad8:], even(at2[len(p.out2):], 2*n))
		past(p.out2[:], at2[:], at2[len(p.out2):len(p.out2)+2*n])
		p.end(&o.down, at2[:], x, o.late4)
	default:
		var up2 [13 + 2*shaped + 8]float64
		double(&o.up, at1[:], even(up2[13:], 2*n))
		past(p.up2[:], up2[:], up2[13:13+2*n])
		var up3 [13 + 4*shaped + 8]float64
		doubleHigh(&o.upHigh, up2[:], even(up3[13:], 4*n))
		past(p.up3[:], up3[:], up3[13:13+4*n])
		var at8 [15 + 8*shaped + 8]float64
		in := at8[len(p.out8) : len(p.out8)+8*n]
		doubleHigh(&o.upHigh, up3[:], even(at8[len(p.out8):], 8*n))
		p.shape(c, in)
		past(p.out8[:], at8[:], in)
		var at4 [15 + pad8 + 4*shaped + 8]float64
		halveHigh(&o.from8, at8[:], even(at4[len(p.out4):], 4*n))
		past(p.out4[:], at4[:], at4[len(p.out4):len(p.out4)+4*n])
		halveHigh(&o.down2, at4[:], even(at2[len(p.out2):], 2*n))
		past(p.out2[:], at2[:], at2[len(p.out2):len(p.out2)+2*n])
		p.end(&o.down, at2[:], x, 0)
	}
}

// past puts what is kept of the past before x in w, where x may lie already, and keeps the
// end of them.
func past(kept, w, x []float64) {
	copy(w[len(kept):], x)
	copy(w, kept)
	copy(kept, w[len(x):])
}

// even is the beginning of a buffer for n samples, made a number of eight.
func even(w []float64, n int) []float64 { return w[:(n+7)&^7] }

// end halves the rate for the last time and holds the sound back by so many frames.
func (p *pipe) end(h *[45]float64, w, x []float64, late int) {
	var out [mostLate2 + shaped + 4]float64
	halve(h, w, out[late:late+(len(x)+3)&^3])
	copy(out[:late], p.late[:late])
	copy(p.late[:late], out[len(x):])
	copy(x, out[:len(x)])
}

// shape replaces each sample by the mean of the curve between the last one and it.
func (p *pipe) shape(c Curve, x []float64) {
	u0, area0 := p.u, p.area
	if c == Soft {
		// The divided difference of sqrt(1+u²) has no ill-conditioned case so.
		for i, u := range x {
			area := math.Sqrt(1 + u*u)
			x[i] = (u + u0) / (area + area0)
			u0, area0 = u, area
		}
	} else {
		for i, u := range x {
			d := u - u0
			area := c.area(u)
			if math.Abs(d) > 1e-5 {
				x[i] = (area - area0) / d
			} else {
				x[i] = c.At((u + u0) / 2)
			}
			u0, area0 = u, area
		}
	}
	p.u, p.area = u0, area0
}
