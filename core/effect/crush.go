package effect

import (
	"jubrak/core/param"
	"math"
)

var _ = register(Kind{
	ID: "crush", Label: "Bit crusher", Group: Distortion, Order: 4, Hint: "Fewer bits, another sample rate", Short: "{bits} bits",
	Picture: Transfer, Alike: true,
	Params: []param.Param{
		param.Integer("bits", "Bits", 2, 16, 12),
		param.Hertz("rate_hz", "Sample rate", 500, 48000, 24000),
	},
	Words: func(s Said) [2]string { return [2]string{s.Text("bits") + " bits", s.Hertz("rate_hz")} },
	make:  func(rate float64) Tuned { return &Crush{rate: rate} },
})

// Crush rounds to so many bits and holds samples as at another sample rate: the
// sound of early samplers. Its images are what it is for.
type Crush struct {
	rate   float64
	levels float64 // quantization steps from the middle to full scale
	step   float64 // samples of the other rate a frame
	turn   turn
	begun  bool
	held   [2]float64
}

// Tune takes the parameters of its kind.
func (c *Crush) Tune(v Values, _ int) {
	c.levels = math.Exp2(math.Round(v.Get("bits")) - 1)
	c.step = min(v.Get("rate_hz")/c.rate, 1)
}

func (c *Crush) at(k Clock) { c.turn.at(k, 0) }

// Process rounds and holds.
func (c *Crush) Process(b Block, _ []float64) {
	for i := range b.Left {
		was := c.turn.phase
		c.turn.next(c.step, 1)
		if c.turn.phase <= was || !c.begun {
			c.begun = true
			c.held[0] = c.round(b.Left[i])
			if b.Right != nil {
				c.held[1] = c.round(b.Right[i])
			}
		}
		b.Left[i] = c.held[0]
		if b.Right != nil {
			b.Right[i] = c.held[1]
		}
	}
}

func (c *Crush) round(x float64) float64 {
	return min(max(math.Round(x*c.levels), -c.levels), c.levels-1) / c.levels
}

// Latency is 0.
func (c *Crush) Latency() int { return 0 }

// Tail is what may be held.
func (c *Crush) Tail() int { return int(1/c.step) + 1 }

// Reset forgets the past.
func (c *Crush) Reset() {
	c.turn.reset()
	c.begun, c.held = false, [2]float64{}
}
