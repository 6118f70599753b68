package fit

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/dsp/fourier"

	"jubrak/core/measure"
	"jubrak/core/sound"
)

// partsOf sets the measures of a fitted sound beside the target's.
func partsOf(mine, target *measure.Measures) []Part {
	return []Part{
		{Name: "Fundamental", Unit: "Hz", Mine: mine.Fundamental, Target: target.Fundamental},
		{Name: "Settles", Unit: "ms", Mine: mine.Settles, Target: target.Settles},
		{Name: "Attack", Unit: "ms", Mine: mine.Attack, Target: target.Attack},
		{Name: "Decay", Unit: "ms", Mine: mine.Decay, Target: target.Decay},
		{Name: "Snap", Unit: "dB", Mine: mine.Snap, Target: target.Snap},
		{Name: "Brightness", Unit: "Hz", Mine: mine.Centroid, Target: target.Centroid},
	}
}

// What is worth a word: a band that is off by so many dB over so many frames.
const (
	wordDB     = 5.0
	wordFrames = 6
	mostWords  = 4
	stickOver  = 2 // frames: the first 10 ms
)

// words say in which respects a recipe is still another sound than the target.
func (g *goal) words(r *sound.Recipe, mine *measure.Measures) []string {
	out, h := []string{}, g.hear(r)
	type gap struct {
		band int
		db   float64
		from float64 // ms
	}
	var gaps []gap
	for b := range measure.DistanceBands {
		var off, weight []float64
		first := -1
		for k := stickOver; k < g.frames; k++ {
			if g.weight[k][b] > 0 {
				if first < 0 {
					first = k
				}
				off, weight = append(off, g.difference(h.levels, k, b)), append(weight, g.weight[k][b])
			}
		}
		if len(off) < wordFrames {
			continue
		}
		if db := medianOf(off, weight); math.Abs(db) >= wordDB {
			gaps = append(gaps, gap{b, db, float64(first) * measure.DistanceFrame / measure.DistanceRate * 1000})
		}
	}
	slices.SortFunc(gaps, func(a, b gap) int { return int(math.Copysign(1, math.Abs(b.db)-math.Abs(a.db))) })
	edges := measure.MelEdges()
	for _, w := range gaps[:min(len(gaps), mostWords)] {
		if w.db < 0 {
			out = append(out, fmt.Sprintf("%s to %s Hz is %.0f dB too loud after its start.", hz(edges[w.band]), hz(edges[w.band+1]), -w.db))
		} else if at, ok := g.ring(edges[w.band], edges[w.band+1]); ok {
			out = append(out, fmt.Sprintf("A ring at %s Hz is missing (%.0f dB): no part is free for it.", hz(at), w.db))
		} else {
			out = append(out, fmt.Sprintf("%s to %s Hz is %.0f dB too soft after its start.", hz(edges[w.band]), hz(edges[w.band+1]), w.db))
		}
	}
	if db := g.stick(h); db > 6 {
		out = append(out, fmt.Sprintf("The first 10 ms differ by %.0f dB: the target's own attack can be laid over it.", db))
	}
	if a, b := mine.Decay, g.facts.Decay; a != nil && b != nil && math.Abs(*a / *b - 1) > 0.12 {
		out = append(out, fmt.Sprintf("It decays in %.0f ms, the target in %.0f ms.", *a, *b))
	}
	if a, b := mine.Fundamental, g.facts.Fundamental; a != nil && b != nil && tonal(g.family) && math.Abs(1200*math.Log2(*a / *b)) > 15 {
		out = append(out, fmt.Sprintf("Its fundamental is %.1f Hz, the target's %.1f Hz.", *a, *b))
	}
	return out
}

func hz(f float64) string {
	if f >= 1000 {
		return fmt.Sprintf("%.0f", math.Round(f/100)*100)
	}
	return fmt.Sprintf("%.0f", f)
}

// stick is the mean difference of the first 10 ms, dB.
func (g *goal) stick(h heard) float64 {
	sum, n := 0.0, 0.0
	for k := range min(stickOver+1, g.frames) {
		for b, w := range g.weight[k] {
			if w > 0 {
				sum, n = sum+w*math.Abs(g.difference(h.levels, k, b)), n+w
			}
		}
	}
	return sum / math.Max(n, 1e-9)
}

// ring is a partial of the target between two frequencies, Hz, that stands 12 dB over what
// lies beside it.
func (g *goal) ring(from, to float64) (float64, bool) {
	const size = 8192
	fft := fourier.NewFFT(size)
	x := make([]float64, size)
	for i := range x {
		if j := g.at + int(0.02*measure.DistanceRate) + i; j < len(g.wave) {
			x[i] = g.wave[j] * (0.5 - 0.5*math.Cos(2*math.Pi*float64(i)/size))
		}
	}
	var power []float64
	best, first := 0, int(from*size/measure.DistanceRate)
	for k, c := range fft.Coefficients(nil, x) {
		p := real(c)*real(c) + imag(c)*imag(c)
		power = append(power, p)
		if k >= first && k <= int(to*size/measure.DistanceRate) && (best == 0 || p > power[best]) {
			best = k
		}
	}
	around := slices.Clone(power[max(best-12, 0):min(best+13, len(power))])
	slices.Sort(around)
	return float64(best) * measure.DistanceRate / size, power[best] > 16*around[len(around)/2]
}
