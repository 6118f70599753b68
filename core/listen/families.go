package listen

import (
	"math"
	"sort"

	"jubrak/core/sound"
)

// The components into which each onset is taken apart.
const (
	kickPart = iota
	snarePart
	hatPart
	parts
)

// priors are the shapes from which templates start, over log frequency
// (common practice): a kick lives below 120 Hz with a little click, a snare
// has a body near 200 Hz and noise from 800 Hz up, a hat begins at 5 kHz.
func priors() (w [parts][bands]float64) {
	for b := range bands {
		hz := math.Sqrt(bandEdges[b] * bandEdges[b+1])
		oct := math.Log2(hz)
		bump := func(centre, width float64) float64 {
			d := (oct - math.Log2(centre)) / width
			return math.Exp(-d * d / 2)
		}
		w[kickPart][b] = bump(65, 0.7) + 0.08*bump(2500, 0.8) + 0.1*bump(200, 1)
		w[snarePart][b] = 0.8*bump(210, 0.45) + 0.5*bump(1800, 1.25)
		w[hatPart][b] = bump(11000, 0.9) + 0.13
	}
	for k := range w {
		normalise(&w[k])
	}
	return w
}

func normalise(v *[bands]float64) {
	var sum float64
	for _, x := range v {
		sum += x
	}
	for b := range v {
		v[b] /= math.Max(sum, 1e-15)
	}
}

// rise is what an onset adds to the spectrum: the root of band power in the
// 35 ms after it less that just before.
func (s *spectrum) rise(frame int) (v [bands]float64) {
	last := len(s.power) - 1
	for b := range bands {
		var after, n float64
		for i := frame; i <= min(frame+5, last); i++ {
			after += s.power[i][b]
			n++
		}
		before := math.Inf(1)
		for i := max(frame-4, 0); i <= max(frame-2, 0); i++ {
			before = math.Min(before, s.power[i][b])
		}
		v[b] = math.Sqrt(math.Max(after/n-1.2*before, 0))
	}
	return v
}

// decode takes each rise apart into the templates by non-negative matrix
// factorisation with the Kullback-Leibler divergence (Lee & Seung 1999),
// starting from the priors and letting the templates follow the file
// (semi-supervised, as in Wu & Lerch, ISMIR 2015). It returns the activation
// of each part at each onset and the learned templates.
func decode(rises [][bands]float64) (h [][parts]float64, w [parts][bands]float64) {
	prior := priors()
	w = prior
	h = make([][parts]float64, len(rises))
	for i := range h {
		var sum float64
		for _, x := range rises[i] {
			sum += x
		}
		for k := range parts {
			h[i][k] = sum/parts + 1e-12
		}
	}
	for round := range 12 {
		for range 8 {
			updateActivations(rises, h, &w)
		}
		if round < 11 {
			updateTemplates(rises, h, &w, &prior)
		}
	}
	return h, w
}

func updateActivations(v [][bands]float64, h [][parts]float64, w *[parts][bands]float64) {
	for i := range v {
		ratio := quotient(&v[i], &h[i], w)
		for k := range parts {
			var sum float64
			for b := range bands {
				sum += w[k][b] * ratio[b]
			}
			h[i][k] *= sum
		}
	}
}

func quotient(v *[bands]float64, h *[parts]float64, w *[parts][bands]float64) (r [bands]float64) {
	for b := range bands {
		var model float64
		for k := range parts {
			model += w[k][b] * h[k]
		}
		r[b] = v[b] / math.Max(model, 1e-12)
	}
	return r
}

// hold is how firmly a template keeps to its prior in a band. Hats so often
// sound with kicks and snares that the file alone cannot tell whose the highs
// are; so those of the drums are held.
func hold(part, band int) float64 {
	hz := bandEdges[band]
	switch {
	case part == kickPart && hz >= 4000, part == snarePart && hz >= 6500:
		return 0.85
	case part == hatPart && hz < 300:
		return 0.7
	}
	return 0.3
}

// updateTemplates moves the templates towards the file, each onset counting
// by its shape rather than its level, and holds them to their priors.
func updateTemplates(v [][bands]float64, h [][parts]float64, w, prior *[parts][bands]float64) {
	var next [parts][bands]float64
	for i := range v {
		var total float64
		for _, x := range v[i] {
			total += x
		}
		if total <= 0 {
			continue
		}
		ratio := quotient(&v[i], &h[i], w)
		for k := range parts {
			// Squaring the share lets onsets of one drum alone speak loudest.
			share := h[i][k] / total
			for b := range bands {
				next[k][b] += share * share * w[k][b] * ratio[b]
			}
		}
	}
	for k := range parts {
		normalise(&next[k])
		for b := range bands {
			firm := hold(k, b)
			w[k][b] = (1-firm)*next[k][b] + firm*prior[k][b]
		}
		normalise(&w[k])
	}
}

// found is a drum heard at an onset.
type found struct {
	onset      int
	family     sound.Family
	level      float64 // amplitude, arbitrary scale
	confidence float64
}

// nameHits decides which parts are really there at each onset: a part counts
// when it is not small against the same part elsewhere in the file and
// carries its own region of this onset's spectrum.
func nameHits(s *spectrum, onsets []onset, rises [][bands]float64) []found {
	h, w := decode(rises)
	var top [parts]float64
	for k := range parts {
		top[k] = typical(h, k)
	}
	var out []found
	for i := range onsets {
		var total float64
		for _, x := range rises[i] {
			total += x
		}
		if total <= 0 {
			continue
		}
		any := false
		best, bestScore := 0, 0.0
		for k := range parts {
			score := presence(k, h[i][k]/math.Max(top[k], 1e-12), region(k, &rises[i], &h[i], &w), &onsets[i])
			if k == snarePart {
				// The low ring of a hat is not a soft snare.
				score *= logistic((h[i][k]/math.Max(h[i][hatPart], 1e-12) - 0.45) * 12)
				if h[i][k] < h[i][hatPart] {
					score *= logistic((body(&rises[i]) - 0.3) * 20)
				}
			}
			if score > bestScore {
				best, bestScore = k, score
			}
			if score < 0.5 {
				continue
			}
			any = true
			out = append(out, found{onset: i, family: familyOfPart[k], level: h[i][k], confidence: math.Min(score, 0.99)})
		}
		if !any && bestScore > 0.3 {
			out = append(out, found{onset: i, family: familyOfPart[best], level: h[i][best], confidence: bestScore})
		}
	}
	s.nameHats(onsets, out)
	return out
}

var familyOfPart = [parts]sound.Family{sound.Kick, sound.Snare, sound.HatClosed}

// typical is the level of the clear hits of a part: the upper decile of its
// activations.
func typical(h [][parts]float64, k int) float64 {
	all := make([]float64, 0, len(h))
	for i := range h {
		all = append(all, h[i][k])
	}
	sort.Float64s(all)
	if len(all) == 0 {
		return 0
	}
	return all[min(len(all)*9/10, len(all)-1)]
}

// region is the share of the part's own frequency region that the part
// explains: lows for the kick, middle for the snare, highs for the hat.
func region(k int, v *[bands]float64, h *[parts]float64, w *[parts][bands]float64) float64 {
	from, to := 0, lowBands
	switch k {
	case snarePart:
		from, to = lowBands, midBands
	case hatPart:
		from, to = midBands+2, bands
	}
	var mine, all float64
	for b := from; b < to; b++ {
		var model float64
		for j := range parts {
			model += w[j][b] * h[j]
		}
		mine += w[k][b] * h[k]
		all += math.Max(model, v[b])
	}
	return mine / math.Max(all, 1e-15)
}

// body is the share of a rise's middle that lies between 165 and 420 Hz,
// where a snare has its tone.
func body(v *[bands]float64) float64 {
	var low, all float64
	for b := lowBands; b < midBands; b++ {
		if b < lowBands+4 {
			low += v[b]
		}
		all += v[b]
	}
	return low / math.Max(all, 1e-15)
}

// presence turns relative level, share of the region and the flux of the
// region into a number near 0 or 1.
func presence(k int, level, share float64, o *onset) float64 {
	flux, need := o.low, 0.25
	least := 0.16
	switch k {
	case snarePart:
		flux, need, least = o.mid, 0.12, 0.07
	case hatPart:
		flux, need, least = o.high, 0.12, 0.06
	}
	a := logistic(math.Log(math.Max(level, 1e-9)/least) * 3)
	b := logistic((share - 0.45) * 10)
	c := logistic((flux - need) * 25)
	return math.Cbrt(a * b * c)
}

func logistic(x float64) float64 { return 1 / (1 + math.Exp(-x)) }

// nameHats tells open from closed hats, once all are found. What decides is
// how fast the highs fall: the falls of the file are split in two groups
// (two-means) where they differ clearly, else at a fixed rate. A hat under a
// snare is taken as closed: the snare's own noise hides its tail.
func (s *spectrum) nameHats(onsets []onset, hits []found) {
	under := map[int]bool{}
	for _, h := range hits {
		under[h.onset] = under[h.onset] || h.family == sound.Snare
	}
	falls := map[int]float64{}
	var all []float64
	for i, h := range hits {
		if h.family == sound.HatClosed && !under[h.onset] {
			if f, ok := s.fall(onsets, h.onset); ok {
				falls[i] = f
				all = append(all, f)
			}
		}
	}
	limit := splitFalls(all)
	for i, f := range falls {
		if f < limit {
			hits[i].family = sound.HatOpen
		}
	}
}

// fixedFall parts open from closed hats where a file has only one kind, dB
// in 100 ms.
const fixedFall = 11

// splitFalls finds the limit between slow and fast falls.
func splitFalls(falls []float64) float64 {
	if len(falls) < 6 {
		return fixedFall
	}
	sort.Float64s(falls)
	slow, fast := falls[len(falls)/20], falls[len(falls)-1-len(falls)/20]
	for range 12 {
		var a, b, na, nb float64
		for _, f := range falls {
			if math.Abs(f-slow) < math.Abs(f-fast) {
				a, na = a+f, na+1
			} else {
				b, nb = b+f, nb+1
			}
		}
		slow, fast = a/math.Max(na, 1), b/math.Max(nb, 1)
	}
	if fast-slow < 8 || slow > 16 {
		return fixedFall
	}
	return (slow + fast) / 2
}

// fall is how fast the highs fall after an onset, dB in 100 ms, over the
// 80 ms that follow or until just before the next onset. ok is false where
// there is too little room to tell.
func (s *spectrum) fall(onsets []onset, i int) (rate float64, ok bool) {
	n := onsets[i].frame
	late := n + int(math.Round(80/frameMS))
	if i+1 < len(onsets) {
		late = min(late, onsets[i+1].frame-3)
	}
	late = min(late, len(s.power)-1)
	top := n
	for j := n; j <= min(n+4, len(s.power)-1); j++ {
		if s.highs(j) > s.highs(top) {
			top = j
		}
	}
	span := float64(late-top) * frameMS
	if span < 40 {
		return 0, false
	}
	return 10 * math.Log10(s.highs(top)/math.Max(s.highs(late), 1e-15)) / span * 100, true
}

func (s *spectrum) highs(n int) float64 {
	var sum float64
	for b := midBands + 3; b < bands; b++ {
		sum += s.power[n][b]
	}
	return sum
}
