package demo

import (
	"jubrak/core/mix"
	"jubrak/core/project"
	"jubrak/core/stock"
)

// chainOf is a chain of the library by its name.
func chainOf(name string) []mix.Step {
	for _, c := range stock.Chains() {
		if c.Name == name {
			return c.Steps
		}
	}
	panic("there is no chain " + name)
}

func chain(row, name string) project.SetChain {
	return project.SetChain{Row: row, Steps: chainOf(name), Title: name}
}

func step(row, kind string, values map[string]float64) project.AddToChain {
	return project.AddToChain{Row: row, Kind: kind, To: 99, Values: values}
}

// speedMix is the mix of the speed round: drums on a bus with a squashed copy, an 808
// that the kick ducks, a short room that some rows send to.
func speedMix() project.Edits {
	return project.Edits{
		chain("kick", "Kick: lows in the middle"),
		chain("snare", "Snare: body and air"),
		project.SetChain{Row: "snare", Steps: chainOf("Snare: tip taken, body forward"), Behind: true},
		chain("hat", "Hat: out of the way"),
		step("hat", "duck", map[string]float64{"amount_percent": 35}),
		chain("open", "Hat: air"),
		step("open", "tremolo", map[string]float64{"acts": 1, "beats": 1.5, "depth_percent": 45}),
		chain("808", "808: room for the kick"),
		project.AddToChain{Row: "808", Kind: "compressor", To: 99, Key: "kick", Values: map[string]float64{"threshold_db": -30, "ratio": 4, "attack_ms": 2, "release_ms": 90}},
		project.AddBus{Name: "Drums", Rows: []string{"kick", "snare", "hat", "open"}},
		project.AddBus{Name: "Room", Sends: []string{"snare", "open"}},
		chain("bus:drums", "Bus: glue"),
		project.SetChain{Row: "bus:drums", Steps: chainOf("Bus: squashed at 15 %"), Behind: true},
		chain("bus:room", "Room: short"),
		chain("out", "Output: −1 dBTP"),
	}
}

// nightMix lets everything but the kick and the clap breathe on the beat.
func nightMix() project.Edits {
	return project.Edits{
		chain("clap", "Clap: tails vanish"),
		step("shaker", "duck", map[string]float64{"amount_percent": 55}),
		step("perc", "echo", map[string]float64{"beats": 0.75, "cross_percent": 100}),
		step("perc", "duck", map[string]float64{"amount_percent": 70}),
		chain("out", "Output: −1 dBTP"),
	}
}
