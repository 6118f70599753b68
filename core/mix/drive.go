package mix

import "jubrak/core/dsp"

// Drive is the soft clipper of dsp.Drive on both channels.
type Drive struct {
	// Gain is the gain before the curve, linear (dsp.DriveGain); it may change
	// between blocks, up to that of NewDrive.
	Gain float64
	most float64
	side [2]dsp.Drive
}

// NewDrive is a drive at rest, for gains up to most, at that gain.
func NewDrive(most float64) Drive {
	return Drive{most, most, [2]dsp.Drive{dsp.NewDrive(most), dsp.NewDrive(most)}}
}

// Process shapes.
func (d *Drive) Process(b Block, _ []float64) {
	d.side[0].Run(b.Left, d.Gain)
	if b.Right != nil {
		d.side[1].Run(b.Right, d.Gain)
	}
}

// Latency is 0: the half-band filters delay low frequencies by about a sample,
// which is less than what can be made up for.
func (d *Drive) Latency() int { return 0 }

// Tail is what the half-band filters ring.
func (d *Drive) Tail() int { return driveTail }

// driveTail is when they are 120 dB down, as the test measures, frames.
const driveTail = 800

// Reset forgets the past.
func (d *Drive) Reset() { d.side = [2]dsp.Drive{dsp.NewDrive(d.most), dsp.NewDrive(d.most)} }
