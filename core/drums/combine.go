package drums

import "math"

// estimate takes from a row's strokes what they have in common, and the power of what
// differs from stroke to stroke as the drum's own noise. rest is the recording without what
// other rows explain.
//
// What is in common is a mean of complex frames, each stroke weighted by how little else
// there is (iterated, as for Student's t: Lange, Little & Taylor 1989), begun at the median.
// The noise is a maximum likelihood estimate of variance beside known ones.
func (r *row) estimate(t *transform, rest []float32) {
	frames := t.frames(r.length)
	use := r.inUse()
	X := make([][][]complex128, len(use))
	for n, i := range use {
		X[n] = grid(frames, t.bins)
		t.run(rest, r.strokes[i].place-lead, X[n])
	}
	n := len(use)
	before, owned := r.same, r.own
	for j, i := range use {
		s := &r.strokes[i]
		if before != nil && r.explains(s) { // it is explained: put it back
			put(X[j], before, s.gain)
		}
	}
	r.count = n
	r.same, r.chance, r.own, r.around = grid(frames, t.bins), plane(frames, t.bins), plane(frames, t.bins), plane(frames, t.bins)
	if n == 0 {
		return
	}
	gain := make([]float64, n)
	for j, i := range use {
		gain[j] = r.strokes[i].gain
	}
	again := commonRounds
	if before != nil {
		again = laterRounds
	}
	left := plane(n, t.bins) // of a frame, by stroke and bin
	smoothed := make([]float64, t.bins)
	re, im := make([]float64, n), make([]float64, n)
	behind := r.background(t, rest, use)
	room := make([]float64, n)
	expected := plane(n, t.bins)
	varied, partial := make([]float64, t.bins), make([]float64, t.bins)
	typical, den, num := make([]float64, t.bins), make([]float64, t.bins), make([]complex128, t.bins)
	for k := range frames {
		// After the next stroke of anything else a frame is trusted less.
		for j, i := range use {
			s := &r.strokes[i]
			end := s.place - lead + float64(k*t.hop+t.hop)
			room[j] = 1
			if before == nil && end > s.next {
				room[j] = 30
			}
		}
		for j, i := range use { // the noise of others
			clear(expected[j])
			g := r.strokes[i].gain * r.strokes[i].gain
			for b, v := range r.field.at(frameOf(t, r.strokes[i].place) + k) {
				e := float64(v)
				if owned != nil {
					e -= g * owned[k][b]
				}
				expected[j][b] = math.Max(e, 0)
			}
		}
		D := r.same[k]
		if before == nil {
			few := min(n, 15)
			for b := range D {
				for j := range few {
					re[j], im[j] = real(X[j][k][b])/gain[j], imag(X[j][k][b])/gain[j]
				}
				insertion(re[:few])
				insertion(im[:few])
				D[b] = complex(re[few/2], im[few/2])
			}
		} else {
			copy(D, before[k])
		}
		for range again {
			clear(typical)
			for j := range n {
				for b := range D {
					left[j][b] = power(X[j][k][b] - complex(gain[j], 0)*D[b])
				}
				smoothOver(smoothed, left[j], 2)
				copy(left[j], smoothed)
				for b, v := range smoothed {
					typical[b] += 1 / (v + 1e-14)
				}
			}
			clear(den)
			clear(num)
			for b, v := range typical {
				typical[b] = float64(n) / v
			}
			for j := range n {
				g, w0 := gain[j], 1/room[j]
				for b := range D {
					N := (left[j][b]+0.5*typical[b])/1.5 + expected[j][b]
					w := g * w0 / (N + 1e-14)
					num[b] += complex(w, 0) * X[j][k][b]
					den[b] += w * g
				}
			}
			for b := range D {
				D[b] = num[b] / complex(den[b], 0)
				r.chance[k][b] = 1 / den[b]
			}
		}
		// Music lasts: strokes near each other share it. Parts of the recording disagree
		// by as much as that adds (the jackknife over groups, Quenouille 1956).
		if n >= 2 {
			clear(varied)
			groups := min(n, 6)
			for g := range groups {
				clear(num)
				clear(partial)
				for j := g * n / groups; j < (g+1)*n/groups; j++ {
					gj, w0 := gain[j], 1/room[j]
					for b := range D {
						N := (left[j][b]+0.5*typical[b])/1.5 + expected[j][b]
						w := gj * w0 / (N + 1e-14)
						num[b] += complex(w, 0) * X[j][k][b]
						partial[b] += w * gj
					}
				}
				for b := range D {
					if partial[b] > 0 {
						share := partial[b] / den[b]
						varied[b] += share * share * power(num[b]/complex(partial[b], 0)-D[b])
					}
				}
			}
			smoothOver(smoothed, varied, 2)
			for b, v := range smoothed {
				r.chance[k][b] = math.Max(r.chance[k][b], v*float64(groups)/float64(groups-1))
			}
		}
		// What differs from stroke to stroke: the drum's own noise, and all else.
		own := r.own[k]
		clear(typical)
		for j := range n {
			g := gain[j] * gain[j]
			x, e, m, d := X[j][k], left[j], expected[j], behind[j]
			for b, c := range D {
				e[b] = power(x[b] - complex(gain[j], 0)*c)
				m[b] = (m[b] + d[b]) * room[j]
				typical[b] += g / (e[b]*room[j] + 1e-14)
			}
		}
		for b, v := range typical {
			own[b] = 3 * float64(n) / v
		}
		for range noiseRounds {
			clear(varied)
			clear(den)
			for j := range n {
				g := gain[j] * gain[j]
				e, known := left[j], expected[j]
				for b, v := range own {
					m := 1 / (g*v + known[b] + 1e-14)
					w := g * m
					varied[b] += w * min(e[b]*m, 5)
					den[b] += w
				}
			}
			for b := range own {
				own[b] *= varied[b] / (den[b] + 1e-30)
			}
		}
		if n < 3 {
			clear(own)
		}
		clear(den)
		for j := range n {
			g := gain[j] * gain[j]
			known := expected[j]
			for b, v := range own {
				den[b] += g / (g*v + known[b] + 1e-14)
			}
		}
		for b, v := range den {
			r.around[k][b] = max(1/(v/float64(n)+1e-30)-own[b], 0)
		}
	}
	r.end(t)
}

// shortestReach is how long a drum is looked for at least, seconds.
const shortestReach = 0.25

// reach is up to when a drum is looked for, samples: until the row is usually struck again.
// Of strokes on an even grid the end of one is not told from the beginning of the next.
func (r *row) reach() int {
	return lead + int(math.Min(math.Max(r.gap()-0.01*rate, shortestReach*rate), float64(r.length)))
}

// end fades the drum out at its reach.
func (r *row) end(t *transform) {
	const fade = 4 // frames
	for k := range r.same {
		g := math.Min(float64(r.reach()-k*t.hop-t.hop+t.size/2)/float64(fade*t.hop), 1)
		if g >= 1 {
			continue
		}
		g = math.Max(g, 0)
		for b := range r.same[k] {
			r.same[k][b] *= complex(g, 0)
			r.own[k][b] *= g * g
		}
	}
}

// How often what is in common and the noise are brought nearer to what fits.
const (
	commonRounds = 3
	laterRounds  = 2 // once there is something to begin with
	noiseRounds  = 5
)

// put adds frames, times a gain.
func put(X, what [][]complex128, gain float64) {
	for k := range X {
		for b := range X[k] {
			X[k][b] += complex(gain, 0) * what[k][b]
		}
	}
}

// background is the power just before each stroke that is used, by bin.
func (r *row) background(t *transform, x []float32, use []int) [][]float64 {
	out := make([][]float64, len(use))
	X := grid(7, t.bins)
	sum := make([]float64, t.bins)
	for j, i := range use {
		out[j] = make([]float64, t.bins)
		clear(sum)
		// The last frame ends at the stroke's lead.
		t.run(x, r.strokes[i].place-lead-float64(4*t.hop), X)
		for k := range 4 {
			for b, c := range X[k] {
				sum[b] += power(c) / 4
			}
		}
		smoothOver(out[j], sum, 2)
	}
	return out
}

// insertion sorts a few numbers.
func insertion(x []float64) {
	for i := 1; i < len(x); i++ {
		v := x[i]
		j := i
		for ; j > 0 && x[j-1] > v; j-- {
			x[j] = x[j-1]
		}
		x[j] = v
	}
}

// smoothOver is the mean of x over reach bins either way.
func smoothOver(dst, x []float64, reach int) {
	sum, n := 0.0, 0.0
	for i := -reach; i < len(x); i++ {
		if j := i + reach; j < len(x) {
			sum, n = sum+x[j], n+1
		}
		if j := i - reach - 1; j >= 0 {
			sum, n = sum-x[j], n-1
		}
		if i >= 0 {
			dst[i] = math.Max(sum/n, 0)
		}
	}
}
