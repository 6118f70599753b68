package transcribe

import (
	"math"

	"gonum.org/v1/gonum/floats"

	"jubrak/core/groove"
	"jubrak/core/sound"
)

// sixteenths is how much of each part is struck on each sixteenth of a grid.
type sixteenths [][4]float64

func newSixteenths(g *groove.BeatGrid, hits []Hit) sixteenths {
	if len(hits) == 0 {
		return nil
	}
	first := int(math.Floor(4 * g.Position(hits[0].Time)))
	out := make(sixteenths, int(math.Ceil(4*g.Position(hits[len(hits)-1].Time)))-first+1)
	for i := range hits {
		h := &hits[i]
		at := min(max(int(math.Round(4*g.Position(h.Time)))-first, 0), len(out)-1)
		out[at][part(h.Family)] += h.Confidence * (0.25 + 0.75*float64(h.Velocity)/127)
	}
	return out
}

// returns is the share of what is struck that is struck again so many beats
// later, 0..1.
func (s sixteenths) returns(beats int) float64 {
	var same, all float64
	for i := range max(len(s)-4*beats, 0) {
		for k, x := range s[i] {
			y := s[i+4*beats][k]
			same += 2 * math.Min(x, y)
			all += x + y
		}
	}
	return same / math.Max(all, 1e-9)
}

const (
	// fewestOdd is how many bars of three or five beats say that bars have so
	// many.
	fewestOdd = 5
	// clearlyOdd is by how much more must return after one and two such bars than
	// after four and eight beats.
	clearlyOdd = 0.1
)

// beatsPerBar is four, or three or five where what is struck returns after so
// many beats and twice as many, and clearly less so after four and eight.
func beatsPerBar(g *groove.BeatGrid, hits []Hit) int {
	s := newSixteenths(g, hits)
	most, best := s.returns(4)+clearlyOdd, 4
	for _, n := range []int{3, 5} {
		if len(s) < fewestOdd*n*4 || s.returns(2*n) <= s.returns(8)+clearlyOdd {
			continue
		}
		if r := s.returns(n); r > most {
			most, best = r, n
		}
	}
	return best
}

// oddBarOne says which of the first beats starts a bar of three or five: the one
// with most kicks and crashes and fewest snares; a loop that begins with a kick
// begins with a bar.
func oddBarOne(g *groove.BeatGrid, hits []Hit, perBar int) int {
	score := make([]float64, perBar)
	var total float64
	for i := range hits {
		h := &hits[i]
		at := g.Position(h.Time)
		beat := math.Round(at)
		if math.Abs(at-beat) > 0.13 {
			continue
		}
		w := h.Confidence * float64(h.Velocity) / 127
		total += w
		switch k := wrap(int(beat), perBar); {
		case h.Family == sound.Kick || h.Family == sound.Crash:
			score[k] += w
		case part(h.Family) == part(sound.Snare):
			score[k] -= w
		}
	}
	score[wrap(int(math.Round(g.Position(hits[0].Time))), perBar)] += 0.05 * total
	return floats.MaxIdx(score)
}
