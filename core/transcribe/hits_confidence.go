package transcribe

import (
	"math"
	"slices"

	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// Confidence is reported so that of hits said with 0.8 four in five are right, in
// every family. The networks' odds alone do not say that: a kick of odds 2 to 1
// is nearly always wrong in a file whose kicks are otherwise beyond doubt, and
// mostly right where all are so soft. So it is a logistic function of a hit's
// log odds and of the middle ones of its family in the file, learnt by group of
// families (fixtures/train -what confidence).

// ConfidenceInputs are 1, a hit's log odds, the median of its family's, and by
// how much the hit lies below that.
const ConfidenceInputs = 4

// confident has the weights by group of families.
var confident = map[sound.Family][ConfidenceInputs]float64{
	sound.Kick:      {-1.754, 0.764, 0.505, 0.301},
	sound.Snare:     {0.341, 0.321, 0.842, 0.625},
	sound.HatClosed: {1.127, 0.618, 0.182, 0.202},
	sound.Ride:      {0.637, 0.580, 0.238, 0.305},
	sound.Tom:       {1.962, 0.616, 0.069, 0.146},
}

// Kin is the group that a family counts with: a hit taken for a near relation is
// still right as a hit.
func Kin(f sound.Family) sound.Family {
	switch f {
	case sound.Clap, sound.Rim:
		return sound.Snare
	case sound.HatOpen, sound.Shaker, sound.Tambourine:
		return sound.HatClosed
	case sound.Crash:
		return sound.Ride
	case sound.Conga, sound.Perc, sound.Cowbell, sound.Bass808:
		return sound.Tom
	}
	return f
}

// confidenceInputs are the inputs of each hit that was recognized.
func confidenceInputs(hits []Hit) [][ConfidenceInputs]float64 {
	const most = 8
	held := func(odds float64) float64 { return math.Min(math.Max(odds, 0), most) }
	middle := middleOdds(hits)
	out := make([][ConfidenceInputs]float64, len(hits))
	for i := range hits {
		o, m := held(hits[i].odds), held(middle[hits[i].Family])
		out[i] = [ConfidenceInputs]float64{1, o, m, math.Min(o-m, 0)}
	}
	return out
}

// middleOdds is the median log odds of each family.
func middleOdds(hits []Hit) map[sound.Family]float64 {
	odds := map[sound.Family][]float64{}
	for _, h := range hits {
		if !h.Unnamed {
			odds[h.Family] = append(odds[h.Family], h.odds)
		}
	}
	out := map[sound.Family]float64{}
	for f, l := range odds {
		slices.Sort(l)
		out[f] = l[len(l)/2]
	}
	return out
}

// calibrate reports the confidence of hits anew.
func calibrate(hits []Hit) {
	for i, x := range confidenceInputs(hits) {
		h := &hits[i]
		if h.Unnamed {
			h.Confidence = unnamedConfidence
			continue
		}
		sum := 0.0
		for k, w := range confident[Kin(h.Family)] {
			sum += w * x[k]
		}
		h.Confidence = math.Round(100/(1+math.Exp(-sum))) / 100
	}
}

// Where nothing drum-like repeats there are no recognizable drums. What
// speaks for drums: a family of which several hits are beyond doubt; or a beat
// that is nearly sure, with a family that is at least likely, or with hits at
// many of the moments at which something may start. Measured on mixes with
// drums of banks that nobody learnt from, and on what is left of them without
// the drums.
const (
	sureOdds      = 4.0
	sureHits      = 2
	sureBeat      = 0.85
	likelyOdds    = 1.0
	likelyShare   = 0.2
	nothingOfSort = 0.35 // what is left of confidence where there are none
)

// drums reports whether anything drum-like repeats; moments is at how many
// something may start.
func (raw *Raw) drums(moments int) bool {
	count := map[sound.Family]int{}
	for _, h := range raw.Hits {
		count[h.Family]++
	}
	most := 0.0
	for f, odds := range middleOdds(raw.Hits) {
		if count[f] >= sureHits {
			most = math.Max(most, odds)
		}
	}
	if raw.Grid == nil || raw.Confidence < sureBeat {
		return most >= sureOdds
	}
	return most >= likelyOdds || float64(len(raw.Hits)) >= likelyShare*float64(moments)
}

// doubt lowers the confidence of all and returns of no beat where there are no
// recognizable drums.
func (raw *Raw) doubt(moments int) {
	if raw.drums(moments) {
		return
	}
	raw.NoDrums, raw.Grid, raw.Confidence, raw.BarOne = true, nil, 0, 0
	for i := range raw.Hits {
		raw.Hits[i].Confidence = math.Round(100*nothingOfSort*raw.Hits[i].Confidence) / 100
	}
}

// A stroke that is clear and like a drum, but like none that the networks know,
// is percussion that is not named.
const (
	unnamedConfidence = 0.3
	unnamedOdds       = -2.6 // of its likeliest family, at least
	unnamedFlux       = 0.4  // of what strong ones have
	unnamedFewest     = 6
	unnamedShare      = 0.2  // of all moments at which something may start
	unnamedApart      = 7    // frames, 40 ms
	unnamedAlike      = 0.93 // correlation of their spectra
	unnamedOthers     = 2    // of its like, each must have
)

// alikes keeps the strokes of which there are others that sound alike: what a
// drum does, and a melody does not.
func alikes(s *drumnet.Scene, strokes []found) []found {
	shapes := make([][drumnet.Bands]float64, len(strokes))
	for i, f := range strokes {
		shapes[i] = shape(s, f.frame)
	}
	var out []found
	for i := range strokes {
		others := 0
		for j := range strokes {
			var product float64
			for b := range drumnet.Bands {
				product += shapes[i][b] * shapes[j][b]
			}
			if j != i && product >= unnamedAlike {
				others++
			}
		}
		if others >= unnamedOthers {
			out = append(out, strokes[i])
		}
	}
	return out
}

// shape is what a stroke adds to the spectrum in its first 50 ms, in dB over
// what was there, without its level and of unit length.
func shape(s *drumnet.Scene, frame int) (out [drumnet.Bands]float64) {
	var mean, norm float64
	for b := range drumnet.Bands {
		var after, before float64
		for k := range 8 {
			after += float64(s.Power[min(frame+1+k, len(s.Power)-1)][b]) / 8
			before += float64(s.Power[max(frame-3-k, 0)][b]) / 8
		}
		out[b] = 10 * math.Log10(math.Max(after-before, 0)+1e-7)
		mean += out[b] / drumnet.Bands
	}
	for b := range out {
		out[b] -= mean
		norm += out[b] * out[b]
	}
	for b := range out {
		out[b] /= math.Sqrt(norm + 1e-12)
	}
	return out
}

// unnamed finds the strokes that the networks heard and did not recognize,
// where they are most of what is struck: beside many that are named they are as
// well notes of other instruments.
// first are the odds before they were judged in their context.
func unnamed(s *drumnet.Scene, heard []drumnet.Heard, first []float64, named []found) []found {
	at := func(i int) float64 { return s.All[heard[i].Frame] }
	var strong []float64
	var order []int
	for i := range heard {
		if first[i] > unnamedOdds {
			strong, order = append(strong, at(i)), append(order, i)
		}
	}
	if len(order) < unnamedFewest {
		return nil
	}
	slices.Sort(strong)
	least := unnamedFlux * strong[len(strong)*9/10]
	slices.SortStableFunc(order, func(a, b int) int { // the strongest first
		switch {
		case at(a) > at(b):
			return -1
		case at(a) < at(b):
			return 1
		}
		return 0
	})
	taken := map[int]bool{}
	for _, n := range named {
		taken[n.frame] = true
	}
	near := func(frame int) bool {
		for f := frame - unnamedApart; f <= frame+unnamedApart; f++ {
			if taken[f] {
				return true
			}
		}
		return false
	}
	perc := slices.Index(drumnet.Families, sound.Perc)
	var out []found
	for _, i := range order {
		h := &heard[i]
		if strength(h) > 0 || at(i) < least || near(h.Frame) {
			continue
		}
		taken[h.Frame] = true
		out = append(out, found{frame: h.Frame, family: sound.Perc, level: h.Level[perc], odds: h.Odds[perc],
			time: float64(h.Frame)*hop/rate + h.Delay[perc]/1000, confidence: unnamedConfidence, unnamed: true})
	}
	if out = alikes(s, out); len(out) < unnamedFewest || len(out) < 2*len(named) || float64(len(out)) < unnamedShare*float64(len(heard)) {
		return nil
	}
	slices.SortStableFunc(out, func(a, b found) int { return a.frame - b.frame })
	return out
}
