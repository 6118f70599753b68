package mix

import "math"

// turn is the phase of something that moves by itself, in whole turns. In a loop it closes:
// it begins each pass at 0 and makes a whole number of turns until the next, at the rate
// that is nearest to the one asked for. Where that rate is moved itself, what it amounts to
// over a pass is measured in the pass before.
type turn struct {
	phase float64
	frame int64   // in the pass
	loop  int64   // frames of a pass; 0: it does not close
	raw   float64 // turns asked for since the pass began
	whole bool    // the pass was heard from its beginning
	fit   float64 // measured: what makes the turns of a pass whole; 0: not yet
}

// at takes where the song is. It is called before each block.
func (t *turn) at(c Clock) {
	if c.Loop <= 0 {
		t.loop, t.fit = 0, 0
		return
	}
	if c.Loop != t.loop || c.Frame != t.frame {
		// Another loop, or a jump.
		*t = turn{frame: c.Frame, loop: c.Loop, phase: t.phase, fit: 0}
		if c.Loop > 0 && c.Frame == 0 {
			t.phase, t.whole = 0, true
		} else {
			t.raw = math.NaN() // where it is is known once the rate is
		}
	}
}

// next goes on by some frames at a rate in turns a frame.
func (t *turn) next(step float64, frames int) {
	if t.loop == 0 {
		t.phase += step * float64(frames)
		t.phase -= math.Floor(t.phase)
		return
	}
	by := t.fit
	if by == 0 {
		by = 1
		if step != 0 {
			by = wholeTurns(step*float64(t.loop)) / (step * float64(t.loop))
		}
	}
	if math.IsNaN(t.raw) {
		t.raw = step * float64(t.frame)
		t.phase = t.raw * by
	}
	on := int(min(int64(frames), t.loop-t.frame))
	t.raw += step * float64(on)
	t.phase += step * by * float64(on)
	t.phase -= math.Floor(t.phase)
	if t.frame += int64(on); t.frame < t.loop {
		return
	}
	if t.fit = 0; t.whole && t.raw != 0 {
		t.fit = wholeTurns(t.raw) / t.raw
	}
	t.frame, t.phase, t.raw, t.whole = 0, 0, 0, true
	if frames > on {
		t.next(step, frames-on)
	}
}

// wholeTurns is the number of turns that a pass makes: at least one.
func wholeTurns(turns float64) float64 {
	n := math.Round(turns)
	if n == 0 {
		return math.Copysign(1, turns)
	}
	return n
}

// reset begins anew.
func (t *turn) reset() { *t = turn{} }
