package effect

import (
	"fmt"
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "drive", Label: "Drive", Group: Distortion, Order: 1, Hint: "Soft, hard, even, folded or diode-like", Short: "{curve} drive",
	Picture: Transfer, Alike: true,
	Params: []param.Param{
		param.Choice("curve", "", "Curve", "soft", "hard", "even", "fold", "diode"),
		param.Percent("amount_percent", "Amount", 0, 100, 30),
		param.Decibels("level_db", "Level", -24, 12, 0),
	},
	Words: func(s Said) [2]string {
		return [2]string{"drive, " + s.Name("curve"), fmt.Sprintf("%s %%, %s", s.Text("amount_percent"), s.louder())}
	},
	Lift: func(v func(string) float64) float64 {
		gain := DriveGain(v("amount_percent"))
		return 20*math.Log10(gain*driveLevel(dsp.Curve(v("curve")), gain)) + v("level_db")
	},
	make: func(rate float64) Tuned { return newDrive(rate) },
})

// Drive bends waves by one of the curves of dsp, made level so that a full-scale
// tone stays near full scale.
type Drive struct {
	rate  float64
	curve int
	gain  ramp // before the curve
	level ramp // after it
	side  [2]dsp.Shaper
}

// mostDrive is the gain of 100 %, linear.
const mostDrive = 20

// DriveGain is the gain before the curve of an amount in percent: 100 % is 26 dB.
// From 1 % down it is nearly none.
func DriveGain(percent float64) float64 {
	a := percent / 100
	return max(mostDrive*a*a, 1e-3)
}

func newDrive(rate float64) *Drive { return &Drive{rate: rate, curve: -1} }

// Tune takes the parameters of its kind.
func (d *Drive) Tune(v Values, glide int) {
	d.set(int(v.Get("curve")), v.Get("amount_percent"), v.Get("level_db"), glide)
}

// set takes a curve, an amount in percent and a level in dB.
func (d *Drive) set(curve int, amount, level float64, glide int) {
	if c := curve; c != d.curve {
		d.curve = c
		for i := range d.side {
			d.side[i] = dsp.NewShaper(dsp.Curve(c), 0, d.rate)
		}
	}
	gain := DriveGain(amount)
	d.side[0].Expect(gain)
	d.side[1].Expect(gain)
	d.gain.to(gain, glide)
	d.level.to(driveLevel(dsp.Curve(d.curve), gain)*gainOf(level), glide)
}

// driveLevel makes up for what a curve takes: the curve's own top is full scale.
func driveLevel(c dsp.Curve, gain float64) float64 {
	switch c {
	case dsp.Fold: // it turns back at a quarter of a turn
		if gain > math.Pi/2 {
			return 1
		}
		return 1 / math.Sin(gain)
	case dsp.Hard:
		return 1 / min(gain, 1)
	}
	return 1 / max(c.At(gain), -c.At(-gain))
}

// Process bends.
func (d *Drive) Process(b Block, _ []float64) {
	d.gain.both(b)
	d.side[0].Run(b.Left)
	if b.Right != nil {
		d.side[1].Run(b.Right)
	}
	d.level.both(b)
}

// Latency is that of bending.
func (d *Drive) Latency() int { return dsp.ShaperLatency }

// Tail is what the filters ring, and how long the mean of an uneven curve takes.
func (d *Drive) Tail() int {
	if c := dsp.Curve(d.curve); c == dsp.Even || c == dsp.Diode {
		return int(0.3 * d.rate)
	}
	return driveTail
}

// driveTail is what the filters beside a curve ring beyond their latency, frames: as long as
// they begin before it.
var driveTail = dsp.ShaperLatency

// Reset forgets the past.
func (d *Drive) Reset() {
	d.gain.end()
	d.level.end()
	d.side[0].Reset(d.gain.now)
	d.side[1].Reset(d.gain.now)
}
