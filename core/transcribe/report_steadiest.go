package transcribe

import (
	"math"

	"jubrak/core/sound"
)

// SteadyBars is the length of the stretch that Steadiest proposes.
const SteadyBars = 8

// Steadiest proposes the bars worth studying: of all stretches of eight bars
// the one whose bars are most alike and fullest of kick, snare and hats that
// were heard surely, counted from 0. It is nil where the file is no longer
// than that.
func (a *Analysis) Steadiest() *Region {
	if a.Grid == nil || a.Bars <= SteadyBars+1 {
		return nil
	}
	perBar := a.StepsPerBar()
	bars := make([]map[int]float64, a.Bars)
	for i := range bars {
		bars[i] = map[int]float64{}
	}
	rows := map[sound.Family]int{}
	for _, h := range a.Counted() {
		if *h.Bar < 0 || *h.Bar >= a.Bars {
			continue
		}
		if _, ok := rows[h.Family]; !ok {
			rows[h.Family] = len(rows)
		}
		bars[*h.Bar][rows[h.Family]*perBar+*h.Step] += h.Confidence * (0.3 + float64(h.Velocity)/127)
	}
	best, bestScore := 0, math.Inf(-1)
	for first := 0; first+SteadyBars <= a.Bars; first++ {
		var alike, full float64
		for b := first; b < first+SteadyBars; b++ {
			if b > first {
				alike += cosine(bars[b], bars[b-1])
			}
			if b > first+1 {
				alike += cosine(bars[b], bars[b-2])
			}
			for _, v := range bars[b] {
				full += v
			}
		}
		if score := alike/(2*SteadyBars-3) + 0.02*full/SteadyBars; score > bestScore+1e-9 {
			best, bestScore = first, score
		}
	}
	from, to := a.Grid.Seconds(float64(best*a.Grid.PerBar)), a.Grid.Seconds(float64((best+SteadyBars)*a.Grid.PerBar))
	return &Region{math.Max(from, 0), math.Min(to, a.Duration)}
}

// cosine is the likeness of two bars, 0..1.
func cosine(a, b map[int]float64) float64 {
	var ab, aa, bb float64
	for k, v := range a {
		ab += v * b[k]
		aa += v * v
	}
	for _, v := range b {
		bb += v * v
	}
	if aa == 0 || bb == 0 {
		return 0
	}
	return ab / math.Sqrt(aa*bb)
}
