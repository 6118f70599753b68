package demo

import (
	"jubrak/core/effect"
	"jubrak/core/preset"
	"jubrak/core/project"
)

// chainOf is a chain of the library by its name.
func chainOf(name string) []effect.Effect {
	for _, c := range preset.Chains() {
		if c.Name == name {
			return c.Effects
		}
	}
	panic("there is no chain " + name)
}

func chain(row, name string) project.SetChain {
	return project.SetChain{Row: row, Effects: chainOf(name), Title: name}
}

func withEffect(row, kind string, values map[string]float64) project.AddEffect {
	return project.AddEffect{Chain: project.InRow(row), Kind: kind, To: 99, Values: values}
}

// speedMix is the mix of the speed round: drums on a bus with a squashed copy, an 808
// that the kick ducks, a short room that some rows send to.
func speedMix() project.Edits {
	return project.Edits{
		chain("kick", "Kick: mono lows"),
		chain("snare", "Snare: body and air"),
		project.SetChain{Row: "snare", Effects: chainOf("Snare: less attack, more body"), Append: true},
		chain("hat", "Hat: out of the way"),
		withEffect("hat", "duck", map[string]float64{"amount_percent": 35}),
		chain("open", "Hat: air"),
		withEffect("open", "tremolo", map[string]float64{"acts": 1, "beats": 1.5, "depth_percent": 45}),
		chain("808", "808: room for the kick"),
		project.AddEffect{Chain: project.InRow("808"), Kind: "compressor", To: 99, Key: "kick", Values: map[string]float64{"threshold_db": -30, "ratio": 4, "attack_ms": 2, "release_ms": 90}},
		project.AddBus{Name: "Drums", Rows: []string{"kick", "snare", "hat", "open"}},
		project.AddBus{Name: "Room", Sends: []string{"snare", "open"}},
		chain("bus:drums", "Bus: glue"),
		project.SetChain{Row: "bus:drums", Effects: chainOf("Bus: squashed at 15 %"), Append: true},
		chain("bus:room", "Room: short"),
		chain("out", "Output: −1 dBTP"),
	}
}

// nightMix lets everything but the kick and the clap breathe on the beat.
func nightMix() project.Edits {
	return project.Edits{
		chain("clap", "Clap: tails vanish"),
		withEffect("shaker", "duck", map[string]float64{"amount_percent": 55}),
		withEffect("perc", "echo", map[string]float64{"beats": 0.75, "cross_percent": 100}),
		withEffect("perc", "duck", map[string]float64{"amount_percent": 70}),
		chain("out", "Output: −1 dBTP"),
	}
}
