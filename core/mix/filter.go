package mix

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var filterKind = kind("filter", "Filter", func(rate float64) Tuned { return &SweptFilter{rate: rate} },
	param.Choice("shape", "", "Shape", "low pass", "high pass", "band pass", "notch"),
	param.Choice("slope", "", "Slope", "12 dB/oct", "24 dB/oct"),
	hz("corner_hz", "Corner", 20, 20000, 1000),
	percent("resonance_percent", "Resonance", 0, 100, 0),
	percent("drive_percent", "Drive", 0, 100, 0),
)

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
	bends        bool
}

// Dampings of one section and of two without resonance: Butterworth.
var (
	oneSection  = math.Sqrt2
	twoSections = [2]float64{2 * math.Cos(math.Pi/8), 2 * math.Cos(3*math.Pi/8)}
)

// Tune takes shape, slope, corner, resonance and drive.
func (f *SweptFilter) Tune(v []float64, glide int) {
	f.shape, f.slope = int(v[0]), int(v[1])
	f.corner.to(dsp.Corner(v[2], f.rate), glide)
	f.lowest, f.resonance = v[2], v[3]
	sharp := math.Pow(0.03, v[3]/100) // 100 % rings at 30 dB
	if f.slope == 0 {
		f.damping[0].to(oneSection*sharp, glide)
	} else {
		f.damping[0].to(twoSections[0], glide)
		f.damping[1].to(twoSections[1]*sharp, glide)
	}
	if !f.bends && v[4] > 0 {
		f.bends = true
		for c := range f.bent {
			f.bent[c] = dsp.NewShaper(dsp.Soft, mostDrive, f.rate)
		}
	}
	f.drive.to(DriveGain(v[4]), glide)
}

// Process filters.
func (f *SweptFilter) Process(b Block, _ []float64) {
	for i := range b.Left {
		corner, first, second := f.corner.next(), f.damping[0].next(), f.damping[1].next()
		gain := f.drive.next()
		b.Left[i] = f.next(0, b.Left[i], gain, corner, first, second)
		if b.Right != nil {
			b.Right[i] = f.next(1, b.Right[i], gain, corner, first, second)
		}
	}
}

func (f *SweptFilter) next(c int, x, gain, corner, first, second float64) float64 {
	if f.bends {
		x = f.bent[c].Next(x*gain) / dsp.Soft.At(gain)
	}
	x = f.section(&f.side[c][0], x, corner, first)
	if f.slope == 1 {
		x = f.section(&f.side[c][1], x, corner, second)
	}
	return x
}

func (f *SweptFilter) section(s *dsp.StateVariable, x, corner, damping float64) float64 {
	low, band, high := s.Next(x, corner, damping)
	switch f.shape {
	case 0:
		return low
	case 1:
		return high
	case 2:
		return band
	}
	return x - band
}

// Latency is 0.
func (f *SweptFilter) Latency() int { return 0 }

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
	f.bent[0].Reset()
	f.bent[1].Reset()
}
