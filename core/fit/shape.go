package fit

import (
	"math"
	"slices"

	"jubrak/core/effect"
	"jubrak/core/measure"
	"jubrak/core/sound"
)

// Curves of a fitted recipe.
const (
	pitchCurve = "pitch"
	bodyCurve  = "body-level"
	noiseCurve = "noise-level"
	colorCurve = "noise-color"
	toneEQ     = "eq1" // below
	airEQ      = "eq2" // above
	driveID    = "drive1"
)

// corners are the times of a level curve, ms: as close as frames at first, then wider.
var corners = func() (out []float64) {
	for t := 0.0; t < 1600; {
		out = append(out, t)
		switch {
		case t < 24:
			t += 3
		case t < 110:
			t += 5.5
		case t < 300:
			t += 11
		default:
			t *= 1.25
		}
	}
	return out
}()

// levelCurve lets a curve draw the level of a part, from its present fall.
func (g *goal) levelCurve(r *sound.Recipe, id, name, part string, level, attack, decay float64) {
	c := sound.Curve{ID: id, Name: name, Unit: sound.MS, Round: -1}
	for _, t := range corners {
		if t > g.ms && len(c.Points) > 3 {
			break
		}
		db := level - 60*math.Max(t-attack, 0)/decay
		if t < attack {
			db = level - 30*(1-t/attack)
		}
		c.Points = append(c.Points, sound.CurvePoint{At: t, Value: valueOf(db)})
	}
	r.Curves = append(r.Curves, c)
	r.Modulations = append(r.Modulations, sound.Modulation{By: id, At: part + ".level_db", From: curveTop, To: sound.Silent})
}

// curveTop is the level of a level curve at its top, dB.
const curveTop = 6.0

func valueOf(db float64) float64 {
	return math.Min(math.Max((db-sound.Silent)/(curveTop-sound.Silent), 0), 1)
}

// frameOf is the frame at so many ms after the stroke.
func frameOf(ms float64) float64 {
	return (ms + ahead) / 1000 * measure.DistanceRate / measure.DistanceFrame
}

// split is the first band that belongs to what is not the body in a frame: twice its pitch.
func (g *goal) split(r *sound.Recipe, k int) int {
	if !sounds(r, "body") {
		return 0
	}
	ms := float64(k)*measure.DistanceFrame/measure.DistanceRate*1000 - ahead
	b := &r.Body
	hz := b.End * math.Exp(math.Log(b.Start/b.End)*math.Exp(-3*math.Max(ms, 0)/b.Fall))
	edges := measure.MelEdges()
	for n := range measure.DistanceBands {
		if edges[n] > hz*1.6 {
			return n
		}
	}
	return measure.DistanceBands
}

// sounds is whether a part sounds at all.
func sounds(r *sound.Recipe, part string) bool {
	n, ok := r.Number(part + ".level_db")
	return ok && (n.Get(r) > sound.Silent || r.DrivenBy(part+".level_db") != nil)
}

// redraw brings the level curve of a part to the goal's levels where the part leads: in
// bands [from(k), to(k)) of frame k, by the median of the differences. What is not known
// goes on falling as before.
func (g *goal) redraw(r *sound.Recipe, id string, h heard, bands func(k int) (from, to int), most float64) {
	c := r.Curve(id)
	if c == nil {
		return
	}
	move, seen := make([]float64, len(c.Points)), make([]bool, len(c.Points))
	for i := range c.Points {
		// The frames nearer to this corner than to its neighbours.
		lo, hi := frameOf(c.Points[i].At)-0.75, frameOf(c.Points[i].At)+0.75
		if i > 0 {
			lo = math.Min(lo, frameOf((c.Points[i].At+c.Points[i-1].At)/2))
		}
		if i+1 < len(c.Points) {
			hi = math.Max(hi, frameOf((c.Points[i].At+c.Points[i+1].At)/2))
		}
		var off, weight []float64
		for k := max(int(math.Ceil(lo)), 0); k <= int(hi) && k < g.frames; k++ {
			from, to := bands(k)
			for b := from; b < to; b++ {
				switch {
				case g.weight[k][b] > 0:
					off, weight = append(off, g.difference(h.levels, k, b)), append(weight, g.weight[k][b])
				case g.sure[k][b] > 0.5 && h.levels[k][b] > g.levels[k][b]*4 && h.levels[k][b] > g.floor*10:
					// Too loud where the goal has all but nothing.
					off, weight = append(off, g.difference(h.levels, k, b)), append(weight, 0.5)
				}
			}
		}
		if len(off) > 0 {
			move[i], seen[i] = math.Min(math.Max(medianOf(off, weight), -most), most), true
		}
	}
	last := -1
	for i := range c.Points {
		if seen[i] {
			c.Points[i].Value = valueOf(dbOf(c.Points[i].Value) + move[i])
			last = i
		}
	}
	g.fallOn(c, last)
}

// fallOn lets what comes after the last point that is known fall as the 100 ms before it do.
func (g *goal) fallOn(c *sound.Curve, last int) {
	if last < 2 || last+1 >= len(c.Points) || !g.partly {
		return
	}
	first := last - 1
	for first > 0 && c.Points[last].At-c.Points[first].At < 100 {
		first--
	}
	a, b := c.Points[first], c.Points[last]
	slope := math.Min((dbOf(b.Value)-dbOf(a.Value))/(b.At-a.At), -0.03) // dB a ms
	for i := last + 1; i < len(c.Points); i++ {
		c.Points[i].Value = valueOf(dbOf(b.Value) + slope*(c.Points[i].At-b.At))
	}
}

func dbOf(value float64) float64 { return sound.Silent + (curveTop-sound.Silent)*value }

// medianOf is the weighted median; it reorders neither.
func medianOf(v, weight []float64) float64 {
	order := make([]int, len(v))
	sum := 0.0
	for i := range order {
		order[i] = i
		sum += weight[i]
	}
	slices.SortFunc(order, func(a, b int) int {
		switch {
		case v[a] < v[b]:
			return -1
		case v[a] > v[b]:
			return 1
		}
		return 0
	})
	half := 0.0
	for _, i := range order {
		if half += weight[i]; half >= sum/2 {
			return v[i]
		}
	}
	return 0
}

// equalize moves the bands of the recipe's equalizers so that the mean difference of each
// mel band falls: by least squares on the bands' responses.
func (g *goal) equalize(r *sound.Recipe, h heard, from int) {
	type knob struct {
		fx *effect.Effect
		id string
		hz float64
		q  float64
	}
	var knobs []knob
	for _, id := range []string{toneEQ, airEQ} {
		if s := r.Effect(id); s != nil {
			for _, band := range []string{"band1", "band2", "band3", "band4"} {
				knobs = append(knobs, knob{s, band + ".gain_db", s.Values[band+".hz"], s.Values[band+".q"]})
			}
		}
	}
	if len(knobs) == 0 {
		return
	}
	edges := measure.MelEdges()
	var want, weight []float64
	var rows [][]float64
	for b := from; b < measure.DistanceBands; b++ {
		var off, w []float64
		for k := range g.frames {
			if g.weight[k][b] > 0 {
				off, w = append(off, g.difference(h.levels, k, b)), append(w, g.weight[k][b])
			}
		}
		if len(off) == 0 {
			continue
		}
		hz := math.Sqrt(math.Max(edges[b], 20) * edges[b+1])
		row := make([]float64, len(knobs))
		for i, k := range knobs {
			row[i] = bell(hz, k.hz, k.q)
		}
		total := 0.0
		for _, v := range w {
			total += v
		}
		rows, want, weight = append(rows, row), append(want, medianOf(off, w)), append(weight, math.Sqrt(total))
	}
	gains := leastSquares(rows, want, weight, 0.3)
	for i, k := range knobs {
		k.fx.Values[k.id] = math.Min(math.Max(k.fx.Values[k.id]+0.8*gains[i], -24), 18)
	}
}

// bell is how much of a bell's gain is left at a frequency, 0 to 1.
func bell(hz, center, q float64) float64 {
	x := q * (hz/center - center/hz)
	return 1 / (1 + x*x)
}

// leastSquares solves for the unknowns of some weighted rows, kept small by ridge.
func leastSquares(rows [][]float64, want, weight []float64, ridge float64) []float64 {
	n := len(rows[0:])
	if n == 0 {
		return make([]float64, 64)
	}
	m := len(rows[0])
	a, b := make([][]float64, m), make([]float64, m)
	sum := 0.0
	for i := range a {
		a[i] = make([]float64, m)
	}
	for k, row := range rows {
		sum += weight[k]
		for i := range m {
			for j := range m {
				a[i][j] += weight[k] * row[i] * row[j]
			}
			b[i] += weight[k] * row[i] * want[k]
		}
	}
	for i := range m {
		a[i][i] += ridge * sum / float64(n)
	}
	return solve(a, b)
}

func sorted(v []float64) []float64 {
	s := slices.Clone(v)
	slices.Sort(s)
	return s
}
