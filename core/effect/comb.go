package effect

import (
	"jubrak/core/param"
	"math"
)

var _ = register(Kind{
	ID: "comb", Label: "Comb", Group: Tone, Order: 3, Hint: "A string or a tube of one tone",
	Picture: Spectrum, Linear: true, Alike: true,
	Params: []param.Param{
		param.Hertz("tone_hz", "Frequency", 30, 8000, 400),
		param.Percent("feedback_percent", "Feedback", -98, 98, 60),
		param.Hertz("damping_hz", "Damping", 500, 20000, 20000),
	},
	Words: func(s Said) [2]string { return [2]string{"comb", "at " + s.Hertz("tone_hz")} },
	make:  func(rate float64) Tuned { return newComb(rate) },
})

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

// Tune takes the parameters of its kind.
func (c *Comb) Tune(v Values, glide int) {
	tone, feedback := v.Get("tone_hz"), v.Get("feedback_percent")/100
	damping := 1 - math.Exp(-2*math.Pi*v.Get("damping_hz")/c.rate)
	if v.Get("damping_hz") >= 20000 {
		damping = 1
	}
	// The damping's own delay is part of the period.
	own := (1 - damping) / damping
	frames := max(c.rate/tone-own, 2)
	c.frames.to(frames, glide)
	c.feedback.to(feedback, glide)
	c.damping.to(damping, glide)
	rounds := 6 / max(-math.Log10(math.Abs(feedback)+1e-9), 1e-3)
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

func (c *Comb) gap() int { return lineGap }
