package effect

import (
	"jubrak/core/param"
	"math"
)

var _ = register(Kind{
	ID: "ceiling", Label: "True-peak limiter", Group: Distortion, Order: 7, Hint: "Keeps the true peak below a ceiling", Rows: true,
	Picture: Levels, Reduces: true, Ceiling: true,
	Params: []param.Param{
		param.Decibels("gain_db", "Gain", -12, 24, 0),
		param.Decibels("ceiling_db", "Ceiling, true peak", -24, 0, -1),
		param.Milliseconds("release_ms", "Release", 5, 1000, 80),
	},
	Words: func(s Said) [2]string { return [2]string{"true-peak limiter", s.Text("ceiling_db") + " dBTP"} },
	make:  func(rate float64) Tuned { return newCeiling(rate) },
})

// The curve between samples is looked at in sixteenths, by a windowed sinc of 96 samples
// (ITU-R BS.1770-4, annex 2, asks for quarters and twelve).
const peakPhases, peakTaps = 16, 96

var peakFIR = func() (out [peakPhases][peakTaps]float64) {
	for p := range out {
		sum := 0.0
		for k := range out[p] {
			x := float64(k-peakTaps/2+1) - float64(p)/peakPhases
			sinc := 1.0
			if x != 0 {
				sinc = math.Sin(math.Pi*x) / (math.Pi * x)
			}
			w := 0.54 + 0.46*math.Cos(2*math.Pi*x/peakTaps)
			out[p][k] = sinc * w
			sum += out[p][k]
		}
		for k := range out[p] {
			out[p][k] /= sum
		}
	}
	return out
}()

// Ceiling makes a sound louder and keeps the curve between its samples below a ceiling.
type Ceiling struct {
	rate          float64
	gain, ceiling ramp
	of            Limiter
	past          [2][2 * peakTaps]float64
	at            int
	late          Delay
	needs         [MaxBlock]float64
}

func newCeiling(rate float64) *Ceiling {
	return &Ceiling{rate: rate, of: NewLimiter(rate), late: NewDelay(peakTaps / 2)}
}

// peakMargin is what is kept free for what a changing gain adds between samples.
const peakMargin = 0.06

// Tune takes the parameters of its kind.
func (c *Ceiling) Tune(v Values, glide int) {
	gain, ceiling := v.Get("gain_db"), v.Get("ceiling_db")
	c.gain.to(gainOf(gain-ceiling+peakMargin), glide)
	c.ceiling.to(gainOf(ceiling-peakMargin), glide)
	c.of.release = 1 - math.Exp(-1000/(v.Get("release_ms")*c.rate))
}

// Process limits.
func (c *Ceiling) Process(b Block, _ []float64) {
	c.gain.both(b)
	needs := c.needs[:b.Frames()]
	for i := range needs {
		needs[i] = max(c.peak(0, sound(b.Left[i])), c.peak(1, sound(b.Right[i])))
		c.at = (c.at + 1) % peakTaps
	}
	c.late.Run(b)
	c.of.limit(b, needs)
	c.ceiling.both(b)
}

// peak is the largest of the curve from the sample half of the window ago to the next.
func (c *Ceiling) peak(side int, x float64) float64 {
	past := &c.past[side]
	past[c.at], past[c.at+peakTaps] = x, x
	window := past[c.at+1 : c.at+1+peakTaps]
	most := math.Abs(window[peakTaps/2-1])
	near := 0.0
	for _, v := range window[peakTaps/2-3 : peakTaps/2+4] {
		near = max(near, math.Abs(v))
	}
	if near < 0.4 { // far from the ceiling
		return max(most, near)
	}
	// A coarse look returns where a finer one is worth it.
	coarse := most
	for p := 4; p < peakPhases; p += 4 {
		coarse = max(coarse, math.Abs(dot(window, &peakFIR[p])))
	}
	if coarse < 0.7 {
		return max(coarse, near)
	}
	for p := 1; p < peakPhases; p++ {
		most = max(most, math.Abs(dot(window, &peakFIR[p])))
	}
	return most
}

// dot is the sum of products, in four sums that do not wait for each other.
func dot(x []float64, fir *[peakTaps]float64) float64 {
	var a, b, c, d float64
	x = x[:peakTaps]
	for k := 0; k < peakTaps; k += 4 {
		a += x[k] * fir[k]
		b += x[k+1] * fir[k+1]
		c += x[k+2] * fir[k+2]
		d += x[k+3] * fir[k+3]
	}
	return a + b + c + d
}

// Latency is the limiter's and half of the window.
func (c *Ceiling) Latency() int { return c.of.Latency() + peakTaps/2 }

// Tail is 0.
func (c *Ceiling) Tail() int { return 0 }

// Reset forgets the past.
func (c *Ceiling) Reset() {
	c.gain.end()
	c.ceiling.end()
	c.of.Reset()
	c.late.Reset()
	c.past = [2][2 * peakTaps]float64{}
	c.at = 0
}
