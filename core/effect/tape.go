package effect

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "tape", Label: "Tape", Group: Distortion, Order: 2, Hint: "Saturation, head bump, wow and flutter", Rows: true,
	Picture: Transfer, Steady: []string{"wow_weighted_percent", "flutter_weighted_percent", "bump_db"},
	Params: []param.Param{
		param.Percent("amount_percent", "Drive", 0, 100, 22),
		param.Decibels("bump_db", "Head bump", 0, 9, 2),
		param.Hertz("bump_hz", "Head bump frequency", 30, 200, 70),
		param.Hertz("top_hz", "High cut", 2000, 20000, 14000),
		weighted("wow_weighted_percent", "Wow, weighted", wowAtFull, 0.02),
		weighted("flutter_weighted_percent", "Flutter, weighted", flutterAtFull, 0.07),
	},
	Words:   func(s Said) [2]string { return [2]string{"tape", s.Signed("bump_db") + " dB at " + s.Hertz("bump_hz")} },
	Upgrade: upgradeRated,
	make:    func(rate float64) Tuned { return newTape(rate) },
})

// Tape is what a tape machine makes of a sound: even saturation, a lift where the head is
// about as long as the wave, less top, and a speed that is never quite the same.
type Tape struct {
	rate  float64
	drive *Drive
	bump  Filter
	top   Filter
	last  [3]float64
	way   wobble
}

func newTape(rate float64) *Tape {
	return &Tape{rate: rate, drive: newDrive(rate), way: newWobble(rate)}
}

// Tune takes the parameters of its kind.
func (t *Tape) Tune(v Values, glide int) {
	t.drive.set(int(dsp.Soft), v.Get("amount_percent"), 0, glide)
	if last := [3]float64{v.Get("bump_db"), v.Get("bump_hz"), v.Get("top_hz")}; last != t.last {
		t.last = last
		t.bump.to(dsp.Bell(last[1], 0.9, last[0], t.rate), glide)
		t.top.to(dsp.LowPass(last[2], math.Sqrt2/2, t.rate), glide)
		t.bump.tail = int(10 / last[1] * t.rate)
	}
	t.way.tune(v, glide)
}

func (t *Tape) at(c Clock) { t.way.at(c) }

// Process colours.
func (t *Tape) Process(b Block, _ []float64) {
	t.bump.Process(b, nil)
	t.drive.Process(b, nil)
	if t.last[2] < 20000 {
		t.top.Process(b, nil)
	}
	t.way.run(b)
}

// Latency is the way to the head at rest and that of bending.
func (t *Tape) Latency() int { return t.way.latency() + t.drive.Latency() }

// Tail is what the bump rings and what is on its way.
func (t *Tape) Tail() int { return t.bump.tail + 2*t.way.latency() + t.drive.Tail() }

// Reset forgets the past.
func (t *Tape) Reset() {
	t.drive.Reset()
	t.bump.Reset()
	t.top.Reset()
	t.way.reset()
}
