package groove

import (
	"math"
	"slices"
)

// foundDrift is a repeating curve of lateness by bar; nil is none.
type foundDrift struct {
	curve  []float64 // ms at the middle of each bar
	voices map[string]bool
	names  []string
}

func (d *foundDrift) at(r *row, f Frame) float64 {
	if d == nil || !d.voices[r.Voice] {
		return 0
	}
	return d.atBar(r.bar(f))
}

func (d *foundDrift) atBar(bar int) float64 {
	n := len(d.curve)
	return d.curve[wrap(bar, n)]
}

func (d *foundDrift) measured() *MeasuredDrift {
	if d == nil {
		return nil
	}
	return &MeasuredDrift{Bars: len(d.curve), Curve: d.curve, Voices: d.names}
}

// findDrift looks, voice by voice, for lateness that repeats every 2, 4 or 8
// bars: an analysis of variance of the offsets (less the voice's mean at the
// step) by bar of the period. A voice drifts when its bars explain far more
// than chance (F above 6) and move by 3 ms or more; the anchor decides the
// period and others join when they follow it.
func findDrift(rows []row, voices []string, f Frame, anchor string) *foundDrift {
	steps := f.Steps * f.PerBar
	order := append([]string{anchor}, voices...)
	for _, voice := range order {
		periods := []int{2, 4, 8}
		if f.Loop > 2 && !slices.Contains(periods, f.Loop) {
			periods = append(periods, f.Loop)
		}
		for _, period := range periods {
			curve, strength := barMeans(rows, f, voice, period, steps)
			if curve == nil || strength < 6 || spread(curve) < 3 {
				continue
			}
			// A longer period that explains clearly more wins.
			if longer, s := barMeans(rows, f, voice, period*2, steps); longer != nil && spread(longer) > 1.3*spread(curve) && s > 6 {
				curve = longer
			}
			d := &foundDrift{curve: curve, voices: map[string]bool{voice: true}, names: []string{voice}}
			for _, other := range voices {
				if c, s := barMeans(rows, f, other, len(curve), steps); other != voice && c != nil && s > 6 && correlation(c, curve) > 0.9 && spread(c) > 0.6*spread(curve) {
					d.voices[other] = true
					d.names = append(d.names, other)
				}
			}
			return d
		}
	}
	return nil
}

// barMeans returns the mean offset by bar of the period, centred on zero, and
// the F statistic; nil where a bar has fewer than EnoughHits hits or the
// period is not seen twice.
func barMeans(rows []row, f Frame, voice string, period, steps int) ([]float64, float64) {
	stepSum, stepN := make([]float64, steps), make([]float64, steps)
	lo, hi := math.MaxInt, math.MinInt
	for i := range rows {
		r := &rows[i]
		if r.Voice != voice {
			continue
		}
		b := r.bar(f)
		stepSum[r.Step-b*steps] += r.Offset
		stepN[r.Step-b*steps]++
		lo, hi = min(lo, b), max(hi, b)
	}
	if lo > hi || hi-lo+1 < 2*period && f.Loop != period {
		return nil, 0
	}
	sum, n := make([]float64, period), make([]float64, period)
	var total, square float64
	for i := range rows {
		r := &rows[i]
		if r.Voice != voice {
			continue
		}
		b := r.bar(f)
		s := r.Step - b*steps
		e := r.Offset - stepSum[s]/stepN[s]
		k := wrap(b, period)
		sum[k] += e
		n[k]++
		total++
		square += e * e
	}
	var between float64
	for k := range sum {
		if n[k] < EnoughHits {
			return nil, 0
		}
		sum[k] /= n[k]
		between += n[k] * sum[k] * sum[k]
	}
	within := math.Max(square-between, 1e-9)
	free := total - float64(period) - float64(steps)/4
	if free < 2 {
		return nil, 0
	}
	return sum, between / float64(period-1) / (within / free)
}

func spread(x []float64) float64 {
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, v := range x {
		lo, hi = math.Min(lo, v), math.Max(hi, v)
	}
	return hi - lo
}

// correlation is Pearson's, for curves already centred on zero.
func correlation(a, b []float64) float64 {
	var ab, aa, bb float64
	for i := range a {
		ab += a[i] * b[i]
		aa += a[i] * a[i]
		bb += b[i] * b[i]
	}
	return ab / math.Sqrt(aa*bb+1e-12)
}
