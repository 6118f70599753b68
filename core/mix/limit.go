package mix

import "math"

var limitKind = kind("limit", "Limiter", func(rate float64) Tuned { return &Limit{rate: rate, of: NewLimiter(rate)} },
	db("gain_db", "Gain", 0, 36, 6),
	db("ceiling_db", "Ceiling", -24, 0, -0.3),
	ms("release_ms", "Release", 5, 1000, 80),
)

// Limit makes a sound louder and keeps it below a ceiling with a Limiter.
type Limit struct {
	rate          float64
	gain, ceiling ramp
	of            Limiter
}

// Tune takes gain, ceiling and release.
func (l *Limit) Tune(v []float64, glide int) {
	l.gain.to(gainOf(v[0]-v[1]), glide)
	l.ceiling.to(gainOf(v[1]), glide)
	l.of.release = 1 - math.Exp(-1000/(v[2]*l.rate))
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
