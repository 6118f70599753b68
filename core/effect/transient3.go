package effect

import (
	"fmt"

	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "transient3", Label: "Multiband transient shaper", Group: Dynamics, Order: 4, Hint: "Attack and sustain of lows, mids and highs", Rows: true,
	Picture: Levels, Reduces: true, Alike: true, MidSide: true,
	Params: []param.Param{
		param.Hertz("low_hz", "Low crossover", 40, 1000, 160),
		param.Hertz("high_hz", "High crossover", 1000, 16000, 3200),
		param.Decibels("low_attack_db", "Lows, attack", -24, 24, 0), param.Decibels("low_sustain_db", "Lows, sustain", -24, 24, 0),
		param.Decibels("mid_attack_db", "Mids, attack", -24, 24, 3), param.Decibels("mid_sustain_db", "Mids, sustain", -24, 24, 0),
		param.Decibels("high_attack_db", "Highs, attack", -24, 24, 3), param.Decibels("high_sustain_db", "Highs, sustain", -24, 24, 0),
	},
	Words: func(s Said) [2]string {
		of := func(part string) string {
			return fmt.Sprintf("%s %s %s dB", part, s.Signed("low_"+part+"_db"), s.Signed("high_"+part+"_db"))
		}
		return [2]string{of("attack"), of("sustain")}
	},
	make: func(rate float64) Tuned { return newTransient3(rate) },
})

// Transient3 shapes attacks and what follows them in three bands apart.
type Transient3 struct {
	rate  float64
	split [2]crossing
	each  [3]*Transient
	band  [3][2][MaxBlock]float64
}

func newTransient3(rate float64) *Transient3 {
	t := &Transient3{rate: rate}
	for i := range t.each {
		t.each[i] = newTransient(rate)
	}
	return t
}

// Tune takes the parameters of its kind.
func (t *Transient3) Tune(v Values, glide int) {
	t.split[0].to(v.Get("low_hz"), t.rate, glide)
	t.split[1].to(v.Get("high_hz"), t.rate, glide)
	t.each[0].set(v.Get("low_attack_db"), v.Get("low_sustain_db"), glide)
	t.each[1].set(v.Get("mid_attack_db"), v.Get("mid_sustain_db"), glide)
	t.each[2].set(v.Get("high_attack_db"), v.Get("high_sustain_db"), glide)
}

func (t *Transient3) at(c Clock) {
	for _, each := range t.each {
		each.at(c)
	}
}

// Process shapes.
func (t *Transient3) Process(b Block, _ []float64) {
	var bands [3]Block
	for k := range bands {
		bands[k] = within(&t.band[k], b)
	}
	divide(b, t.split[:], bands[:])
	b.Clear()
	for k := range bands {
		t.each[k].Process(bands[k], nil)
		b.add(bands[k])
	}
}

// Latency is 0.
func (t *Transient3) Latency() int { return 0 }

// Tail is what the lower crossover rings.
func (t *Transient3) Tail() int { return int(8 / t.split[0].hz * t.rate) }

// Reset forgets the past.
func (t *Transient3) Reset() {
	for i := range t.split {
		t.split[i].reset()
	}
	for i := range t.each {
		t.each[i].Reset()
	}
}
