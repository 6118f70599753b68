package fit

import (
	"math"
	"slices"

	"jubrak/core/measure"
	"jubrak/core/sound"
)

// simpler is by how much the loss may grow by leaving out points of curves.
const simpler = 0.1

// simplify leaves out points of level curves that are hardly heard, and parts that are not,
// so that the recipe can be edited.
func (f *fitting) simplify() {
	r := copied(&f.best.recipe)
	for _, tolerance := range []float64{3, 2, 1.2, 0.6} {
		thin := copied(&r)
		for i := range thin.Curves {
			if c := &thin.Curves[i]; c.ID == bodyCurve || c.ID == noiseCurve {
				c.Points = thinned(c.Points, tolerance/(curveTop-sound.Silent))
			}
		}
		if h := f.goal.hear(&thin); h.loss <= f.best.loss+simpler {
			r = thin
			break
		}
	}
	for _, part := range []string{"snap", "ring", "metal", "noise"} {
		if !f.open(part) || !sounds(&r, part) || len(f.blocks()) < 2 {
			continue
		}
		without := copied(&r)
		n, _ := without.Number(part + ".level_db")
		if without.DrivenBy(part+".level_db") != nil {
			continue
		}
		_ = n.Set(&without, sound.Silent)
		if f.goal.hear(&without).loss <= f.best.loss+simpler {
			r = without
		}
	}
	f.best.recipe = r
}

// The tail of a drum, from so many ms on, is stretched until its decay is the target's; the
// loss may grow by tailCost for it, dB.
const (
	tailFrom = 40.0
	tailCost = 0.25
	nearTail = 0.06
)

// tail brings the decay to the target's.
func (f *fitting) tail() {
	want := f.goal.facts.Decay
	if want == nil || f.goal.partly {
		return
	}
	decay := func(r *sound.Recipe) float64 {
		if got := measure.Measure(Render(*r, 3000)).Decay; got != nil {
			return *got
		}
		return 0
	}
	r := copied(&f.best.recipe)
	loss := f.goal.hear(&r).loss
	got := decay(&r)
	for range 4 {
		if got == 0 || math.Abs(got / *want - 1) < nearTail {
			return
		}
		c := copied(&r)
		by := math.Min(math.Max(*want/got, 0.6), 1.7)
		stretch(&c, by)
		now := decay(&c)
		if now == 0 || math.Abs(now / *want - 1) > math.Abs(got / *want - 1) || f.goal.hear(&c).loss > loss+tailCost {
			return
		}
		r, got = c, now
		f.best.recipe = r
	}
}

// stretch makes what comes after tailFrom last longer by a factor.
func stretch(r *sound.Recipe, by float64) {
	for i := range r.Curves {
		if id := r.Curves[i].ID; id == bodyCurve || id == noiseCurve {
			for k := range r.Curves[i].Points {
				if p := &r.Curves[i].Points[k]; p.At > tailFrom {
					p.At = math.Min(tailFrom+(p.At-tailFrom)*by, sound.MaxCurveMS-float64(len(r.Curves[i].Points)-k))
				}
			}
		}
	}
	for _, at := range []string{"metal.decay_ms", "ring.decay_ms"} {
		n, _ := r.Number(at)
		_ = n.Set(r, math.Min(math.Max(n.Get(r)*by, n.Min), n.Max))
	}
}

// thinned leaves out points whose neighbours' line passes within a tolerance.
func thinned(points []sound.CurvePoint, tolerance float64) []sound.CurvePoint {
	keep := make([]bool, len(points))
	keep[0], keep[len(points)-1] = true, true
	var part func(a, b int)
	part = func(a, b int) {
		worst, at := tolerance, -1
		for i := a + 1; i < b; i++ {
			u := (points[i].At - points[a].At) / (points[b].At - points[a].At)
			if off := math.Abs(points[i].Value - (points[a].Value + u*(points[b].Value-points[a].Value))); off > worst {
				worst, at = off, i
			}
		}
		if at >= 0 {
			keep[at] = true
			part(a, at)
			part(at, b)
		}
	}
	part(0, len(points)-1)
	out := slices.Clone(points[:0])
	for i, p := range points {
		if keep[i] {
			out = append(out, p)
		}
	}
	return out
}
