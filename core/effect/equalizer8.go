package effect

import (
	"fmt"
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

// rowBands is how many bands the equalizer of a row has.
const rowBands = 8

// Shapes of a band of a row's equalizer.
const (
	bandOff = iota
	bandBell
	bandLowShelf
	bandHighShelf
	bandLowCut
	bandHighCut
	bandNotch
	bandTilt
)

var _ = register(Kind{
	ID: "equalizer", Label: "Equalizer, 8 bands", Group: Tone, Order: 0, Hint: "Bells, shelves, tilts, cuts and notches; dynamic bands; mid and side", Rows: true,
	Picture: Spectrum, Linear: true, Alike: true, Bands: rowBands,
	Params: func() (out []param.Param) {
		shapes := []float64{bandOff, bandLowShelf, bandBell, bandBell, bandOff, bandOff, bandHighShelf, bandOff}
		corners := []float64{20, 90, 400, 1000, 2500, 4500, 8000, 16000}
		for i := range rowBands {
			out = append(out, rowBand(i+1, shapes[i], corners[i])...)
		}
		return out
	}(),
	Words: func(s Said) [2]string { return bandWords(s, rowBands, 0) },
	make:  func(rate float64) Tuned { return &Equalizer8{rate: rate, alone: -1} },
})

// rowBand is the parameters of a band.
func rowBand(n int, shape, corner float64) []param.Param {
	gains := []float64{bandBell, bandLowShelf, bandHighShelf, bandTilt}
	return named(fmt.Sprintf("band%d", n), fmt.Sprintf("Band %d", n),
		as(param.Choice("shape", "", "shape", "off", "bell", "low shelf", "high shelf", "low cut", "high cut", "notch", "tilt"), shape),
		unless(param.Hertz("hz", "frequency", 20, 20000, corner), "shape", bandOff),
		when(param.Decibels("gain_db", "gain", -24, 24, 0), "shape", gains...),
		unless(param.Param{ID: "q", Label: "Q", Min: 0.2, Max: 20, Default: 0.71, Scale: param.Log}, "shape", bandOff),
		when(as(param.Choice("slope", "", "slope", "6 dB", "12 dB", "18 dB", "24 dB", "30 dB", "36 dB", "42 dB", "48 dB"), 1), "shape", bandLowCut, bandHighCut),
		when(hint(param.Decibels("above_db", "dynamic threshold", -80, 0, -80), "The band acts only where its part of the spectrum is louder; −80 dB is always"), "shape", gains...),
		unless(param.Choice("side", "", "channels", "stereo", "mid", "side"), "shape", bandOff))
}

// rowBandIDs are the ids of the parameters of each band.
var rowBandIDs = func() (out [rowBands]struct{ shape, hz, gain, q, slope, above, side string }) {
	for i := range out {
		at := func(id string) string { return fmt.Sprintf("band%d.%s", i+1, id) }
		b := &out[i]
		b.shape, b.hz, b.gain, b.q, b.slope, b.above, b.side = at("shape"), at("hz"), at("gain_db"), at("q"), at("slope"), at("above_db"), at("side")
	}
	return out
}()

// bandWords say what the bands of an equalizer do. Shapes count from bandOff by add.
func bandWords(s Said, bands int, add int) [2]string {
	var cuts, gains []string
	for i := range bands {
		v := func(id string) float64 { return s.Value(fmt.Sprintf("band%d.%s", i+1, id)) }
		hz, gain := v("hz"), v("gain_db")
		switch shape := int(v("shape")) + add; {
		case shape == bandLowCut && hz > 20.5:
			cuts = append(cuts, "low cut at "+param.HertzText(hz))
		case shape == bandHighCut && hz < 19500:
			cuts = append(cuts, "high cut at "+param.HertzText(hz))
		case shape == bandNotch:
			cuts = append(cuts, "notch at "+param.HertzText(hz))
		case (shape == bandBell || shape == bandLowShelf || shape == bandHighShelf) && gain != 0:
			gains = append(gains, fmt.Sprintf("%s dB at %s", param.Signed(gain), param.HertzText(hz)))
		case shape == bandTilt && gain != 0:
			gains = append(gains, "tilt "+param.Signed(gain)+" dB")
		}
	}
	all := append(cuts, gains...)
	switch len(all) {
	case 0:
		return [2]string{"equalizer", "flat"}
	case 1:
		return [2]string{all[0], ""}
	case 2:
		return [2]string{all[0], all[1]}
	}
	return [2]string{all[0], all[1] + fmt.Sprintf(", %d more", len(all)-2)}
}

// Equalizer8 is eight bands one after another: bells, shelves and tilts that follow their
// analogue prototypes, notches of the Audio EQ Cookbook (W3C Note 2021), cuts of 6 to 48 dB
// an octave (Butterworth). A band
// may act on the middle or the sides alone, and may come in only above a level that its
// own part of the spectrum has.
type Equalizer8 struct {
	rate     float64
	bands    [rowBands]band8
	tail     int
	phase    int // of the frames, so that how a sound is cut into blocks changes nothing
	alone    int // the band that is heard by itself, or -1
	detector [2]dsp.Biquad
	// Filters that hold still and wait to be run together, of each channel.
	row     [2][4 * rowBands]*dsp.Moving `state:"-"`
	waiting int
}

type band8 struct {
	shape, slope, side int
	now, goal          [3]float64 // ln Hz, dB, Q
	left               int
	above              float64
	sections           int
	filter             [2][4]dsp.Moving
	detector           dsp.Biquad // what a band that waits for a level listens to
	env                follower
	share              float64 // of its gain that acts now
}

// dynamicRange is over how many dB above its level a waiting band comes in wholly.
const dynamicRange = 6

// Tune takes the parameters of its kind.
func (e *Equalizer8) Tune(v Values, glide int) {
	e.tail = 0
	for k := range e.bands {
		b, id := &e.bands[k], &rowBandIDs[k]
		goal := [3]float64{math.Log(v.Get(id.hz)), v.Get(id.gain), v.Get(id.q)}
		shape, slope, side := int(v.Get(id.shape)), int(v.Get(id.slope))+1, int(v.Get(id.side))
		b.env.rise, b.env.fall = pole(2, e.rate), pole(90, e.rate)
		if b.shape != shape || b.slope != slope || b.side != side {
			if b.shape == bandOff {
				b.now = goal
			}
			b.shape, b.slope, b.side = shape, slope, side
			b.left = 0
		}
		if b.above = v.Get(id.above); goal != b.goal || b.left == 0 {
			if goal != b.goal {
				b.goal, b.left = goal, glide
			}
			if b.left == 0 {
				b.now = b.goal
				b.set(e.rate, glide)
			}
		}
		if b.works() {
			q := max(b.goal[2], 0.71) * math.Pow(10, math.Abs(b.goal[1])/40) * float64(max(b.slope/2, 1))
			e.tail = max(e.tail, int(14*2*q/(2*math.Pi*math.Exp(b.goal[0]))*e.rate)+64)
		}
	}
}

// waits reports whether a band comes in only above a level.
func (b *band8) waits() bool {
	return b.above > -80 && (b.shape == bandBell || b.shape == bandLowShelf || b.shape == bandHighShelf || b.shape == bandTilt)
}

// works reports whether a band does anything.
func (b *band8) works() bool {
	switch b.shape {
	case bandOff:
		return false
	case bandBell, bandLowShelf, bandHighShelf, bandTilt:
		return b.goal[1] != 0 || b.left > 0
	}
	return true
}

// set designs the band's filters and goes there over so many frames.
func (b *band8) set(rate float64, glide int) {
	corner, gain, q := math.Exp(b.now[0]), b.now[1], b.now[2]
	if b.waits() {
		gain *= b.share
		ear := dsp.BandPass(corner, min(1.4/q, 4), rate)
		b.detector.Take(ear)
	}
	var list [4]dsp.Biquad
	b.sections = 1
	switch b.shape {
	case bandBell:
		list[0] = dsp.Bell(corner, q, gain, rate)
	case bandLowShelf:
		list[0] = dsp.LowShelf(corner, q, gain, rate)
	case bandHighShelf:
		list[0] = dsp.HighShelf(corner, q, gain, rate)
	case bandTilt: // lows down and highs up by half each
		list[0], list[1] = dsp.LowShelf(corner, 0.4, -gain/2, rate), dsp.HighShelf(corner, 0.4, gain/2, rate)
		b.sections = 2
	case bandNotch:
		list[0] = dsp.Notch(corner, q, rate)
	case bandLowCut, bandHighCut:
		b.sections = butterworth(list[:], corner, b.slope, b.shape == bandLowCut, q, rate)
	}
	for c := range b.filter {
		for i := range b.sections {
			b.filter[c][i].To(list[i], glide)
		}
	}
}

// butterworth fills the sections of a cut of an order, and returns how many. Of even orders
// the last section has its quality raised by q over 0.71, for a cut that rings at its
// corner.
func butterworth(list []dsp.Biquad, hz float64, order int, low bool, q, rate float64) int {
	n := 0
	for k := range order / 2 {
		quality := 1 / (2 * math.Sin(math.Pi*float64(2*k+1)/float64(2*order)))
		if k == 0 && order%2 == 0 {
			quality *= max(q, 0.2) / 0.71
		}
		if low {
			list[n] = dsp.HighPass(hz, quality, rate)
		} else {
			list[n] = dsp.LowPass(hz, quality, rate)
		}
		n++
	}
	if order%2 == 1 {
		list[n] = dsp.FirstOrder(hz, low, rate)
		n++
	}
	return n
}

func (e *Equalizer8) at(c Clock) { c.look(&e.phase, glideEvery) }

// Process filters.
func (e *Equalizer8) Process(block Block, _ []float64) {
	if e.alone >= 0 {
		e.hearAlone(block)
		return
	}
	for k := range e.bands {
		b := &e.bands[k]
		if !b.works() {
			continue
		}
		if b.left == 0 && !b.waits() {
			if b.side == 0 || b.side == 1 && block.Right == nil {
				e.put(b)
				continue
			}
			e.flush(block)
			b.run(block, e.rate)
			continue
		}
		e.flush(block)
		phase := e.phase
		for at := 0; at < block.Frames(); {
			n := min(block.Frames()-at, glideEvery-phase)
			phase = (phase + n) % glideEvery
			b.approach(n, e.rate)
			b.run(block.Part(at, at+n), e.rate)
			at += n
		}
	}
	e.flush(block)
	e.phase = (e.phase + block.Frames()) % glideEvery
}

// put lines up a band whose filters hold still, flush runs those that wait.
func (e *Equalizer8) put(b *band8) {
	for i := range b.sections {
		for c := range e.row {
			e.row[c][e.waiting] = &b.filter[c][i]
		}
		e.waiting++
	}
}

func (e *Equalizer8) flush(block Block) {
	if e.waiting == 0 {
		return
	}
	dsp.RunRow(block.Left, e.row[0][:e.waiting])
	if block.Right != nil {
		dsp.RunRow(block.Right, e.row[1][:e.waiting])
	}
	e.waiting = 0
}

// approach goes on towards the band's goal.
func (b *band8) approach(frames int, rate float64) {
	if b.left == 0 {
		return
	}
	share := min(float64(frames)/float64(b.left), 1)
	for i := range b.now {
		b.now[i] += (b.goal[i] - b.now[i]) * share
	}
	if b.left = max(b.left-frames, 0); b.left == 0 {
		b.now = b.goal
	}
	b.set(rate, frames)
}

// run filters a few frames.
func (b *band8) run(x Block, rate float64) {
	if b.waits() {
		loud := 0.0
		for i := range x.Left {
			v := x.Left[i]
			if x.Right != nil {
				v = (v + x.Right[i]) / 2
			}
			loud = b.env.next(math.Abs(b.detector.Next(v)))
		}
		if share := min(max((level(loud)-b.above)/dynamicRange, 0), 1); math.Abs(share-b.share) > 1e-3 {
			b.share = share
			b.set(rate, glideEvery)
		}
	}
	if x.Right == nil && b.side == 2 {
		return // two like sides have no difference
	}
	if b.side == 0 || x.Right == nil {
		for i := range b.sections {
			if x.Right == nil {
				b.filter[0][i].Run(x.Left)
				continue
			}
			dsp.RunPair(&b.filter[0][i], &b.filter[1][i], x.Left, x.Right)
		}
		return
	}
	for i := range x.Left {
		mid, side := (x.Left[i]+x.Right[i])/2, (x.Left[i]-x.Right[i])/2
		v := &mid
		if b.side == 2 {
			v = &side
		}
		for k := range b.sections {
			*v = b.filter[0][k].Next(*v)
		}
		x.Left[i], x.Right[i] = mid+side, mid-side
	}
}

// hearAlone lets only the part of the spectrum through that a band is about.
func (e *Equalizer8) hearAlone(block Block) {
	e.detector[0].Run(block.Left)
	if block.Right != nil {
		e.detector[1].Run(block.Right)
	}
}

// Alone lets only what band k is about be heard, or with -1 all.
func (e *Equalizer8) Alone(k int) {
	e.alone = -1
	if k < 0 || k >= rowBands {
		return
	}
	e.alone = k
	b := &e.bands[k]
	f := dsp.BandPass(math.Exp(b.goal[0]), min(1.4/b.goal[2], 4), e.rate)
	e.detector[0].Take(f)
	e.detector[1].Take(f)
}

// Latency is 0.
func (e *Equalizer8) Latency() int { return 0 }

// Tail is until every band's ringing is 120 dB down.
func (e *Equalizer8) Tail() int { return e.tail }

// Reset forgets the past.
func (e *Equalizer8) Reset() {
	for k := range e.bands {
		b := &e.bands[k]
		b.now, b.left, b.share, b.env.level = b.goal, 0, 0, 0
		b.set(e.rate, 0)
		b.detector.Reset()
		for c := range b.filter {
			for i := range b.filter[c] {
				b.filter[c][i].Reset()
			}
		}
	}
	e.detector[0].Reset()
	e.detector[1].Reset()
	e.phase = 0
}

// Magnitude is the gain at hz of all bands that act on both sides, wholly in, dB.
func (e *Equalizer8) Magnitude(hz float64) float64 {
	sum := 0.0
	for k := range e.bands {
		b := e.bands[k]
		if !b.works() || b.side != 0 {
			continue
		}
		b.share = 1
		b.set(e.rate, 0)
		for i := range b.sections {
			sum += 20 * math.Log10(max(b.filter[0][i].Magnitude(hz, e.rate), 1e-6))
		}
	}
	return sum
}
