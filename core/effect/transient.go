package effect

import (
	"jubrak/core/param"
	"math"
)

var _ = register(Kind{
	ID: "transient", Label: "Transient shaper", Group: Dynamics, Order: 3, Hint: "Attack and sustain, whatever the level",
	Picture: Levels, Reduces: true, Alike: true, MidSide: true,
	Params: []param.Param{
		param.Decibels("attack_db", "Attack", -24, 24, 6),
		param.Decibels("sustain_db", "Sustain", -24, 24, 0),
	},
	Words: func(s Said) [2]string {
		return [2]string{"attack " + s.Signed("attack_db") + " dB", "sustain " + s.Signed("sustain_db") + " dB"}
	},
	Lift: func(v func(string) float64) float64 { return max(v("attack_db"), v("sustain_db")) },
	make: func(rate float64) Tuned { return newTransient(rate) },
})

// Transient makes attacks and what follows them louder or softer, whatever their
// level: two pairs of level followers, one fast and one slow, detect rising from
// ringing (common practice).
type Transient struct {
	attack, sustain         ramp
	fast, slow, short, long follower
	gain, to                float64
	phase                   int
}

func newTransient(rate float64) *Transient {
	return &Transient{
		fast: follower{rise: pole(0.5, rate), fall: pole(40, rate)}, slow: follower{rise: pole(25, rate), fall: pole(40, rate)},
		short: follower{rise: pole(0.5, rate), fall: pole(30, rate)}, long: follower{rise: pole(0.5, rate), fall: pole(400, rate)},
	}
}

// Tune takes the parameters of its kind.
func (t *Transient) Tune(v Values, glide int) { t.set(v.Get("attack_db"), v.Get("sustain_db"), glide) }

// set takes attack and sustain in dB.
func (t *Transient) set(attack, sustain float64, glide int) {
	t.attack.to(attack, glide)
	t.sustain.to(sustain, glide)
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
