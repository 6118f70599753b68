package groove

import (
	"math"
	"slices"
	"sort"

	"jubrak/core/dsp"
	"jubrak/core/music"
)

// Event is a stroke of a hit made concrete for one pass of its lane.
type Event struct {
	// Part is which groove of a line of several it belongs to; 0 where there is one.
	Part      int
	Lane, Hit int
	// Stroke counts the strokes of a flam or a roll, Strokes is how many it has.
	Stroke, Strokes int
	// Ordinal is how many strokes of the lane come before it, from the first pass on.
	Ordinal int
	// Tick is the straight place on the line.
	Tick int
	// Offset is how late the hit falls against Tick, ms.
	Offset float64
	// Time is where it falls, seconds from the line's start, Offset included.
	Time      float64
	Velocity  int
	Semitones float64
	// Key names the random numbers of this one stroke.
	Key uint64
}

// Line is a groove laid out in time. Its ticks count on from 0 without end:
// each lane repeats with its own length, the tempo map with the full cycle,
// and no pass has the scatter of another. With a loop, the first so many ticks
// repeat exactly instead, scatter included, also before 0: what is rendered of
// one pass fits itself. The groove must be valid and must not change.
type Line struct {
	groove *Groove
	tempo  music.TempoMap
	// cycle is the length after which the tempo map repeats, loop that after
	// which everything does, or 0; ticks and the same in seconds. A loop begins at
	// from. Rounds of one that is fresh have scatter and chance of their own.
	cycle, loop, from         int
	cycleSeconds, loopSeconds float64
	fromSeconds               float64
	fresh                     bool
	lanes                     []laneOf
	on                        Placing // of a line that lies on another one's time
	early, late               float64 // see Reach
}

// laneOf is what all events of a lane share.
type laneOf struct {
	voice VoiceFeel
	key   uint64
	ticks int
	phase int     // ticks of the lane that have gone by where the line begins
	swing float64 // percent
	own   bool    // the swing is the voice's own
	roll  int     // how many ticks after a hit's place its last stroke may come
	// before is how many strokes come before each hit, and in all; nil where every
	// hit is one stroke.
	before []int
}

// NewLine lays out a groove; loop in ticks, or 0 for a line without end.
func NewLine(g *Groove, tempo music.TempoMap, loop int) *Line {
	return newLine(g, tempo, 0, loop, false)
}

// NewRounds lays out a part of a groove, from a tick up to another one, that goes round
// and round without end: what is random in it is drawn anew each time.
func NewRounds(g *Groove, tempo music.TempoMap, from, to int) *Line {
	return newLine(g, tempo, from, to-from, true)
}

// Clock turns ticks into seconds and back.
type Clock interface {
	Seconds(tick float64) float64
	Ticks(seconds float64) float64
}

// Placing says how a groove lies on the time of a longer piece.
type Placing struct {
	Clock Clock
	// At is the tick of the piece at which the groove begins.
	At int
	// Salt, where it is not 0, draws what is random anew.
	Salt uint64
	// GoesOn lets lanes with a length of their own go on counting from the piece's
	// beginning; else they start anew.
	GoesOn bool
	// Slowest is the least tempo of the piece, BPM.
	Slowest float64
	// Swing and Strength are the feel's at a tick of the piece, percent; nil is the
	// groove's own.
	Swing, Strength func(tick float64) float64
}

// NewPlaced lays out a groove on the time of a piece. Ticks of the line count from the
// groove's beginning, times are the piece's. Each of its lanes repeats without end. It
// has no loop.
func NewPlaced(g *Groove, p Placing) *Line {
	l := &Line{groove: g, cycle: g.CycleTicks(), on: p}
	for i := range g.Lanes {
		id := g.Lanes[i].Voice
		key := dsp.Key(uint64(g.Seed), dsp.KeyString(id))
		if p.Salt != 0 {
			key = dsp.Key(key, p.Salt)
		}
		lane := newLaneOf(g, i, g.Feel.Voices[id], key)
		if p.GoesOn && g.Lanes[i].Steps > 0 {
			lane.phase = p.At % lane.ticks
		}
		l.lanes = append(l.lanes, lane)
	}
	l.early, l.late = l.reach()
	return l
}

func newLine(g *Groove, tempo music.TempoMap, from, loop int, fresh bool) *Line {
	l := &Line{groove: g, tempo: tempo, cycle: g.CycleTicks(), loop: loop, from: from, fresh: fresh}
	l.cycleSeconds = tempo.Seconds(float64(l.cycle))
	l.fromSeconds = l.inLoop(float64(from))
	l.loopSeconds = l.inLoop(float64(from+loop)) - l.fromSeconds
	for i := range g.Lanes {
		id := g.Lanes[i].Voice
		l.lanes = append(l.lanes, newLaneOf(g, i, g.Feel.Voices[id], dsp.Key(uint64(g.Seed), dsp.KeyString(id))))
	}
	l.early, l.late = l.reach()
	return l
}

func newLaneOf(g *Groove, lane int, voice VoiceFeel, key uint64) laneOf {
	l := laneOf{voice: voice, key: key, ticks: g.LaneTicks(lane), swing: g.Feel.Swing}
	if voice.Swing > 0 {
		l.swing, l.own = voice.Swing, true
	}
	hits := g.Lanes[lane].Hits
	if !slices.ContainsFunc(hits, func(h Hit) bool { return !h.plain() }) {
		return l
	}
	l.before = make([]int, len(hits)+1)
	var strokes []Stroke
	for j := range hits {
		strokes = hits[j].Opened(strokes[:0])
		l.before[j+1] = l.before[j] + len(strokes)
		l.roll = max(l.roll, hits[j].reach())
	}
	return l
}

// ordinal is how many strokes of the lane come before a hit's first.
func (l *laneOf) ordinal(hits, hit, pass int) int {
	if l.before == nil {
		return max(pass, 0)*hits + hit
	}
	return max(pass, 0)*l.before[hits] + l.before[hit]
}

// Period is the ticks after which the line's places repeat: the loop, or the
// groove's full cycle.
func (l *Line) Period() int {
	if l.loop > 0 {
		return l.loop
	}
	return l.cycle
}

// Seconds is the time of a tick, fractions allowed.
func (l *Line) Seconds(tick float64) float64 {
	if l.on.Clock != nil {
		return l.on.Clock.Seconds(tick + float64(l.on.At))
	}
	if l.loop == 0 {
		return l.inLoop(tick)
	}
	pass := math.Floor((tick - float64(l.from)) / float64(l.loop))
	return pass*l.loopSeconds + l.inLoop(tick-pass*float64(l.loop))
}

// Within is where in the groove a tick of the line lies: in its loop, or its cycle.
func (l *Line) Within(tick float64) float64 {
	from := float64(l.from)
	return from + math.Mod(math.Mod(tick-from, float64(l.Period()))+float64(l.Period()), float64(l.Period()))
}

// Loop is the part that repeats, ticks; 0, 0 for a line without end.
func (l *Line) Loop() (from, to int) { return l.from, l.from + l.loop }

func (l *Line) inLoop(tick float64) float64 {
	pass := math.Floor(tick / float64(l.cycle))
	return pass*l.cycleSeconds + l.tempo.Seconds(tick-pass*float64(l.cycle))
}

// Ticks is the inverse of Seconds.
func (l *Line) Ticks(seconds float64) float64 {
	if l.on.Clock != nil {
		return l.on.Clock.Ticks(seconds) - float64(l.on.At)
	}
	base := 0.0
	if l.loop > 0 {
		pass := math.Floor((seconds - l.fromSeconds) / l.loopSeconds)
		base, seconds = pass*float64(l.loop), seconds-pass*l.loopSeconds
	}
	pass := math.Floor(seconds / l.cycleSeconds)
	return base + pass*float64(l.cycle) + l.tempo.Ticks(seconds-pass*l.cycleSeconds)
}

// TempoChanges are the changes of tempo in the first so many ticks.
func (l *Line) TempoChanges(ticks int) music.TempoMap {
	if len(l.tempo) == 1 {
		return l.tempo
	}
	out := music.TempoMap{}
	for base := 0; base < ticks; base += l.cycle {
		for _, c := range l.tempo {
			if at := base + c.Tick; c.Tick < l.cycle && at < ticks {
				out = append(out, music.TempoChange{Tick: at, BPM: c.BPM})
			}
		}
	}
	return out
}

// Events appends the events whose straight place lies in [from, to) to dst, in
// order of tick, then lane, and returns it; it allocates only when dst is too
// small. Offsets follow
//
//	offset = strength · (swing + lean + contour + drift) + scatter + nudge
//
// with swing as a delay in ms at the tempo of the tick.
func (l *Line) Events(from, to int, dst []Event) []Event {
	first := len(dst)
	if l.loop == 0 {
		dst = l.pass(max(from, 0), to, 0, dst)
	} else {
		for base := floorDiv(from-l.from, l.loop) * l.loop; base+l.from < to; base += l.loop {
			dst = l.pass(max(from-base, l.from), min(to-base, l.from+l.loop), base, dst)
		}
	}
	slices.SortFunc(dst[first:], func(a, b Event) int {
		if a.Tick != b.Tick {
			return a.Tick - b.Tick
		}
		if a.Lane != b.Lane {
			return a.Lane - b.Lane
		}
		if a.Hit != b.Hit {
			return a.Hit - b.Hit
		}
		return a.Stroke - b.Stroke
	})
	return dst
}

// pass appends the events between two ticks of the line, or of its loop, whose
// pass begins at base. Strokes of a roll end with their lane.
func (l *Line) pass(from, to, base int, dst []Event) []Event {
	for i := range l.groove.Lanes {
		in, hits := &l.lanes[i], l.groove.Lanes[i].Hits
		if len(hits) == 0 {
			continue
		}
		for pass := (from + in.phase) / in.ticks; pass*in.ticks-in.phase < to; pass++ {
			start := pass*in.ticks - in.phase
			j := sort.Search(len(hits), func(j int) bool { return hits[j].Tick >= from-start-in.roll })
			for ; j < len(hits) && hits[j].Tick < to-start; j++ {
				h := &hits[j]
				if !h.struck(dsp.Key(in.key, dsp.KeyString(h.ID)), pass+l.round(base)*l.passes(i)) {
					continue
				}
				if h.plain() {
					if h.Tick >= from-start {
						dst = append(dst, l.event(i, j, pass, base))
					}
					continue
				}
				dst = l.open(i, j, pass, base, from-start, min(to-start, in.ticks), dst)
			}
		}
	}
	return dst
}

// round is how often a fresh loop has been gone through before a base; else 0.
func (l *Line) round(base int) int {
	if !l.fresh || l.loop == 0 {
		return 0
	}
	return base / l.loop
}

// passes is how many passes of a lane a round of the loop may hold.
func (l *Line) passes(lane int) int {
	if !l.fresh {
		return 0
	}
	return (l.from+l.loop)/l.lanes[lane].ticks + 1
}

// open appends the strokes of a flam or a roll that lie between two ticks of their
// lane. All move with the hit; each swings as its own place does.
func (l *Line) open(lane, hit, pass, base, from, to int, dst []Event) []Event {
	g, in := l.groove, &l.lanes[lane]
	h := &g.Lanes[lane].Hits[hit]
	main := l.event(lane, hit, pass, base)
	var list [MaxStrokes + 8]Stroke
	strokes := h.Opened(list[:0])
	start := pass*in.ticks - in.phase
	first := l.swing(in, start+h.Tick)
	for k := range strokes {
		s := &strokes[k]
		at := h.Tick + s.Ticks
		if at < from || at >= to {
			continue
		}
		e := main
		e.Tick += s.Ticks
		e.Stroke, e.Strokes, e.Ordinal = k, len(strokes), main.Ordinal+k
		if s.Ticks > 0 {
			e.Offset += (l.swing(in, start+at) - first) * l.strength(start+at)
		}
		e.Offset -= s.Early
		e.Velocity = held(float64(main.Velocity) * s.Velocity)
		e.Semitones += s.Semitones
		if s.Ticks > 0 || s.Early > 0 {
			e.Key = dsp.Key(main.Key, 11, uint64(k))
		}
		e.Time = l.Seconds(float64(e.Tick)) + e.Offset/1000
		dst = append(dst, e)
	}
	return dst
}

func (l *Line) event(lane, hit, pass, base int) Event {
	g, in := l.groove, &l.lanes[lane]
	h := &g.Lanes[lane].Hits[hit]
	tick := pass*in.ticks - in.phase + h.Tick
	step := tick / g.StepTicks()
	e := Event{Lane: lane, Hit: hit, Strokes: 1, Tick: base + tick, Semitones: h.Semitones}
	e.Ordinal = in.ordinal(len(g.Lanes[lane].Hits), hit, pass)
	// The 0 was a count of cycles once; it keeps the draws of older takes.
	e.Key = dsp.Key(in.key, dsp.KeyString(h.ID), 0, uint64(pass+l.round(base)*l.passes(lane)))
	e.Offset = l.steady(lane, h, tick, step)
	if in.voice.Scatter > 0 && h.Still < 100 {
		e.Offset += l.scatter(lane, hit, pass, tick, step, e.Key, e.Offset)
	}
	e.Velocity = l.velocity(&in.voice, h, tick, step, e.Key, g.Feel.Ramp.at(g.Lanes[lane].Voice, float64(tick)/float64(g.Meter.BarTicks())))
	e.Time = l.Seconds(float64(e.Tick)) + e.Offset/1000
	return e
}

// steady is the offset of a hit without scatter.
func (l *Line) steady(lane int, h *Hit, tick, step int) float64 {
	g, in := l.groove, &l.lanes[lane]
	return l.systematic(g.Lanes[lane].Voice, in, tick, step)*l.strength(tick) + h.Nudge
}

// scatter is how far chance moves a hit, held so that it crosses no neighbour of its
// lane: each may come half of the way to the other.
func (l *Line) scatter(lane, hit, pass, tick, step int, key uint64, steady float64) float64 {
	g, in := l.groove, &l.lanes[lane]
	hits := g.Lanes[lane].Hits
	x := in.voice.Scatter * (1 - hits[hit].Still/100) * g.random(key, in.key, step)
	room := func(next, pass int) float64 {
		if next < 0 {
			next, pass = len(hits)-1, pass-1
		} else if next == len(hits) {
			next, pass = 0, pass+1
		}
		h := &hits[next]
		at := pass*in.ticks - in.phase + h.Tick
		if at == tick || pass < 0 {
			return math.Inf(1) // itself, or another sound in the same place
		}
		apart := (l.Seconds(float64(at))-l.Seconds(float64(tick)))*1000 + l.steady(lane, h, at, floorDiv(at, g.StepTicks())) - steady
		if at < tick {
			apart = -apart
		}
		return max(apart/2-0.1, 0)
	}
	if x > 0 {
		return min(x, room(hit+1, pass))
	}
	return max(x, -room(hit-1, pass))
}

func (l *Line) systematic(id string, in *laneOf, tick, step int) float64 {
	g := l.groove
	bars := float64(tick) / float64(g.Meter.BarTicks())
	return l.swing(in, tick) + in.voice.Lean + at(in.voice.Contour, step, 0) + g.Feel.Drift.at(id, bars)
}

// SwingAt is how late swing makes a place of a lane, ms, at the feel's strength.
func (l *Line) SwingAt(lane, tick int) float64 {
	return l.swing(&l.lanes[lane], tick) * l.strength(tick)
}

// strength is how much of the systematic parts of the feel is applied at a tick, 0..1.
func (l *Line) strength(tick int) float64 {
	if f := l.on.Strength; f != nil {
		return f(float64(tick+l.on.At)) / 100
	}
	return l.groove.Feel.Strength / 100
}

// swing is how late swing makes a place of a lane, ms.
func (l *Line) swing(in *laneOf, tick int) float64 {
	pair := float64(PairTicks(l.groove.Feel.Pair))
	first := math.Floor(float64(tick)/pair) * pair
	length := l.Seconds(first+pair) - l.Seconds(first)
	swing := in.swing
	if f := l.on.Swing; f != nil && !in.own {
		swing = f(float64(tick + l.on.At))
	}
	return (swing/100 - 0.5) * length * 1000 * SwingShape(float64(tick), l.groove.Feel.Pair)
}

// mostScatter bounds the unit-variance scatter of a hit, white and pink.
const mostScatter = 3.0

// random is the unit-variance scatter of an event.
func (g *Groove) random(event, voice uint64, step int) float64 {
	x := 0.0
	if g.Feel.ScatterKind == "pink" {
		x = dsp.Pink(voice, step)
	} else {
		x = dsp.Gauss(event)
	}
	return min(max(x, -mostScatter), mostScatter)
}

func (l *Line) velocity(v *VoiceFeel, h *Hit, tick, step int, key uint64, ramp float64) int {
	strength := l.strength(tick)
	accent := 1 + (at(v.Accent, step, 1)-1)*strength
	accent *= 1 + ramp/100*strength
	return held(float64(h.Velocity)*accent + v.VelocityScatter*dsp.Gauss(dsp.Key(key, 7)))
}

// held is a velocity in its range.
func held(x float64) int { return int(math.Min(math.Max(math.Round(x), 1), 127)) }

// Reach is how early and how late against its straight place any hit of the
// line may fall, ms, both positive or 0.
func (l *Line) Reach() (early, late float64) { return l.early, l.late }

func (l *Line) reach() (early, late float64) {
	g := l.groove
	slowest := math.Inf(1)
	for _, c := range l.tempo {
		slowest = min(slowest, c.BPM)
	}
	if l.on.Clock != nil {
		slowest = l.on.Slowest
	}
	strength := g.Feel.Strength
	if l.on.Strength != nil {
		strength = 100
	}
	driftLow, driftHigh := bounds(g.Feel.Drift.Curve)
	for i := range g.Lanes {
		v := &l.lanes[i].voice
		swing := (l.lanes[i].swing/100 - 0.5) * float64(PairTicks(g.Feel.Pair)) / music.PPQ * 60000 / slowest
		most := swing
		if l.on.Swing != nil && !l.lanes[i].own { // as far as swing goes either way
			most = float64(PairTicks(g.Feel.Pair)) / music.PPQ * 60000 / slowest / 4
			swing = -most
		}
		low, high := bounds(v.Contour)
		low, high = low+v.Lean+min(swing, 0), high+v.Lean+max(most, 0)
		if slices.Contains(g.Feel.Drift.Voices, g.Lanes[i].Voice) {
			low, high = low+driftLow, high+driftHigh
		}
		low, high = low*strength/100, high*strength/100
		nudgeLow, nudgeHigh := 0.0, 0.0
		for j := range g.Lanes[i].Hits {
			h := &g.Lanes[i].Hits[j]
			nudgeLow, nudgeHigh = min(nudgeLow, h.Nudge-float64(h.Flam.Strokes)*h.Flam.Spacing), max(nudgeHigh, h.Nudge)
		}
		scatter := mostScatter * v.Scatter
		early = max(early, -(low + nudgeLow - scatter))
		late = max(late, high+nudgeHigh+scatter)
	}
	return early, late
}

// bounds are the least and greatest of a table, 0 included.
func bounds(table []float64) (low, high float64) {
	for _, x := range table {
		low, high = min(low, x), max(high, x)
	}
	return low, high
}

// Fall is where a hit falls in its lane's first pass.
type Fall struct {
	Lane, Hit int
	Offset    float64 // ms
	Velocity  int
}

// Falls returns where each hit of a lane falls in the lane's first pass. That
// depends on no other lane.
func (l *Line) Falls(lane int) []Fall {
	out := make([]Fall, 0, len(l.groove.Lanes[lane].Hits))
	for j := range l.groove.Lanes[lane].Hits {
		e := l.event(lane, j, 0, 0)
		out = append(out, Fall{lane, j, e.Offset, e.Velocity})
	}
	return out
}
