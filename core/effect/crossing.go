package effect

import (
	"math"

	"jubrak/core/dsp"
)

// crossing is what both channels go through at one crossover frequency, of fourth order
// (Linkwitz & Riley 1976, J. Audio Eng. Soc. 24:2).
type crossing struct {
	hz        float64
	low, high [2][2]dsp.Moving
	turn      [2]dsp.Moving // brings what does not cross into phase
}

// to crosses at another frequency, which it glides to over so many frames.
func (s *crossing) to(hz, rate float64, glide int) {
	if s.hz == hz {
		return
	}
	s.hz = hz
	low, high, turn := dsp.LowPass(hz, math.Sqrt2/2, rate), dsp.HighPass(hz, math.Sqrt2/2, rate), dsp.AllPass(hz, math.Sqrt2/2, rate)
	for c := range 2 {
		for k := range 2 {
			s.low[c][k].To(low, glide)
			s.high[c][k].To(high, glide)
		}
		s.turn[c].To(turn, glide)
	}
}

func (s *crossing) reset() {
	for c := range 2 {
		for k := range 2 {
			s.low[c][k].Reset()
			s.high[c][k].Reset()
		}
		s.turn[c].Reset()
	}
}

// within is a block of the frames and channels of another one, in memory of its own.
func within(memory *[2][MaxBlock]float64, like Block) Block {
	b := Block{Left: memory[0][:like.Frames()]}
	if like.Right != nil {
		b.Right = memory[1][:like.Frames()]
	}
	return b
}

// divide fills one band more than there are crossings, the lowest first. They add up to
// what went in, turned in phase and flat.
func divide(b Block, at []crossing, bands []Block) {
	for c, x := range [2][]float64{b.Left, b.Right} {
		if x == nil {
			continue
		}
		rest := bands[len(bands)-1].channel(c)
		copy(rest, x)
		for i := range at {
			low := bands[i].channel(c)
			copy(low, rest)
			for k := range 2 {
				at[i].low[c][k].Run(low)
				at[i].high[c][k].Run(rest)
			}
			for j := i - 1; j >= 0; j-- {
				at[i].turn[c].Run(bands[j].channel(c))
			}
		}
	}
}

func (b Block) channel(c int) []float64 {
	if c == 0 {
		return b.Left
	}
	return b.Right
}
