package fit

import (
	"math"

	"jubrak/core/measure"
	"jubrak/core/sound"
)

type values = map[string]float64

// start is a recipe made of what was measured: pitch and its fall, what rings, and noise
// and the stick with levels that are drawn next.
func (f *fitting) start(shape int) sound.Recipe {
	g := f.goal
	r := sound.Blank()
	decay := 300.0
	if g.facts.Decay != nil {
		decay = math.Min(math.Max(*g.facts.Decay, 20), 6000)
	}
	attack := 0.3
	if g.facts.Attack != nil {
		attack = math.Min(math.Max(*g.facts.Attack, 0.1), 60)
	}
	centroid := 4000.0
	if g.facts.Centroid != nil {
		centroid = math.Min(math.Max(*g.facts.Centroid, 300), 15000)
	}
	if tonal(g.family) && f.may("body") {
		hz := g.hz
		if hz == 0 {
			hz = usualPitch(g.family)
		}
		hz = math.Min(math.Max(hz, 25), 1500)
		first, fall := sweep(g.facts.PitchCurve, hz)
		r = r.With(values{"body.start_hz": first, "body.end_hz": hz, "body.fall_ms": fall, "body.attack_ms": attack, "body.decay_ms": decay, "body.level_db": 0})
		g.levelCurve(&r, bodyCurve, "Body level", "body", 0, attack, decay)
	}
	if f.may("ring") && struck(g.family) {
		hz := g.hz
		if hz == 0 {
			hz = usualPitch(g.family)
		}
		r = r.With(values{"ring.level_db": -24, "ring.pitch_hz": math.Min(math.Max(hz*1.59, 30), 3000), "ring.modes": 8, "ring.decay_ms": math.Max(decay*0.6, 20), "ring.damping_percent": 50, "ring.drop_st": 1, "ring.drop_ms": 40})
	}
	if f.may("metal") && metallic(g.family) {
		r = r.With(values{"metal.level_db": -20, "metal.pitch_hz": 540, "metal.decay_ms": math.Max(decay, 20), "metal.partials": 6})
	}
	if f.may("noise") {
		level, open := -30.0, map[int]float64{lowPassed: 3, highPassed: 0.6, bandPassed: 1.1}[shape]
		if !tonal(g.family) {
			level = -6
		}
		r = r.With(values{"noise.level_db": level, "noise.filter": float64(shape), "noise.width_oct": 3, "noise.decay_ms": decay})
		g.levelCurve(&r, noiseCurve, "Noise level", "noise", level, attack, decay)
		r.Curves = append(r.Curves, sound.Curve{ID: colorCurve, Name: "Noise brightness", Unit: sound.MS, Round: -1, Points: []sound.CurvePoint{{At: 0, Value: 1, Bend: 0.4}, {At: math.Max(decay*0.5, 30), Value: 0}}})
		r.Modulations = append(r.Modulations, sound.Modulation{By: colorCurve, At: "noise.colour_hz", From: math.Min(centroid*open, 17000), To: math.Min(centroid*open*0.6, 12000)})
	}
	if f.may("snap") && g.family != sound.Bass808 {
		r = r.With(values{"snap.level_db": -24, "snap.colour_hz": 4000, "snap.decay_ms": 6})
	}
	if f.options.Effects && (g.family == sound.Kick || g.family == sound.Bass808) {
		r = r.Then("drive", values{"amount_percent": 10})
	}
	if f.options.Effects {
		low := 120.0
		if sounds(&r, "body") {
			low = math.Min(math.Max(2.2*r.Body.End, 120), 600)
		}
		bands := values{}
		for i := range 8 {
			hz := low * math.Pow(15500/low, float64(i)/7)
			id := []string{"band1", "band2", "band3", "band4"}[i%4]
			bands[id+".hz"], bands[id+".q"] = hz, 7/math.Log2(15500/low)*0.9
			if i%4 == 3 {
				r = r.Then("eq", bands)
				bands = values{}
			}
		}
	}
	r.Tidy()
	return r
}

// Shapes of the noise's filter, of sound.NoiseFilters.
const (
	bandPassed = iota
	lowPassed
	highPassed
)

// tonal is whether drums of a family have a body with a pitch.
func tonal(f sound.Family) bool {
	switch f {
	case sound.Kick, sound.Bass808, sound.Tom, sound.Conga, sound.Snare, sound.Rim, sound.Perc, sound.Cowbell:
		return true
	}
	return false
}

// struck is whether a family has a skin or a bar that rings beside its body.
func struck(f sound.Family) bool {
	switch f {
	case sound.Kick, sound.Tom, sound.Conga, sound.Snare, sound.Rim, sound.Perc:
		return true
	}
	return false
}

func metallic(f sound.Family) bool {
	switch f {
	case sound.HatClosed, sound.HatOpen, sound.Ride, sound.Crash, sound.Cowbell, sound.Tambourine:
		return true
	}
	return false
}

// usualPitch is where a drum of a family lies (common practice), Hz.
func usualPitch(f sound.Family) float64 {
	switch f {
	case sound.Snare:
		return 190
	case sound.Tom:
		return 110
	case sound.Conga:
		return 210
	case sound.Rim, sound.Perc, sound.Cowbell:
		return 560
	case sound.Bass808:
		return 45
	}
	return 55
}

// sweep is where a pitch curve starts, Hz, and the time after which 5 % of its fall is left,
// ms: the exponential fall nearest to it.
func sweep(curve [][2]float64, hz float64) (start, fall float64) {
	start, fall = hz*1.5, 40
	if len(curve) < 4 {
		return start, fall
	}
	best := math.Inf(1)
	for try := 4.0; try < 900; try *= 1.12 {
		var ye, ee float64
		for _, p := range curve {
			e := math.Exp(-3 * (p[0] + 2.5) / try)
			ye, ee = ye+math.Log(p[1]/hz)*e, ee+e*e
		}
		a := math.Min(math.Max(ye/ee, 0), math.Log(3500/hz))
		off := 0.0
		for _, p := range curve {
			off += math.Abs(math.Log(p[1]/hz) - a*math.Exp(-3*(p[0]+2.5)/try))
		}
		if off < best {
			best, start, fall = off, hz*math.Exp(a), try
		}
	}
	return math.Max(start, hz*1.001), fall
}

// edges of what belongs to the body and what not, by frame.
func (g *goal) bodyBands(r *sound.Recipe) func(k int) (from, to int) {
	return func(k int) (int, int) { return 0, g.split(r, k) }
}

func (g *goal) otherBands(r *sound.Recipe) func(k int) (from, to int) {
	return func(k int) (int, int) { return g.split(r, k), measure.DistanceBands }
}
