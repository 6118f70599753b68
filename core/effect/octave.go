package effect

import (
	"fmt"
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "octave", Label: "Sub-octave", Group: Tone, Order: 5, Hint: "A sine an octave below the lowest tone", Rows: true,
	Picture: Spectrum, Alike: true,
	Params: []param.Param{
		param.Hertz("low_hz", "Track from", 20, 200, 40),
		param.Hertz("high_hz", "Track to", 60, 500, 160),
		param.Percent("amount_percent", "Amount", 0, 200, 60),
		param.Milliseconds("decay_ms", "Decay", 20, 2000, 150),
		param.Percent("dry_percent", "Dry level", 0, 100, 100),
	},
	Words: func(s Said) [2]string {
		return [2]string{"sub-octave", fmt.Sprintf("%s %%, %s ms", s.Text("amount_percent"), s.Text("decay_ms"))}
	},
	make: func(rate float64) Tuned { return &Octave{rate: rate, period: rate / 60} },
})

// Octave adds a sine an octave below the lowest tone that it hears in a range: each wave
// that rises through zero returns how long a period lasts, and the sine turns half as fast,
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

// Tune takes the parameters of its kind.
func (o *Octave) Tune(v Values, glide int) {
	if corners := [2]float64{v.Get("low_hz"), v.Get("high_hz")}; corners != o.last {
		o.last = corners
		low, high := corners[0], max(corners[1], corners[0]*1.2)
		for k := range 2 {
			o.cuts[0][k].Take(dsp.HighPass(low, math.Sqrt2/2, o.rate))
			o.cuts[1][k].Take(dsp.LowPass(high, math.Sqrt2/2, o.rate))
		}
		o.least, o.longest = o.rate/(high*1.3), o.rate/(low*0.7)
	}
	o.amount.to(v.Get("amount_percent")/100, glide)
	// By 60 dB in the decay.
	o.env.rise, o.env.fall = pole(3, o.rate), math.Pow(10, -3000/(v.Get("decay_ms")*o.rate))
	o.dry.to(v.Get("dry_percent")/100, glide)
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
