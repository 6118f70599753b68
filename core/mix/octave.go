package mix

import (
	"math"

	"jubrak/core/dsp"
)

var octaveKind = inRows(kind("octave", "Low octave", func(rate float64) Tuned { return &Octave{rate: rate, period: rate / 60} },
	hz("low_hz", "Hears from", 20, 200, 40),
	hz("high_hz", "up to", 60, 500, 160),
	percent("amount_percent", "Amount", 0, 200, 60),
	ms("decay_ms", "Decay", 20, 2000, 150),
	percent("dry_percent", "Sound itself", 0, 100, 100),
))

// Octave adds a sine an octave below the lowest tone that it hears in a range: each wave
// that rises through zero tells how long a period lasts, and the sine turns half as fast,
// as loud as that tone and dying away in its decay.
type Octave struct {
	rate        float64
	amount, dry ramp
	cuts        [2][2]dsp.Biquad
	last        [2]float64
	env         follower
	least       float64 // shortest period, frames
	longest     float64
	before      float64 // the sample before
	since       float64 // frames since the last rise
	period      float64
	turn        float64 // of the sine, 0 to 1
	// In a loop each pass begins with a sine of its own, to which the last one's is faded.
	frame, loop int64
	was         float64
	fade        int
}

// Tune takes range, amount, decay and how much of the sound itself stays.
func (o *Octave) Tune(v []float64, glide int) {
	if corners := [2]float64{v[0], v[1]}; corners != o.last {
		o.last = corners
		for k := range 2 {
			o.cuts[0][k].Take(dsp.HighPass(v[0], math.Sqrt2/2, o.rate))
			o.cuts[1][k].Take(dsp.LowPass(max(v[1], v[0]*1.2), math.Sqrt2/2, o.rate))
		}
		o.least, o.longest = o.rate/(max(v[1], v[0]*1.2)*1.3), o.rate/(v[0]*0.7)
	}
	o.amount.to(v[2]/100, glide)
	// By 60 dB in the decay.
	o.env.rise, o.env.fall = pole(3, o.rate), math.Pow(10, -3000/(v[3]*o.rate))
	o.dry.to(v[4]/100, glide)
}

// octaveFade is over how many frames one sine fades to the next.
const octaveFade = 1200

func (o *Octave) at(c Clock) { o.frame, o.loop = c.Frame, c.Loop }

// Process adds the octave.
func (o *Octave) Process(b Block, _ []float64) {
	for i := range b.Left {
		in := b.Left[i]
		if b.Right != nil {
			in = (in + b.Right[i]) / 2
		}
		x := o.cuts[1][1].Next(o.cuts[1][0].Next(o.cuts[0][1].Next(o.cuts[0][0].Next(in))))
		o.since++
		if o.before < 0 && x >= 0 && o.since > o.least {
			part := x / (x - o.before) // how long ago it crossed
			if p := o.since - part; p <= o.longest {
				o.period += (p - o.period) * 0.5
			}
			o.since = part
		}
		o.before = x
		if o.turn += 0.5 / o.period; o.turn >= 1 {
			o.turn--
		}
		wave := math.Sin(2 * math.Pi * o.turn)
		if o.fade > 0 {
			o.was += 0.5 / o.period
			wave += (math.Sin(2*math.Pi*o.was) - wave) * eased(float64(o.fade)/octaveFade)
			o.fade--
		}
		if o.loop > 0 {
			if o.frame++; o.frame == o.loop {
				o.frame, o.was, o.turn, o.fade = 0, o.turn, 0, octaveFade
			}
		}
		low := wave * o.env.next(math.Abs(x)) * o.amount.next()
		dry := o.dry.next()
		b.Left[i] = b.Left[i]*dry + low
		if b.Right != nil {
			b.Right[i] = b.Right[i]*dry + low
		}
	}
}

// Latency is 0.
func (o *Octave) Latency() int { return 0 }

// Tail is until the octave has died away.
func (o *Octave) Tail() int {
	return int(-6/math.Log10(o.env.fall)) + int(8/o.last[0]*o.rate)
}

// Reset forgets the past.
func (o *Octave) Reset() {
	o.amount.end()
	o.dry.end()
	for k := range 2 {
		o.cuts[0][k].Reset()
		o.cuts[1][k].Reset()
	}
	o.fade = 0
	o.env.level, o.before, o.since, o.turn, o.period = 0, 0, 0, 0, o.rate/60
}

var transient3Kind = inRows(kind("transient3", "Transients in three bands", func(rate float64) Tuned { return newTransient3(rate) },
	hz("low_hz", "Lows below", 40, 1000, 160),
	hz("high_hz", "Highs above", 1000, 16000, 3200),
	db("low_attack_db", "Lows, attack", -24, 24, 0), db("low_sustain_db", "Lows, sustain", -24, 24, 0),
	db("mid_attack_db", "Mids, attack", -24, 24, 3), db("mid_sustain_db", "Mids, sustain", -24, 24, 0),
	db("high_attack_db", "Highs, attack", -24, 24, 3), db("high_sustain_db", "Highs, sustain", -24, 24, 0),
))

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
		t.each[i] = transientKind.make(rate).(*Transient)
	}
	return t
}

// Tune takes the numbers of its kind.
func (t *Transient3) Tune(v []float64, glide int) {
	for i, hz := range v[:2] {
		t.split[i].to(hz, t.rate, glide)
	}
	for i := range t.each {
		t.each[i].Tune(v[2+2*i:4+2*i], glide)
	}
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
		for i := range b.Left {
			b.Left[i] += bands[k].Left[i]
			if b.Right != nil {
				b.Right[i] += bands[k].Right[i]
			}
		}
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
