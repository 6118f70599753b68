package listen

import (
	_ "embed"
	"math"
	"slices"

	"jubrak/core/ear"
	"jubrak/core/sound"
)

// TimeInputs is the number of features by which a hit's time is chosen.
const TimeInputs = 4 + 2*ear.Classes + 4

// Guesses is how many times are known for each hit: by the envelope of the
// whole spectrum, by that of the family's own part of it, and by the network.
// The first is the finest and the most often misled by another drum.
const Guesses = 3

// TimeCase is what is known of one hit before its time is told.
type TimeCase struct {
	Family sound.Family
	// Times are the guesses, seconds.
	Times  [Guesses]float64
	Inputs [TimeInputs]float64
}

// TimeCases hears a recording up to the point where times are told, to learn
// from.
func TimeCases(s *ear.Scene, x []float32) []TimeCase {
	return (&envelopes{x}).timeCases(decide(hear(s, float64(len(x))/rate)))
}

// times are the acoustic onsets of hits: of the guesses the one that a small
// network thinks nearest.
func (e *envelopes) times(hits []found) []float64 {
	out := make([]float64, len(hits))
	for i, c := range e.timeCases(hits) {
		y := timeModel().Run(c.Inputs[:])
		best := 0
		for k := range y {
			if y[k] > y[best] {
				best = k
			}
		}
		out[i] = math.Max(c.Times[best], 0)
	}
	return out
}

func (e *envelopes) timeCases(hits []found) []TimeCase {
	out := make([]TimeCase, len(hits))
	together := map[int][]int{}
	for i, h := range hits {
		together[h.frame] = append(together[h.frame], i)
	}
	for _, list := range together {
		var full, fullRise float64
		for n, i := range list {
			h := hits[i]
			at := int(h.time * rate)
			// Drums struck together share the whole spectrum: its onset is
			// looked for once where they agree on the place.
			if n == 0 || math.Abs(h.time-hits[list[0]].time) > 0.002 {
				sample, rise := e.start(at)
				full, fullRise = float64(sample)/rate, rise
			}
			filters, late := own(h.family)
			part, partRise := full, fullRise
			if filters != nil {
				sample, rise := e.start(at, filters...)
				part, partRise = float64(sample)/rate-late, rise
			}
			c := &out[i]
			c.Family, c.Times = h.family, [Guesses]float64{full, part, h.time}
			c.Inputs[0], c.Inputs[1] = apart(full, h.time), math.Log10(1+fullRise)/3
			c.Inputs[2], c.Inputs[3] = apart(part, h.time), math.Log10(1+partRise)/3
			c.Inputs[4+slices.Index(ear.Families, h.family)] = 1
			louder, nearest, count := -30.0, 0.0, 0.0
			for _, j := range list {
				if j == i {
					continue
				}
				o := hits[j]
				c.Inputs[4+ear.Classes+slices.Index(ear.Families, o.family)] = 1
				count++
				if o.level-h.level > louder {
					louder, nearest = o.level-h.level, apart(o.time, h.time)
				}
			}
			at = 4 + 2*ear.Classes
			c.Inputs[at], c.Inputs[at+1] = math.Min(louder, 30)/levelUnit, nearest
			c.Inputs[at+2], c.Inputs[at+3] = count/3, h.confidence
		}
	}
	return out
}

// apart is the distance of two times in units of 5 ms, held to 20 ms.
func apart(a, b float64) float64 { return math.Min(math.Max((a-b)*200, -4), 4) }

//go:embed times.bin.gz
var timeWeights []byte

var timeModel = ear.Shipped(timeWeights)
