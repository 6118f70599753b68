package effect

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

// every is over how many frames a gain that follows a level runs straight.
const every = 8

// follower is the level of a signal: it rises and falls by time constants.
type follower struct{ level, rise, fall float64 }

// pole is the share of the way that is left after one frame of a time constant.
func pole(ms, rate float64) float64 {
	if ms <= 0 {
		return 0
	}
	return math.Exp(-1000 / (ms * rate))
}

func (f *follower) next(x float64) float64 {
	if x > f.level {
		f.level = x + (f.level-x)*f.rise
	} else {
		f.level = x + (f.level-x)*f.fall
	}
	return f.level
}

// quiet is the level below which there is nothing to follow, dB.
const quiet = -120

// level is an amplitude in dB, at least quiet.
func level(x float64) float64 { return 20 / math.Ln10 * math.Log(max(x, 1e-6)) }

// loudest is the larger of both channels' magnitudes.
func loudest(b Block, i int) float64 {
	x := math.Abs(b.Left[i])
	if b.Right != nil {
		x = max(x, math.Abs(b.Right[i]))
	}
	return x
}

// times multiplies frame i of both channels.
func times(b Block, i int, gain float64) {
	b.Left[i] *= gain
	if b.Right != nil {
		b.Right[i] *= gain
	}
}

// sidechainFilter hears what steers a gain: a key where there is one, else the sound itself,
// through a low and a high cut of its own where they are not wide open.
type sidechainFilter struct {
	rate      float64
	low, high float64
	cuts      [2]dsp.Biquad
	on        bool
}

// sidechainParams are the parameters of a sidechain filter.
var sidechainParams = []param.Param{
	param.Hertz("key_low_hz", "Sidechain low cut", 20, 10000, 20),
	param.Hertz("key_high_hz", "Sidechain high cut", 50, 20000, 20000),
}

func (l *sidechainFilter) tune(v Values) {
	low, high := v.Get("key_low_hz"), v.Get("key_high_hz")
	if low == l.low && high == l.high {
		return
	}
	l.low, l.high = low, high
	l.on = low > 20 || high < 20000
	l.cuts[0].Take(dsp.HighPass(low, math.Sqrt2/2, l.rate))
	l.cuts[1].Take(dsp.LowPass(high, math.Sqrt2/2, l.rate))
}

// levels fills out with how loud each frame is, linear.
func (l *sidechainFilter) levels(out []float64, b Block, key []float64) {
	switch {
	case key != nil:
		copy(out, key)
	case b.Right == nil:
		copy(out, b.Left)
	case l.on:
		for i, x := range b.Left {
			out[i] = (x + b.Right[i]) / 2
		}
	default:
		for i, x := range b.Left {
			out[i] = max(math.Abs(x), math.Abs(b.Right[i]))
		}
		return
	}
	if l.on {
		l.cuts[0].Run(out)
		l.cuts[1].Run(out)
	}
	for i, x := range out {
		out[i] = math.Abs(x)
	}
}

func (l *sidechainFilter) reset() {
	l.cuts[0].Reset()
	l.cuts[1].Reset()
}
