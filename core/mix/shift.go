package mix

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var shiftKind = kind("shift", "Frequency shift", func(rate float64) Tuned { return &Shift{rate: rate, turn: [2]float64{1, 0}} },
	param.Param{ID: "shift_hz", Label: "Shift", Unit: "Hz", Min: -2000, Max: 2000, Default: 20, Scale: param.Linear},
)

// Shift moves every partial by the same number of Hz, so that harmonic sounds
// become inharmonic: single sideband modulation with a pair of signals a quarter of a
// turn apart.
type Shift struct {
	rate float64
	hz   ramp
	turn [2]float64 // of the modulator, cos and sin
	side [2]dsp.Hilbert
}

// Tune takes the shift.
func (s *Shift) Tune(v []float64, glide int) { s.hz.to(v[0], glide) }

// Process shifts.
func (s *Shift) Process(b Block, _ []float64) {
	sin, cos := math.Sincos(2 * math.Pi * s.hz.now / s.rate)
	for i := range b.Left {
		if s.hz.left > 0 {
			sin, cos = math.Sincos(2 * math.Pi * s.hz.next() / s.rate)
		}
		re, im := s.side[0].Next(b.Left[i])
		b.Left[i] = re*s.turn[0] - im*s.turn[1]
		if b.Right != nil {
			re, im = s.side[1].Next(b.Right[i])
			b.Right[i] = re*s.turn[0] - im*s.turn[1]
		}
		s.turn[0], s.turn[1] = s.turn[0]*cos-s.turn[1]*sin, s.turn[0]*sin+s.turn[1]*cos
		// Keeps the turn on its circle.
		mend := 1.5 - 0.5*(s.turn[0]*s.turn[0]+s.turn[1]*s.turn[1])
		s.turn[0] *= mend
		s.turn[1] *= mend
	}
}

// Latency is 0: the allpass paths delay most of the band by a few samples.
func (s *Shift) Latency() int { return 0 }

// Tail is what the allpass paths ring.
func (s *Shift) Tail() int { return 20000 }

// Reset forgets the past.
func (s *Shift) Reset() {
	s.hz.end()
	s.turn = [2]float64{1, 0}
	s.side = [2]dsp.Hilbert{}
}
