package mix

import "math"

var transientKind = kind("transient", "Transient shaper", func(rate float64) Tuned {
	t := &Transient{}
	t.fast, t.slow = follower{rise: pole(0.5, rate), fall: pole(40, rate)}, follower{rise: pole(25, rate), fall: pole(40, rate)}
	t.short, t.long = follower{rise: pole(0.5, rate), fall: pole(30, rate)}, follower{rise: pole(0.5, rate), fall: pole(400, rate)}
	return t
},
	db("attack_db", "Attack", -24, 24, 6),
	db("sustain_db", "Sustain", -24, 24, 0),
)

// Transient makes attacks and what follows them louder or softer, whatever their
// level: two pairs of level followers, one fast and one slow, tell rising from
// ringing (common practice).
type Transient struct {
	attack, sustain         ramp
	fast, slow, short, long follower
	gain, to                float64
	phase                   int
}

// Tune takes attack and sustain.
func (t *Transient) Tune(v []float64, glide int) {
	t.attack.to(v[0], glide)
	t.sustain.to(v[1], glide)
}

func (t *Transient) at(c Clock) { c.look(&t.phase, every) }

// Process shapes.
func (t *Transient) Process(b Block, _ []float64) {
	for i := range b.Left {
		x := loudest(b, i)
		fast, slow, short, long := t.fast.next(x), t.slow.next(x), t.short.next(x), t.long.next(x)
		attack, sustain := t.attack.next(), t.sustain.next()
		if t.phase == 0 {
			by := attack * part(fast, slow)
			if sustain != 0 {
				by += sustain * part(long, short)
			}
			gain := gainOf(by)
			t.to = (gain - t.gain) / every
		}
		t.gain += t.to
		if t.phase++; t.phase == every {
			t.phase = 0
		}
		times(b, i, t.gain)
	}
}

// part is how far one level lies above another, 1 from 12 dB on. Both count from
// where there is nothing to follow.
func part(over, under float64) float64 {
	const nothing = 1e-6
	if over <= under {
		return 0
	}
	return min(math.Log((over+nothing)/(under+nothing))*(20/math.Ln10/12), 1)
}

// Latency is 0.
func (t *Transient) Latency() int { return 0 }

// Tail is 0: it changes what is there.
func (t *Transient) Tail() int { return 0 }

// Reset forgets the past.
func (t *Transient) Reset() {
	t.attack.end()
	t.sustain.end()
	t.fast.level, t.slow.level, t.short.level, t.long.level = 0, 0, 0, 0
	t.gain, t.to, t.phase = 1, 0, 0
}
