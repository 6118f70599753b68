package isolate

import (
	"math"
	"slices"
)

// MostGroups is of how many drums a row can be made.
const MostGroups = 2

// A row is two drums where the spectra of its strokes fall into two kinds, far from each
// other for how far they lie apart among themselves.
const (
	kindSeconds = 0.05
	leastApart  = 12.0 // dB, root mean square over bands
	leastRatio  = 2.5  // of that to the spread within
	leastKind   = 3    // strokes
)

// divide takes the lesser kind of strokes out as a row of its own; nil where there is one
// kind, or the user says so.
func (r *row) divide(t *transform, rest []float32) *row {
	if r.drums == 1 || r.group != 0 || len(r.strokes) < 2 {
		return nil
	}
	var inside []int // others are of the greater kind
	for i, s := range r.strokes {
		if s.place >= 0 && s.place < float64(len(rest)) {
			inside = append(inside, i)
		}
	}
	kinds, apart, spread := twoKinds(r.features(t, rest, inside))
	counts := [2]int{}
	kind := map[int]int{}
	for j, k := range kinds {
		counts[k]++
		kind[inside[j]] = k
	}
	least := min(counts[0], counts[1])
	if least == 0 || r.drums != 2 && (least < leastKind || apart < leastApart || apart < leastRatio*spread) {
		return nil
	}
	lesser := 0
	if counts[1] < counts[0] {
		lesser = 1
	}
	other := &row{family: r.family, group: 2, drums: r.drums, length: r.length, field: r.field}
	var kept []stroke
	for i, s := range r.strokes {
		if k, ok := kind[i]; ok && k == lesser {
			other.strokes = append(other.strokes, s)
		} else {
			kept = append(kept, s)
		}
	}
	r.strokes, r.group = kept, 1
	a := newAligner()
	a.align(rest, r)
	a.align(rest, other)
	return other
}

// features are the levels of some strokes in the bands where the row leads, dB against
// their mean.
func (r *row) features(t *transform, rest []float32, of []int) [][]float64 {
	frames := min(t.frames(lead+int(kindSeconds*rate)), len(r.same))
	bands := bandsOf(t)
	var leading []int
	for n, band := range bands {
		var own, around float64
		for k := range frames {
			for b := band[0]; b < band[1]; b++ {
				own += power(r.same[k][b]) + r.own[k][b]
				around += r.around[k][b]
			}
		}
		if own > 2*around && band[0] > 0 {
			leading = append(leading, n)
		}
	}
	X := grid(frames, t.bins)
	out := make([][]float64, len(of))
	for i, n := range of {
		s := &r.strokes[n]
		out[i] = make([]float64, len(leading))
		t.run(rest, s.place-lead, X)
		mean := 0.0
		for j, n := range leading {
			sum := 1e-14
			for k := range X {
				other := r.field.at(frameOf(t, s.place) + k)
				for b := bands[n][0]; b < bands[n][1]; b++ {
					p := power(X[k][b])
					if other != nil {
						p -= float64(other[b])
					}
					sum += math.Max(p, 0)
				}
			}
			out[i][j] = 10 * math.Log10(sum)
			mean += out[i][j] / float64(len(leading))
		}
		for j := range out[i] {
			out[i][j] = math.Max(out[i][j]-mean, -40)
		}
	}
	return out
}

// twoKinds parts points in two (k-means of two, Lloyd 1982), begun at points far apart. It
// returns how far the middles lie from each other and points from theirs, root mean square.
func twoKinds(points [][]float64) (kind []int, apart, spread float64) {
	kind = make([]int, len(points))
	if len(points) < 2 || len(points[0]) == 0 {
		return kind, 0, 1
	}
	far := func(from []float64) int {
		best, most := 0, -1.0
		for i, p := range points {
			if d := distance(p, from); d > most {
				best, most = i, d
			}
		}
		return best
	}
	first := far(middle(points, nil, 0))
	middles := [2][]float64{slices.Clone(points[first]), slices.Clone(points[far(points[first])])}
	for range 20 {
		for i, p := range points {
			kind[i] = 0
			if distance(p, middles[1]) < distance(p, middles[0]) {
				kind[i] = 1
			}
		}
		for c := range middles {
			if m := middle(points, kind, c); m != nil {
				middles[c] = m
			}
		}
	}
	for i, p := range points {
		spread += math.Pow(distance(p, middles[kind[i]]), 2) / float64(len(points))
	}
	return kind, distance(middles[0], middles[1]), math.Sqrt(spread)
}

// middle is the mean of the points of a kind, of all where kinds is nil; nil of none.
func middle(points [][]float64, kinds []int, kind int) []float64 {
	out, n := make([]float64, len(points[0])), 0.0
	for i, p := range points {
		if kinds != nil && kinds[i] != kind {
			continue
		}
		n++
		for j, v := range p {
			out[j] += v
		}
	}
	if n == 0 {
		return nil
	}
	for j := range out {
		out[j] /= n
	}
	return out
}

// distance is the root mean square difference.
func distance(a, b []float64) float64 {
	sum := 0.0
	for i := range a {
		sum += (a[i] - b[i]) * (a[i] - b[i])
	}
	return math.Sqrt(sum / float64(len(a)))
}
