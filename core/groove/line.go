package groove

import (
	"math"
	"slices"
	"sort"

	"jubrak/core/dsp"
	"jubrak/core/music"
)

// Event is a hit made concrete for one pass of its lane.
type Event struct {
	Lane, Hit int
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
	// which everything does, or 0; ticks and the same in seconds.
	cycle, loop               int
	cycleSeconds, loopSeconds float64
	lanes                     []laneOf
	early, late               float64 // see Reach
}

// laneOf is what all events of a lane share.
type laneOf struct {
	voice VoiceFeel
	key   uint64
	ticks int
}

// NewLine lays out a groove; loop in ticks, or 0 for a line without end.
func NewLine(g *Groove, tempo music.TempoMap, loop int) *Line {
	l := &Line{groove: g, tempo: tempo, cycle: g.CycleTicks(), loop: loop}
	l.cycleSeconds = tempo.Seconds(float64(l.cycle))
	l.loopSeconds = l.inLoop(float64(loop))
	for i := range g.Lanes {
		id := g.Lanes[i].Voice
		l.lanes = append(l.lanes, laneOf{g.Feel.Voices[id], dsp.Key(uint64(g.Seed), dsp.KeyString(id)), g.LaneTicks(i)})
	}
	l.early, l.late = l.reach()
	return l
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
	if l.loop == 0 {
		return l.inLoop(tick)
	}
	pass := math.Floor(tick / float64(l.loop))
	return pass*l.loopSeconds + l.inLoop(tick-pass*float64(l.loop))
}

func (l *Line) inLoop(tick float64) float64 {
	pass := math.Floor(tick / float64(l.cycle))
	return pass*l.cycleSeconds + l.tempo.Seconds(tick-pass*float64(l.cycle))
}

// Ticks is the inverse of Seconds.
func (l *Line) Ticks(seconds float64) float64 {
	base := 0.0
	if l.loop > 0 {
		pass := math.Floor(seconds / l.loopSeconds)
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
		for base := floorDiv(from, l.loop) * l.loop; base < to; base += l.loop {
			dst = l.pass(max(from-base, 0), min(to-base, l.loop), base, dst)
		}
	}
	slices.SortFunc(dst[first:], func(a, b Event) int {
		if a.Tick != b.Tick {
			return a.Tick - b.Tick
		}
		if a.Lane != b.Lane {
			return a.Lane - b.Lane
		}
		return a.Hit - b.Hit
	})
	return dst
}

// pass appends the events between two ticks of the line, or of its loop, whose
// pass begins at base.
func (l *Line) pass(from, to, base int, dst []Event) []Event {
	for i := range l.groove.Lanes {
		hits, ticks := l.groove.Lanes[i].Hits, l.lanes[i].ticks
		if len(hits) == 0 {
			continue
		}
		for pass := from / ticks; pass*ticks < to; pass++ {
			start := pass * ticks
			j := sort.Search(len(hits), func(j int) bool { return hits[j].Tick >= from-start })
			for ; j < len(hits) && hits[j].Tick < to-start; j++ {
				dst = append(dst, l.event(i, j, pass, base))
			}
		}
	}
	return dst
}

func (l *Line) event(lane, hit, pass, base int) Event {
	g, in := l.groove, &l.lanes[lane]
	h := &g.Lanes[lane].Hits[hit]
	tick := pass*in.ticks + h.Tick
	step := tick / g.StepTicks()
	e := Event{Lane: lane, Hit: hit, Tick: base + tick, Semitones: h.Semitones}
	// The 0 was a count of cycles once; it keeps the draws of older takes.
	e.Key = dsp.Key(in.key, dsp.KeyString(h.ID), 0, uint64(pass))
	e.Offset = l.systematic(g.Lanes[lane].Voice, &in.voice, tick, step)*g.Feel.Strength/100 + h.Nudge
	e.Offset += in.voice.Scatter * g.random(e.Key, in.key, step)
	e.Velocity = g.velocity(&in.voice, h, step, e.Key)
	e.Time = l.Seconds(float64(e.Tick)) + e.Offset/1000
	return e
}

func (l *Line) systematic(id string, v *VoiceFeel, tick, step int) float64 {
	g := l.groove
	pair := float64(PairTicks(g.Feel.Pair))
	first := math.Floor(float64(tick)/pair) * pair
	length := l.Seconds(first+pair) - l.Seconds(first)
	swing := (g.Feel.Swing/100 - 0.5) * length * 1000 * SwingShape(float64(tick), g.Feel.Pair)
	bars := float64(tick) / float64(g.Meter.BarTicks())
	return swing + v.Lean + at(v.Contour, step, 0) + g.Feel.Drift.at(id, bars)
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

func (g *Groove) velocity(v *VoiceFeel, h *Hit, step int, key uint64) int {
	accent := 1 + (at(v.Accent, step, 1)-1)*g.Feel.Strength/100
	x := float64(h.Velocity)*accent + v.VelocityScatter*dsp.Gauss(dsp.Key(key, 7))
	return int(math.Min(math.Max(math.Round(x), 1), 127))
}

// Reach is how early and how late against its straight place any hit of the
// line may fall, ms, both positive or 0.
func (l *Line) Reach() (early, late float64) { return l.early, l.late }

func (l *Line) reach() (early, late float64) {
	g := l.groove
	slowest := math.Inf(1)
	for _, c := range l.tempo {
		slowest = min(slowest, c.BPM)
	}
	swing := (g.Feel.Swing/100 - 0.5) * float64(PairTicks(g.Feel.Pair)) / music.PPQ * 60000 / slowest
	driftLow, driftHigh := bounds(g.Feel.Drift.Curve)
	for i := range g.Lanes {
		v := &l.lanes[i].voice
		low, high := bounds(v.Contour)
		low, high = low+v.Lean+min(swing, 0), high+v.Lean+max(swing, 0)
		if slices.Contains(g.Feel.Drift.Voices, g.Lanes[i].Voice) {
			low, high = low+driftLow, high+driftHigh
		}
		low, high = low*g.Feel.Strength/100, high*g.Feel.Strength/100
		nudgeLow, nudgeHigh := 0.0, 0.0
		for j := range g.Lanes[i].Hits {
			n := g.Lanes[i].Hits[j].Nudge
			nudgeLow, nudgeHigh = min(nudgeLow, n), max(nudgeHigh, n)
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

// Falls tells where each hit of a lane falls in the lane's first pass. That
// depends on no other lane.
func (l *Line) Falls(lane int) []Fall {
	out := make([]Fall, 0, len(l.groove.Lanes[lane].Hits))
	for j := range l.groove.Lanes[lane].Hits {
		e := l.event(lane, j, 0, 0)
		out = append(out, Fall{lane, j, e.Offset, e.Velocity})
	}
	return out
}
