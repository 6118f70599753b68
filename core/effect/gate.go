package effect

import "math"

// Gate lets a sound through while a level is above a threshold. It opens straight
// over its attack, stays open for its hold once the level lies its hysteresis
// lower, and closes by dB over its release.
type Gate struct {
	rate        float64
	open, close float64 // linear
	floor       float64
	rise, fall  float64 // a frame: added, factor
	hold        int
	gain        float64
	left        int // frames of hold to go
	opened      bool
	follow      follower
}

// gateLookMS is how fast the level that a gate looks at falls: not with every half
// wave of what is low.
const gateLookMS = 8

// nothing90 is -90 dB, below which a gate lets nothing through.
var nothing90 = gainOf(-90)

// NewGate is a closed gate that lets nothing through.
func NewGate(rate float64) *Gate {
	return &Gate{rate: rate, follow: follower{rise: 0, fall: pole(gateLookMS, rate)}}
}

// Set takes threshold, hysteresis and floor in dB, attack, hold and release in ms.
func (g *Gate) Set(threshold, hysteresis, floor, attack, hold, release float64) {
	g.open, g.close = gainOf(threshold), gainOf(threshold-hysteresis)
	g.floor = gainOf(floor)
	if floor <= -90 {
		g.floor = 0
	}
	g.rise = 1000 / (max(attack, 0.01) * g.rate)
	low := max(g.floor, nothing90)
	g.fall = math.Pow(low, 1000/(max(release, 0.01)*g.rate))
	g.hold = int(hold / 1000 * g.rate)
	g.gain = max(g.gain, g.floor)
}

// Next is the gain for the next frame, whose level is x, linear.
func (g *Gate) Next(x float64) float64 { return g.step(g.follow.next(x)) }

// step is the gain where the level that it looks at is so high.
func (g *Gate) step(level float64) float64 {
	switch {
	case level >= g.open:
		g.opened = true
		g.left = g.hold
	case level >= g.close && g.opened:
		g.left = g.hold
	case g.left > 0:
		g.left--
	default:
		g.opened = false
	}
	if g.opened {
		g.gain = min(g.gain+g.rise, 1)
	} else if g.gain != g.floor {
		if g.gain *= g.fall; g.gain < max(g.floor, nothing90) {
			g.gain = g.floor
		}
	}
	return g.gain
}

// gains puts the gain of each frame in the place of its level.
func (g *Gate) gains(levels []float64) {
	f := g.follow
	for i, x := range levels {
		switch level := f.next(x); {
		case g.opened && g.gain == 1 && level >= g.close:
			g.left = g.hold
			levels[i] = 1
		case !g.opened && g.gain == g.floor && level < g.open:
			levels[i] = g.floor
		default:
			levels[i] = g.step(level)
		}
	}
	g.follow = f
}

// Process gates a block by its key, or by itself where there is none.
func (g *Gate) Process(b Block, key []float64) {
	for i := range b.Left {
		x := 0.0
		if key != nil {
			x = math.Abs(key[i])
		} else {
			x = loudest(b, i)
		}
		times(b, i, g.Next(x))
	}
}

// Latency is 0.
func (g *Gate) Latency() int { return 0 }

// Tail is 0: it changes what is there.
func (g *Gate) Tail() int { return 0 }

// Reset closes it.
func (g *Gate) Reset() {
	g.gain, g.left, g.opened = g.floor, 0, false
	g.follow.level = 0
}
