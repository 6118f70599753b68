package synth

import (
	"jubrak/core/dsp"
	"jubrak/core/sound"
)

// turns says which layers sound on which stroke.
type turns struct {
	key              uint64
	cycle, shuffle   [sound.MaxLayers]int // places of layers that take turns
	cycles, shuffles int
}

func turnsOf(layers []layer, key uint64) turns {
	t := turns{key: key}
	for i := range layers {
		switch layers[i].of.Turn {
		case sound.InTurn:
			t.cycle[t.cycles] = i
			t.cycles++
		case sound.Shuffled:
			t.shuffle[t.shuffles] = i
			t.shuffles++
		}
	}
	return t
}

// sounds reports whether the layer at a place sounds on a stroke, counted by how many
// came before it.
func (t *turns) sounds(place int, l *sound.Layer, s Stroke) bool {
	switch l.Turn {
	case sound.InTurn:
		return t.cycle[s.Ordinal%t.cycles] == place
	case sound.Shuffled:
		return t.shuffle[t.pick(s.Ordinal)] == place
	case sound.EveryNth:
		return s.Ordinal%l.Every == l.Every-1
	case sound.ByLot:
		return dsp.Uniform(dsp.Key(t.key, dsp.KeyString(l.ID), uint64(s.Ordinal)))*100 < l.Chance
	}
	return true
}

// pick is which of the shuffled layers has its turn: each comes once in a round,
// and none twice in a row. The same stroke always gets the same.
func (t *turns) pick(ordinal int) int {
	n := t.shuffles
	if n == 1 {
		return 0
	}
	round := ordinal / n
	last := -1
	var order [sound.MaxLayers]int
	for r := max(round-8, 0); r <= round; r++ {
		for i := range n {
			order[i] = i
		}
		for i := n - 1; i > 0; i-- { // Fisher & Yates
			k := int(dsp.Uniform(dsp.Key(t.key, uint64(r), uint64(i))) * float64(i+1))
			order[i], order[k] = order[k], order[i]
		}
		if order[0] == last {
			order[0], order[1] = order[1], order[0]
		}
		last = order[n-1]
	}
	return order[ordinal%n]
}
