package fit

import (
	"context"
	"math"
	"math/rand/v2"
	"sync"

	"gonum.org/v1/gonum/optimize"

	"jubrak/core/sound"
)

// gene is a number that is searched: how it is read and written as 0 to 1 of its range.
type gene struct {
	get func(r *sound.Recipe) float64
	set func(r *sound.Recipe, u float64)
}

// number is the gene of a number of a recipe within a range on its own scale.
func number(at string, lo, hi float64) gene {
	part := func(n sound.Number, v float64) float64 {
		if n.Scale == "log" {
			return math.Log(v/lo) / math.Log(hi/lo)
		}
		return (v - lo) / (hi - lo)
	}
	return gene{
		get: func(r *sound.Recipe) float64 {
			n, _ := r.Number(at)
			return math.Min(math.Max(part(n, n.Get(r)), 0), 1)
		},
		set: func(r *sound.Recipe, u float64) {
			n, ok := r.Number(at)
			if ok {
				_ = n.Set(r, n.Between(lo, hi, u))
			}
		},
	}
}

// moved is the gene of an end of a move by a curve: of where the curve is at 1, or at 0.
func moved(curve, at string, first bool, lo, hi float64) gene {
	find := func(r *sound.Recipe) *float64 {
		for i := range r.Modulations {
			if m := &r.Modulations[i]; m.By == curve && m.At == at {
				if first {
					return &m.From
				}
				return &m.To
			}
		}
		return new(float64)
	}
	return gene{
		get: func(r *sound.Recipe) float64 {
			return math.Min(math.Max(math.Log(*find(r)/lo)/math.Log(hi/lo), 0), 1)
		},
		set: func(r *sound.Recipe, u float64) { *find(r) = lo * math.Pow(hi/lo, u) },
	}
}

// end is the gene of when a curve of two points ends, ms.
func end(curve string, lo, hi float64) gene {
	return gene{
		get: func(r *sound.Recipe) float64 {
			c := r.Curve(curve)
			return math.Min(math.Max(math.Log(c.Points[len(c.Points)-1].At/lo)/math.Log(hi/lo), 0), 1)
		},
		set: func(r *sound.Recipe, u float64) {
			c := r.Curve(curve)
			c.Points[len(c.Points)-1].At = lo * math.Pow(hi/lo, u)
		},
	}
}

// best is the nearest recipe so far, shared by all that search.
type best struct {
	sync.Mutex
	recipe sound.Recipe
	loss   float64
	done   int // evaluations
}

func copied(r *sound.Recipe) sound.Recipe {
	c := *r
	c.Own()
	return c
}

// search moves some numbers of the best recipe by CMA-ES (Hansen 2016) for so many
// evaluations. The result is the same however many run at once.
func (f *fitting) search(ctx context.Context, genes []gene, evaluations int, step float64, stage uint64) {
	if len(genes) == 0 || ctx.Err() != nil {
		return
	}
	start := copied(&f.best.recipe)
	x := make([]float64, len(genes))
	for i, g := range genes {
		x[i] = g.get(&start)
	}
	population := 4 + int(3*math.Log(float64(len(genes))))
	problem := optimize.Problem{Func: func(u []float64) float64 {
		if ctx.Err() != nil {
			return math.Inf(1)
		}
		r := copied(&start)
		outside := 0.0
		for i, g := range genes {
			v := math.Min(math.Max(u[i], 0), 1)
			outside += (u[i] - v) * (u[i] - v)
			g.set(&r, v)
		}
		return f.try(&r) + 20*outside
	}}
	_, _ = optimize.Minimize(problem, x, &optimize.Settings{
		MajorIterations: max(evaluations/population, 1), Concurrent: f.workers, Converger: optimize.NeverTerminate{},
	}, &optimize.CmaEsChol{InitStepSize: step, Population: population, Src: rand.NewPCG(f.seed, stage)})
}

// try measures a recipe and keeps it where it is the nearest so far.
func (f *fitting) try(r *sound.Recipe) float64 {
	loss := f.hear(r)
	f.best.Lock()
	defer f.best.Unlock()
	f.best.done++
	if loss < f.best.loss {
		f.best.loss, f.best.recipe = loss, copied(r)
	}
	f.report()
	return loss
}

// hear measures a recipe, one at a time while the search gives way.
func (f *fitting) hear(r *sound.Recipe) float64 {
	if f.options.GivesWay != nil && f.options.GivesWay() {
		f.alone.Lock()
		defer f.alone.Unlock()
	}
	return f.goal.hear(r).loss
}
