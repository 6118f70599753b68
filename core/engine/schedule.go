package engine

import (
	"jubrak/core/dsp"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/synth"
	"math"
	"slices"
)

const (
	polyphony   = 96
	firedAtMost = 4096 // strokes remembered as played, so that an edit doubles none
)

// stroke names one pass of one hit across edits of the song.
type stroke struct {
	hit  uint64 // voice and hit
	tick int
}

type scheduled struct {
	at        int64
	stroke    stroke
	key       uint64
	voice     int
	velocity  int
	semitones float64
	ordinal   int     // how many strokes of the voice came before
	beatMS    float64 // how long a beat lasts there
	// What the hit asks for beside a stroke: how long it sounds in frames, 0 for no
	// end, and whether it is stopped there; the glide to the next; a fall.
	lasts          int
	stops          bool
	glide          float64
	fall, fallTime float64
	back           *backwards   `state:"shared"`
	skip           int          // how far into back it begins
	ready          *synth.Voice // where a drawn number makes it another sound; nil: the voice's
}

// requeue forgets what was scheduled and queues anew what may still fall, from
// a tick or from as far back as the latest hit may have its place. due returns of
// a stroke that should already have fallen whether it is to be played.
func (e *Engine) requeue(from int, due func(stroke) bool) {
	e.queue, e.head = e.queue[:0], 0
	_, late := e.line.Reach()
	e.generated = max(e.start, min(from, int(math.Floor(e.line.Ticks(float64(e.frame)/float64(e.rate)-late/1000-0.001)))))
	e.generate(due)
}

// generate queues the events whose straight place comes up to where the next
// block's earliest hits may have theirs.
func (e *Engine) generate(due func(stroke) bool) {
	until := int(math.Ceil(e.line.Ticks(float64(e.frame+MaxBlock)/float64(e.rate) + e.early)))
	if until <= e.generated {
		return
	}
	e.events = e.line.Events(e.generated, until, e.events[:0])
	e.generated = until
	if len(e.events) == 0 {
		return
	}
	e.queue = append(e.queue[:0], e.queue[e.head:]...)
	e.head = 0
	for i := range e.events {
		ev := &e.events[i]
		h := &e.grooves[ev.Part].Lanes[ev.Lane].Hits[ev.Hit]
		v := e.voiceOf[ev.Part][ev.Lane]
		if h.Sound != "" {
			v = placeOf(e.voices, h.Sound)
		}
		s := e.strokeOf(ev)
		at := e.frameOf(ev)
		back := e.backwards[hitOf{ev.Part, ev.Lane, ev.Hit}]
		if back != nil {
			at -= int64(back.frames())
		}
		if v < 0 || ev.Tick < e.known && e.wasFired(s) || due != nil && at < e.frame && !due(s) {
			continue
		}
		if back != nil && at+int64(back.frames()) <= e.frame {
			continue // over
		}
		next := scheduled{at: max(at, e.frame), stroke: s, key: ev.Key, voice: v, velocity: ev.Velocity, semitones: ev.Semitones, ordinal: ev.Ordinal, beatMS: e.beatMS(float64(ev.Tick))}
		next.glide, next.fall, next.fallTime, next.back = h.Glide, h.Fall, h.FallTime, back
		next.skip = int(next.at - at)
		if e.piece != nil {
			next.ready = e.piece.soundAt(v, ev.Tick)
		}
		if h.Length > 0 && (h.Cut || !h.Rolls()) {
			end := ev.Tick + h.Length - strokeTicks(h, ev)
			next.lasts = max(int((e.line.Seconds(float64(end))-e.line.Seconds(float64(ev.Tick)))*float64(e.rate)), 1)
			next.stops = h.Cut
		}
		e.queue = append(e.queue, next)
	}
	slices.SortStableFunc(e.queue, func(a, b scheduled) int {
		if a.at != b.at {
			return int(a.at - b.at)
		}
		return a.voice - b.voice
	})
}

// strokeTicks is how many ticks after its hit's place a stroke has its own.
func strokeTicks(h *groove.Hit, ev *groove.Event) int {
	if !h.Rolls() {
		return 0
	}
	var list [groove.MaxStrokes + 8]groove.Stroke
	return h.Opened(list[:0])[ev.Stroke].Ticks
}

// beatMS is how long a beat lasts from a tick on, ms.
func (e *Engine) beatMS(tick float64) float64 {
	if e.line == nil {
		return 500
	}
	return (e.line.Seconds(tick+music.PPQ) - e.line.Seconds(tick)) * 1000
}

func (e *Engine) wasFired(s stroke) bool {
	for i := range min(e.firedCount, len(e.fired)) {
		if e.fired[i] == s {
			return true
		}
	}
	return false
}

func (e *Engine) strokeOf(ev *groove.Event) stroke {
	l := &e.grooves[ev.Part].Lanes[ev.Lane]
	s := stroke{dsp.Key(dsp.KeyString(l.Voice), dsp.KeyString(l.Hits[ev.Hit].ID)), ev.Tick}
	if l.Hits[ev.Hit].Flam.Strokes > 0 {
		s.hit = dsp.Key(s.hit, uint64(ev.Stroke)) // several in one place
	}
	return s
}

// frameOf is the frame of an event. Passes of a loop are whole frames apart.
func (e *Engine) frameOf(ev *groove.Event) int64 {
	if e.loopFrames == 0 {
		return int64(math.Round(ev.Time * float64(e.rate)))
	}
	loop := e.line.Period()
	pass := math.Floor(float64(ev.Tick) / float64(loop))
	within := e.line.Seconds(float64(ev.Tick)-pass*float64(loop)) + ev.Offset/1000
	return int64(pass)*e.loopFrames + int64(math.Round(within*float64(e.rate)))
}
