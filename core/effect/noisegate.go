package effect

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "gate", Label: "Gate and expander", Group: Dynamics, Order: 2, Hint: "Turns down what is soft", Rows: true,
	Picture: Levels, Reduces: true, Alike: true, MidSide: true, Keyed: true,
	Params: slices.Concat([]param.Param{
		param.Choice("way", "", "Mode", "gate", "expander"),
		param.Decibels("threshold_db", "Threshold", -80, 0, -36),
		when(hint(param.Decibels("hysteresis_db", "Hysteresis", 0, 24, 4), "It closes by so much below the threshold"), "way", 0),
		hint(param.Decibels("range_db", "Range", -90, 0, -90), "The most that it turns down"),
		when(param.Ratio("ratio", "Expander ratio", 1, 20, 3), "way", 1),
		param.Milliseconds("attack_ms", "Attack", 0.05, 200, 0.5),
		param.Milliseconds("hold_ms", "Hold", 0, 1000, 30),
		param.Milliseconds("release_ms", "Release", 1, 2000, 60),
		whole(param.Milliseconds("ahead_ms", "Lookahead", 0, 10, 0)),
	}, sidechainParams),
	Words: func(s Said) [2]string {
		by := ""
		if s.Sidechain != "" {
			by = " by " + s.Sidechain
		}
		return [2]string{s.Name("way") + by, fmt.Sprintf("%s dB, hold %s ms", s.Text("threshold_db"), s.Text("hold_ms"))}
	},
	make: func(rate float64) Tuned {
		return &NoiseGate{rate: rate, gate: NewGate(rate), hears: sidechainFilter{rate: rate}}
	},
})

// NoiseGate is a gate, or an expander that turns down what lies below its threshold by its
// ratio; either may look ahead and listen to another voice.
type NoiseGate struct {
	rate             float64
	gate             *Gate
	expands          bool
	threshold, floor float64
	slope            float64
	attack, release  float64
	hold, held       int
	env              follower
	gain             float64 // of the expander, dB
	hears            sidechainFilter
	ahead            Delay
	levels           [MaxBlock]float64
}

// Tune takes the parameters of its kind.
func (g *NoiseGate) Tune(v Values, _ int) {
	attack, hold, release := v.Get("attack_ms"), v.Get("hold_ms"), v.Get("release_ms")
	g.expands = v.Is("way")
	g.threshold, g.floor, g.slope = v.Get("threshold_db"), v.Get("range_db"), v.Get("ratio")-1
	g.gate.Set(g.threshold, v.Get("hysteresis_db"), g.floor, attack, hold, release)
	g.env = follower{level: g.env.level, fall: pole(gateLookMS, g.rate)}
	g.attack, g.release = pole(attack, g.rate), pole(release, g.rate)
	g.hold = int(hold / 1000 * g.rate)
	g.ahead.Set(int(math.Round(v.Get("ahead_ms") / 1000 * g.rate)))
	g.hears.tune(v)
}

// Process gates.
func (g *NoiseGate) Process(b Block, key []float64) {
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
func (g *NoiseGate) Latency() int { return g.ahead.Frames() }

// Tail is 0: it changes what is there.
func (g *NoiseGate) Tail() int { return 0 }

// Reset closes it.
func (g *NoiseGate) Reset() {
	g.gate.Reset()
	g.env.level, g.gain, g.held = 0, g.floor, 0
	g.hears.reset()
	g.ahead.Reset()
}
