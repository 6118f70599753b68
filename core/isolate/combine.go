package isolate

import "math"

// How often what strokes have in common and the noise are brought nearer to what fits.
const (
	firstRounds = 3
	laterRounds = 2 // once there is something to begin with
	noiseRounds = 5
)

const (
	medianOf    = 15   // strokes: what is in common begins at their median
	covered     = 30.0 // times the variance has a frame after the next stroke, at first
	mostMisfit  = 5.0  // times its variance counts a stroke that does not fit the noise
	groupsOf    = 6    // parts of a recording that the jackknife leaves out in turn
	leastNoisy  = 3    // strokes that show a noise
	leastPower  = 1e-14
	smoothReach = 2 // bins either way
)

// estimate takes from a row's strokes what they have in common, and the power of what
// differs from stroke to stroke as the drum's own noise. rest is the recording without what
// other rows explain.
//
// What is in common is a mean of complex frames, each stroke weighted by how little else
// there is (iterated, as for Student's t: Lange, Little & Taylor 1989), begun at the median.
// The noise is a maximum likelihood estimate of variance beside known ones.
func (r *row) estimate(t *transform, rest []float32) {
	before, owned := r.same, r.own
	c := r.combine(t, rest)
	frames := t.frames(r.length)
	r.count = len(c.use)
	r.same, r.chance, r.own, r.around = grid(frames, t.bins), plane(frames, t.bins), plane(frames, t.bins), plane(frames, t.bins)
	if r.count == 0 {
		return
	}
	for k := range frames {
		c.frame(k, before == nil)
		rounds := laterRounds
		if before == nil {
			rounds = firstRounds
			c.median(r.same[k])
		} else {
			copy(r.same[k], before[k])
			c.expect(owned[k])
		}
		c.common(r.same[k], r.chance[k], rounds)
		c.jackknife(r.same[k], r.chance[k])
		c.noise(r.same[k], r.own[k], r.around[k])
	}
	r.end(t)
}

// combination is the strokes of a row while a frame of them is combined.
type combination struct {
	r    *row
	t    *transform
	use  []int            // strokes
	X    [][][]complex128 // by stroke, frame and bin
	gain []float64
	// Of the frame that is combined, by stroke and bin: its bins, the variance of other
	// drums' noise, that of what sounded before the stroke, and what is left of it.
	now      [][]complex128
	expected [][]float64
	behind   [][]float64
	left     [][]float64
	room     []float64 // times its variance counts a stroke, for what follows it

	num               []complex128 // sums over strokes, by bin
	den, typical, tmp []float64
}

// combine takes the strokes of a row that are used out of the rest.
func (r *row) combine(t *transform, rest []float32) *combination {
	c := &combination{r: r, t: t, use: r.inUse()}
	n := len(c.use)
	c.X, c.now, c.gain, c.room = make([][][]complex128, n), make([][]complex128, n), make([]float64, n), make([]float64, n)
	c.expected, c.left, c.behind = plane(n, t.bins), plane(n, t.bins), r.background(t, rest, c.use)
	c.num, c.den, c.typical, c.tmp = make([]complex128, t.bins), make([]float64, t.bins), make([]float64, t.bins), make([]float64, t.bins)
	for j, i := range c.use {
		s := &r.strokes[i]
		c.gain[j] = s.gain
		c.X[j] = grid(t.frames(r.length), t.bins)
		t.run(rest, s.place-lead, c.X[j])
		if r.same != nil && r.explains(s) { // it is explained: put it back
			put(c.X[j], r.same, s.gain)
		}
	}
	return c
}

// frame goes on to a frame. The first time a frame after the next stroke of anything is
// trusted less: later its drum is explained.
func (c *combination) frame(k int, first bool) {
	for j, i := range c.use {
		s := &c.r.strokes[i]
		c.now[j], c.room[j] = c.X[j][k], 1
		if first && s.place-lead+float64((k+1)*c.t.hop) > s.next {
			c.room[j] = covered
		}
		clear(c.expected[j])
		for b, v := range c.r.field.at(frameOf(c.t, s.place) + k) {
			c.expected[j][b] = max(float64(v), 0)
		}
	}
}

// expect takes the row's own noise off what other drums are expected to add.
func (c *combination) expect(own []float64) {
	for j, e := range c.expected {
		g := c.gain[j] * c.gain[j]
		for b, v := range own {
			e[b] = max(e[b]-g*v, 0)
		}
	}
}

// median is that of some strokes, part by part.
func (c *combination) median(same []complex128) {
	var re, im [medianOf]float64
	few := min(len(c.use), medianOf)
	for b := range same {
		for j := range few {
			x := c.now[j][b]
			re[j], im[j] = real(x)/c.gain[j], imag(x)/c.gain[j]
		}
		insertion(re[:few])
		insertion(im[:few])
		same[b] = complex(re[few/2], im[few/2])
	}
}

// common brings what strokes have in common nearer to their weighted mean, and returns how
// much chance adds to its power.
func (c *combination) common(same []complex128, chance []float64, rounds int) {
	for range rounds {
		clear(c.typical)
		for j, x := range c.now {
			g := complex(c.gain[j], 0)
			for b, d := range same {
				c.tmp[b] = power(x[b] - g*d)
			}
			smoothOver(c.left[j], c.tmp, smoothReach)
			for b, v := range c.left[j] {
				c.typical[b] += 1 / (v + leastPower)
			}
		}
		for b, v := range c.typical {
			c.typical[b] = float64(len(c.use)) / v
		}
		c.sum(0, len(c.use))
		for b := range same {
			same[b] = c.num[b] / complex(c.den[b], 0)
			chance[b] = 1 / c.den[b]
		}
	}
}

// sum adds some strokes up, each weighted by how little is left of it beside what is in
// common.
func (c *combination) sum(from, to int) {
	clear(c.num)
	clear(c.den)
	for j := from; j < to; j++ {
		g, x, left, expected := c.gain[j], c.now[j], c.left[j], c.expected[j]
		scale := g / c.room[j]
		for b, typical := range c.typical {
			w := scale / ((left[b]+0.5*typical)/1.5 + expected[b] + leastPower)
			c.num[b] += complex(w, 0) * x[b]
			c.den[b] += w * g
		}
	}
}

// jackknife raises what chance adds to what parts of the recording disagree by: music lasts,
// and strokes near each other share it (the jackknife over groups, Quenouille 1956).
func (c *combination) jackknife(same []complex128, chance []float64) {
	n := len(c.use)
	groups := min(n, groupsOf)
	if groups < 2 {
		return
	}
	varied := c.typical // is needed by sum: taken when all sums are done
	spread := make([]float64, len(same))
	for g := range groups {
		c.sum(g*n/groups, (g+1)*n/groups)
		for b, d := range same {
			if c.den[b] > 0 {
				share := c.den[b] * chance[b] // one over the sum of all weights
				spread[b] += share * share * power(c.num[b]/complex(c.den[b], 0)-d)
			}
		}
	}
	smoothOver(varied, spread, smoothReach)
	for b, v := range varied {
		chance[b] = max(chance[b], v*float64(groups)/float64(groups-1))
	}
}

// noise is the variance of the drum's own noise, beside what is known to sound, and how much
// that is, both at a stroke of gain 1.
func (c *combination) noise(same []complex128, own, around []float64) {
	n := float64(len(c.use))
	clear(c.typical)
	for j, x := range c.now {
		g := c.gain[j]
		e, known, behind := c.left[j], c.expected[j], c.behind[j]
		for b, d := range same {
			e[b] = power(x[b] - complex(g, 0)*d)
			known[b] = (known[b] + behind[b]) * c.room[j]
			c.typical[b] += g * g / (e[b]*c.room[j] + leastPower)
		}
	}
	for b, v := range c.typical {
		own[b] = 3 * n / v
	}
	for range noiseRounds {
		c.variances(own)
		for b := range own {
			own[b] *= c.tmp[b] / (c.den[b] + 1e-30)
		}
	}
	if len(c.use) < leastNoisy {
		clear(own)
	}
	c.variances(own)
	for b, v := range c.den {
		around[b] = max(1/(v/n+1e-30)-own[b], 0)
	}
}

// variances adds up over strokes their gain squared by the variance that is expected of them,
// in den, and the same times how the variance that is found fits it, in tmp.
func (c *combination) variances(own []float64) {
	clear(c.den)
	clear(c.tmp)
	for j, known := range c.expected {
		g, found := c.gain[j]*c.gain[j], c.left[j]
		for b, v := range own {
			inverse := 1 / (g*v + known[b] + leastPower)
			c.tmp[b] += g * inverse * min(found[b]*inverse, mostMisfit)
			c.den[b] += g * inverse
		}
	}
}

// shortestReach is how long a drum is looked for at least, seconds.
const shortestReach = 0.25

// reach is up to when a drum is looked for, samples: until the row is usually struck again.
// Of strokes on an even grid the end of one is not reported from the beginning of the next.
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
