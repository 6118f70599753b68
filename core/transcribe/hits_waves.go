package transcribe

import (
	"cmp"
	"math"
	"math/cmplx"
	"slices"

	"gonum.org/v1/gonum/floats"
	"gonum.org/v1/gonum/mat"

	"jubrak/core/dsp"
	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// zone is a part of the spectrum in which wave forms are compared. Lengths
// are in samples kept.
type zone struct {
	filters []dsp.Biquad // none: the lows of the whole file are at hand
	every   int          // one sample in so many is kept
	lead    int          // before the onset
	length  int          // of a template, lead included
	reach   int          // by which a hit may lie from where it is looked for
	size    int          // of the transforms, at least length and twice the reach; 0: few places, each tried
	// turned lets a wave form be turned in phase: where a sample is a large
	// part of a period.
	turned bool
	same   float64 // least correlation of two hits of one sound
}

// Zones is how many there are: lows at once and for longer, mids and highs.
const Zones = 4

var zones = [Zones]zone{
	{nil, drumnet.LowEvery, 14, 220, 16, 0, false, 0.6},
	{nil, drumnet.LowEvery, 14, 700, 16, 0, false, 0.6},
	{[]dsp.Biquad{dsp.HighPass(250, 0.7, rate), dsp.LowPass(3000, 0.54, rate), dsp.LowPass(3000, 1.3, rate)}, 2, 44, 780, 110, 1024, false, 0.5},
	{[]dsp.Biquad{dsp.HighPass(5000, 0.54, rate), dsp.HighPass(5000, 1.3, rate)}, 1, 88, 1200, 220, 2048, true, 0.45},
}

// searched are the zones as hits are found again, once they are named: farther
// than what may be struck at a moment is looked for, since a network may place a
// soft hit where a loud one is that was struck with it.
var searched = func() [Zones]zone {
	out := zones
	out[highZone].reach, out[highZone].size = rate*16/1000, 4096
	out[midZone].reach, out[midZone].size = rate*16/2000, 2048
	return out
}()

const (
	lowZone = iota
	longZone
	midZone
	highZone
)

// lives reports whether a family sounds in a zone.
func lives(f sound.Family, zone int) bool {
	switch f {
	case sound.Kick:
		return true
	case sound.Snare:
		return zone != longZone
	case sound.Tom, sound.Conga:
		return zone != highZone
	case sound.Clap, sound.Rim, sound.Cowbell, sound.Perc:
		return zone == midZone || zone == highZone
	}
	return zone == highZone
}

// template is what hits of a family have in common, of unit energy.
type template struct {
	members int
	wave    []float64    // with every frequency in phase
	quarter []float64    // with every frequency a quarter turn later; nil where no wave form is turned
	bins    []complex128 // nil where none are needed
}

// matcher compares wave forms in one part of the spectrum.
type matcher struct {
	zone
	x          []float32
	low        []float32 // the whole file's lows, one sample in drumnet.LowEvery
	fft        *dsp.FFT  // of half the size: half the bins say all
	full       *dsp.FFT
	templates  map[sound.Family][]*template
	usual      map[sound.Family]float64 // level of the hits learnt from, dB
	bins, out  []complex128
	seen       []float64 // room for correlations
	cut, whole []float64 // room for the stretch at hand
	room       []float64 // and for what it is cut from
}

func newMatcher(x, low []float32, z zone) *matcher {
	m := &matcher{zone: z, x: x, low: low, templates: map[sound.Family][]*template{}, usual: map[sound.Family]float64{}}
	if z.size > 0 {
		m.fft, m.full = dsp.NewFFT(z.size/2), dsp.NewFFT(z.size)
		m.bins, m.out = make([]complex128, z.size/2), make([]complex128, z.size/2)
	}
	return m
}

// stretch is filtered sound around a chord, and the sample at which it begins.
type stretch struct {
	x    []float64
	from int
}

// stretch cuts out all that may belong to a chord, into room if it is enough.
func (m *matcher) stretch(c *chord, room []float64) stretch {
	const settle = rate * 12 / 1000 // for the filters
	from := int(math.Round(c.first*rate)) - (m.lead+m.reach)*m.every
	n := m.length + 2*m.reach + int((c.last-c.first)*rate)/m.every + 2
	s := stretch{slices.Grow(room[:0], n)[:n], from}
	if m.filters == nil {
		first := int(math.Floor(float64(from) / drumnet.LowEvery))
		s.from = first * drumnet.LowEvery
		for i := range s.x {
			s.x[i] = 0
			if j := first + i; j >= 0 && j < len(m.low) {
				s.x[i] = float64(m.low[j])
			}
		}
		return s
	}
	m.room = slices.Grow(m.room[:0], settle+n*m.every)[:settle+n*m.every]
	for i := range m.room {
		m.room[i] = 0
		if j := from - settle + i; j >= 0 && j < len(m.x) {
			m.room[i] = float64(m.x[j])
		}
	}
	dsp.Cascade(m.room, m.filters)
	for i := range s.x {
		s.x[i] = m.room[settle+i*m.every]
	}
	return s
}

// expected is where in a stretch the search for a hit begins.
func (m *matcher) expected(s *stretch, seconds float64) int {
	at := (int(math.Round(seconds*rate)) - s.from + m.every/2) / m.every
	return min(max(at-m.lead-m.reach, 0), len(s.x)-m.length-2*m.reach)
}

// match is where a template fits best and by how much: its complex gain, so
// that a shift of less than a sample does no harm.
type match struct {
	at   int
	gain complex128
	fit  float64 // correlation
}

// power is the energy of what was found.
func (m *match) power() float64 { return real(m.gain)*real(m.gain) + imag(m.gain)*imag(m.gain) }

// listenTo prepares the search for templates from a place of a stretch.
func (m *matcher) listenTo(x []float64, from int) {
	if m.size == 0 {
		return
	}
	m.fft.Real(x[from:from+m.length+2*m.reach], m.bins)
}

// find looks for a template where listenTo listened: at every second place,
// then among the neighbours of the best.
func (m *matcher) find(t *template, x []float64, from int) match {
	best, top := 0, math.Inf(-1)
	for i, v := range m.correlations(t, x[from:]) {
		d := float64(2*i-m.reach) / float64(m.reach)
		if v *= 1 - 0.25*d*d; v > top {
			best, top = 2*i, v
		}
	}
	out := match{at: -1}
	for at := max(from+best-1, from); at <= min(from+best+1, from+2*m.reach); at++ {
		gain := complex(dot(t.wave, x[at:]), 0)
		if m.turned {
			gain = complex(real(gain), -dot(t.quarter, x[at:]))
		}
		if out.at < 0 || m.weigh(gain) > m.weigh(out.gain) {
			out.at, out.gain = at, gain
		}
	}
	if !m.turned {
		out.gain = complex(math.Max(real(out.gain), 0), 0)
	}
	out.fit = cmplx.Abs(out.gain) / math.Sqrt(energy(x[out.at:out.at+m.length])+1e-18)
	return out
}

// correlations are how well a template fits at every second place. Where there
// are many, the correlation is that of analytic signals, of which every second
// sample says all.
func (m *matcher) correlations(t *template, x []float64) []float64 {
	m.seen = slices.Grow(m.seen[:0], m.reach+1)[:m.reach+1]
	if m.size == 0 {
		for i := range m.seen {
			m.seen[i] = dot(t.wave, x[2*i:])
		}
		return m.seen
	}
	for i, b := range t.bins {
		m.out[i] = m.bins[i] * complex(real(b), -imag(b))
	}
	m.fft.Inverse(m.out, m.out)
	for i := range m.seen {
		m.seen[i] = m.weigh(m.out[i])
	}
	return m.seen
}

// weigh is how large a correlation counts.
func (m *matcher) weigh(c complex128) float64 {
	if m.turned {
		return math.Sqrt(real(c)*real(c) + imag(c)*imag(c))
	}
	return real(c)
}

func energy(x []float64) float64 { return floats.Dot(x, x) }

// put adds a template with a gain to a stretch.
func (t *template) put(x []float64, at int, gain complex128) {
	to := x[at : at+len(t.wave)]
	floats.AddScaled(to, real(gain), t.wave)
	if imag(gain) != 0 {
		floats.AddScaled(to, -imag(gain), t.quarter)
	}
}

// newTemplate is a wave form faded at its end and made unit energy; nil where
// it is silent.
func (m *matcher) newTemplate(wave []float64, members int) *template {
	t := &template{members: members, wave: make([]float64, m.length)}
	fade := m.length * 2 / 5
	for i, v := range wave {
		if left := m.length - i; left < fade {
			v *= 0.5 - 0.5*math.Cos(math.Pi*float64(left)/float64(fade))
		}
		t.wave[i] = v
	}
	norm := math.Sqrt(energy(t.wave))
	if norm < 1e-9 {
		return nil
	}
	for i := range t.wave {
		t.wave[i] /= norm
	}
	if m.size > 0 {
		t.bins = make([]complex128, m.size/2)
		m.fft.Real(t.wave, t.bins)
	}
	if m.turned {
		analytic := make([]complex128, m.size)
		copy(analytic, t.bins)
		for i := 1; i < len(t.bins); i++ {
			analytic[i] *= 2
		}
		m.full.Inverse(analytic, analytic)
		t.quarter = make([]float64, m.length)
		for i := range t.quarter {
			t.quarter[i] = imag(analytic[i])
		}
	}
	return t
}

type fitted struct {
	kind *template
	match
}

// fitted fits templates to the hits of a chord and leaves in the stretch what
// they do not explain: those of usually loud families first, then each again
// in what the others leave.
func (m *matcher) fitted(s *stretch, c *chord, hits []found, times []float64) map[int]fitted {
	out := map[int]fitted{}
	var order []int
	for _, i := range c.hits {
		if len(m.templates[hits[i].family]) > 0 {
			order = append(order, i)
		}
	}
	slices.SortStableFunc(order, func(a, b int) int {
		return cmp.Compare(m.usual[hits[b].family], m.usual[hits[a].family])
	})
	for _, i := range order {
		f := m.best(s, hits[i].family, times[i])
		f.kind.put(s.x, f.at, -f.gain)
		out[i] = f
	}
	if len(order) > 1 {
		m.balance(s, out, order)
		for _, i := range order {
			f := out[i]
			f.kind.put(s.x, f.at, f.gain)
			f.match = m.again(s, f.kind, times[i])
			f.kind.put(s.x, f.at, -f.gain)
			out[i] = f
		}
		m.balance(s, out, order)
	}
	return out
}

// best is the template of a family that explains most near a time.
func (m *matcher) best(s *stretch, f sound.Family, seconds float64) (best fitted) {
	from := m.expected(s, seconds)
	m.listenTo(s.x, from)
	for _, t := range m.templates[f] {
		if found := m.find(t, s.x, from); best.kind == nil || found.power() > best.power() {
			best = fitted{t, found}
		}
	}
	return best
}

// again looks for a template near a time.
func (m *matcher) again(s *stretch, t *template, seconds float64) match {
	from := m.expected(s, seconds)
	m.listenTo(s.x, from)
	return m.find(t, s.x, from)
}

// balance finds the gains of a chord's hits together, where they are, by
// least squares.
func (m *matcher) balance(s *stretch, all map[int]fitted, order []int) {
	type wave struct {
		x  []float64
		at int
	}
	var waves []wave
	for _, i := range order {
		f := all[i]
		f.kind.put(s.x, f.at, f.gain)
		waves = append(waves, wave{f.kind.wave, f.at})
		if m.turned {
			waves = append(waves, wave{f.kind.quarter, f.at})
		}
	}
	n := len(waves)
	gram, right := mat.NewSymDense(n, nil), mat.NewVecDense(n, nil)
	for i, a := range waves {
		right.SetVec(i, dot(a.x, s.x[a.at:]))
		gram.SetSym(i, i, energy(a.x)+0.003)
		for j := i + 1; j < n; j++ {
			b := waves[j]
			if d := b.at - a.at; d >= 0 && d < m.length {
				gram.SetSym(i, j, dot(b.x[:m.length-d], a.x[d:]))
			} else if d < 0 && -d < m.length {
				gram.SetSym(i, j, dot(a.x[:m.length+d], b.x[-d:]))
			}
		}
	}
	var c mat.Cholesky
	var gains mat.VecDense
	if c.Factorize(gram) {
		_ = c.SolveVecTo(&gains, right) // a factorized matrix is solved, if badly
	}
	for k, i := range order {
		f := all[i]
		switch {
		case gains.Len() == 0:
		case m.turned:
			f.gain = complex(gains.AtVec(2*k), -gains.AtVec(2*k+1))
		default:
			f.gain = complex(math.Max(gains.AtVec(k), 0), 0)
		}
		f.kind.put(s.x, f.at, -f.gain)
		all[i] = f
	}
}

// dot is the inner product of a with as much of b.
func dot(a, b []float64) float64 { return floats.Dot(a, b[:len(a)]) }
