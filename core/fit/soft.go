package fit

import (
	"math"

	"jubrak/core/measure"
	"jubrak/core/sound"
)

// SoftLayer is a recipe for soft strokes, where they decay otherwise than loud ones: a layer for
// velocities up to To. Both have the same body in the same phase, so they are not faded.
type SoftLayer struct {
	Recipe sound.Recipe `json:"recipe"`
	To     int          `json:"to"`
}

// otherDecay is a ratio of decays from which on soft strokes have a layer of their own: what
// the decay of a fit may be off by.
const otherDecay = 1.12

// softVelocity is that of a stroke which is softer by so many dB: at a touch of 100 % a tenth
// of the velocity is 40 dB softer.
func softVelocity(db float64) float64 { return Velocity * math.Pow(10, -db/40) }

// softened lets velocity move the recipe's highs as a soft stroke of the target has them:
// by how much less of it lies above 1 kHz, beside its level.
func (g *goal) softened(r sound.Recipe, t *Target) sound.Recipe {
	soft := &Target{Sound: t.Soft, Family: t.Family}
	s, err := soft.ready()
	if err != nil || t.SoftBy < 2 {
		return r
	}
	edges := measure.MelEdges()
	shape := func(g *goal) float64 {
		var high, all float64
		for k := range min(len(g.levels), measure.DistanceFrames) {
			for b, p := range g.levels[k] {
				if edges[b] >= 1000 {
					high += p
				}
				all += p
			}
		}
		return 10 * math.Log10((high+1e-20)/(all+1e-20))
	}
	darker := math.Min(math.Max(shape(g)-shape(s), 0), 24)
	if darker < 1 {
		return r
	}
	slope := darker / (Velocity - softVelocity(t.SoftBy))
	for _, part := range []string{"snap", "noise"} {
		if sounds(&r, part) {
			r = r.By(sound.ByVelocity, part+".level_db", math.Round(-10*slope*Velocity)/10, math.Round(10*slope*(127-Velocity))/10)
		}
	}
	return r
}

// soft is a layer for soft strokes; nil where their decay is not known or not another.
func (g *goal) soft(r *sound.Recipe, t *Target) *SoftLayer {
	if t.SoftBy < 2 {
		return nil
	}
	loud, quiet := g.facts.Decay, measure.Measure(t.Soft).Decay
	if loud == nil || quiet == nil {
		return nil
	}
	by := math.Min(math.Max(*quiet / *loud, 0.3), 2)
	if math.Max(by, 1/by) < otherDecay {
		return nil
	}
	s := copied(r)
	stretch(&s, by)
	return &SoftLayer{Recipe: s, To: int(math.Round((Velocity + softVelocity(t.SoftBy)) / 2))}
}
