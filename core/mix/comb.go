package mix

import "math"

var combKind = kind("comb", "Comb", func(rate float64) Tuned { return newComb(rate) },
	hz("tone_hz", "Tone", 30, 8000, 400),
	percent("feedback_percent", "Feedback", -98, 98, 60),
	hz("damping_hz", "Damping", 500, 20000, 20000),
)

// combLowest is the lowest tone of a comb, Hz.
const combLowest = 30

// Comb adds a sound to itself one period of a tone later, again and again:
// a string or a tube of that tone. Negative feedback leaves odd partials, an
// octave lower.
type Comb struct {
	rate     float64
	line     [2]line
	frames   ramp // of the delay
	feedback ramp
	damping  ramp
	soft     [2]float64
	tail     int
}

func newComb(rate float64) *Comb {
	c := &Comb{rate: rate}
	for i := range c.line {
		c.line[i] = newLine(int(rate/combLowest) + 4)
	}
	return c
}

// Tune takes tone, feedback and damping.
func (c *Comb) Tune(v []float64, glide int) {
	damping := 1 - math.Exp(-2*math.Pi*v[2]/c.rate)
	if v[2] >= 20000 {
		damping = 1
	}
	// The damping's own delay is part of the period.
	own := (1 - damping) / damping
	frames := max(c.rate/v[0]-own, 2)
	c.frames.to(frames, glide)
	c.feedback.to(v[1]/100, glide)
	c.damping.to(damping, glide)
	rounds := 6 / max(-math.Log10(math.Abs(v[1]/100)+1e-9), 1e-3)
	c.tail = int(rounds*(frames+own)) + int(frames) + 64
}

// Process adds the past.
func (c *Comb) Process(b Block, _ []float64) {
	if c.frames.left == 0 && c.feedback.left == 0 && c.damping.left == 0 {
		c.still(0, b.Left)
		c.still(1, b.Right)
		return
	}
	for i := range b.Left {
		frames, feedback, damping := c.frames.next(), c.feedback.next(), c.damping.next()
		b.Left[i] = c.next(0, b.Left[i], frames, feedback, damping)
		if b.Right != nil {
			b.Right[i] = c.next(1, b.Right[i], frames, feedback, damping)
		}
	}
}

// still adds the past of a channel while nothing moves.
func (c *Comb) still(side int, x []float64) {
	l := &c.line[side]
	whole := int(c.frames.now)
	part := c.frames.now - float64(whole)
	mask, at, past, soft := len(l.x)-1, l.at, l.x, c.soft[side]
	feedback, damping := c.feedback.now, c.damping.now
	for i, v := range x {
		a := past[(at-whole)&mask]
		a += (past[(at-whole-1)&mask] - a) * part
		soft += (a - soft) * damping
		v += soft * feedback
		past[at] = v
		x[i] = v
		at = (at + 1) & mask
	}
	l.at, l.used, c.soft[side] = at, l.used+len(x), soft
}

func (c *Comb) next(side int, x, frames, feedback, damping float64) float64 {
	past := c.line[side].read(frames)
	c.soft[side] += (past - c.soft[side]) * damping
	x += c.soft[side] * feedback
	c.line[side].write(x)
	return x
}

// Latency is 0.
func (c *Comb) Latency() int { return 0 }

// Tail is until the rounds are 120 dB down.
func (c *Comb) Tail() int { return c.tail }

// Reset forgets the past.
func (c *Comb) Reset() {
	c.frames.end()
	c.feedback.end()
	c.damping.end()
	c.soft = [2]float64{}
	for i := range c.line {
		c.line[i].reset()
	}
}

// line is a delay line that is read at any place, of a length that is a power
// of two.
type line struct {
	x    []float64
	at   int
	used int // how many have been written since it was empty
}

func newLine(frames int) line {
	n := 4
	for n < frames {
		n *= 2
	}
	return line{x: make([]float64, n)}
}

// write adds the newest sample.
func (l *line) write(v float64) {
	l.x[l.at] = v
	l.at = (l.at + 1) & (len(l.x) - 1)
	l.used++
}

// read is the sample so many frames before the one that is written next, 1 for
// the last one written; straight between samples.
func (l *line) read(frames float64) float64 {
	whole := int(frames)
	part := frames - float64(whole)
	mask := len(l.x) - 1
	a := l.x[(l.at-whole)&mask]
	if part == 0 {
		return a
	}
	return a + (l.x[(l.at-whole-1)&mask]-a)*part
}

func (l *line) reset() {
	if l.used < len(l.x) {
		for i := 1; i <= l.used; i++ { // a short sound has not filled it
			l.x[(l.at-i)&(len(l.x)-1)] = 0
		}
	} else {
		clear(l.x)
	}
	l.at, l.used = 0, 0
}
