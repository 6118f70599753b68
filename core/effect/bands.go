package effect

import (
	"fmt"

	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "bands", Label: "Three-band compressor", Group: Dynamics, Order: 5, Hint: "Lows, mids and highs apart, down and up",
	Picture: Levels, Reduces: true, Alike: true, MidSide: true,
	Params: []param.Param{
		param.Hertz("low_hz", "Low crossover", 40, 1000, 160),
		param.Hertz("high_hz", "High crossover", 1000, 16000, 3200),
		param.Decibels("threshold_db", "Threshold", -60, 0, -24),
		param.Ratio("ratio", "Ratio", 1, 30, 4),
		param.Decibels("up_threshold_db", "Upward threshold", -80, 0, -40),
		param.Ratio("up_ratio", "Upward ratio", 1, 4, 2),
		param.Milliseconds("attack_ms", "Attack", 0.1, 200, 5),
		param.Milliseconds("release_ms", "Release", 5, 2000, 100),
		param.Decibels("low_gain_db", "Lows", -24, 24, 0),
		param.Decibels("mid_gain_db", "Mids", -24, 24, 0),
		param.Decibels("high_gain_db", "Highs", -24, 24, 0),
	},
	Words: func(s Said) [2]string {
		return [2]string{"three bands", fmt.Sprintf("%s:1, −%s dB", s.Text("ratio"), param.Text(s.Taken))}
	},
	Lift: func(v func(string) float64) float64 {
		return max(v("low_gain_db"), v("mid_gain_db"), v("high_gain_db")) + upward(v("up_ratio"))
	},
	make: func(rate float64) Tuned { return newBands(rate) },
})

// Bands compresses three bands apart, down and up. The bands are those of
// crossovers of fourth order (Linkwitz & Riley 1976, J. Audio Eng. Soc. 24:2); left
// alone they add up flat.
type Bands struct {
	rate  float64
	split [2]crossing
	each  [3]Compressor
	band  [3][2][MaxBlock]float64
}

func newBands(rate float64) *Bands {
	b := &Bands{rate: rate}
	for i := range b.each {
		b.each[i] = *newCompressor(rate)
	}
	return b
}

// bandsKnee is the knee of each band, dB.
const bandsKnee = 6

// Tune takes the parameters of its kind.
func (b *Bands) Tune(v Values, glide int) {
	b.split[0].to(v.Get("low_hz"), b.rate, glide)
	b.split[1].to(v.Get("high_hz"), b.rate, glide)
	of := gainComputer{v.Get("threshold_db"), v.Get("ratio"), bandsKnee, v.Get("up_threshold_db"), v.Get("up_ratio")}
	for i, gain := range [3]float64{v.Get("low_gain_db"), v.Get("mid_gain_db"), v.Get("high_gain_db")} {
		b.each[i].set(of, v.Get("attack_ms"), v.Get("release_ms"), gain, glide)
	}
}

func (b *Bands) at(c Clock) {
	for i := range b.each {
		b.each[i].at(c)
	}
}

// Process compresses.
func (b *Bands) Process(block Block, key []float64) {
	var bands [3]Block
	for k := range bands {
		bands[k] = within(&b.band[k], block)
	}
	divide(block, b.split[:], bands[:])
	for k := range bands {
		b.each[k].Process(bands[k], key)
	}
	for c, x := range [2][]float64{block.Left, block.Right} {
		for i := range x {
			x[i] = b.band[0][c][i] + b.band[1][c][i] + b.band[2][c][i]
		}
	}
}

// Latency is 0.
func (b *Bands) Latency() int { return 0 }

// Tail is what the lower crossover rings.
func (b *Bands) Tail() int { return int(8 / b.split[0].hz * b.rate) }

// Reset forgets the past.
func (b *Bands) Reset() {
	for i := range b.split {
		b.split[i].reset()
	}
	for i := range b.each {
		b.each[i].Reset()
	}
}
