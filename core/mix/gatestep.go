package mix

import (
	"math"
	"slices"

	"jubrak/core/param"
)

var gateKind = inRows(keyed(kind("gate", "Gate and expander", func(rate float64) Tuned { return &GateStep{rate: rate, gate: NewGate(rate)} }, slices.Concat([]param.Param{
	param.Choice("way", "", "Way", "gate", "expander"),
	db("threshold_db", "Opens at", -80, 0, -36),
	db("hysteresis_db", "Closes lower by", 0, 24, 4),
	db("range_db", "Takes at most", -90, 0, -90),
	ratio("ratio", "Ratio, expander", 1, 20, 3),
	ms("attack_ms", "Attack", 0.05, 200, 0.5),
	ms("hold_ms", "Hold", 0, 1000, 30),
	ms("release_ms", "Release", 1, 2000, 60),
	whole(ms("ahead_ms", "Looks ahead", 0, 10, 0)),
}, listens)...)))

// GateStep is a gate, or an expander that turns down what lies below its threshold by its
// ratio; either may look ahead and listen to another voice.
type GateStep struct {
	rate             float64
	gate             *Gate
	expands          bool
	threshold, floor float64
	slope            float64
	attack, release  float64
	hold, held       int
	env              follower
	gain             float64 // of the expander, dB
	hears            listener
	ahead            Delay
	levels           [MaxBlock]float64
}

// Tune takes the numbers of its kind.
func (g *GateStep) Tune(v []float64, _ int) {
	g.expands = v[0] == 1
	g.threshold, g.floor, g.slope = v[1], v[3], v[4]-1
	g.gate.Set(v[1], v[2], v[3], v[5], v[6], v[7])
	g.env = follower{level: g.env.level, fall: pole(gateLookMS, g.rate)}
	g.attack, g.release = pole(v[5], g.rate), pole(v[7], g.rate)
	g.hold = int(v[6] / 1000 * g.rate)
	g.ahead.Set(int(math.Round(v[8] / 1000 * g.rate)))
	g.hears.rate = g.rate
	g.hears.tune(v[9], v[10])
}

// Process gates.
func (g *GateStep) Process(b Block, key []float64) {
	levels := g.levels[:b.Frames()]
	g.hears.levels(levels, b, key)
	g.ahead.Run(b)
	if !g.expands {
		g.gate.gains(levels)
		for i, gain := range levels {
			b.Left[i] *= gain
		}
		for i := range b.Right {
			b.Right[i] *= levels[i]
		}
		return
	}
	for i, x := range levels {
		goal := max(min(level(g.env.next(x))-g.threshold, 0)*g.slope, g.floor)
		switch {
		case goal >= g.gain:
			g.gain = goal + (g.gain-goal)*g.attack
			g.held = g.hold
		case g.held > 0:
			g.held--
		default:
			g.gain = goal + (g.gain-goal)*g.release
		}
		times(b, i, gainOf(g.gain))
	}
}

// Latency is how far it looks ahead.
func (g *GateStep) Latency() int { return g.ahead.Frames() }

// Tail is 0: it changes what is there.
func (g *GateStep) Tail() int { return 0 }

// Reset closes it.
func (g *GateStep) Reset() {
	g.gate.Reset()
	g.env.level, g.gain, g.held = 0, g.floor, 0
	g.hears.reset()
	g.ahead.Reset()
}
