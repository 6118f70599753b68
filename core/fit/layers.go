package fit

import (
	"context"
	"math"

	"gonum.org/v1/gonum/dsp/fourier"

	"jubrak/core/audio"
	"jubrak/core/dsp"
	"jubrak/core/measure"
	"jubrak/core/sound"
)

// Candidate is a sound that may become a layer.
type Candidate struct {
	Name string
	// Shot is one hard stroke.
	Shot *audio.Buffer
}

// Pick is a candidate in a combination: its place in the list, its gain, dB, how much later
// than the first it begins, ms, and its cuts, Hz (sound.NoLowCut and NoHighCut do nothing).
type Pick struct {
	Candidate int     `json:"candidate"`
	Name      string  `json:"name"`
	Gain      float64 `json:"gain_db"`
	Start     float64 `json:"start_ms"`
	LowCut    float64 `json:"low_cut_hz"`
	HighCut   float64 `json:"high_cut_hz"`
}

// MostPicks is the most sounds of a combination.
const MostPicks = 3

// Combination is sounds laid over each other, and how far they lie from the target, dB.
type Combination struct {
	Picks    []Pick  `json:"picks"`
	Distance float64 `json:"distance_db"`
	Spectral float64 `json:"spectral_db"`
	// Explained is how much of the target's energy is the picked sounds' very waves, 0..1.
	Explained float64 `json:"explained"`
}

// Combine finds the up to three sounds whose sum is nearest to a target. Sounds that are in
// it to the sample are found by matching pursuit (Mallat and Zhang 1993); else those are
// taken whose levels by band and frame add up to the target's.
func Combine(ctx context.Context, t *Target, list []Candidate, report func(done float64)) (*Combination, error) {
	g, err := t.ready()
	if err != nil {
		return nil, err
	}
	g.low = nil // sounds of a library need not share its phase
	waves := make([][]float64, len(list))
	for i, c := range list {
		waves[i] = level(c.Shot.Resample(measure.DistanceRate))
		if len(waves[i]) > pursuitSize/2 {
			waves[i] = waves[i][:pursuitSize/2]
		}
	}
	p := newPursuit(g, waves)
	for range MostPicks {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		if !p.next(ctx, func(done float64) { report(0.15 * (float64(len(p.picks)) + done)) }) {
			break
		}
	}
	picks := p.picks
	explained := p.explained()
	if explained < trueSum {
		if picks, err = g.compose(ctx, waves, func(done float64) { report(0.45 + 0.5*done) }); err != nil {
			return nil, err
		}
		explained = 0
	}
	if picks == nil {
		picks = []Pick{}
	}
	out := &Combination{Picks: picks, Explained: math.Round(100*explained) / 100}
	for i := range out.Picks {
		out.Picks[i].Name = list[out.Picks[i].Candidate].Name
	}
	sum := Sum(list, out.Picks)
	out.Distance, out.Spectral = measure.Distance(sum, t.Sound), measure.SpectralDistance(sum, t.Sound)
	report(1)
	return out, nil
}

// Sum is candidates laid over each other as picked.
func Sum(list []Candidate, picks []Pick) *audio.Buffer {
	var out []float64
	for _, p := range picks {
		x := filtered(list[p.Candidate].Shot.Resample(measure.DistanceRate).Mono(), p)
		at := int(math.Round(p.Start / 1000 * measure.DistanceRate))
		for len(out) < at+len(x) {
			out = append(out, make([]float64, at+len(x)-len(out))...)
		}
		for i, v := range x {
			out[at+i] += audio.Gain(p.Gain) * v
		}
	}
	b := audio.New(measure.DistanceRate, 1, len(out))
	for i, v := range out {
		b.Channels[0][i] = float32(v)
	}
	return b
}

// cuts are the filters of a pick, as a layer's are: 12 dB an octave.
func cuts(p Pick) (out []dsp.Biquad) {
	if p.LowCut > sound.NoLowCut {
		out = append(out, dsp.HighPass(p.LowCut, math.Sqrt2/2, measure.DistanceRate))
	}
	if p.HighCut < sound.NoHighCut {
		out = append(out, dsp.LowPass(p.HighCut, math.Sqrt2/2, measure.DistanceRate))
	}
	return out
}

func filtered(x []float64, p Pick) []float64 {
	x = append([]float64(nil), x...)
	for _, f := range cuts(p) {
		f.Run(x)
	}
	return x
}

const (
	pursuitSize = 1 << 16
	pursuitMost = 25 * measure.DistanceRate / 1000 // samples that a sound may begin late
	trueSum     = 0.7                              // of the energy that a true sum explains
	worthwhile  = 0.02                             // of the energy that one more sound must explain
)

// pursuit finds waves in a target.
type pursuit struct {
	waves  [][]float64
	target []float64 // from 30 ms before its onset on
	rest   []float64
	fft    *fourier.FFT
	picks  []Pick
	places []int // of picks, samples
	energy float64
}

func newPursuit(g *goal, waves [][]float64) *pursuit {
	p := &pursuit{waves: waves, target: make([]float64, pursuitSize), fft: fourier.NewFFT(pursuitSize)}
	from := g.at - 30*measure.DistanceRate/1000
	for i := range pursuitSize / 2 {
		if j := from + i; j >= 0 && j < len(g.wave) {
			p.target[i] = g.wave[j]
		}
	}
	p.rest = append([]float64(nil), p.target...)
	p.energy = energy(p.target)
	return p
}

func energy(x []float64) (sum float64) {
	for _, v := range x {
		sum += v * v
	}
	return sum
}

func (p *pursuit) explained() float64 { return 1 - energy(p.rest)/math.Max(p.energy, 1e-20) }

// next picks the wave that explains most of the rest; false where none is worth it.
func (p *pursuit) next(ctx context.Context, report func(done float64)) bool {
	X := p.fft.Coefficients(nil, p.rest)
	best, at, pick := worthwhile*p.energy, 0, -1
	padded, c := make([]float64, pursuitSize), make([]float64, pursuitSize)
	for i, w := range p.waves {
		if ctx.Err() != nil {
			return false
		}
		if i%16 == 0 {
			report(float64(i) / float64(len(p.waves)))
		}
		norm := energy(w)
		if norm < 1e-9 || p.picked(i) {
			continue
		}
		clear(padded)
		copy(padded, w)
		Y := p.fft.Coefficients(nil, padded)
		for k := range Y {
			Y[k] = X[k] * complex(real(Y[k]), -imag(Y[k]))
		}
		c = p.fft.Sequence(c, Y)
		for lag := range 30*measure.DistanceRate/1000 + pursuitMost {
			v := c[lag] / pursuitSize
			if v > 0 && v*v/norm > best {
				best, at, pick = v*v/norm, lag, i
			}
		}
	}
	if pick < 0 {
		return false
	}
	p.picks = append(p.picks, Pick{Candidate: pick, LowCut: sound.NoLowCut, HighCut: sound.NoHighCut})
	p.places = append(p.places, at)
	p.solve()
	return true
}

func (p *pursuit) picked(i int) bool {
	for _, q := range p.picks {
		if q.Candidate == i {
			return true
		}
	}
	return false
}

// solve finds the gains of all picks together by least squares, and what is left.
func (p *pursuit) solve() {
	n := len(p.picks)
	a, b := make([][]float64, n), make([]float64, n)
	moved := func(i int) []float64 {
		x := make([]float64, pursuitSize/2)
		for j, v := range p.waves[p.picks[i].Candidate] {
			if k := p.places[i] + j; k < len(x) {
				x[k] = v
			}
		}
		return x
	}
	rows := make([][]float64, n)
	for i := range rows {
		rows[i] = moved(i)
	}
	for i := range n {
		a[i] = make([]float64, n)
		for j := range n {
			for k, v := range rows[i] {
				a[i][j] += v * rows[j][k]
			}
		}
		for k, v := range rows[i] {
			b[i] += v * p.target[k]
		}
	}
	gains := solve(a, b)
	copy(p.rest, p.target)
	first := p.places[0]
	for i := range n {
		gains[i] = math.Max(gains[i], 1e-4)
		for k, v := range rows[i] {
			p.rest[k] -= gains[i] * v
		}
		first = min(first, p.places[i])
	}
	for i := range n {
		p.picks[i].Gain = math.Round(100*audio.DB(gains[i])) / 100
		p.picks[i].Start = math.Round(100*float64(p.places[i]-first)/measure.DistanceRate*1000) / 100
	}
}

// compose adds up levels: sounds one after the other, each with the gain, start and cuts
// that bring the sum nearest to the goal.
func (g *goal) compose(ctx context.Context, waves [][]float64, report func(done float64)) ([]Pick, error) {
	levels := make([][][]float64, len(waves))
	for i, w := range waves {
		levels[i] = measure.MelLevels(w, measure.Onset(w, measure.DistanceRate)-ahead*measure.DistanceRate/1000, g.frames)
		if e := measure.MelEnergy(levels[i]); e > 0 {
			for k := range levels[i] {
				for b := range levels[i][k] {
					levels[i][k][b] *= g.energy / e
				}
			}
		} else {
			levels[i] = nil
		}
	}
	var picks []Pick
	sum := blank(g.frames)
	loss := math.Inf(1)
	for n := range MostPicks {
		var best Pick
		nearest, found := loss, false
		for i := range levels {
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			report((float64(n) + float64(i)/float64(len(levels))) / MostPicks)
			if levels[i] == nil {
				continue
			}
			gains, starts := []float64{-18, -12, -8, -4, 0, 4}, []float64{0, 1, 3}
			if n == 0 {
				gains, starts = []float64{0}, []float64{0}
			}
			for _, gain := range gains {
				for _, start := range starts {
					p := Pick{Candidate: i, Gain: gain, Start: start * measure.DistanceFrame / measure.DistanceRate * 1000, LowCut: sound.NoLowCut, HighCut: sound.NoHighCut}
					if l := g.with(sum, levels[i], p); l < nearest*(1-worthwhile) {
						nearest, best, found = l, p, true
					}
				}
			}
		}
		if !found {
			break
		}
		best, nearest = g.cut(sum, levels[best.Candidate], best, nearest)
		add(sum, levels[best.Candidate], best)
		picks, loss = append(picks, best), nearest
	}
	for i := range picks { // levels were brought to the goal's energy: gains are of the waves
		w := waves[picks[i].Candidate]
		e := measure.MelEnergy(measure.MelLevels(w, measure.Onset(w, measure.DistanceRate)-ahead*measure.DistanceRate/1000, g.frames))
		picks[i].Gain = math.Round(10*(picks[i].Gain+10*math.Log10(g.energy/math.Max(e, 1e-20)))) / 10
	}
	return picks, nil
}

func blank(frames int) [][]float64 {
	out := make([][]float64, frames)
	for k := range out {
		out[k] = make([]float64, measure.DistanceBands)
	}
	return out
}

// add adds the levels of a pick to a sum.
func add(sum, levels [][]float64, p Pick) {
	late := int(math.Round(p.Start / 1000 * measure.DistanceRate / measure.DistanceFrame))
	var through [measure.DistanceBands]float64
	edges := measure.MelEdges()
	for b := range through {
		through[b] = math.Pow(10, p.Gain/10)
		for _, f := range cuts(p) {
			m := f.Magnitude(math.Sqrt(math.Max(edges[b], 20)*edges[b+1]), measure.DistanceRate)
			through[b] *= m * m
		}
	}
	for k := late; k < len(sum); k++ {
		for b, v := range levels[k-late] {
			sum[k][b] += through[b] * v
		}
	}
}

// with is the loss of a sum and one more pick.
func (g *goal) with(sum, levels [][]float64, p Pick) float64 {
	all := blank(g.frames)
	for k := range sum {
		copy(all[k], sum[k])
	}
	add(all, levels, p)
	return g.measure(all).loss
}

// cut finds the cuts that bring a pick nearest.
func (g *goal) cut(sum, levels [][]float64, p Pick, loss float64) (Pick, float64) {
	for _, low := range []float64{20, 60, 150, 400, 1000, 2500, 5000} {
		for _, high := range []float64{20000, 10000, 5000, 2000, 800, 250} {
			q := p
			q.LowCut, q.HighCut = low, high
			if l := g.with(sum, levels, q); l < loss*0.985 {
				p, loss = q, l
			}
		}
	}
	return p, loss
}
