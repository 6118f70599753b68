package effect

import "math"

// turn is the phase of something that moves by itself, in whole turns. In a loop it closes:
// each pass begins at the same phase and makes a whole number of turns until the next, at
// the rate that is nearest to the one asked for. Where that rate is itself moved, what it
// amounts to over a pass is measured in the pass before.
type turn struct {
	phase  float64
	up     bool // rather faster than slower than asked for
	anchor float64
	frame  int64   // in the pass
	loop   int64   // frames of a pass; 0: it does not close
	raw    float64 // turns asked for since the pass began
	whole  bool    // the pass was heard from its beginning
	ran    bool    // it has turned since it began anew
	enters bool    // it begins in the middle of a pass, where that has come to
	fit    float64 // measured: by what the rate is multiplied; 0: not yet
	joins  bool    // it came in the middle of a pass, and makes whole turns of what is left
}

// at takes where the song is, before each block, and the phase that each pass begins at.
// It reports whether that is elsewhere than it was.
func (t *turn) at(c Clock, anchor float64) (jumps bool) {
	t.anchor = anchor - math.Floor(anchor)
	if c.Loop == t.loop && (c.Loop == 0 || c.Frame == t.frame) {
		return false
	}
	t.loop, t.frame, t.fit, t.raw = c.Loop, c.Frame, 0, 0
	t.whole = c.Frame == 0
	t.enters = !t.whole && !t.ran
	t.joins = !t.whole && t.ran
	if t.whole && c.Loop > 0 {
		t.phase = t.anchor
	}
	return true
}

// atBeat is at for what turns once in so many beats of the song.
func (t *turn) atBeat(c Clock, beats float64) {
	if t.at(c, c.LoopBeat/beats) || c.Loop == 0 {
		t.phase = c.Beat/beats - math.Floor(c.Beat/beats)
		t.enters = false
	}
}

// by is what a rate, in turns a frame, is multiplied by so that the pass closes.
func (t *turn) by(step float64) float64 {
	switch {
	case t.loop == 0 || step == 0:
		return 1
	case t.joins:
		left := step * float64(t.loop-t.frame)
		by := (math.Round(t.phase+left-t.anchor) + t.anchor - t.phase) / left
		return min(max(by, 0.5), 2) // near the end of a pass it need not hurry
	case t.fit != 0:
		return t.fit
	}
	turns := step * float64(t.loop)
	return t.closing(turns) / turns
}

// closing is the whole number of turns that is made in place of some: at least one.
func (t *turn) closing(turns float64) float64 {
	n := math.Round(turns)
	if t.up {
		n = math.Copysign(math.Ceil(math.Abs(turns)-1e-6), turns)
	}
	if n == 0 {
		n = math.Copysign(1, turns)
	}
	return n
}

// next goes on by some frames at a rate in turns a frame.
func (t *turn) next(step float64, frames int) {
	t.ran = true
	by := t.by(step)
	if t.enters {
		t.enters = false
		t.phase = t.anchor + step*by*float64(t.frame)
		t.phase -= math.Floor(t.phase)
	}
	on := frames
	if t.loop > 0 {
		on = int(min(int64(frames), t.loop-t.frame))
	}
	t.phase += step * by * float64(on)
	t.phase -= math.Floor(t.phase)
	if t.loop == 0 {
		return
	}
	t.raw += step * float64(on)
	if t.frame += int64(on); t.frame < t.loop {
		return
	}
	if t.fit = 0; t.whole && t.raw != 0 {
		t.fit = t.closing(t.raw) / t.raw
	}
	t.frame, t.phase, t.raw, t.whole, t.joins = 0, t.anchor, 0, true, false
	if frames > on {
		t.next(step, frames-on)
	}
}

// reset begins anew.
func (t *turn) reset() { *t = turn{up: t.up} }
