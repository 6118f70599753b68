package mix

import (
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var tapeKind = inRows(kind("tape", "Tape", func(rate float64) Tuned { return newTape(rate) },
	percent("amount_percent", "Drive", 0, 100, 22),
	db("bump_db", "Head bump", 0, 9, 2),
	hz("bump_hz", "Bump at", 30, 200, 70),
	hz("top_hz", "Top", 2000, 20000, 14000),
	weighted("wow_weighted_percent", "Wow, weighted", wowAtFull, 0.02),
	weighted("flutter_weighted_percent", "Flutter, weighted", flutterAtFull, 0.07),
))

// weighted is a deviation of speed as machines are rated: its peak, weighted by how well
// each rate is heard (IEC 60386; the weights of wobbleHz are from memory: −10.4, −1.9 and
// −7 dB).
func weighted(id, label string, most, value float64) param.Param {
	return param.Param{ID: id, Label: label, Unit: "%", Max: most, Default: value, Scale: param.Linear}
}

// wowAtFull and flutterAtFull are what the most that a wobble does reads, %: the speed by
// which the way changes, 2π·rate·depth·length, times the weights.
const wowAtFull, flutterAtFull = 0.25, 1.44

// wobble is a way to the head that changes its length: slowly for wow, fast for flutter.
type wobble struct {
	rate         float64
	line         [2]line
	wow, flutter ramp
	turns        [3]turn
}

// wobbleHz are the rates of worn machines (common practice: wow below 4 Hz, flutter above;
// IEC 60386).
var wobbleHz = [3]float64{0.55, 9.3, 23.7}

// wobbleMS is the length of the way at rest, which nothing leaves by more than that.
const wobbleMS = 3.0

func newWobble(rate float64) wobble {
	w := wobble{rate: rate}
	for c := range w.line {
		w.line[c] = newLine(int(2*wobbleMS/1000*rate) + 8)
	}
	return w
}

func (w *wobble) at(c Clock) {
	for k := range w.turns {
		w.turns[k].at(c, 0)
	}
}

// run moves a block along it.
func (w *wobble) run(b Block) {
	rest := math.Round(wobbleMS / 1000 * w.rate)
	if w.wow.left == 0 && w.flutter.left == 0 && w.wow.now == 0 && w.flutter.now == 0 {
		for i := range b.Left {
			w.line[0].write(b.Left[i])
			w.line[1].write(b.Right[i])
			b.Left[i], b.Right[i] = w.line[0].read(rest+1), w.line[1].read(rest+1)
		}
		for k, hz := range wobbleHz {
			w.turns[k].next(hz/w.rate, b.Frames())
		}
		return
	}
	for i := range b.Left {
		for k, hz := range wobbleHz {
			w.turns[k].next(hz/w.rate, 1)
		}
		wow := 0.8 * w.wow.next() * math.Sin(2*math.Pi*w.turns[0].phase)
		flutter := 0.06 * w.flutter.next() * (math.Sin(2*math.Pi*w.turns[1].phase) + 0.5*math.Sin(2*math.Pi*w.turns[2].phase))
		w.line[0].write(b.Left[i])
		w.line[1].write(b.Right[i])
		at := rest * (1 + wow + flutter)
		b.Left[i], b.Right[i] = w.line[0].smooth(at+1), w.line[1].smooth(at+1)
	}
}

func (w *wobble) latency() int { return int(math.Round(wobbleMS / 1000 * w.rate)) }

func (w *wobble) reset() {
	w.wow.end()
	w.flutter.end()
	for k := range w.turns {
		w.turns[k].reset()
	}
	w.line[0].reset()
	w.line[1].reset()
}

// smooth reads between samples by a cubic through four (Catmull & Rom 1974), so that a
// moving place does not dull.
func (l *line) smooth(frames float64) float64 {
	whole := int(frames)
	t := frames - float64(whole)
	mask := len(l.x) - 1
	a, b, c, d := l.x[(l.at-whole+1)&mask], l.x[(l.at-whole)&mask], l.x[(l.at-whole-1)&mask], l.x[(l.at-whole-2)&mask]
	return b + 0.5*t*(c-a+t*(2*a-5*b+4*c-d+t*(3*(b-c)+d-a)))
}

// Tape is what a tape machine makes of a sound: even saturation, a lift where the head is
// about as long as the wave, less top, and a speed that is never quite the same.
type Tape struct {
	rate  float64
	drive Drive
	bump  Filter
	top   Filter
	last  [3]float64
	way   wobble
}

func newTape(rate float64) *Tape {
	return &Tape{rate: rate, drive: Drive{rate: rate, curve: -1}, way: newWobble(rate)}
}

// Tune takes the numbers of its kind.
func (t *Tape) Tune(v []float64, glide int) {
	numbers := [3]float64{float64(dsp.Soft), v[0], 0}
	t.drive.Tune(numbers[:], glide)
	if corners := [3]float64{v[1], v[2], v[3]}; corners != t.last {
		t.last = corners
		t.bump.to(dsp.Bell(v[2], 0.9, v[1], t.rate), glide)
		t.top.to(dsp.LowPass(v[3], math.Sqrt2/2, t.rate), glide)
		t.bump.tail = int(10 / v[2] * t.rate)
	}
	t.way.wow.to(v[4]/wowAtFull, glide)
	t.way.flutter.to(v[5]/flutterAtFull, glide)
}

func (t *Tape) at(c Clock) { t.way.at(c) }

// Process colours.
func (t *Tape) Process(b Block, _ []float64) {
	t.bump.Process(b, nil)
	t.drive.Process(b, nil)
	if t.last[2] < 20000 {
		t.top.Process(b, nil)
	}
	t.way.run(b)
}

// Latency is the way to the head at rest and that of bending.
func (t *Tape) Latency() int { return t.way.latency() + t.drive.Latency() }

// Tail is what the bump rings and what is on its way.
func (t *Tape) Tail() int { return t.bump.tail + 2*t.way.latency() + t.drive.Tail() }

// Reset forgets the past.
func (t *Tape) Reset() {
	t.drive.Reset()
	t.bump.Reset()
	t.top.Reset()
	t.way.reset()
}

var wornKind = inRows(kind("worn", "Worn medium", func(rate float64) Tuned { return newWorn(rate) },
	hz("low_hz", "Nothing below", 20, 1000, 180),
	hz("high_hz", "Nothing above", 1000, 16000, 4500),
	weighted("wow_weighted_percent", "Wow, weighted", wowAtFull, 0.05),
	weighted("flutter_weighted_percent", "Flutter, weighted", flutterAtFull, 0.2),
	percent("mono_percent", "To the middle", 0, 100, 60),
	db("crackle_db", "Crackle", -80, 0, -50),
	db("hiss_rms_db", "Hiss, RMS", -80, 0, -77),
))

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
	return &Worn{rate: rate, way: newWobble(rate), crackle: newBed(rate), hiss: newBed(rate)}
}

// Tune takes the numbers of its kind.
func (w *Worn) Tune(v []float64, glide int) {
	if corners := [2]float64{v[0], v[1]}; corners != w.last {
		w.last = corners
		w.cuts[0].to(dsp.HighPass(v[0], math.Sqrt2/2, w.rate), glide)
		w.cuts[1].to(dsp.LowPass(v[1], math.Sqrt2/2, w.rate), glide)
		w.cuts[0].tail = int(3.2 / v[0] * w.rate)
	}
	w.way.wow.to(v[2]/wowAtFull, glide)
	w.way.flutter.to(v[3]/flutterAtFull, glide)
	w.mono.to(v[4]/100, glide)
	crackle, hiss := [4]float64{1, v[5], 0, 200}, [4]float64{0, v[6], 0, 200}
	w.crackle.Tune(crackle[:], glide)
	w.hiss.Tune(hiss[:], glide)
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
