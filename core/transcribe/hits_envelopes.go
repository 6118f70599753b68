package transcribe

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/sound"
)

// cut is a part of the spectrum.
type cut int

const (
	whole cut = iota
	lows      // to 250 Hz
	mids      // 140 Hz to 1.5 kHz
	highs     // from 7 kHz
)

// filters cut a part out of the sound.
var filters = [...][]dsp.Biquad{
	lows:  {dsp.LowPass(250, 0.7, rate)},
	mids:  {dsp.HighPass(140, 0.7, rate), dsp.LowPass(1500, 0.7, rate), dsp.LowPass(1500, 0.7, rate)},
	highs: {dsp.HighPass(7000, 0.7, rate), dsp.HighPass(7000, 0.7, rate)},
}

// own is the part of the spectrum where a family lives, and by how much its
// filters are late, seconds.
func own(f sound.Family) (c cut, late float64) {
	switch f {
	case sound.Kick, sound.Snare, sound.Clap, sound.Rim:
		return mids, 0.0003
	case sound.Tom, sound.Conga, sound.Perc, sound.Cowbell:
		return whole, 0
	}
	return highs, 0
}

// envelopes gives the energy over 1 ms of parts of the spectrum around a
// moment. It is worked out where it is asked for: a long file would need much
// memory otherwise. What was found there is remembered.
type envelopes struct {
	x     []float32
	low   []float32 // drumnet.LowsOf x
	known map[place]onset
}

// place is a sample and a cut of the spectrum.
type place struct {
	at  int
	cut cut
}

// onset is what the envelope of a part reports near a sample: where something
// starts there, by how much it rises, in power, and its greatest energy from
// 6 ms before the sample to 20 ms after it.
type onset struct {
	sample    int
	rise, top float64
}

func newEnvelopes(x, low []float32) *envelopes {
	return &envelopes{x, low, map[place]onset{}}
}

// Around a moment, frames: what start looks at, and time for the filters.
const (
	envelopeBefore = rate * 55 / 1000
	envelopeAfter  = rate * 45 / 1000
)

// onset is what a part of the spectrum reports near a sample.
func (e *envelopes) onset(at int, c cut) onset {
	at = min(max(at, 0), len(e.x)-1) // a network may hear a hit past the end
	if o, ok := e.known[place{at, c}]; ok {
		return o
	}
	from, to := max(at-envelopeBefore, 0), min(at+envelopeAfter, len(e.x))
	env := newEnvelope(e.x[min(from, to):to], filters[c]...)
	var o onset
	o.sample, o.rise = env.start(at - from)
	o.sample += from
	for i := max(at-from-rate*6/1000, 0); i < min(at-from+rate*20/1000, len(env.energy)); i++ {
		o.top = math.Max(o.top, env.energy[i])
	}
	e.known[place{at, c}] = o
	return o
}

// peak is the greatest energy of the family's part of the spectrum around a
// hit, dB.
func (e *envelopes) peak(n found) float64 {
	c, _ := own(n.family)
	if n.family == sound.Kick {
		c = lows
	}
	return 10 * math.Log10(math.Max(e.onset(int(n.time*rate), c).top, 1e-12))
}
