package engine

import (
	"slices"

	"jubrak/core/effect"
)

// Bypass is what is heard off: an effect of a row, or its whole chain where no effect is
// named, or every chain where no row is; and by how much its row, or the output, is
// turned up meanwhile, so that loudness cannot decide.
type Bypass struct {
	Row    string  `json:"row"`
	Effect string  `json:"effect"`
	Gain   float64 `json:"gain_db"`
}

// Without is the song as it is heard while something is bypassed.
func (s Song) Without(j Bypass) Song {
	s.Kit.Voices = slices.Clone(s.Kit.Voices)
	s.Mix.Buses = slices.Clone(s.Mix.Buses)
	off := func(row string, chain []effect.Effect) []effect.Effect {
		if j.Row != "" && j.Row != row {
			return chain
		}
		out := effect.CloneChain(chain)
		if j.Effect != "" {
			if at := effect.Find(out, j.Effect); at != nil {
				at.Off = true
			}
			return out
		}
		for i := range out {
			out[i].Off = true
		}
		return out
	}
	gain := func(row string) float64 {
		if row == j.Row || j.Row == "" && row == "out" {
			return j.Gain
		}
		return 0
	}
	for i := range s.Kit.Voices {
		v := &s.Kit.Voices[i]
		v.Chain, v.Level = off(v.ID, v.Chain), v.Level+gain(v.ID)
	}
	for i := range s.Mix.Buses {
		b := &s.Mix.Buses[i]
		b.Chain, b.Level = off("bus:"+b.ID, b.Chain), b.Level+gain("bus:"+b.ID)
	}
	s.Mix.Out.Chain, s.Mix.Out.Level = off("out", s.Mix.Out.Chain), s.Mix.Out.Level+gain("out")
	return s
}
