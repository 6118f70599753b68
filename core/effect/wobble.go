package effect

import (
	"math"

	"jubrak/core/param"
)

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

// tune takes wow and flutter.
func (w *wobble) tune(v Values, glide int) {
	w.wow.to(v.Get("wow_weighted_percent")/wowAtFull, glide)
	w.flutter.to(v.Get("flutter_weighted_percent")/flutterAtFull, glide)
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
