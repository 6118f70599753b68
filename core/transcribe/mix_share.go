package transcribe

import (
	_ "embed"
	"math"
	"sort"

	"jubrak/core/measure"
	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// ShareLimit is where the balance is beyond telling, dB.
const ShareLimit = 20

// shareInputs are numbers of a file from which the balance is reported, in dB:
// how far the power in the 70 ms after hits stands over that just before, how
// far power stands over its lower envelope, each over all and by region; and
// the energy that the kicks, snares and cymbals heard would have by themselves,
// against the whole.
const shareInputs = 11

// shareFeatures measures them; ok is false where there are too few hits.
func shareFeatures(s *drumnet.Scene, hits []found) (x [shareInputs]float64, ok bool) {
	if len(hits) < 8 || len(s.Power) < 200 {
		return x, false
	}
	weights := kWeights()
	frames := len(s.Power)
	power := make([][4]float64, frames) // all, lows, mids, highs
	for i := range s.Power {
		for b, p := range s.Power[i] {
			v := weights[b] * float64(p)
			power[i][0] += v
			power[i][1+region(b)] += v
		}
	}
	var after, before [4]float64
	for _, h := range hits {
		at := int(h.time * rate / hop)
		for k := range 4 {
			for i := at + 1; i <= min(at+12, frames-1); i++ {
				after[k] += power[i][k] / 12
			}
			for i := max(at-7, 0); i < min(max(at-2, 0), frames); i++ {
				before[k] += power[i][k] / 5
			}
		}
	}
	for k := range 4 {
		x[k] = ratio(after[k], before[k])
		over, under := 0.0, 0.0
		for i, floor := range lowerEnvelope(power, k) {
			over += math.Max(power[i][k]-floor, 0)
			under += math.Min(power[i][k], floor)
		}
		x[4+k] = ratio(over, under)
	}
	var whole float64
	for i := range power {
		whole += power[i][0]
	}
	var own [3]float64
	for _, h := range hits {
		k := 2
		switch hatless(h.family) {
		case sound.Kick:
			k = 0
		case sound.Snare:
			k = 1
		}
		own[k] += math.Pow(10, h.level/10)
	}
	for k, e := range own {
		// Against full power of the file, as the network reports levels.
		x[8+k] = ratio(e*math.Pow(10, s.Reference()/10), whole)
	}
	return x, true
}

// shareTerms is the features with their squares and products.
func shareTerms(x [shareInputs]float64) []float64 {
	out := append([]float64{1}, x[:]...)
	for i := range x {
		for j := range i + 1 {
			out = append(out, x[i]*x[j]/20)
		}
	}
	return out
}

// ShareTerms is the number of terms of the regression that reports the balance.
const ShareTerms = 1 + shareInputs + shareInputs*(shareInputs+1)/2

// ShareCase hears a recording and gives the terms of its balance, to learn
// from; ok is false where there is too little to measure it from.
func ShareCase(s *drumnet.Scene, x []float32) (terms []float64, ok bool) {
	heard, _, _ := hear(s, newEnvelopes(x, s.Lows))
	features, ok := shareFeatures(s, decide(heard))
	return shareTerms(features), ok
}

//go:embed share.bin.gz
var shareWeights []byte

var shareFit = drumnet.Shipped(shareWeights)

// The standard error on recordings that the regression has not seen, dB, and
// from where on what is beside the drums is not reported from their own room.
const (
	shareError = 3.7
	aloneFrom  = 14.0
)

// share reports the balance by a regression on recordings whose balance is known
// (fixtures/train -what share); nil where there is too little to measure it from.
func share(s *drumnet.Scene, hits []found) *Share {
	x, ok := shareFeatures(s, hits)
	if !ok {
		return nil
	}
	db := shareFit().Run(shareTerms(x))[0]
	out := &Share{DB: math.Min(math.Max(db, -ShareLimit), ShareLimit), Error: shareError}
	out.Alone = db > aloneFrom
	return out
}

func ratio(a, b float64) float64 {
	return math.Min(math.Max(10*math.Log10((a+1e-12)/(b+1e-12)), -30), 30)
}

// region is lows (to 150 Hz), mids (to 3.4 kHz) or highs.
func region(b int) int {
	switch {
	case b < 3:
		return 0
	case b < 20:
		return 1
	}
	return 2
}

// lowerEnvelope is the 20th percentile of the power within 0.35 s.
func lowerEnvelope(power [][4]float64, k int) []float64 {
	const reach = 60
	out := make([]float64, len(power))
	var window []float64
	for at := 0; at < len(power); at += 15 {
		window = window[:0]
		for i := max(at-reach, 0); i <= min(at+reach, len(power)-1); i++ {
			window = append(window, power[i][k])
		}
		sort.Float64s(window)
		for i := at; i < min(at+15, len(power)); i++ {
			out[i] = window[len(window)/5]
		}
	}
	return out
}

// kWeights is the weight of power in each band, after ITU-R BS.1770.
func kWeights() (w [drumnet.Bands]float64) {
	for b := range w {
		w[b] = math.Pow(10, measure.KWeight(drumnet.BandHz(b))/10)
	}
	return w
}
