package effect

import (
	"math"
	"strings"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "width", Label: "Width", Group: Space, Order: 4, Hint: "Stereo width, detune, mono lows",
	Picture: Spectrum,
	Params: []param.Param{
		{ID: "detune_ct", Label: "Detune", Unit: "ct", Min: 0, Max: 50, Default: 0, Scale: param.Linear},
		param.Milliseconds("delay_ms", "Right delay", 0, 30, 0),
		param.Percent("side_percent", "Width", 0, 200, 100),
		param.Hertz("mono_below_hz", "Mono below", 20, 1000, 20),
	},
	Words:  widthWords,
	Shared: func(v func(string) float64) bool { return v("detune_ct") == 0 },
	make:   func(rate float64) Tuned { return newWidth(rate) },
})

// widthWindowMS is over how long a detuned copy is read before it starts again.
const widthWindowMS = 40.0

// Width makes a sound wide: left and right apart by some cents, the right side
// later, the sides louder or softer than the middle, and the lows in the middle
// all the same.
type Width struct {
	rate  float64
	line  [2]line
	ratio ramp // by which left is higher and right is lower, minus 1
	later ramp // frames
	sides ramp
	turn  turn // of the window
	mono  float64
	lows  [2]dsp.Biquad // of the sides: a high-pass of fourth order
}

func newWidth(rate float64) *Width {
	w := &Width{rate: rate, turn: turn{up: true}}
	for c := range w.line {
		w.line[c] = newLine(int((widthWindowMS+40)/1000*rate) + 8)
	}
	return w
}

func widthWords(s Said) [2]string {
	var all []string
	if s.Value("delay_ms") > 0 {
		all = append(all, "right "+s.Text("delay_ms")+" ms later")
	}
	if s.Value("detune_ct") > 0 {
		all = append(all, "±"+s.Text("detune_ct")+" ct")
	}
	if s.Value("side_percent") != 100 {
		all = append(all, "width "+s.Text("side_percent")+" %")
	}
	if s.Value("mono_below_hz") > 20 {
		all = append(all, "mono below "+s.Hertz("mono_below_hz"))
	}
	if len(all) == 0 {
		return [2]string{"width", "unchanged"}
	}
	return [2]string{all[0], strings.Join(all[1:], ", ")}
}

// Tune takes the parameters of its kind.
func (w *Width) Tune(v Values, glide int) {
	w.ratio.to(math.Exp2(v.Get("detune_ct")/1200)-1, glide)
	w.later.to(v.Get("delay_ms")/1000*w.rate, glide)
	w.sides.to(v.Get("side_percent")/100, glide)
	if mono := v.Get("mono_below_hz"); mono != w.mono {
		w.mono = mono
		f := dsp.HighPass(mono, math.Sqrt2/2, w.rate)
		w.lows[0].Take(f)
		w.lows[1].Take(f)
	}
}

func (w *Width) at(c Clock) { w.turn.at(c, 0) }

// Process widens. It needs both channels.
func (w *Width) Process(b Block, _ []float64) {
	window := widthWindowMS / 1000 * w.rate
	for i := range b.Left {
		w.line[0].write(b.Left[i])
		w.line[1].write(b.Right[i])
		ratio, later := w.ratio.next(), w.later.next()
		left, right := b.Left[i], b.Right[i]
		if ratio > 0 {
			// In a loop the window is so much shorter that whole ones fit.
			step := ratio / window
			span := window / w.turn.by(step)
			left, right = w.turned(0, -1, 0, span), w.turned(1, 1, later, span)
			w.turn.next(step, 1)
		} else if later > 0 {
			right = w.line[1].read(later + 1)
		}
		mid, side := (left+right)/2, (left-right)/2*w.sides.next()
		if w.mono > 20 {
			side = w.lows[1].Next(w.lows[0].Next(side))
		}
		b.Left[i], b.Right[i] = mid+side, mid-side
	}
}

// turned reads a channel faster or slower: two places half a window apart, each
// faded out where it starts again. A stroke begins at the place that has no delay.
func (w *Width) turned(c int, way, later, span float64) float64 {
	window := widthWindowMS / 1000 * w.rate
	at := func(phase float64) float64 {
		if phase >= 1 {
			phase--
		}
		gain := 0.5 + 0.5*math.Cos(2*math.Pi*phase)
		return gain * w.line[c].read(1+later+window/2+way*span*centred(phase))
	}
	return at(w.turn.phase) + at(w.turn.phase+0.5)
}

// centred is a phase from -0.5 to 0.5.
func centred(phase float64) float64 {
	if phase >= 0.5 {
		return phase - 1
	}
	return phase
}

// Latency is half of the window where copies are detuned.
func (w *Width) Latency() int {
	if w.ratio.goal > 0 {
		return int(widthWindowMS / 2000 * w.rate)
	}
	return 0
}

// Tail is what the lines hold.
func (w *Width) Tail() int {
	tail := int(w.later.goal) + int(8/w.mono*w.rate) + 8
	if w.ratio.goal > 0 {
		tail += int(widthWindowMS / 2000 * w.rate)
	}
	return tail
}

// Reset forgets the past.
func (w *Width) Reset() {
	w.ratio.end()
	w.later.end()
	w.sides.end()
	w.turn.reset()
	for c := range 2 {
		w.line[c].reset()
		w.lows[c].Reset()
	}
}

func (w *Width) gap() int { return lineGap }
