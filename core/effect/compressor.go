package effect

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "compressor", Label: "Compressor", Group: Dynamics, Order: 1, Hint: "By its own sound or by another voice", Short: "compress {ratio}:1",
	Picture: Levels, Reduces: true, Alike: true, MidSide: true, Keyed: true,
	Params: slices.Concat([]param.Param{
		param.Choice("detector", "", "Detector", "peak", "RMS"),
		param.Decibels("threshold_db", "Threshold", -60, 0, -18),
		param.Ratio("ratio", "Ratio", 1, 30, 4),
		param.Decibels("knee_db", "Knee", 0, 24, 6),
		hint(param.Decibels("up_threshold_db", "Upward threshold", -80, 0, -40), "What lies below it is lifted by the upward ratio"),
		param.Ratio("up_ratio", "Upward ratio", 1, 4, 1),
		param.Milliseconds("attack_ms", "Attack", 0.1, 200, 5),
		param.Milliseconds("release_ms", "Release", 5, 2000, 100),
		param.Decibels("gain_db", "Makeup gain", -24, 24, 0),
		param.Milliseconds("hold_ms", "Hold", 0, 500, 0),
		whole(param.Milliseconds("ahead_ms", "Lookahead", 0, 10, 0)),
	}, sidechainParams),
	Words: func(s Said) [2]string {
		out := [2]string{fmt.Sprintf("compressor %s:1", s.Text("ratio")), s.reduction()}
		if s.Sidechain != "" {
			out = [2]string{"ducked by " + s.Sidechain, fmt.Sprintf("−%s dB, release %s ms", param.Text(s.Taken), s.Text("release_ms"))}
		}
		if s.Value("up_ratio") > 1 {
			out[1] = "upward, too"
		}
		return out
	},
	Lift: func(v func(string) float64) float64 { return v("gain_db") + upward(v("up_ratio")) },
	make: func(rate float64) Tuned { return newCompressor(rate) },
})

// Compressor turns down what is above a threshold and, where asked, lifts what
// lies below another one. Its gain computer and the smoothing of its gain are
// those of Giannoulis, Massberg & Reiss 2012 (J. Audio Eng. Soc. 60:399), a
// feed-forward one with a smoothed gain. A key, where there is one, is listened to
// in place of the sound itself.
type Compressor struct {
	rate    float64
	of      gainComputer
	rms     bool
	mean    float64 // of squares
	meanOf  float64
	makeup  ramp
	gain    float64 // smoothed, dB
	attack  float64
	release float64
	now, by float64 // linear
	phase   int
	hold    int // looks before it lets go
	held    int
	hears   sidechainFilter
	ahead   Delay
	levels  [MaxBlock]float64
}

// rmsMS is the time constant of RMS detection.
const rmsMS = 10

func newCompressor(rate float64) *Compressor {
	return &Compressor{rate: rate, meanOf: pole(rmsMS, rate), hears: sidechainFilter{rate: rate}}
}

// Tune takes the parameters of its kind.
func (c *Compressor) Tune(v Values, glide int) {
	c.rms = v.Is("detector")
	c.set(gainComputer{v.Get("threshold_db"), v.Get("ratio"), v.Get("knee_db"), v.Get("up_threshold_db"), v.Get("up_ratio")},
		v.Get("attack_ms"), v.Get("release_ms"), v.Get("gain_db"), glide)
	c.hold = int(v.Get("hold_ms") / 1000 * c.rate / every)
	c.ahead.Set(int(math.Round(v.Get("ahead_ms") / 1000 * c.rate)))
	c.hears.tune(v)
}

// set takes the curve, attack and release in ms, and the makeup gain in dB.
func (c *Compressor) set(of gainComputer, attack, release, makeup float64, glide int) {
	c.of = of
	// The gain moves once in so many frames.
	c.attack, c.release = pole(attack, c.rate/every), pole(release, c.rate/every)
	c.makeup.to(makeup, glide)
}

func (c *Compressor) at(k Clock) { k.look(&c.phase, every) }

// Process compresses.
func (c *Compressor) Process(b Block, key []float64) {
	levels := c.levels[:b.Frames()]
	c.hears.levels(levels, b, key)
	c.ahead.Run(b)
	for at := 0; at < len(levels); {
		m := min(every-c.phase, len(levels)-at)
		heard := levels[at : at+m]
		if c.phase == 0 {
			c.hear(heard[:1])
			c.look(c.makeup.next())
			c.hear(heard[1:])
			c.makeup.skip(m - 1)
		} else {
			c.hear(heard)
			c.makeup.skip(m)
		}
		if b.Right != nil {
			scaled(b.Right[at:at+m], c.now, c.by)
		}
		c.now = scaled(b.Left[at:at+m], c.now, c.by)
		c.phase = (c.phase + m) % every
		at += m
	}
}

// scaled multiplies samples by a gain that goes on by a slope at each, and returns where it
// has come to.
func scaled(x []float64, gain, by float64) float64 {
	for i := range x {
		gain += by
		x[i] *= gain
	}
	return gain
}

// hear takes levels into what the next look sees. A square is at its full height every
// half a wave; the largest since the last look stands for the level.
func (c *Compressor) hear(levels []float64) {
	if c.rms {
		for _, x := range levels {
			c.mean = x*x + (c.mean-x*x)*c.meanOf
		}
		return
	}
	for _, x := range levels {
		c.mean = max(c.mean, x)
	}
}

// look sets where the gain goes over the next frames.
func (c *Compressor) look(makeup float64) {
	in := level(c.mean)
	if c.rms {
		in = level(math.Sqrt(2 * c.mean)) // a sine reads as high as its peak (AES17)
	} else {
		c.mean = 0
	}
	goal := c.of.gain(in)
	switch {
	case goal <= c.gain:
		c.gain = goal + (c.gain-goal)*c.attack
		c.held = c.hold
	case c.held > 0:
		c.held--
	default:
		c.gain = goal + (c.gain-goal)*c.release
	}
	c.by = (gainOf(c.gain+makeup) - c.now) / every
}

// Latency is how far it looks ahead.
func (c *Compressor) Latency() int { return c.ahead.Frames() }

// Tail is 0: it changes what is there.
func (c *Compressor) Tail() int { return 0 }

// Reset forgets the past.
func (c *Compressor) Reset() {
	c.makeup.end()
	c.mean, c.gain, c.by, c.phase = 0, 0, 0, 0
	c.now, c.held = gainOf(c.makeup.now), 0
	c.hears.reset()
	c.ahead.Reset()
}

// gainComputer is the static curve of a compressor, levels in dB.
type gainComputer struct{ threshold, ratio, knee, upThreshold, upRatio float64 }

// mostLift is the most that what is soft is lifted, dB.
const mostLift = 24

// upward is how much an upward ratio lifts what is soft, dB.
func upward(ratio float64) float64 {
	if ratio > 1 {
		return mostLift
	}
	return 0
}

// gain is what the curve does to a level, dB. Above the threshold, and in its knee,
// it is that of Giannoulis, Massberg & Reiss 2012, eq. 4.
func (g *gainComputer) gain(in float64) float64 {
	gain := 0.0
	slope := 1/g.ratio - 1
	switch over := in - g.threshold; {
	case 2*over > g.knee:
		gain = slope * over
	case 2*over >= -g.knee && g.knee > 0:
		gain = slope * (over + g.knee/2) * (over + g.knee/2) / (2 * g.knee)
	}
	if under := g.upThreshold - in; g.upRatio > 1 && under > 0 && in > quiet {
		lift := under * (1 - 1/g.upRatio)
		// Down to silence nothing is left to be lifted.
		gain += min(lift, mostLift) * min((in-quiet)/40, 1)
	}
	return gain
}
