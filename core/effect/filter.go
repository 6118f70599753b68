package effect

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "filter", Label: "Filter", Group: Tone, Order: 2, Hint: "Low, high, band pass or notch, with resonance", Short: "{shape} {corner_hz}",
	Picture: Spectrum, Linear: true, Alike: true,
	Params: []param.Param{
		param.Choice("shape", "", "Shape", "low pass", "high pass", "band pass", "notch"),
		param.Choice("slope", "", "Slope", "12 dB/oct", "24 dB/oct"),
		param.Hertz("corner_hz", "Cutoff", 20, 20000, 1000),
		param.Percent("resonance_percent", "Resonance", 0, 100, 0),
		param.Percent("drive_percent", "Drive", 0, 100, 0),
	},
	Words:  func(s Said) [2]string { return [2]string{s.Name("shape") + " " + s.Hertz("corner_hz"), ""} },
	Shared: func(v func(string) float64) bool { return v("drive_percent") == 0 },
	make:   func(rate float64) Tuned { return newSweptFilter(rate) },
})

// SweptFilter is a filter whose corner may move fast: one or two state variable
// filters a channel, with a soft bend before them where it is driven.
type SweptFilter struct {
	rate         float64
	shape, slope int
	corner       ramp // as the filters take it
	damping      [2]ramp
	drive        ramp
	lowest       float64 // Hz, for the tail
	resonance    float64
	side         [2][2]dsp.StateVariable
	bent         [2]dsp.Shaper
	bends        bool // it is driven
	keeps        bool // it is as late as if it were driven
	warm         int  // frames until what bends is warm
	late         Delay
	plain        [2][MaxBlock]float64
}

func newSweptFilter(rate float64) *SweptFilter {
	return &SweptFilter{rate: rate, late: NewDelay(dsp.ShaperLatency)}
}

// Dampings of one section and of two without resonance: Butterworth.
var (
	oneSection  = math.Sqrt2
	twoSections = [2]float64{2 * math.Cos(math.Pi/8), 2 * math.Cos(3*math.Pi/8)}
)

// Tune takes the parameters of its kind.
func (f *SweptFilter) Tune(v Values, glide int) {
	corner, resonance, drive := v.Get("corner_hz"), v.Get("resonance_percent"), v.Get("drive_percent")
	f.shape, f.slope = int(v.Get("shape")), int(v.Get("slope"))
	f.corner.to(dsp.Corner(corner, f.rate), glide)
	f.lowest, f.resonance = corner, resonance
	sharp := math.Pow(0.03, resonance/100) // 100 % rings at 30 dB
	if f.slope == 0 {
		f.damping[0].to(oneSection*sharp, glide)
	} else {
		f.damping[0].to(twoSections[0], glide)
		f.damping[1].to(twoSections[1]*sharp, glide)
	}
	if !f.bends && drive > 0 {
		f.bends = true
		if f.keeps {
			f.warm = 2 * dsp.ShaperLatency
		}
		for c := range f.bent {
			f.bent[c] = dsp.NewShaper(dsp.Soft, 0, f.rate)
		}
	}
	f.bent[0].Expect(DriveGain(drive))
	f.bent[1].Expect(DriveGain(drive))
	f.drive.to(DriveGain(drive), glide)
}

// Process filters.
func (f *SweptFilter) Process(b Block, _ []float64) {
	f.bendOrHold(b)
	if f.corner.left == 0 && f.damping[0].left == 0 && f.damping[1].left == 0 {
		f.still(0, b.Left)
		f.still(1, b.Right)
		return
	}
	for i := range b.Left {
		corner, first, second := f.corner.next(), f.damping[0].next(), f.damping[1].next()
		b.Left[i] = f.next(0, b.Left[i], corner, first, second)
		if b.Right != nil {
			b.Right[i] = f.next(1, b.Right[i], corner, first, second)
		}
	}
}

// bendOrHold drives a block, or holds it back as long as that takes.
func (f *SweptFilter) bendOrHold(b Block) {
	if !f.bends {
		if f.keeps {
			f.late.Run(b)
		}
		return
	}
	plain := within(&f.plain, b)
	if f.warm > 0 {
		copy(plain.Left, b.Left)
		copy(plain.Right, b.Right)
		f.late.Run(plain)
	}
	was := f.drive
	f.bend(0, b.Left)
	if b.Right != nil {
		f.drive = was
		f.bend(1, b.Right)
	}
	if n := min(f.warm, b.Frames()); n > 0 {
		copy(b.Left[:n], plain.Left[:n])
		if b.Right != nil {
			copy(b.Right[:n], plain.Right[:n])
		}
		f.warm -= n
	}
}

// bend drives a channel, made level again.
func (f *SweptFilter) bend(c int, x []float64) {
	was := f.drive
	f.drive.times(x)
	f.bent[c].Run(x)
	for i := range x {
		x[i] /= dsp.Soft.At(was.next())
	}
}

// still filters a channel while nothing moves.
func (f *SweptFilter) still(c int, x []float64) {
	for k := range f.slope + 1 {
		f.side[c][k].Run(x, dsp.FilterShape(f.shape), f.corner.now, f.damping[k].now)
	}
}

func (f *SweptFilter) next(c int, x, corner, first, second float64) float64 {
	x = f.section(&f.side[c][0], x, corner, first)
	if f.slope == 1 {
		x = f.section(&f.side[c][1], x, corner, second)
	}
	return x
}

func (f *SweptFilter) section(s *dsp.StateVariable, x, corner, damping float64) float64 {
	low, band, high := s.Next(x, corner, damping)
	switch dsp.FilterShape(f.shape) {
	case dsp.LowShape:
		return low
	case dsp.HighShape:
		return high
	case dsp.BandShape:
		return band
	}
	return x - band
}

// Latency is that of bending where it is or may come to be driven.
func (f *SweptFilter) Latency() int {
	if f.bends || f.keeps {
		return dsp.ShaperLatency
	}
	return 0
}

func (f *SweptFilter) keepLatency() { f.keeps = true }

// Tail is until its ringing is 120 dB down.
func (f *SweptFilter) Tail() int {
	damping := math.Pow(0.03, f.resonance/100) * twoSections[1]
	// An envelope of e^(-damping·π·hz·t).
	return int(14/(damping*math.Pi*f.lowest)*f.rate) + driveTail
}

// Reset forgets the past.
func (f *SweptFilter) Reset() {
	f.corner.end()
	f.damping[0].end()
	f.damping[1].end()
	f.drive.end()
	f.side = [2][2]dsp.StateVariable{}
	f.warm = 0
	f.late.Reset()
	f.bent[0].Reset(f.drive.now)
	f.bent[1].Reset(f.drive.now)
}
