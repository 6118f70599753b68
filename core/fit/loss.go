package fit

import (
	"math"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/measure"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// Velocity is that of the stroke that is fitted.
const Velocity = 112

// Render is one stroke of a recipe as a fit hears it, at most so many ms.
func Render(r sound.Recipe, ms float64) *audio.Buffer {
	return synth.OneShot(r, measure.DistanceRate, synth.Hard(Velocity, 1), ms)
}

// heard is a render against the goal.
type heard struct {
	levels [][]float64 // brought to the goal's energy
	gain   float64     // by which they were
	loss   float64
}

// hear renders a recipe and measures how far it lies off: the mean difference of level over
// the cells of the goal, dB, each by its weight, and what its attack and the phase of its
// lows are off.
func (g *goal) hear(r *sound.Recipe) heard {
	x := Render(*r, g.ms).Mono()
	onset := measure.Onset(x, measure.DistanceRate)
	from := onset - ahead*measure.DistanceRate/1000
	var best heard
	if g.low != nil {
		alike, shift := g.phases(lows(x, onset))
		best = g.measure(measure.MelLevels(x, from+shift, g.frames))
		best.loss += phaseWeight * (1 - alike)
	} else {
		best.loss = math.Inf(1)
		for _, shift := range [...]int{0, -96, 96} {
			if h := g.measure(measure.MelLevels(x, from+shift, g.frames)); h.loss < best.loss {
				best = h
			}
			if shift == 0 && g.facts.Attack != nil && *g.facts.Attack < 3 {
				break // what begins at once needs no search
			}
		}
	}
	if a, want := measure.Attack(x, measure.DistanceRate), g.facts.Attack; a != nil && want != nil {
		best.loss += attackWeight * math.Min(math.Max(math.Abs(*a-*want)-1, 0), 10)
	}
	return best
}

// The lows whose phases are compared: what lies under 300 Hz, at 2 kHz.
const (
	lowEdge  = 300.0
	lowRate  = 2000
	lowAhead = 0.01 // seconds
	lowLong  = 0.4  // seconds
	// phaseWeight is what lows count that have nothing in common, dB.
	phaseWeight = 3.0
)

// lows are a sound's lows from shortly before its onset on.
func lows(x []float64, onset int) []float64 {
	const every = measure.DistanceRate / lowRate
	filters := [2]dsp.Biquad{dsp.LowPass(lowEdge, 0.54, measure.DistanceRate), dsp.LowPass(lowEdge, 1.31, measure.DistanceRate)}
	y := make([]float64, min(int((lowAhead+lowLong)*measure.DistanceRate), len(x)-onset+int(lowAhead*measure.DistanceRate)))
	from := onset - int(lowAhead*measure.DistanceRate)
	for i := range y {
		if j := from + i; j >= 0 && j < len(x) {
			y[i] = x[j]
		}
	}
	for i := range filters {
		filters[i].Run(y)
	}
	out := make([]float64, len(y)/every)
	for i := range out {
		out[i] = y[i*every]
	}
	return out
}

// phases is how alike lows are to the goal's at the best shift, and that shift in samples
// at measure.DistanceRate.
func (g *goal) phases(low []float64) (alike float64, shift int) {
	var aa float64
	for _, v := range g.low {
		aa += v * v
	}
	const most = 8 * lowRate / 1000
	for s := -most; s <= most; s++ {
		var ab, bb float64
		for i, v := range g.low {
			if j := i + s; j >= 0 && j < len(low) {
				ab, bb = ab+v*low[j], bb+low[j]*low[j]
			}
		}
		if r := ab / math.Sqrt(aa*bb+1e-20); r > alike {
			alike, shift = r, s
		}
	}
	return alike, shift * measure.DistanceRate / lowRate
}

// attackWeight is what a millisecond of attack that is off by more than one counts, dB.
const attackWeight = 0.1

func (g *goal) measure(levels [][]float64) heard {
	h := heard{levels: levels, gain: g.energy / (measure.MelEnergy(known(levels, g.weight)) + 1e-30)}
	sum, n := 0.0, 0.0
	for k := range levels {
		for b, w := range g.weight[k] {
			levels[k][b] *= h.gain
			if w == 0 && levels[k][b] > g.floor*100 && levels[k][b] > g.levels[k][b] {
				// It sounds where the target does not, or louder than what is guessed of it.
				w = stray * math.Max(g.sure[k][b], guessed)
			}
			if w > 0 {
				sum += w * math.Abs(g.difference(levels, k, b))
				n += w
			}
		}
	}
	h.loss = sum / math.Max(n, 1e-9)
	return h
}

// stray is the weight of a cell in which the render sounds, within 40 dB of the target's peak,
// and the target does not.
const stray = 0.5

// guessed is how far a guess of an unknown cell counts against a render that is louder.
const guessed = 0.3

// difference is by how much the goal is above a render in a cell, dB.
func (g *goal) difference(levels [][]float64, k, b int) float64 {
	return 10 * math.Log10((g.levels[k][b]+g.floor)/(levels[k][b]+g.floor))
}
