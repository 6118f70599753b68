package listen

import (
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/stat"

	"jubrak/core/ear"
	"jubrak/core/sound"
)

// kin are families that are taken for each other: noise and metal in the
// highs, thumps in the lows, and what lies between.
var kin = func() (of [ear.Classes][]int) {
	for _, group := range [][]sound.Family{
		{sound.HatClosed, sound.HatOpen, sound.Shaker, sound.Tambourine, sound.Ride, sound.Crash},
		{sound.Kick, sound.Tom, sound.Conga},
		{sound.Snare, sound.Clap, sound.Rim, sound.Cowbell, sound.Perc},
	} {
		for _, f := range group {
			for _, g := range group {
				if f != g {
					k := slices.Index(ear.Families, f)
					of[k] = append(of[k], slices.Index(ear.Families, g))
				}
			}
		}
	}
	return of
}()

// rival is the likeliest of a family's kin at a moment.
func rival(h *ear.Heard, k int) int {
	best := kin[k][0]
	for _, j := range kin[k] {
		if h.Odds[j] > h.Odds[best] {
			best = j
		}
	}
	return best
}

// sides parts the moments of a file at which one of two kindred families may
// have been struck, by the difference of their log odds, so that the two parts
// differ most (Otsu 1979, IEEE Transactions on Systems, Man, and Cybernetics 9;
// from memory). Two drums of one kit lie on two sides, well apart, even where
// each moment by itself could be either; one drum lies on both, close together.
type sides struct {
	k, rival int
	between  float64 // the difference that parts them
	apart    float64 // distance of their means, in standard deviations within
	of       [2]side // less like the family, and more
}

// side is what the moments of one side have in common.
type side struct {
	difference, odds float64 // means: against the rival, and of the family itself
	share            float64 // of all moments of both
	// together is the correlation of the two families' log odds. One sound that
	// is taken now for the one, now for the other has a negative one.
	together float64
}

// fewest is the number of moments that are parted at all.
const fewest = 6

// both is the log odds of a family and of its rival at a moment.
type both struct{ mine, rival float64 }

func (b both) difference() float64 { return b.mine - b.rival }

func newSide(list []both, of int) side {
	mine, rival := make([]float64, len(list)), make([]float64, len(list))
	for i, b := range list {
		mine[i], rival[i] = b.mine, b.rival
	}
	s := side{odds: stat.Mean(mine, nil), share: float64(len(list)) / float64(of)}
	s.difference = s.odds - stat.Mean(rival, nil)
	if r := stat.Correlation(mine, rival, nil); len(list) >= fewest && !math.IsNaN(r) {
		s.together = r
	}
	return s
}

func newSides(heard []ear.Heard, k, rival int) sides {
	s := sides{k: k, rival: rival}
	var all []both
	for i := range heard {
		if b := s.both(&heard[i]); math.Max(b.mine, b.rival) > -1 {
			all = append(all, b)
		}
	}
	if len(all) < fewest {
		return s
	}
	sort.Slice(all, func(i, j int) bool { return all[i].difference() < all[j].difference() })
	n := float64(len(all))
	var sum, squares float64
	for _, b := range all {
		sum, squares = sum+b.difference(), squares+b.difference()*b.difference()
	}
	best, most, low := 1, -1.0, 0.0
	for i := 1; i < len(all); i++ {
		low += all[i-1].difference()
		d := low/float64(i) - (sum-low)/(n-float64(i))
		if spread := float64(i) * (n - float64(i)) * d * d / n; spread > most {
			best, most = i, spread
		}
	}
	s.of = [2]side{newSide(all[:best], len(all)), newSide(all[best:], len(all))}
	s.between = (all[best-1].difference() + all[best].difference()) / 2
	within := math.Sqrt(math.Max(squares-sum*sum/n-most, 0) / n)
	s.apart = (s.of[1].difference - s.of[0].difference) / math.Max(within, 0.25)
	return s
}

func (s *sides) both(h *ear.Heard) both {
	return both{bounded(h.Odds[s.k]), bounded(h.Odds[s.rival])}
}

// tell says how likely the rival is at a moment, on which side of the two it
// lies and how far from the other, what that side is like, how far the two are
// apart, and how likely the family is on the other; nothing of the sides where
// there are too few moments.
func (s *sides) tell(h *ear.Heard, to []float64) {
	b := s.both(h)
	to[0] = b.rival / 4
	mine, other := &s.of[0], &s.of[1]
	if b.difference() > s.between {
		mine, other = other, mine
	}
	if mine.share == 0 {
		return
	}
	to[1] = bounded(b.difference()-s.between) / 4
	to[2], to[3], to[4], to[5] = mine.difference/4, mine.odds/4, mine.share, mine.together
	to[6], to[7] = bounded(s.apart)/4, other.odds/4
}
