package mix

import (
	"jubrak/core/dsp"
	"jubrak/core/param"
)

var clipKind = kind("clip", "Clipper", func(rate float64) Tuned { return &Clip{rate: rate, curve: -1} },
	param.Choice("curve", "", "Curve", "hard", "soft"),
	db("gain_db", "Gain", 0, 36, 6),
	db("ceiling_db", "Ceiling", -24, 0, -1),
)

// Clip makes a sound louder and cuts what is beyond a ceiling.
type Clip struct {
	rate          float64
	curve         int
	gain, ceiling ramp
	side          [2]dsp.Shaper
}

// Tune takes curve, gain and ceiling.
func (c *Clip) Tune(v []float64, glide int) {
	if k := int(v[0]); k != c.curve {
		c.curve = k
		for i := range c.side {
			c.side[i] = dsp.NewShaper([2]dsp.Curve{dsp.Hard, dsp.Soft}[k], 0, c.rate)
		}
	}
	for i := range c.side {
		c.side[i].Expect(gainOf(v[1] - v[2]))
	}
	c.gain.to(gainOf(v[1]-v[2]), glide)
	c.ceiling.to(gainOf(v[2]), glide)
}

// Process clips.
func (c *Clip) Process(b Block, _ []float64) {
	c.gain.both(b)
	c.side[0].Run(b.Left)
	if b.Right != nil {
		c.side[1].Run(b.Right)
	}
	c.ceiling.both(b)
}

// Latency is 0.
func (c *Clip) Latency() int { return 0 }

// Tail is what the half-band filters ring.
func (c *Clip) Tail() int { return driveTail }

// Reset forgets the past.
func (c *Clip) Reset() {
	c.gain.end()
	c.ceiling.end()
	c.side[0].Reset(c.gain.now)
	c.side[1].Reset(c.gain.now)
}
