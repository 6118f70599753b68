package effect

import (
	"jubrak/core/param"
	"math"
)

var _ = register(Kind{
	ID: "trim", Label: "Gain and stereo", Group: Space, Order: 5, Hint: "Gain, balance, polarity, channels", Rows: true,
	Picture: Spectrum,
	Params: []param.Param{
		param.Decibels("gain_db", "Gain", -40, 24, 0),
		{ID: "pan", Label: "Pan", Min: -1, Max: 1, Scale: param.Linear},
		hint(param.Choice("pan_mode", "", "Pan mode", "balance", "stereo pan"), "Balance turns one side down; stereo pan moves both sides, so that nothing is lost"),
		param.Choice("flip", "", "Polarity", "normal", "inverted", "left inverted", "right inverted"),
		param.Choice("sides", "", "Channels", "stereo", "mono", "left to both", "right to both", "swapped", "side only"),
	},
	Words: func(s Said) [2]string { return [2]string{s.Signed("gain_db") + " dB", s.Name("sides")} },
	make:  func(float64) Tuned { return &Trim{} },
})

// Trim changes level, side, polarity and channels.
type Trim struct {
	// What left and right of the sound are in what comes out.
	m [2][2]ramp
}

// Tune takes the parameters of its kind.
func (t *Trim) Tune(v Values, glide int) {
	pan := balanced(v.Get("gain_db"), v.Get("pan"))
	if v.Is("pan_mode") {
		pan = stereoPanned(v.Get("gain_db"), v.Get("pan"))
	}
	ways := [][2][2]float64{{{1, 0}, {0, 1}}, {{0.5, 0.5}, {0.5, 0.5}}, {{1, 0}, {1, 0}}, {{0, 1}, {0, 1}}, {{0, 1}, {1, 0}}, {{0.5, -0.5}, {-0.5, 0.5}}}[int(v.Get("sides"))]
	signs := [][2]float64{{1, 1}, {-1, -1}, {-1, 1}, {1, -1}}[int(v.Get("flip"))]
	for out := range 2 {
		for in := range 2 {
			sum := 0.0
			for k := range 2 {
				sum += pan[out][k] * signs[k] * ways[k][in]
			}
			t.m[out][in].to(sum, glide)
		}
	}
}

// balanced are the gains of left and right at a pan that turns one side down.
func balanced(level, pan float64) [2][2]float64 {
	gains := Panned(level, pan)
	return [2][2]float64{{gains[0], 0}, {0, gains[1]}}
}

// stereoPanned moves both sides: towards the right the left one goes all the way over, the
// right one stays, and the other way round. Each keeps its power (constant-power law,
// common practice), so that nothing is lost.
func stereoPanned(level, pan float64) (out [2][2]float64) {
	gain := gainOf(level)
	for in, at := range [2]float64{-1 + 2*max(pan, 0), 1 + 2*min(pan, 0)} {
		sin, cos := math.Sincos((at + 1) * math.Pi / 4)
		out[0][in], out[1][in] = gain*cos, gain*sin
	}
	return out
}

// Process changes.
func (t *Trim) Process(b Block, _ []float64) {
	for i := range b.Left {
		l, r := b.Left[i], b.Right[i]
		b.Left[i] = l*t.m[0][0].next() + r*t.m[0][1].next()
		b.Right[i] = l*t.m[1][0].next() + r*t.m[1][1].next()
	}
}

// Latency is 0.
func (t *Trim) Latency() int { return 0 }

// Tail is 0.
func (t *Trim) Tail() int { return 0 }

// Reset ends what glides.
func (t *Trim) Reset() {
	for out := range 2 {
		for in := range 2 {
			t.m[out][in].end()
		}
	}
}
