package arrange

import (
	"math"
	"slices"
	"sort"

	"jubrak/core/dsp"
	"jubrak/core/groove"
	"jubrak/core/music"
)

// semitones is the factor of so many semitones.
func semitones(st float64) float64 { return math.Pow(2, st/12) }

// Line is an arrangement laid out in time, asked by window. Its ticks count on from 0;
// with a loop, the part between two ticks repeats exactly, before it too. What it was made
// of must not change.
type Line struct {
	sections []span
	grooves  []*groove.Groove
	times    *music.Times
	ticks    int
	from, to int // of the loop, or 0, 0
	early    float64
	late     float64
}

// span is a section on the line.
type span struct {
	of       *Section
	from, to int
	bar      int // ticks
	first    int // bars of the piece before it
	meter    music.Meter
	pattern  *groove.Groove
	parts    []part
	rests    map[string][]Rest
}

// lanes says which lanes of a groove a part plays.
type lanes int

const (
	allLanes lanes = iota
	grooveLanes
	ownLanes // with a length of their own
)

// part is a groove over a stretch of a section.
type part struct {
	line     *groove.Line
	groove   int // of Grooves
	from, to int // ticks of the piece
	at       int // where its tick 0 lies
	lanes    lanes
	placed   *Placed // nil: the section's own
	dropout  *Dropout
}

// NewLine lays out a valid arrangement in a song's tempo.
func NewLine(a *Arrangement, grooves Grooves, tempo music.TempoMap) *Line {
	l := &Line{ticks: a.ticks(grooves)}
	m := a.tempo(grooves, tempo)
	l.times = music.NewTimes(m)
	slowest := math.Inf(1)
	for _, c := range m {
		slowest = min(slowest, c.BPM)
		if c.To > 0 {
			slowest = min(slowest, c.To)
		}
	}
	at, bars := 0, 0
	for i := range a.Sections {
		s := &a.Sections[i]
		g := grooves(s.Variation)
		meter := s.MeterOf(g)
		p := span{of: s, from: at, to: at + s.Ticks(g), bar: meter.BarTicks(), meter: meter, first: bars, pattern: g, rests: map[string][]Rest{}}
		for _, r := range s.Rests {
			p.rests[r.Voice] = append(p.rests[r.Voice], r)
		}
		l.lay(&p, g, grooves, slowest)
		l.sections = append(l.sections, p)
		at, bars = p.to, bars+s.Bars
	}
	return l
}

// Round lets the part between two ticks go round and round, and returns the line.
func (l *Line) Round(from, to int) *Line {
	l.from, l.to = max(from, 0), min(to, l.ticks)
	if l.to <= l.from {
		l.from, l.to = 0, 0
	}
	return l
}

// lay puts the grooves of a section on the line.
func (l *Line) lay(p *span, g *groove.Groove, grooves Grooves, slowest float64) {
	s := p.of
	salt := uint64(0)
	if s.Take != 0 {
		salt = dsp.Key(uint64(s.Take), 28)
	}
	add := func(of *groove.Groove, at, from, to int, salt uint64, q part) {
		on := groove.Placing{Clock: l.times, At: at, Salt: salt, GoesOn: s.GoesOn, Slowest: slowest}
		on.Swing, on.Strength = drawn(s, p, "groove/feel/swing_percent"), drawn(s, p, "groove/feel/strength_percent")
		q.line, q.groove, q.from, q.to, q.at = groove.NewPlaced(of, on), l.index(of), from, to, at
		early, late := q.line.Reach()
		l.early, l.late = max(l.early, early), max(l.late, late)
		p.parts = append(p.parts, q)
	}
	mine := g.Meter.BarTicks()
	if p.bar == mine {
		add(g, p.from-s.From*mine, p.from, p.to, salt, part{})
	} else {
		for b := range s.Bars {
			from := p.from + b*p.bar
			add(g, from-(s.From+b)*mine, from, from+min(mine, p.bar), salt, part{lanes: grooveLanes})
		}
		if slices.ContainsFunc(g.Lanes, func(l groove.Lane) bool { return l.Steps > 0 }) {
			add(g, p.from-s.From*p.bar, p.from, p.to, salt, part{lanes: ownLanes})
		}
	}
	for i := range s.Placed {
		q := &s.Placed[i]
		of := grooves(q.Variation)
		from := p.from + q.At
		add(of, from-q.From*of.Meter.BarTicks(), from, from+q.Length, dsp.Key(salt, dsp.KeyString(q.ID)), part{placed: q})
	}
	for i := range s.Dropouts {
		if d := &s.Dropouts[i]; d.Hit != "" {
			from := p.from + d.At
			add(struck(d.Hit, g), from, from, from+1, salt, part{dropout: d})
		}
	}
}

// struck is a groove of one hit.
func struck(voice string, like *groove.Groove) *groove.Groove {
	return &groove.Groove{Bars: 1, Meter: like.Meter, Grid: 4, Seed: 1, Feel: groove.Straight(),
		Lanes: []groove.Lane{{Voice: voice, Hits: []groove.Hit{{ID: "h1", Velocity: 112}}}}}
}

func (l *Line) index(g *groove.Groove) int {
	if i := slices.Index(l.grooves, g); i >= 0 {
		return i
	}
	l.grooves = append(l.grooves, g)
	return len(l.grooves) - 1
}

// drawn is a number of the feel as it is drawn over a section, or nil.
func drawn(s *Section, p *span, address string) func(tick float64) float64 {
	m := s.AutomationOf(address)
	if m == nil {
		return nil
	}
	param := feelParam(address)
	from, bar := float64(p.from), float64(p.bar)
	return func(tick float64) float64 { return m.ValueAt(max((tick-from)/bar, 0), param) }
}

// Grooves are the grooves that the line's events are of, by their Part.
func (l *Line) Grooves() []*groove.Groove { return l.grooves }

// End is the length of the piece, ticks.
func (l *Line) End() int { return l.ticks }

// Period is the ticks after which the line's places repeat: the loop, or the piece.
func (l *Line) Period() int {
	if l.to > 0 {
		return l.to - l.from
	}
	return l.ticks
}

// Loop is the part that repeats, ticks; 0, 0 without one.
func (l *Line) Loop() (from, to int) { return l.from, l.to }

// Reach is how early and how late against its straight place any hit may fall, ms.
func (l *Line) Reach() (early, late float64) { return l.early, l.late }

// Within is where in the piece a tick of the line lies.
func (l *Line) Within(tick float64) float64 {
	if l.to == 0 {
		return tick
	}
	n := float64(l.to - l.from)
	return float64(l.from) + math.Mod(math.Mod(tick-float64(l.from), n)+n, n)
}

// Seconds is the time of a tick, fractions allowed.
func (l *Line) Seconds(tick float64) float64 {
	if l.to == 0 {
		return l.times.Seconds(tick)
	}
	n := float64(l.to - l.from)
	round := math.Floor((tick - float64(l.from)) / n)
	return round*l.round() + l.times.Seconds(tick-round*n)
}

// Straight is the time of a tick of the piece, s, whatever goes round; TicksOf its inverse.
func (l *Line) Straight(tick float64) float64 { return l.times.Seconds(tick) }

// TicksOf is the tick of the piece at a time, whatever goes round.
func (l *Line) TicksOf(seconds float64) float64 { return l.times.Ticks(seconds) }

// round is how long the loop lasts, seconds.
func (l *Line) round() float64 {
	return l.times.Seconds(float64(l.to)) - l.times.Seconds(float64(l.from))
}

// Ticks is the inverse of Seconds.
func (l *Line) Ticks(seconds float64) float64 {
	if l.to == 0 {
		return l.times.Ticks(seconds)
	}
	begin, length := l.times.Seconds(float64(l.from)), l.round()
	round := math.Floor((seconds - begin) / length)
	return round*float64(l.to-l.from) + l.times.Ticks(seconds-round*length)
}

// Events appends the events whose straight place lies in [from, to) to dst, in order of
// tick, and returns it.
func (l *Line) Events(from, to int, dst []groove.Event) []groove.Event {
	first := len(dst)
	if l.to == 0 {
		dst = l.between(max(from, 0), min(to, l.ticks), dst)
	} else {
		n := l.to - l.from
		round := int(math.Floor(float64(from-l.from) / float64(n)))
		for ; l.from+round*n < to; round++ {
			base, at := round*n, len(dst)
			dst = l.between(max(from-base, l.from), min(to-base, l.to), dst)
			for k := at; k < len(dst); k++ {
				dst[k].Tick += base
				dst[k].Time += float64(round) * l.round()
			}
		}
	}
	slices.SortStableFunc(dst[first:], func(a, b groove.Event) int { return a.Tick - b.Tick })
	return dst
}

// between appends the events between two ticks of the piece.
func (l *Line) between(from, to int, dst []groove.Event) []groove.Event {
	for i := l.at(from); i < len(l.sections) && l.sections[i].from < to; i++ {
		s := &l.sections[i]
		for j := range s.parts {
			p := &s.parts[j]
			a, b := max(from, p.from), min(to, p.to)
			if a >= b {
				continue
			}
			at := len(dst)
			dst = p.line.Events(a-p.at, b-p.at, dst)
			keep := at
			for k := at; k < len(dst); k++ {
				e := dst[k]
				e.Part, e.Tick = p.groove, e.Tick+p.at
				if s.plays(p, &l.grooves[p.groove].Lanes[e.Lane], e.Tick-s.from) {
					dst[keep] = e
					keep++
				}
			}
			dst = dst[:keep]
		}
	}
	return dst
}

// plays reports whether a lane of a part is heard at a tick of its section.
func (s *span) plays(p *part, l *groove.Lane, tick int) bool {
	if p.lanes == grooveLanes && l.Steps > 0 || p.lanes == ownLanes && l.Steps == 0 {
		return false
	}
	if p.dropout != nil {
		return true
	}
	for i := range s.of.Dropouts {
		d := &s.of.Dropouts[i]
		if tick >= d.At && tick < d.At+d.Length && !slices.Contains(d.Keeps, l.Voice) {
			return false
		}
	}
	if p.placed != nil && p.placed.Kind != Bars {
		return true
	}
	for _, r := range s.rests[l.Voice] {
		if tick >= r.From && tick < r.To {
			return false
		}
	}
	if p.placed != nil {
		return true
	}
	for i := range s.of.Placed {
		q := &s.of.Placed[i]
		if !q.Over && tick >= q.At && tick < q.At+q.Length && !slices.Contains(q.Keeps, l.Voice) {
			return false
		}
	}
	return true
}

// at is the place of the section that a tick of the piece lies in, or the next one.
func (l *Line) at(tick int) int {
	return sort.Search(len(l.sections), func(i int) bool { return l.sections[i].to > tick })
}

// Place is where a tick of the piece lies.
type Place struct {
	// Section is which one, from 0; Bar counts from the piece's beginning, from 0.
	Section, Bar int
	// BarFrom is the tick at which the bar begins, Meter its meter.
	BarFrom int
	Meter   music.Meter
	// InSection is how many bars of the section have gone by, fractions included.
	InSection float64
}

// Place finds where a tick of the line lies; the last bar goes on behind the end.
func (l *Line) Place(tick float64) Place {
	tick = max(l.Within(tick), 0)
	i := min(l.at(int(math.Floor(tick))), len(l.sections)-1)
	s := &l.sections[i]
	b := int(tick-float64(s.from)) / s.bar
	return Place{Section: i, Bar: s.first + b, BarFrom: s.from + b*s.bar, Meter: s.meter, InSection: (tick - float64(s.from)) / float64(s.bar)}
}

// Span is where a section lies on the line.
type Span struct {
	From, To int // ticks
	FirstBar int // from 0
	Meter    music.Meter
}

// Spans are where the sections lie, in order.
func (l *Line) Spans() []Span {
	out := make([]Span, len(l.sections))
	for i := range l.sections {
		s := &l.sections[i]
		out[i] = Span{s.from, s.to, s.first, s.meter}
	}
	return out
}

// Pattern is the groove of a section.
func (l *Line) Pattern(section int) *groove.Groove { return l.sections[section].pattern }

// Tempo is the piece's tempo map, the speed of the whole in it but not the tape's.
func (l *Line) Tempo() music.TempoMap { return l.times.Map() }

// Hush is a stretch in which what rings of some rows is not heard either. From equal to To
// stops what rings there.
type Hush struct {
	From, To int
	// Keeps are the voices that are heard; nil with All: nothing is.
	Keeps []string
}

// All reports whether nothing at all is heard.
func (h *Hush) All() bool { return len(h.Keeps) == 0 }

// Hushes are the stretches in which tails are cut, in order.
func (l *Line) Hushes() (out []Hush) {
	for i := range l.sections {
		s := &l.sections[i]
		for _, d := range s.of.Dropouts {
			if d.Cuts {
				keeps := d.Keeps
				if d.Hit != "" {
					keeps = append(slices.Clone(keeps), d.Hit)
				}
				out = append(out, Hush{s.from + d.At, s.from + d.At + d.Length, keeps})
			}
		}
		if s.of.Cuts {
			out = append(out, Hush{From: s.to, To: s.to})
		}
	}
	slices.SortStableFunc(out, func(a, b Hush) int { return a.From - b.From })
	return out
}
