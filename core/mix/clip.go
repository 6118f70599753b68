package mix

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var clipKind = kind("clip", "Clipper", func(rate float64) Tuned { return newClip(rate) },
	param.Choice("curve", "", "Curve", "hard", "soft"),
	db("gain_db", "Gain", 0, 36, 6),
	db("ceiling_db", "Ceiling", -24, 0, -1),
	param.Choice("peaks", "", "Sample peaks", "held at the ceiling", "may pass it"),
)

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
	c.passed.to(v[3], glide)
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
