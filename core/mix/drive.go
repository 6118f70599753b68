package mix

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var driveKind = kind("drive", "Drive", func(rate float64) Tuned { return &Drive{rate: rate, curve: -1} },
	param.Choice("curve", "", "Curve", "soft", "hard", "even", "fold", "diode"),
	percent("amount_percent", "Amount", 0, 100, 30),
	db("level_db", "Level", -24, 12, 0),
)

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
// From 1 % down it is as good as none.
func DriveGain(percent float64) float64 {
	a := percent / 100
	return max(mostDrive*a*a, 1e-3)
}

// Tune takes curve, amount and level.
func (d *Drive) Tune(v []float64, glide int) {
	if c := int(v[0]); c != d.curve {
		d.curve = c
		for i := range d.side {
			d.side[i] = dsp.NewShaper(dsp.Curve(c), 0, d.rate)
		}
	}
	gain := DriveGain(v[1])
	d.side[0].Expect(gain)
	d.side[1].Expect(gain)
	d.gain.to(gain, glide)
	d.level.to(driveLevel(dsp.Curve(d.curve), gain)*gainOf(v[2]), glide)
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
