package transcribe

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"jubrak/core/groove"
	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// found is a drum heard at a candidate, before it has its exact time.
type found struct {
	frame      int
	family     sound.Family
	level      float64 // dB
	time       float64 // seconds, as the network hears it
	confidence float64
	odds       float64 // log odds
	unnamed    bool    // struck, but not recognized
}

// decide keeps what more likely was struck than not.
func decide(heard []drumnet.Heard) []found {
	var out []found
	for _, h := range heard {
		for k, f := range drumnet.Families {
			if h.Odds[k] > 0 && !choked(&h, k) {
				out = append(out, found{
					frame: h.Frame, family: f, level: h.Level[k],
					time:       float64(h.Frame)*hop/rate + h.Delay[k]/1000,
					confidence: 1 / (1 + math.Exp(-h.Odds[k]-kindred)), odds: h.Odds[k],
				})
			}
		}
	}
	return out
}

// kindred is what is added to the log odds of a family for the confidence with
// which the networks of levels, times and beats are reported of a hit, as when they
// learnt: a hit taken for a near relation (a rim for a snare, a shaker for a
// hat) is still right as a hit. What is reported to people is calibrated
// (confidence.go).
const kindred = 0.7

// openLead is added to the log odds of an open hat against a closed one: open
// ones are rarer, and are taken for closed where they are cut short. It makes
// the two errors more alike (fixtures and the demo's recordings).
const openLead = 2

// choked reports whether a family is one of the two sounds of a hat, and the
// other is likelier at the same moment: a hat is open or closed.
func choked(h *drumnet.Heard, k int) bool {
	open := h.Odds[openHat] > max(h.Odds[closedHat]-openLead, 0)
	return (k == closedHat && open) || (k == openHat && !open)
}

var closedHat, openHat = slices.Index(drumnet.Families, sound.HatClosed), slices.Index(drumnet.Families, sound.HatOpen)

// timeHits gives each drum its own acoustic onset, from the envelope of the
// part of the spectrum where the family lives, and a velocity from its level
// against the family's loudest. grid is the first one, nil where there is none.
func timeHits(env *envelopes, scene *drumnet.Scene, named []found, grid *groove.BeatGrid) []Hit {
	g := env.guess(named, grid)
	measureLevels(scene, env, named, g.again)
	return hitsOf(named, g.strikes())
}

// roughly is the hits as the network alone hears them.
func roughly(named []found) []Hit {
	strikes := make([]strike, len(named))
	for i, n := range named {
		strikes[i].time = n.time
	}
	return hitsOf(named, strikes)
}

func hitsOf(named []found, strikes []strike) []Hit {
	loud := loudest(named)
	hits := make([]Hit, 0, len(named))
	for i, n := range named {
		hits = append(hits, Hit{
			Time: strikes[i].time, Family: n.family, Covered: strikes[i].covered,
			Velocity:   velocity(n.level - loud[n.family]),
			Confidence: math.Round(n.confidence*100) / 100, odds: n.odds, Unnamed: n.unnamed,
		})
	}
	sort.SliceStable(hits, func(a, b int) bool { return hits[a].Time < hits[b].Time })
	hits = dropDoubles(hits)
	for i := range hits {
		hits[i].ID = fmt.Sprintf("r%d", i+1)
	}
	return hits
}

// loudest is the level of the clear hits of each family: its 95th percentile.
func loudest(named []found) map[sound.Family]float64 {
	levels := map[sound.Family][]float64{}
	for _, n := range named {
		levels[n.family] = append(levels[n.family], n.level)
	}
	out := map[sound.Family]float64{}
	for f, l := range levels {
		sort.Float64s(l)
		out[f] = l[(len(l)-1)*95/100]
	}
	return out
}

// velocity is 112 for the family's loud hits; amplitude goes by its square,
// as General MIDI level 2 recommends.
func velocity(db float64) int {
	return int(math.Min(math.Max(math.Round(112*math.Pow(10, db/40)), 1), 127))
}

// dropDoubles removes a second hit of one family on one place.
func dropDoubles(hits []Hit) []Hit {
	last := map[sound.Family]int{}
	out := hits[:0]
	for _, h := range hits {
		if j, ok := last[h.Family]; ok && h.Time-out[j].Time < samePlace {
			out[j].Velocity = max(out[j].Velocity, h.Velocity)
			continue
		}
		last[h.Family] = len(out)
		out = append(out, h)
	}
	return out
}
