package listen

import (
	"bytes"
	_ "embed"
	"math"
	"sort"
	"sync"

	"jubrak/core/ear"
	"jubrak/core/tone"
)

// Share is how loud the drums are against what plays beside them.
type Share struct {
	// DB is drums over the rest, K-weighted, held to ±ShareLimit.
	DB float64 `json:"db"`
	// Error is the standard error of DB.
	Error float64 `json:"stderr_db"`
	// Alone is true where next to nothing but drums was heard.
	Alone bool `json:"alone"`
}

// ShareLimit is where the balance is beyond telling, dB.
const ShareLimit = 20

// ShareInputs are numbers of a file from which the balance is told, in dB:
// how far the power in the 70 ms after hits stands over that just before, how
// far power stands over its lower envelope, and the energy that the heard hits
// would have by themselves against the whole; over all and by region.
const ShareInputs = 8

// ShareFeatures measures them; ok is false where there are too few hits.
func ShareFeatures(s *ear.Scene, hits []Hit) (x [ShareInputs]float64, ok bool) {
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
		at := int(h.Time * rate / hop)
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
	return x, true
}

// ShareTermsOf is the features with their squares and products.
func ShareTermsOf(x [ShareInputs]float64) []float64 {
	out := append([]float64{1}, x[:]...)
	for i := range x {
		for j := range i + 1 {
			out = append(out, x[i]*x[j]/20)
		}
	}
	return out
}

// ShareTerms is the number of terms of the regression that tells the balance.
const ShareTerms = 1 + ShareInputs + ShareInputs*(ShareInputs+1)/2

//go:embed share.bin
var shareModel []byte

var shareFit = sync.OnceValue(func() *ear.Model {
	m, err := ear.ReadModel(bytes.NewReader(shareModel))
	if err != nil {
		panic(err) // the file is part of the program
	}
	return m
})

// The standard error on recordings that the regression has not seen, dB, and
// from where on what is beside the drums is not told from their own room.
const (
	shareError = 2.0
	aloneFrom  = 14.0
)

// share tells the balance by a regression on recordings whose balance is known
// (fixtures/train -what share); nil where there is too little to tell it from.
func share(s *ear.Scene, hits []Hit) *Share {
	x, ok := ShareFeatures(s, hits)
	if !ok {
		return nil
	}
	db := shareFit().Run(ShareTermsOf(x))[0]
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
func kWeights() (w [ear.Bands]float64) {
	for b := range w {
		w[b] = math.Pow(10, tone.KWeight(ear.BandHz(b))/10)
	}
	return w
}
