package transcribe

import (
	"math"
	"math/cmplx"
	"slices"
	"sort"

	"jubrak/core/sound"
	"jubrak/core/transcribe/drumnet"
)

// Drums repeat: a machine and a sampler strike the same sound every time, a
// good drummer nearly. What a family's hits have in common is learnt from the
// file as wave forms; found again under what plays beside, they show how loud
// and when each was struck more finely than a spectrum can (matched filtering
// with templates adapted to the file: Yoshii, Goto & Okuno 2007, IEEE TASLP
// 15(1)).

// repeat is one hit found again in one part of the spectrum.
type repeat struct {
	kind  *template // nil where there is nothing to compare with
	start float64   // of the template, seconds
	level float64   // dB, by the template
	whole float64   // dB, by all that sounds there and is no other hit's
	fit   float64   // share of the whole that is the template, 0..1
}

// chord is hits that are struck so close together that they are reported together.
type chord struct {
	hits        []int
	first, last float64 // seconds
}

// What is learnt from: hits of a family, templates of a family, and hits that a
// template must at least come from.
const (
	mostLearnt    = 28
	mostTemplates = 3
	fewestMembers = 3
)

// memory is what a file's drums sound like, in each zone.
type memory struct{ matchers [Zones]*matcher }

// remember learns what the hits of each family have in common. times says
// about when they are struck.
func remember(x, low []float32, hits []found, times []float64, zones [Zones]zone) *memory {
	chords := chordsOf(hits, times)
	var m memory
	for z := range zones {
		m.matchers[z] = newMatcher(x, low, zones[z])
		m.matchers[z].learn(hits, times, chords, z)
	}
	return &m
}

// find finds hits again, each in every zone where its family lives. times says
// where they are looked for.
func (m *memory) find(hits []found, times []float64) [][Zones]repeat {
	out := make([][Zones]repeat, len(hits))
	for _, c := range chordsOf(hits, times) {
		for z := range zones {
			for i, r := range m.matchers[z].match(&c, hits, times) {
				out[i][z] = r
			}
		}
	}
	return out
}

// Proof is what the wave forms of a family's surer hits say of it at another
// moment, in the two zones where it is clearest.
type Proof struct {
	Known bool // there are wave forms to compare with
	Fit   [2]float64
	// Level is against the usual level of the family, dB.
	Level [2]float64
}

// clearest are the zones where a family's wave form is looked for.
func clearest(f sound.Family) [2]int {
	switch f {
	case sound.Kick, sound.Tom, sound.Conga:
		return [2]int{lowZone, midZone}
	case sound.Snare, sound.Clap, sound.Rim, sound.Cowbell, sound.Perc:
		return [2]int{midZone, highZone}
	}
	return [2]int{highZone, highZone}
}

// doubtful is how unlikely a family may be at a moment, log odds, for its wave
// form to be looked for.
const doubtful = -3

// prove looks at each moment for the wave forms of all families that may have
// been struck there.
func (m *memory) prove(heard []drumnet.Heard) [][drumnet.Classes]Proof {
	out := make([][drumnet.Classes]Proof, len(heard))
	for i := range heard {
		var hits []found
		var times []float64
		c := chord{first: math.Inf(1), last: math.Inf(-1)}
		for k, f := range drumnet.Families {
			if heard[i].Odds[k] < doubtful {
				continue
			}
			at := float64(heard[i].Frame)*hop/rate + heard[i].Delay[k]/1000
			c.hits = append(c.hits, len(hits))
			c.first, c.last = math.Min(c.first, at), math.Max(c.last, at)
			hits, times = append(hits, found{family: f}), append(times, at)
		}
		if len(hits) == 0 {
			continue
		}
		var known [Zones]map[int]repeat
		for _, z := range []int{lowZone, midZone, highZone} {
			known[z] = m.matchers[z].match(&c, hits, times)
		}
		for n, h := range hits {
			p := &out[i][slices.Index(drumnet.Families, h.family)]
			for k, z := range clearest(h.family) {
				if r, ok := known[z][n]; ok {
					p.Known = true
					p.Fit[k] = r.fit
					p.Level[k] = r.level - m.matchers[z].usual[h.family]
				}
			}
		}
	}
	return out
}

// chordsOf groups hits less than 20 ms apart, in all no more than 50 ms.
func chordsOf(hits []found, times []float64) (out []chord) {
	order := make([]int, len(hits))
	for i := range order {
		order[i] = i
	}
	sort.SliceStable(order, func(a, b int) bool { return times[order[a]] < times[order[b]] })
	for _, i := range order {
		if n := len(out) - 1; n >= 0 && times[i]-out[n].last < 0.02 && times[i]-out[n].first < 0.05 {
			out[n].hits = append(out[n].hits, i)
			out[n].last = times[i]
			continue
		}
		out = append(out, chord{[]int{i}, times[i], times[i]})
	}
	return out
}

// match finds the hits of a chord, all together: each in what the others leave.
func (m *matcher) match(c *chord, hits []found, times []float64) map[int]repeat {
	out := map[int]repeat{}
	s := m.stretch(c, m.cut)
	m.cut, m.whole = s.x, append(m.whole[:0], s.x...)
	for i, f := range m.fitted(&s, c, hits, times) {
		rest, power := energy(s.x[f.at:f.at+m.length]), f.power()
		// What lies 20 dB below the rest proves nothing.
		whole := power + rest + 0.01*energy(m.whole[f.at:f.at+m.length]) + 1e-15
		out[i] = repeat{
			kind: f.kind, start: (float64(s.from) + float64(f.at*m.every)) / rate,
			level: 10 * math.Log10(power+1e-15), whole: 10 * math.Log10(power+rest+1e-15), fit: power / whole,
		}
	}
	return out
}

// learn makes the templates of the matcher's zone, which is number p.
func (m *matcher) learn(hits []found, times []float64, chords []chord, p int) {
	// The hits of a family with the fewest others beside them teach it.
	company := make([]int, len(hits))
	in := make([]int, len(hits))
	byFamily := map[sound.Family][]int{}
	for n := range chords {
		for _, i := range chords[n].hits {
			in[i] = n
			for _, j := range chords[n].hits {
				if j != i && lives(hits[j].family, p) && hits[j].confidence > 0 {
					company[i]++
				}
			}
		}
	}
	for i, h := range hits {
		if lives(h.family, p) {
			byFamily[h.family] = append(byFamily[h.family], i)
		}
	}
	var families []sound.Family
	crowd := map[sound.Family]float64{}
	for _, f := range drumnet.Families {
		list := byFamily[f]
		if len(list) < fewestMembers {
			continue
		}
		families = append(families, f)
		for _, i := range list {
			crowd[f] += float64(company[i]) / float64(len(list))
		}
		sort.SliceStable(list, func(a, b int) bool {
			if company[list[a]] != company[list[b]] {
				return company[list[a]] < company[list[b]]
			}
			return hits[list[a]].level > hits[list[b]].level
		})
		byFamily[f] = spaced(list, mostLearnt)
	}
	// Families that are struck alone teach what to take away from others.
	sort.SliceStable(families, func(a, b int) bool { return crowd[families[a]] < crowd[families[b]] })
	for _, f := range families {
		cut := map[int]*stretch{}
		stretchOf := func(i int) *stretch {
			if cut[in[i]] == nil {
				s := m.stretch(&chords[in[i]], nil)
				m.fitted(&s, &chords[in[i]], hits, times)
				cut[in[i]] = &s
			}
			return cut[in[i]]
		}
		left := slices.Clone(byFamily[f])
		alone := slices.IndexFunc(left, func(i int) bool { return company[i] > 0 })
		var all []*template
		for len(all) < mostTemplates {
			// What is struck with another may be taken for another sound.
			if alone >= fewestMembers || len(all) > 0 {
				left = slices.DeleteFunc(left, func(i int) bool { return company[i] > 0 })
			}
			t := m.common(left, times, stretchOf)
			if t == nil {
				break
			}
			all = append(all, t)
			left = slices.DeleteFunc(left, func(i int) bool { return m.alike(t, stretchOf(i), times[i]) })
		}
		m.templates[f] = all
	}
	for range 2 {
		m.refine(byFamily, hits, times, chords, in)
	}
}

// spaced keeps the first half of what may be kept, and of the rest every so
// many.
func spaced(list []int, most int) []int {
	if len(list) <= most {
		return list
	}
	out := slices.Clone(list[:most/2])
	rest := list[most/2:]
	for k := range most / 2 {
		out = append(out, rest[k*len(rest)/(most/2)])
	}
	return out
}

// alike reports whether a hit sounds like a template.
func (m *matcher) alike(t *template, s *stretch, seconds float64) bool {
	from := m.expected(s, seconds)
	m.listenTo(s.x, from)
	return m.find(t, s.x, from).fit > m.same
}

// common is what most of some hits have in common; nil where too few sound
// alike.
func (m *matcher) common(list []int, times []float64, stretchOf func(int) *stretch) *template {
	if len(list) < fewestMembers {
		return nil
	}
	var seeds []*template
	for _, i := range list[:min(len(list), 6)] {
		s := stretchOf(i)
		from := m.expected(s, times[i]) + m.reach
		if t := m.newTemplate(s.x[from:from+m.length], 1); t != nil {
			seeds = append(seeds, t)
		}
	}
	agree := make([]float64, len(seeds))
	for _, i := range list {
		s := stretchOf(i)
		from := m.expected(s, times[i])
		m.listenTo(s.x, from)
		for k, t := range seeds {
			if f := m.find(t, s.x, from); f.fit > m.same {
				agree[k] += f.fit
			}
		}
	}
	var best *template
	most := 0.0
	for k, t := range seeds {
		if agree[k] > most {
			best, most = t, agree[k]
		}
	}
	for range 2 {
		if best == nil {
			return nil
		}
		members := 0
		mean := make([]float64, m.length)
		for _, i := range list {
			s := stretchOf(i)
			from := m.expected(s, times[i])
			m.listenTo(s.x, from)
			f := m.find(best, s.x, from)
			if f.fit <= m.same {
				continue
			}
			members++
			weight := f.fit * f.fit / cmplx.Abs(f.gain)
			for k := range mean {
				mean[k] += weight * s.x[f.at+k]
			}
		}
		if members < fewestMembers {
			return nil
		}
		best = m.newTemplate(mean, members)
	}
	return best
}

// refine learns the templates again from what is left of each hit when all
// that is struck with it is taken away.
func (m *matcher) refine(byFamily map[sound.Family][]int, hits []found, times []float64, chords []chord, in []int) {
	of := map[int][]int{}
	for _, f := range drumnet.Families {
		if len(m.templates[f]) > 0 {
			for _, i := range byFamily[f] {
				of[in[i]] = append(of[in[i]], i)
			}
		}
	}
	sums := map[*template][]float64{}
	weights := map[sound.Family]float64{}
	clear(m.usual)
	for _, list := range m.templates {
		for _, t := range list {
			sums[t] = make([]float64, m.length)
		}
	}
	for n := range chords {
		if len(of[n]) == 0 {
			continue
		}
		s := m.stretch(&chords[n], m.cut)
		m.cut = s.x
		all := m.fitted(&s, &chords[n], hits, times)
		for _, i := range of[n] {
			f, ok := all[i]
			if !ok {
				continue
			}
			rest := energy(s.x[f.at : f.at+m.length])
			f.kind.put(s.x, f.at, f.gain)
			power := f.power()
			fit := power / (power + rest + 1e-15)
			weights[hits[i].family] += fit
			m.usual[hits[i].family] += fit * 10 * math.Log10(power+1e-15)
			to := sums[f.kind]
			for k := range to {
				to[k] += fit / (cmplx.Abs(f.gain) + 1e-9) * s.x[f.at+k]
			}
			f.kind.put(s.x, f.at, -f.gain)
		}
	}
	for f, w := range weights {
		m.usual[f] /= math.Max(w, 1e-9)
	}
	for f, list := range m.templates {
		for k, t := range list {
			if better := m.newTemplate(sums[t], t.members); better != nil {
				m.templates[f][k] = better
			}
		}
	}
}
