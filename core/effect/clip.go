package effect

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "clip", Label: "Clipper", Group: Distortion, Order: 5, Hint: "Cuts what is beyond a ceiling", Short: "{curve} clip",
	Picture: Transfer, Reduces: true, Alike: true, MidSide: true, Ceiling: true,
	Params: []param.Param{
		param.Choice("curve", "", "Curve", "hard", "soft"),
		param.Decibels("gain_db", "Gain", 0, 36, 6),
		param.Decibels("ceiling_db", "Ceiling", -24, 0, -1),
		param.Choice("peaks", "", "Sample peaks", "held at the ceiling", "may pass it"),
	},
	Words: func(s Said) [2]string {
		return [2]string{"clip, " + s.Name("curve"), "−" + param.Text(s.Taken) + " dB"}
	},
	Lift: func(v func(string) float64) float64 { return v("gain_db") },
	make: func(rate float64) Tuned { return newClip(rate) },
})

// Clip makes a sound louder and cuts what is beyond a ceiling. Without the harmonics above
// half the rate what was cut swings past the ceiling again (Gibbs 1899); where peaks are
// held, a limiter takes that back.
type Clip struct {
	rate          float64
	curve         int
	gain, ceiling ramp
	side          [2]dsp.Shaper
	held          Limiter
	passed        ramp // 1 where peaks may pass
	late          Delay
	free          [2][MaxBlock]float64
}

// clipReleaseMS is how fast the limiter behind a clipper lets go.
const clipReleaseMS = 4

func newClip(rate float64) *Clip {
	c := &Clip{rate: rate, curve: -1, held: NewLimiter(rate), late: NewDelay(ahead - 1)}
	c.held.release = 1 - math.Exp(-1000/(clipReleaseMS*rate))
	return c
}

// Tune takes the parameters of its kind.
func (c *Clip) Tune(v Values, glide int) {
	gain, ceiling := v.Get("gain_db"), v.Get("ceiling_db")
	if k := int(v.Get("curve")); k != c.curve {
		c.curve = k
		for i := range c.side {
			c.side[i] = dsp.NewShaper([2]dsp.Curve{dsp.Hard, dsp.Soft}[k], 0, c.rate)
		}
	}
	for i := range c.side {
		c.side[i].Expect(gainOf(gain - ceiling))
	}
	c.gain.to(gainOf(gain-ceiling), glide)
	c.ceiling.to(gainOf(ceiling), glide)
	c.passed.to(v.Get("peaks"), glide)
}

// Process clips.
func (c *Clip) Process(b Block, _ []float64) {
	c.gain.both(b)
	c.side[0].Run(b.Left)
	if b.Right != nil {
		c.side[1].Run(b.Right)
	}
	free := within(&c.free, b)
	copy(free.Left, b.Left)
	copy(free.Right, b.Right)
	c.late.Run(free)
	c.held.Process(b, nil)
	if c.passed.left > 0 || c.passed.now > 0 {
		for i := range b.Left {
			by := c.passed.next()
			b.Left[i] += (free.Left[i] - b.Left[i]) * by
			if b.Right != nil {
				b.Right[i] += (free.Right[i] - b.Right[i]) * by
			}
		}
	}
	c.ceiling.both(b)
}

// Latency is that of bending and the limiter's, whether it is needed or not.
func (c *Clip) Latency() int { return dsp.ShaperLatency + c.held.Latency() }

// Tail is what the half-band filters ring.
func (c *Clip) Tail() int { return driveTail }

// Reset forgets the past.
func (c *Clip) Reset() {
	c.gain.end()
	c.ceiling.end()
	c.passed.end()
	c.held.Reset()
	c.late.Reset()
	c.side[0].Reset(c.gain.now)
	c.side[1].Reset(c.gain.now)
}
