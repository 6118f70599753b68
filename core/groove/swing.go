package groove

import (
	"maps"
	"math"
	"slices"
)

// A step with less of the swing's delay than onPair is the first of its pair,
// one with more than offPair the second.
const onPair, offPair = 0.25, 0.75

// SecondOfPair reports whether a tick is the second of a pair of eighths (8) or
// sixteenths (16).
func SecondOfPair(tick float64, pair int) bool { return SwingShape(tick, pair) > offPair }

// fitted is what least squares give for a performance: offset = lean(voice) +
// delay · shape(step).
type fitted struct {
	voices          voiceMoments // of the hits that are fitted
	whole           voiceMoments // of those and of all that fall steadily elsewhere
	swingKnown      bool
	delay, delayErr float64
	left            float64 // sum of squares of what is left
	lean, leanErr   map[string]float64
}

// bestPair fits swing on eighths and on sixteenths and keeps what leaves
// less; the pair that was assumed wins where they are alike. It sets the
// rows' shapes and f.Pair to match.
func bestPair(rows []row, drift *foundDrift, f *Frame) fitted {
	fit := func(pair int) fitted {
		for i := range rows {
			rows[i].shape = 0
			if f.Steps%2 == 0 {
				rows[i].shape = SwingShape(float64(rows[i].Step)*960/float64(f.Steps), pair)
			}
		}
		first := leastSquares(rows, drift, *f)
		near, steady, dropped := first.sift(rows, drift, *f)
		second := leastSquares(near, drift, *f)
		second.left += dropped
		second.agree(momentsOf(append(near, steady...), drift, *f))
		return second
	}
	other := 24 - f.Pair // 8 for 16, 16 for 8
	if f.Steps >= 4 {
		if a, b := fit(f.Pair), fit(other); b.swingKnown && b.left < 0.97*a.left {
			f.Pair = other
		}
	}
	return fit(f.Pair)
}

// moments are the sums that a straight line through one voice's offsets over
// its shapes is fitted from.
type moments struct {
	n, shape, offset float64 // count and means
	sxx, sxy, syy    float64 // about the means
	first, second    spot
}

// spot holds the hits on one side of the pairs: count, mean and sum of squares
// about the mean.
type spot struct{ n, mean, squares float64 }

// add takes one more (Welford 1962, Technometrics 4:419).
func (s *spot) add(y float64) {
	s.n++
	d := y - s.mean
	s.mean += d / s.n
	s.squares += d * (y - s.mean)
}

// stderr is the standard error of the mean; there are two or more.
func (s *spot) stderr() float64 { return math.Sqrt(s.squares / (s.n - 1) / s.n) }

// momentsOf sums up the rows of each voice, less their drift.
func momentsOf(rows []row, drift *foundDrift, f Frame) voiceMoments {
	all := voiceMoments{}
	for i := range rows {
		r := &rows[i]
		m := all[r.Voice]
		if m == nil {
			m = &moments{}
			all[r.Voice] = m
		}
		x, y := r.shape, r.Offset-drift.at(r, f)
		m.n++
		dx, dy := x-m.shape, y-m.offset
		m.shape += dx / m.n
		m.offset += dy / m.n
		m.sxx += dx * (x - m.shape)
		m.sxy += dx * (y - m.offset)
		m.syy += dy * (y - m.offset)
		switch {
		case x < onPair:
			m.first.add(y)
		case x > offPair:
			m.second.add(y)
		}
	}
	return all
}

type voiceMoments map[string]*moments

// inOrder lists the voices always alike, so that sums over them are alike.
func (v voiceMoments) inOrder() []string { return slices.Sorted(maps.Keys(v)) }

// delay is the voice's own.
func (m *moments) delay() float64 { return m.sxy / m.sxx }

// leansOnFirst returns of a voice that is late on the first steps of pairs and less
// so, or on the grid, on the second, as late backbeats with straighter ghost
// notes are. It could be one that is late and rushes, but who plays so?
func (m *moments) leansOnFirst() bool {
	return m.first.n >= EnoughHits && m.second.n >= EnoughHits && m.first.mean >= 2*Unheard &&
		m.second.mean > -Unheard && m.second.mean < m.first.mean-Unheard
}

// left is the sum of squares that a delay leaves of a voice.
func (m *moments) left(delay float64) float64 {
	return math.Max(m.syy-2*delay*m.sxy+delay*delay*m.sxx, 0)
}

// leastSquares fits the delay by demeaning within each voice (the Frisch-Waugh
// theorem), and the leans.
func leastSquares(rows []row, drift *foundDrift, f Frame) fitted {
	fit := fitted{voices: momentsOf(rows, drift, f), swingKnown: speaksForSwing(rows)}
	if fit.swingKnown {
		fit.delay, _ = fit.voices.common(fit.voices.inOrder())
	}
	for _, v := range fit.voices.inOrder() {
		fit.left += fit.voices[v].left(fit.delay)
	}
	fit.leans()
	return fit
}

// common is the delay of some voices by least squares, with its standard error;
// not a number where none of them plays on both sides of the pairs.
func (v voiceMoments) common(names []string) (delay, stderr float64) {
	var sxx, sxy, left float64
	free := -1.0
	for _, name := range names {
		m := v[name]
		sxx += m.sxx
		sxy += m.sxy
		free += m.n - 1
	}
	delay = sxy / sxx
	for _, name := range names {
		left += v[name].left(delay)
	}
	return delay, math.Sqrt(left / math.Max(free, 1) / sxx)
}

// agree settles the delay. Each voice has one of its own, and they may disagree:
// late backbeats with straight ghost notes, swung hats over a straight kick.
// The delay is then that of the voices that side with the weighted median, or
// with none at all where that is nearly as good; the others keep what they do
// of their own, and one that leans on the first steps alone has no say. The more
// stand aside, and the farther off, the less sure it is. whole is of all hits but
// strays.
func (fit *fitted) agree(whole voiceMoments) {
	fit.whole = whole
	if !fit.swingKnown {
		return
	}
	speak := slices.DeleteFunc(whole.inOrder(), func(v string) bool { return whole[v].sxx < 1e-9 || whole[v].leansOnFirst() })
	if len(speak) == 0 {
		fit.delay = 0
		for _, m := range whole {
			if m.leansOnFirst() {
				fit.delayErr = math.Max(fit.delayErr, m.second.stderr())
			}
		}
		fit.leans()
		return
	}
	total := 0.0
	for _, v := range speak {
		total += whole[v].sxx
	}
	apart := func(delay float64) (sum float64) {
		for _, v := range speak {
			sum += whole[v].sxx / total * math.Abs(whole[v].delay()-delay)
		}
		return sum
	}
	middle, least := 0.0, 0.9*apart(0)
	for _, v := range speak {
		if by := apart(whole[v].delay()); by < least {
			middle, least = whole[v].delay(), by
		}
	}
	var side []string
	var aside, spread float64
	for _, v := range speak {
		_, stderr := whole.common([]string{v})
		if math.Abs(whole[v].delay()-middle) > Unheard+2*stderr {
			aside += whole[v].sxx / total
		} else if near := fit.voices[v]; near != nil && near.sxx > 1e-9 {
			side = append(side, v)
		}
	}
	fit.delay, fit.delayErr = middle, 0
	if len(side) > 0 {
		fit.delay, fit.delayErr = fit.voices.common(side)
	}
	for _, v := range speak {
		off := whole[v].delay() - fit.delay
		spread += whole[v].sxx / total * off * off
	}
	fit.delayErr = math.Hypot(fit.delayErr, aside*math.Sqrt(spread))
	fit.leans()
}

// Unheard is a lean that nobody hears, ms: half of what is just noticed in a
// regular series (Friberg & Sundberg 1995), since two voices are compared.
const Unheard = 3.0

// leans are the means of the hits on the pairs' first steps, or of all less the
// delay where those are too few.
func (fit *fitted) leans() {
	fit.lean, fit.leanErr = map[string]float64{}, map[string]float64{}
	for v, m := range fit.voices {
		switch {
		case m.first.n >= EnoughHits:
			fit.lean[v], fit.leanErr[v] = m.first.mean, m.first.stderr()
		case fit.swingKnown || m.shape == 0:
			fit.lean[v] = m.offset - fit.delay*m.shape
			within := m.left(fit.delay) / math.Max(m.n-1, 1) / m.n
			fit.leanErr[v] = math.Sqrt(within + m.shape*m.shape*fit.delayErr*fit.delayErr)
		}
	}
}

// between is how much later than lean and delay say a voice plays on the pairs'
// second steps, with its standard error; false where it has too few hits.
func (fit *fitted) between(voice string) (ms, stderr float64, ok bool) {
	m := fit.whole[voice]
	if m == nil || m.first.n < EnoughHits || m.second.n < EnoughHits {
		return 0, 0, false
	}
	return m.second.mean - m.first.mean - fit.delay, math.Hypot(m.first.stderr(), m.second.stderr()), true
}

// speaksForSwing reports whether a voice has enough hits both on and off the
// pairs' first steps.
func speaksForSwing(rows []row) bool {
	on, off := map[string]int{}, map[string]int{}
	for i := range rows {
		if rows[i].shape < onPair {
			on[rows[i].Voice]++
		} else if rows[i].shape > offPair {
			off[rows[i].Voice]++
		}
	}
	for v, n := range off {
		if n >= EnoughHits && on[v] >= EnoughHits {
			return true
		}
	}
	return false
}

func (fit *fitted) residual(r *row, drift *foundDrift, f Frame) float64 {
	return r.Offset - drift.at(r, f) - fit.lean[r.Voice] - fit.delay*r.shape
}

// always is how far a hit may lie off, ms, and still be none that strays.
const always = 8.0

// sift keeps the hits within 4 robust standard deviations (1.4826 · MAD) of
// their voice, or within 8 ms. steady are hits beyond that which fall together
// with others of their voice and step, so are no strays. dropped is what all
// beyond would add to the sum of squares if each lay at that limit.
func (fit *fitted) sift(rows []row, drift *foundDrift, f Frame) (near, steady []row, dropped float64) {
	type place struct {
		voice string
		step  int
	}
	at := func(r *row) place { return place{r.Voice, r.Step - r.bar(f)*f.Steps*f.PerBar} }
	byVoice, beyond := map[string][]float64{}, map[place][]float64{}
	for i := range rows {
		byVoice[rows[i].Voice] = append(byVoice[rows[i].Voice], math.Abs(fit.residual(&rows[i], drift, f)))
	}
	limit := map[string]float64{}
	for v, e := range byVoice {
		limit[v] = math.Max(always, 4*1.4826*median(e))
	}
	isNear := func(r *row) bool { return math.Abs(fit.residual(r, drift, f)) <= limit[r.Voice] }
	for i := range rows {
		if r := &rows[i]; !isNear(r) {
			beyond[at(r)] = append(beyond[at(r)], r.Offset)
			dropped += limit[r.Voice] * limit[r.Voice]
		}
	}
	middle := map[place]float64{}
	for p, offsets := range beyond {
		m := median(offsets)
		together := slices.DeleteFunc(offsets, func(o float64) bool { return math.Abs(o-m) > always })
		if len(together) >= EnoughHits {
			middle[p] = m
		}
	}
	for _, r := range rows {
		if isNear(&r) {
			near = append(near, r)
		} else if m, ok := middle[at(&r)]; ok && math.Abs(r.Offset-m) <= always {
			steady = append(steady, r)
		}
	}
	return near, steady, dropped
}

// median is the upper one of an even number.
func median(values []float64) float64 {
	sorted := slices.Sorted(slices.Values(values))
	return sorted[len(sorted)/2]
}
