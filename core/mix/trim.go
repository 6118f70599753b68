package mix

import (
	"math"

	"jubrak/core/param"
)

var trimKind = inRows(kind("trim", "Level and sides", func(float64) Tuned { return &Trim{} },
	db("gain_db", "Level", -40, 24, 0),
	param.Param{ID: "pan", Label: "Pan", Min: -1, Max: 1, Scale: param.Linear},
	param.Choice("flip", "", "Polarity", "as it is", "flipped", "left flipped", "right flipped"),
	param.Choice("sides", "", "Channels", "both", "mono", "left on both", "right on both", "swapped", "sides alone"),
))

// Trim changes level, side, polarity and channels.
type Trim struct {
	// What left and right of the sound are in what comes out.
	m [2][2]ramp
}

// Tune takes level, pan, polarity and channels.
func (t *Trim) Tune(v []float64, glide int) {
	gains := Panned(v[0], v[1])
	ways := [][2][2]float64{{{1, 0}, {0, 1}}, {{0.5, 0.5}, {0.5, 0.5}}, {{1, 0}, {1, 0}}, {{0, 1}, {0, 1}}, {{0, 1}, {1, 0}}, {{0.5, -0.5}, {-0.5, 0.5}}}[int(v[3])]
	signs := [][2]float64{{1, 1}, {-1, -1}, {-1, 1}, {1, -1}}[int(v[2])]
	for out := range 2 {
		for in := range 2 {
			t.m[out][in].to(gains[out]*signs[out]*ways[out][in], glide)
		}
	}
}

// Process changes.
func (t *Trim) Process(b Block, _ []float64) {
	for i := range b.Left {
		l, r := b.Left[i], b.Right[i]
		b.Left[i] = l*t.m[0][0].next() + r*t.m[0][1].next()
		b.Right[i] = l*t.m[1][0].next() + r*t.m[1][1].next()
	}
}

// Latency is 0.
func (t *Trim) Latency() int { return 0 }

// Tail is 0.
func (t *Trim) Tail() int { return 0 }

// Reset ends what glides.
func (t *Trim) Reset() {
	for out := range 2 {
		for in := range 2 {
			t.m[out][in].end()
		}
	}
}

var bedKind = inRows(kind("bed", "Noise bed", func(rate float64) Tuned { return newBed(rate) },
	param.Choice("noise", "", "Of", "hiss", "crackle", "hum", "room", "crowd-like"),
	db("rms_db", "Level, RMS", -80, 0, -59),
	percent("follow_percent", "Follows the sound", 0, 100, 0),
	ms("release_ms", "Lets go in", 10, 2000, 200),
))

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

// Tune takes the numbers of its kind.
func (d *Bed) Tune(v []float64, glide int) {
	d.kind = int(v[0])
	level := gainOf(v[1]) * bedGains[d.kind]
	if v[1] <= -80 {
		level = 0
	}
	d.level.to(level, glide)
	d.follows.to(v[2]/100, glide)
	d.env.fall = pole(v[3], d.rate)
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
