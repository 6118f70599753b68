package engine

import (
	"jubrak/core/effect"
	"jubrak/core/music"
	"math"
)

// BarWithin reports whether a bar begins within the next frames.
func (e *Engine) BarWithin(frames int) bool {
	if e.line == nil || !e.playing {
		return false
	}
	then := e.line.Ticks(float64(e.frame+int64(frames)) / float64(e.rate))
	return e.barOf(e.now()) != e.barOf(then)
}

// barOf is the bar that a tick of the line lies in, counted on through loops.
func (e *Engine) barOf(tick float64) int {
	if e.piece != nil {
		rounds := 0.0
		if from, to := e.line.Loop(); to > 0 {
			rounds = math.Floor((tick - float64(from)) / float64(to-from))
		}
		return int(rounds)*MaxBars + e.piece.line.Place(tick).Bar
	}
	return int(math.Floor(tick / float64(e.song.Groove.Meter.BarTicks())))
}

// meterAt is the meter at a tick of the line, and where its bar begins.
func (e *Engine) meterAt(tick float64) (music.Meter, float64) {
	if e.piece != nil {
		p := e.piece.line.Place(tick)
		return p.Meter, tick - (max(e.piece.line.Within(tick), 0) - float64(p.BarFrom))
	}
	bar := float64(e.song.Groove.Meter.BarTicks())
	return e.song.Groove.Meter, math.Floor(tick/bar) * bar
}

// CountingIn reports whether what plays has not come yet to where it leads.
func (e *Engine) CountingIn() bool { return e.playing && e.now() < float64(e.start) }

// Play starts at a tick of the line, fractions allowed. Strokes of places from
// there on that fall earlier are played at once.
func (e *Engine) Play(tick float64) { e.PlayInto(tick, tick) }

// PlayInto starts at a tick of the line and strikes only what has its place at start or
// later: a count-in before it is silent.
func (e *Engine) PlayInto(tick, start float64) {
	e.silence()
	e.frame = int64(math.Round(e.line.Seconds(tick) * float64(e.rate)))
	if e.piece != nil { // so that what is drawn is taken in the same places as from the start
		e.frame = int64(math.Floor(float64(e.frame)/Grid)) * Grid
	}
	e.start = int(math.Ceil(start))
	e.playing, e.begins = true, true
	e.firedCount = 0
	e.known = e.start
	e.requeue(e.start, func(stroke) bool { return true })
}

// Leap goes on at another tick; what sounds rings on.
func (e *Engine) Leap(tick float64) {
	e.frame = int64(math.Round(e.line.Seconds(tick)*float64(e.rate))) / Grid * Grid
	e.start = int(math.Ceil(tick))
	e.firedCount = 0
	e.known = e.start
	e.requeue(e.start, func(stroke) bool { return true })
}

// PlayBefore starts so many seconds before a tick, at a place of the grid that playing
// from the tick has, too. Nothing before the line's beginning is played.
func (e *Engine) PlayBefore(tick, seconds float64) {
	e.Play(tick)
	frames := min(int64(seconds*float64(e.rate))/Grid*Grid, e.frame/Grid*Grid)
	if frames <= 0 {
		return
	}
	e.frame -= frames
	e.start = int(math.Ceil(e.line.Ticks(float64(e.frame) / float64(e.rate))))
	e.known = e.start
	e.requeue(e.start, func(stroke) bool { return true })
}

// Stop halts the clock and fades what sounds.
func (e *Engine) Stop() {
	e.playing = false
	e.silence()
}

func (e *Engine) silence() {
	for i := range e.notes {
		e.notes[i].cut()
	}
}

// Playing reports whether the clock runs.
func (e *Engine) Playing() bool { return e.playing }

// Position is the tick within the groove's cycle, or within the part that repeats,
// fractions included; during a count-in less than where it leads, so perhaps negative.
func (e *Engine) Position() float64 {
	if e.line == nil {
		return 0
	}
	now := e.now()
	if now < float64(e.start) && e.playing {
		return now
	}
	return e.line.Within(now)
}

// now is the tick of the line that plays, fractions included.
func (e *Engine) now() float64 {
	if e.line == nil {
		return 0
	}
	return e.line.Ticks(float64(e.frame) / float64(e.rate))
}

// clock is where the song is in this block; while nothing plays time goes on at its
// tempo.
func (e *Engine) clock(frames int) effect.Clock {
	per := 2 / float64(e.rate)
	if e.line == nil {
		return effect.Clock{PerFrame: per}
	}
	now := e.now()
	from := e.frame
	if e.playing {
		from -= int64(frames) // the block has gone by
	}
	at := e.line.Ticks(float64(from) / float64(e.rate))
	per = (e.line.Ticks(float64(from+int64(frames))/float64(e.rate)) - at) / music.PPQ / float64(frames)
	if !e.playing {
		e.beats += per * float64(frames)
		return effect.Clock{Beat: now/music.PPQ + e.beats, PerFrame: per}
	}
	e.beats = 0
	c := effect.Clock{Beat: at / music.PPQ, PerFrame: per}
	c.Frame, c.Loop, c.LoopBeat = e.pass(at, from)
	return c
}

// pass is where in what comes round a frame lies whose tick is at, how many frames that
// lasts, and the beat that it begins at.
func (e *Engine) pass(at float64, frame int64) (within, loop int64, beat float64) {
	begin, _ := e.line.Loop()
	beat = float64(begin) / music.PPQ
	if n := e.loopFrames; n > 0 {
		return (frame%n + n) % n, n, beat
	}
	start := func(pass float64) int64 {
		return int64(math.Round(e.line.Seconds(float64(begin)+pass*float64(e.line.Period())) * float64(e.rate)))
	}
	pass := math.Floor((at - float64(begin)) / float64(e.line.Period()))
	from, to := start(pass), start(pass+1)
	if frame >= to { // a tick's time is rounded
		from, to = to, start(pass+2)
	} else if frame < from {
		from, to = start(pass-1), from
	}
	return frame - from, to - from, beat
}
