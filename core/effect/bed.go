package effect

import (
	"math"

	"jubrak/core/param"
)

// The noises of a bed.
const (
	noiseHiss = iota
	noiseCrackle
)

var _ = register(Kind{
	ID: "bed", Label: "Noise", Group: Distortion, Order: 8, Hint: "Hiss, crackle, hum, room or crowd", Rows: true,
	Picture: Spectrum,
	Params: []param.Param{
		param.Choice("noise", "", "Type", "hiss", "crackle", "hum", "room", "crowd"),
		param.Decibels("rms_db", "Level, RMS", -80, 0, -59),
		param.Percent("follow_percent", "Follow input level", 0, 100, 0),
		param.Milliseconds("release_ms", "Release", 10, 2000, 200),
	},
	Words:   func(s Said) [2]string { return [2]string{s.Name("noise"), s.Text("rms_db") + " dB"} },
	Upgrade: upgradeBed,
	make:    func(rate float64) Tuned { return newBed(rate) },
})

// bedGains make each noise as loud as its level says, RMS; of crackle it is that of the
// clicks, which are few.
var bedGains = [5]float64{math.Sqrt(3), 1, 1 / 0.601, 1 / 0.2767, 1 / 0.4811}

// Bed adds a noise to a sound, all the time or only while it sounds.
type Bed struct {
	rate    float64
	kind    int
	level   ramp
	follows ramp
	env     follower
	seed    uint64
	frame   uint64
	slow    [2][3]float64 // of filtered noise
	burst   [2]float64    // what is left of a crackle
	turn    turn
	loop    uint64 // frames after which it begins anew; 0: never
}

func newBed(rate float64) *Bed {
	return &Bed{rate: rate, seed: 0x9e3779b97f4a7c15, env: follower{rise: pole(2, rate)}}
}

// Tune takes the parameters of its kind.
func (d *Bed) Tune(v Values, glide int) {
	d.set(int(v.Get("noise")), v.Get("rms_db"), glide)
	d.follows.to(v.Get("follow_percent")/100, glide)
	d.env.fall = pole(v.Get("release_ms"), d.rate)
}

// set takes a kind of noise and its RMS level in dB.
func (d *Bed) set(kind int, rms float64, glide int) {
	d.kind = kind
	level := gainOf(rms) * bedGains[kind]
	if rms <= -80 {
		level = 0
	}
	d.level.to(level, glide)
}

// at lets the noise be the same in each pass of a loop.
func (d *Bed) at(c Clock) {
	d.turn.at(c, 0)
	if d.loop = uint64(max(c.Loop, 0)); d.loop > 0 {
		d.frame = uint64(c.Frame)
	}
}

func (d *Bed) restless() bool { return d.level.goal > 0 && d.follows.goal < 1 }

// Process adds.
func (d *Bed) Process(b Block, _ []float64) {
	for i := range b.Left {
		env := min(d.env.next(loudest(b, i))*4, 1)
		follow := d.follows.next()
		gain := d.level.next() * (1 - follow + follow*env)
		x, y := d.noise()
		b.Left[i] += x * gain
		b.Right[i] += y * gain
		if d.frame++; d.frame == d.loop {
			d.frame = 0
		}
	}
}

// white is a number from -1 to 1 that depends on frame and channel alone.
func (d *Bed) white(channel uint64) float64 {
	x := (d.frame*2+channel)*0x9e3779b97f4a7c15 + d.seed
	x = (x ^ x>>30) * 0xbf58476d1ce4e5b9
	x = (x ^ x>>27) * 0x94d049bb133111eb
	return float64(int64(x^x>>31)) / (1 << 63)
}

func (d *Bed) noise() (x, y float64) {
	x, y = d.white(0), d.white(1)
	low := func(c, k int, in, hz float64) float64 {
		d.slow[c][k] += (in - d.slow[c][k]) * (1 - math.Exp(-2*math.Pi*hz/d.rate))
		return d.slow[c][k]
	}
	switch d.kind {
	case 1: // a click now and then, each side its own
		for c, w := range [2]float64{x, y} {
			if math.Abs(w) > 1-9/d.rate {
				d.burst[c] = w
			}
			d.burst[c] *= math.Exp(-1 / (0.0004 * d.rate))
		}
		return d.burst[0] + 0.02*x, d.burst[1] + 0.02*y
	case 2: // mains at 50 Hz and its partials
		d.turn.next(50/d.rate, 1)
		w := 2 * math.Pi * d.turn.phase
		h := 0.7*math.Sin(w) + 0.4*math.Sin(2*w) + 0.25*math.Sin(3*w) + 0.1*math.Sin(5*w)
		return h, h
	case 3: // air: most of it low
		return 6 * low(0, 0, low(0, 1, x, 500), 120), 6 * low(1, 0, low(1, 1, y, 500), 120)
	case 4: // a crowd: a band of voices that swells
		d.turn.next(0.23/d.rate, 1)
		swell := 0.75 + 0.25*math.Sin(2*math.Pi*d.turn.phase)*math.Sin(2*math.Pi*7*d.turn.phase)
		band := func(c int, in float64) float64 {
			wide := low(c, 0, in, 1400)
			return 4 * swell * (wide - low(c, 1, wide, 250))
		}
		return band(0, x), band(1, y)
	}
	return x, y
}

// Latency is 0.
func (d *Bed) Latency() int { return 0 }

// Tail is how long a bed that follows lets go.
func (d *Bed) Tail() int { return int(d.rate) }

// Reset begins anew.
func (d *Bed) Reset() {
	d.level.end()
	d.follows.end()
	d.env.level = 0
	d.slow, d.burst, d.frame = [2][3]float64{}, [2]float64{}, 0
	d.turn.reset()
}
