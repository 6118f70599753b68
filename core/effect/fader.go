package effect

import (
	"math"

	"jubrak/core/audio"
)

// Fader is gain and pan. A change glides over a few ms. It needs both channels.
type Fader struct {
	gain, goal [2]float64
	step       float64 // the share of the way that a frame makes
	left       int     // frames of the glide to go
	slope      [2]float64
}

// fadeMS is the time in which a fader follows.
const fadeMS = 5

// NewFader stands at a level in dB and a pan from -1 to 1.
func NewFader(level, pan, rate float64) Fader {
	f := Fader{step: 1000 / (fadeMS * rate)}
	f.goal = Panned(level, pan)
	f.gain = f.goal
	return f
}

// Muted is the fader at silence.
func (f Fader) Muted() Fader {
	f.gain, f.goal = [2]float64{}, [2]float64{}
	return f
}

// Follow takes the goal of another fader and glides there.
func (f *Fader) Follow(to Fader) {
	if f.goal == to.goal {
		return
	}
	f.goal, f.left = to.goal, int(math.Round(1/f.step))
	for c := range f.slope {
		f.slope[c] = (f.goal[c] - f.gain[c]) * f.step
	}
}

// Panned are the gains of left and right at a level in dB and a pan from -1 to
// 1: equal power, unity in the centre.
func Panned(level, pan float64) [2]float64 {
	gain := audio.Gain(level)
	if pan == 0 {
		return [2]float64{gain, gain} // to the bit
	}
	angle := (pan + 1) * math.Pi / 4
	return [2]float64{gain * math.Cos(angle) * math.Sqrt2, gain * math.Sin(angle) * math.Sqrt2}
}

// Process changes level and side.
func (f *Fader) Process(b Block, _ []float64) {
	n := min(f.left, b.Frames())
	for c, x := range [2][]float64{b.Left, b.Right} {
		g := f.gain[c]
		for i := range x[:n] {
			g += f.slope[c]
			x[i] *= g
		}
		if f.left == n {
			g = f.goal[c]
		}
		f.gain[c] = g
		for i := n; i < len(x); i++ {
			x[i] *= g
		}
	}
	f.left -= n
}

// Latency is 0.
func (f *Fader) Latency() int { return 0 }

// Tail is 0.
func (f *Fader) Tail() int { return 0 }

// Reset ends a glide where it goes.
func (f *Fader) Reset() { f.gain, f.left = f.goal, 0 }
