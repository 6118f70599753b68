package effect

import (
	"fmt"
	"math"

	"jubrak/core/param"
)

var (
	_ = register(Kind{
		ID: "chorus", Label: "Chorus", Group: Modulation, Order: 2, Hint: "Slowly moving copies, wide", Rows: true, Mixed: 50,
		Picture: Spectrum, Params: chorusParams(12, 40, 0.6, 0),
		Words: func(s Said) [2]string { return [2]string{fmt.Sprintf("chorus, %s %%", s.Text(mixedID)), s.rate()} },
		make:  func(rate float64) Tuned { return newChorus(rate) },
	})
	_ = register(Kind{
		ID: "flanger", Label: "Flanger", Group: Modulation, Order: 3, Hint: "A moving comb, with feedback", Rows: true, Mixed: 50,
		Picture: Spectrum, Params: chorusParams(1.5, 80, 0.2, 60),
		Words: func(s Said) [2]string { return [2]string{fmt.Sprintf("flanger, %s %%", s.Text(mixedID)), s.rate()} },
		make:  func(rate float64) Tuned { return newChorus(rate) },
	})
)

func chorusParams(delay, depth, hz, feedback float64) []param.Param {
	return []param.Param{
		unit("time", "Time in", "beats", "Hz"),
		when(param.Param{ID: "beats", Label: "Every", Unit: "beats", Min: 0.25, Max: 64, Default: 4, Scale: param.Log}, "time", 0),
		when(param.Hertz("rate_hz", "Rate", 0.02, 12, hz), "time", 1),
		param.Milliseconds("delay_ms", "Delay", 0.2, chorusMS, delay),
		param.Percent("depth_percent", "Depth", 0, 100, depth),
		param.Percent("feedback_percent", "Feedback", -95, 95, feedback),
		hint(param.Param{ID: "spread_deg", Label: "Stereo phase", Unit: "°", Max: 180, Default: 90, Scale: param.Linear}, "How far the right side's movement is behind the left's"),
	}
}

// chorusMS is the longest delay at rest, ms.
const chorusMS = 30.0

// chorusFollowMS is the time constant with which a delay follows the movement.
const chorusFollowMS = 6

// Chorus adds a copy whose delay a sine moves up and down around its rest: by all of it at a
// depth of 100 %. With feedback and a short delay it is a flanger (Dattorro 1997, "Effect
// design, part 2", J. Audio Eng. Soc. 45:764). In a loop the sine closes.
type Chorus struct {
	rate                   float64
	inBeats                bool
	beats, hertz           float64
	delay, depth, feedback ramp
	spread                 ramp
	line                   [2]line
	turn                   turn
	per                    float64 // beats a frame
	// Where each side reads, frames: way follows lead, lead what is asked, so that another
	// rate does not click.
	lead, way [2]float64
	begun     bool
}

func newChorus(rate float64) *Chorus {
	c := &Chorus{rate: rate}
	for i := range c.line {
		c.line[i] = newLine(int(2*chorusMS/1000*rate) + 8)
	}
	return c
}

// Tune takes the parameters of its kind.
func (c *Chorus) Tune(v Values, glide int) {
	c.inBeats, c.beats, c.hertz = !v.Is("time"), v.Get("beats"), v.Get("rate_hz")
	c.delay.to(v.Get("delay_ms")/1000*c.rate, glide)
	c.depth.to(v.Get("depth_percent")/100, glide)
	c.feedback.to(v.Get("feedback_percent")/100, glide)
	c.spread.to(v.Get("spread_deg")/360, glide)
}

func (c *Chorus) at(k Clock) {
	c.per = k.PerFrame
	if c.inBeats {
		c.turn.atBeat(k, c.beats)
	} else {
		c.turn.at(k, 0)
	}
}

// Process moves the copy; only that is heard, and the mix of the effect adds the sound
// itself.
func (c *Chorus) Process(b Block, _ []float64) {
	step := c.hertz / c.rate
	follow := 1 - pole(chorusFollowMS, c.rate)
	if c.inBeats {
		step = c.per / c.beats
	}
	for i := range b.Left {
		delay, depth, feedback, spread := c.delay.next(), c.depth.next(), c.feedback.next(), c.spread.next()
		for side, x := range [2]*float64{&b.Left[i], &b.Right[i]} {
			lfo := math.Sin(2 * math.Pi * (c.turn.phase - float64(side)*spread))
			l := &c.line[side]
			goal := max(delay*(1+depth*lfo), 2)
			if !c.begun {
				c.lead[side], c.way[side] = goal, goal
			}
			c.lead[side] += (goal - c.lead[side]) * follow
			c.way[side] += (c.lead[side] - c.way[side]) * follow
			copied := l.smooth(c.way[side])
			l.write(*x + copied*feedback)
			*x = copied
		}
		c.begun = true
		c.turn.next(step, 1)
	}
}

// Latency is 0: the delay is what it is for.
func (c *Chorus) Latency() int { return 0 }

// Tail is until the rounds are 120 dB down.
func (c *Chorus) Tail() int {
	once := c.delay.goal*(1+c.depth.goal) + 4
	rounds := 1 + 6/max(-math.Log10(math.Abs(c.feedback.goal)+1e-9), 1e-3)
	return int(once * rounds)
}

// Reset forgets the past.
func (c *Chorus) Reset() {
	c.delay.end()
	c.depth.end()
	c.feedback.end()
	c.spread.end()
	c.turn.reset()
	c.begun = false
	for i := range c.line {
		c.line[i].reset()
	}
}

func (c *Chorus) gap() int { return lineGap }
