package effect

import (
	"fmt"
	"jubrak/core/param"
	"math"
)

var _ = register(Kind{
	ID: "limit", Label: "Limiter", Group: Distortion, Order: 6, Hint: "Keeps samples below a ceiling",
	Picture: Levels, Reduces: true, Alike: true, MidSide: true, Ceiling: true,
	Params: []param.Param{
		param.Decibels("gain_db", "Gain", 0, 36, 6),
		param.Decibels("ceiling_db", "Ceiling", -24, 0, -0.3),
		param.Milliseconds("release_ms", "Release", 5, 1000, 80),
	},
	Words: func(s Said) [2]string {
		return [2]string{"limiter", fmt.Sprintf("%s dB, at %s", s.Signed("gain_db"), s.Text("ceiling_db"))}
	},
	Lift: func(v func(string) float64) float64 { return v("gain_db") },
	make: func(rate float64) Tuned { return &Limit{rate: rate, of: NewLimiter(rate)} },
})

// Limit makes a sound louder and keeps it below a ceiling with a Limiter.
type Limit struct {
	rate          float64
	gain, ceiling ramp
	of            Limiter
}

// Tune takes the parameters of its kind.
func (l *Limit) Tune(v Values, glide int) {
	l.gain.to(gainOf(v.Get("gain_db")-v.Get("ceiling_db")), glide)
	l.ceiling.to(gainOf(v.Get("ceiling_db")), glide)
	l.of.release = 1 - math.Exp(-1000/(v.Get("release_ms")*l.rate))
}

// Process limits.
func (l *Limit) Process(b Block, _ []float64) {
	l.gain.both(b)
	l.of.Process(b, nil)
	l.ceiling.both(b)
}

// Latency is the limiter's.
func (l *Limit) Latency() int { return l.of.Latency() }

// Tail is 0.
func (l *Limit) Tail() int { return 0 }

// Reset forgets the past.
func (l *Limit) Reset() {
	l.gain.end()
	l.ceiling.end()
	l.of.Reset()
}
