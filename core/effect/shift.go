package effect

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "shift", Label: "Frequency shift", Group: Tone, Order: 4, Hint: "Every partial by the same Hz", Short: "shift {shift_hz}",
	Picture: Spectrum, Alike: true,
	Params: []param.Param{{ID: "shift_hz", Label: "Shift", Unit: "Hz", Min: -2000, Max: 2000, Default: 20, Scale: param.Linear}},
	Words:  func(s Said) [2]string { return [2]string{"shifted", s.Signed("shift_hz") + " Hz"} },
	make:   func(rate float64) Tuned { return &Shift{rate: rate} },
})

// Shift moves every partial by the same number of Hz, so that harmonic sounds
// become inharmonic: single sideband modulation with a pair of signals a quarter of a
// turn apart.
type Shift struct {
	rate float64
	hz   ramp
	turn turn // of the modulator
	side [2]dsp.Hilbert
}

// Tune takes the parameters of its kind.
func (s *Shift) Tune(v Values, glide int) { s.hz.to(v.Get("shift_hz"), glide) }

func (s *Shift) at(c Clock) { s.turn.at(c, 0) }

// Process shifts.
func (s *Shift) Process(b Block, _ []float64) {
	for i := range b.Left {
		sin, cos := math.Sincos(2 * math.Pi * s.turn.phase)
		re, im := s.side[0].Next(b.Left[i])
		b.Left[i] = re*cos - im*sin
		if b.Right != nil {
			re, im = s.side[1].Next(b.Right[i])
			b.Right[i] = re*cos - im*sin
		}
		s.turn.next(s.hz.next()/s.rate, 1)
	}
}

// Latency is 0: the allpass paths delay most of the band by a few samples.
func (s *Shift) Latency() int { return 0 }

// Tail is what the allpass paths ring.
func (s *Shift) Tail() int { return 20000 }

// Reset forgets the past.
func (s *Shift) Reset() {
	s.hz.end()
	s.turn.reset()
	s.side = [2]dsp.Hilbert{}
}

func (s *Shift) gap() int { return lineGap }
