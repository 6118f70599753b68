package mix

import "math"

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
func level(x float64) float64 { return 20 * math.Log10(math.Max(x, 1e-6)) }

// loudest is the larger of both channels' magnitudes.
func loudest(b Block, i int) float64 {
	x := math.Abs(b.Left[i])
	if b.Right != nil {
		x = math.Max(x, math.Abs(b.Right[i]))
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
