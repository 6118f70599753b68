package effect

import "math"

// gainOf is a level in dB as a factor.
func gainOf(db float64) float64 { return math.Exp(db * (math.Ln10 / 20)) }

// ramp is a value that glides, perhaps after it has waited.
type ramp struct {
	now, goal, step float64
	left            int
	wait            int
}

// to sets where it goes and how many frames that takes.
func (r *ramp) to(goal float64, frames int) {
	if goal == r.goal && (r.left > 0 || r.now == goal) {
		return
	}
	r.goal, r.left = goal, frames
	if frames == 0 {
		r.now = goal
		return
	}
	r.step = (goal - r.now) / float64(frames)
}

func (r *ramp) next() float64 {
	if r.wait > 0 {
		r.wait--
		return r.now
	}
	if r.left > 0 {
		if r.left--; r.left == 0 {
			r.now = r.goal
		} else {
			r.now += r.step
		}
	}
	return r.now
}

// skip goes on by so many frames.
func (r *ramp) skip(frames int) {
	for ; frames > 0 && r.left > 0; frames-- {
		r.next()
	}
}

// times multiplies a channel by the value on its way.
func (r *ramp) times(x []float64) {
	i := 0
	for ; i < len(x) && r.left > 0; i++ {
		x[i] *= r.next()
	}
	if now := r.now; now != 1 {
		for ; i < len(x); i++ {
			x[i] *= now
		}
	}
}

// both multiplies both channels.
func (r *ramp) both(b Block) {
	if b.Right != nil {
		was := *r
		was.times(b.Right)
	}
	r.times(b.Left)
}

// end ends a glide where it goes.
func (r *ramp) end() { r.now, r.left, r.wait = r.goal, 0, 0 }
