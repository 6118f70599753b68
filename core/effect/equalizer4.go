package effect

import (
	"fmt"
	"math"
	"slices"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

// equalizerBands is how many bands an equalizer has.
const equalizerBands = 4

var _ = register(Kind{
	ID: "eq", Label: "Equalizer, 4 bands", Group: Tone, Order: 1, Recipes: true, Hint: "Four bands of bells, shelves, cuts and notches",
	Picture: Spectrum, Linear: true, Alike: true,
	Params: slices.Concat(equalizerBand(1, 100), equalizerBand(2, 500), equalizerBand(3, 2000), equalizerBand(4, 8000)),
	Words:  func(s Said) [2]string { return bandWords(s, equalizerBands, 1) },
	Lift: func(v func(string) float64) float64 {
		most := 0.0
		for _, id := range equalizerIDs {
			most = max(most, v(id.gain))
		}
		return most
	},
	Shared: func(func(string) float64) bool { return true },
	make:   func(rate float64) Tuned { return &Equalizer{rate: rate} },
})

// equalizerIDs are the ids of the parameters of each band.
var equalizerIDs = func() (out [equalizerBands]struct{ shape, hz, gain, q string }) {
	for i := range out {
		at := func(id string) string { return fmt.Sprintf("band%d.%s", i+1, id) }
		out[i].shape, out[i].hz, out[i].gain, out[i].q = at("shape"), at("hz"), at("gain_db"), at("q")
	}
	return out
}()

func equalizerBand(n int, corner float64) []param.Param {
	return named(fmt.Sprintf("band%d", n), fmt.Sprintf("Band %d", n),
		param.Choice("shape", "", "shape", "bell", "low shelf", "high shelf", "low cut", "high cut", "notch"),
		param.Hertz("hz", "frequency", 20, 20000, corner), param.Decibels("gain_db", "gain", -24, 24, 0),
		param.Param{ID: "q", Label: "Q", Min: 0.2, Max: 20, Default: 1, Scale: param.Log})
}

// Equalizer is four bands one after another: bells and shelves that follow their analogue
// prototypes, cuts and notches of the Audio EQ Cookbook (W3C Note 2021). A bell or shelf at 0 dB costs nothing.
type Equalizer struct {
	rate  float64
	bands [equalizerBands]equalizerState
	tail  int
}

type equalizerState struct {
	now, goal [4]float64 // shape, ln Hz, dB, Q
	left      int        // frames of the glide to go
	flat      bool
	side      [2]dsp.Moving
}

// glideEvery is how many frames a band's coefficients hold while it glides.
const glideEvery = 16

// Tune takes the parameters of its kind.
func (e *Equalizer) Tune(v Values, glide int) {
	for k := range e.bands {
		b, id := &e.bands[k], &equalizerIDs[k]
		goal := [4]float64{v.Get(id.shape), math.Log(v.Get(id.hz)), v.Get(id.gain), v.Get(id.q)}
		if goal == b.goal {
			continue
		}
		b.goal, b.left = goal, glide
		b.now[0] = goal[0]
		if glide == 0 {
			b.now = goal
			b.set(e.rate, 0)
		}
	}
	e.tail = 0
	for k := range e.bands {
		b := &e.bands[k]
		if b.flatGoal() {
			continue
		}
		// The poles of a bell that lifts are sharper by its gain.
		q := max(b.goal[3], 0.71) * math.Pow(10, math.Abs(b.goal[2])/40)
		e.tail = max(e.tail, int(14*2*q/(2*math.Pi*math.Exp(b.goal[1]))*e.rate)+32)
	}
}

func (b *equalizerState) flatGoal() bool { return b.goal[0] <= 2 && b.goal[2] == 0 }

func (b *equalizerState) set(rate float64, glide int) {
	corner, gain, q := math.Exp(b.now[1]), b.now[2], b.now[3]
	b.flat = b.left == 0 && b.flatGoal()
	var f dsp.Biquad
	switch int(b.now[0]) {
	case 0:
		f = dsp.Bell(corner, q, gain, rate)
	case 1:
		f = dsp.LowShelf(corner, q, gain, rate)
	case 2:
		f = dsp.HighShelf(corner, q, gain, rate)
	case 3:
		f = dsp.HighPass(corner, q, rate)
	case 4:
		f = dsp.LowPass(corner, q, rate)
	default:
		f = dsp.Notch(corner, q, rate)
	}
	b.side[0].To(f, glide)
	b.side[1].To(f, glide)
}

// Process filters.
func (e *Equalizer) Process(block Block, _ []float64) {
	for k := range e.bands {
		b := &e.bands[k]
		if b.flat && b.left == 0 {
			continue
		}
		for at := 0; at < block.Frames(); {
			n := block.Frames() - at
			if b.left > 0 {
				// Coefficients change at frames that do not depend on the block.
				if b.left%glideEvery == 0 {
					share := float64(glideEvery) / float64(b.left)
					for i := 1; i < 4; i++ {
						b.now[i] += (b.goal[i] - b.now[i]) * share
					}
					b.set(e.rate, glideEvery)
				}
				n = min(n, (b.left-1)%glideEvery+1)
				b.left -= n
				if b.left == 0 {
					b.now = b.goal
					b.set(e.rate, n)
				}
			}
			part := block.Part(at, at+n)
			b.side[0].Run(part.Left)
			if part.Right != nil {
				b.side[1].Run(part.Right)
			}
			at += n
		}
	}
}

// Latency is 0.
func (e *Equalizer) Latency() int { return 0 }

// Tail is until every band's ringing is 120 dB down.
func (e *Equalizer) Tail() int { return e.tail }

// Reset forgets the past.
func (e *Equalizer) Reset() {
	for k := range e.bands {
		b := &e.bands[k]
		b.now, b.left = b.goal, 0
		b.set(e.rate, 0)
		b.side[0].Reset()
		b.side[1].Reset()
	}
}
