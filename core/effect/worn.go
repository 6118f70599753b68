package effect

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "worn", Label: "Lo-fi", Group: Distortion, Order: 3, Hint: "A worn record or cassette: narrow, wavering, crackling", Rows: true,
	Picture: Spectrum,
	Params: []param.Param{
		param.Hertz("low_hz", "Low cut", 20, 1000, 180),
		param.Hertz("high_hz", "High cut", 1000, 16000, 4500),
		weighted("wow_weighted_percent", "Wow, weighted", wowAtFull, 0.05),
		weighted("flutter_weighted_percent", "Flutter, weighted", flutterAtFull, 0.2),
		param.Percent("mono_percent", "Narrow to mono", 0, 100, 60),
		param.Decibels("crackle_db", "Crackle", -80, 0, -50),
		param.Decibels("hiss_rms_db", "Hiss, RMS", -80, 0, -77),
	},
	Words:   func(s Said) [2]string { return [2]string{"lo-fi", s.Hertz("low_hz") + " to " + s.Hertz("high_hz")} },
	Upgrade: upgradeRated,
	make:    func(rate float64) Tuned { return newWorn(rate) },
})

// Worn is a record or a cassette that has been played too often: a narrow band, an uneven
// speed, crackle and hiss.
type Worn struct {
	rate    float64
	cuts    [2]Filter
	last    [2]float64
	way     wobble
	mono    ramp
	crackle *Bed
	hiss    *Bed
}

func newWorn(rate float64) *Worn {
	w := &Worn{rate: rate, way: newWobble(rate), crackle: newBed(rate), hiss: newBed(rate)}
	w.crackle.env.fall, w.hiss.env.fall = pole(200, rate), pole(200, rate)
	return w
}

// Tune takes the parameters of its kind.
func (w *Worn) Tune(v Values, glide int) {
	if corners := [2]float64{v.Get("low_hz"), v.Get("high_hz")}; corners != w.last {
		w.last = corners
		w.cuts[0].to(dsp.HighPass(corners[0], math.Sqrt2/2, w.rate), glide)
		w.cuts[1].to(dsp.LowPass(corners[1], math.Sqrt2/2, w.rate), glide)
		w.cuts[0].tail = int(3.2 / corners[0] * w.rate)
	}
	w.way.tune(v, glide)
	w.mono.to(v.Get("mono_percent")/100, glide)
	w.crackle.set(noiseCrackle, v.Get("crackle_db"), glide)
	w.hiss.set(noiseHiss, v.Get("hiss_rms_db"), glide)
}

func (w *Worn) restless() bool { return w.crackle.restless() || w.hiss.restless() }

func (w *Worn) at(c Clock) {
	w.way.at(c)
	w.crackle.at(c)
	w.hiss.at(c)
}

// Process wears.
func (w *Worn) Process(b Block, _ []float64) {
	for i := range b.Left {
		mid, by := (b.Left[i]+b.Right[i])/2, w.mono.next()
		b.Left[i] += (mid - b.Left[i]) * by
		b.Right[i] += (mid - b.Right[i]) * by
	}
	w.way.run(b)
	w.cuts[0].Process(b, nil)
	w.cuts[1].Process(b, nil)
	w.crackle.Process(b, nil)
	w.hiss.Process(b, nil)
}

// Latency is the way at rest.
func (w *Worn) Latency() int { return w.way.latency() }

// Tail is what the cuts ring and what is on its way.
func (w *Worn) Tail() int { return w.cuts[0].tail + 2*w.way.latency() }

// Reset forgets the past.
func (w *Worn) Reset() {
	w.cuts[0].Reset()
	w.cuts[1].Reset()
	w.way.reset()
	w.mono.end()
	w.crackle.Reset()
	w.hiss.Reset()
}
