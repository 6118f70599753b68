package measure

import (
	"math"

	"jubrak/core/audio"
)

// Print is the spectrum of a sound over time, to compare sounds by: for each of
// four parts of it (the first 20 ms, then to 80, 250 and 1000 ms after its onset)
// the level in 24 bands from 30 Hz to 18 kHz, in dB against the loudest band of all,
// at least -60.
type Print [][]int8

var printEnds = [...]float64{0.02, 0.08, 0.25, 1}

const (
	printBands = 24
	printFloor = -60
)

// PrintOf takes the print of a one-shot. Silence has none.
func PrintOf(b *audio.Buffer) Print {
	x := oneSide(b)
	if len(x) == 0 || b.Peak() == 0 {
		return nil
	}
	x = x[min(Onset(x, b.Rate), len(x)-1):]
	levels := make([][]float64, len(printEnds))
	most := math.Inf(-1)
	from := 0.0
	for i, to := range printEnds {
		a, z := min(int(from*float64(b.Rate)), len(x)), min(int(to*float64(b.Rate)), len(x))
		part := make([]float64, max(int((to-from)*float64(b.Rate)), 2048))
		copy(part, x[a:z])
		s := NewMeanSpectrum(part, b.Rate)
		scale := float64(len(part)) / ((to - from) * float64(b.Rate))
		for k := range printBands {
			lo := 30 * math.Pow(600, float64(k)/printBands)
			hi := 30 * math.Pow(600, float64(k+1)/printBands)
			db := 10 * math.Log10(s.shared(lo, hi)*scale+1e-20)
			levels[i] = append(levels[i], db)
			most = math.Max(most, db)
		}
		from = to
	}
	out := make(Print, len(levels))
	for i := range levels {
		for _, db := range levels[i] {
			out[i] = append(out[i], int8(math.Round(math.Max(db-most, printFloor))))
		}
	}
	return out
}

// Distance is how unlike two sounds are, dB: the mean difference of their prints,
// which are matched in level; what both do not have counts less.
func (p Print) Distance(o Print) float64 {
	if len(p) != len(o) || len(p) == 0 {
		return -printFloor
	}
	var sum, weight float64
	for i := range p {
		for k := range p[i] {
			a, b := float64(p[i][k]), float64(o[i][k])
			w := 0.1 + (math.Max(a, b)-printFloor)/-printFloor
			sum += w * math.Abs(a-b)
			weight += w
		}
	}
	return sum / weight
}
