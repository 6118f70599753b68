package effect

import (
	"math"

	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "tremolo", Label: "Tremolo and auto-pan", Group: Modulation, Order: 1, Hint: "Modulates level or pan", Rows: true,
	Picture: Levels, Reduces: true,
	Params: []param.Param{
		param.Choice("acts", "", "Modulates", "level", "pan"),
		param.Choice("wave", "", "Wave", "sine", "triangle", "square", "falling", "rising"),
		unit("time", "Time in", "beats", "Hz"),
		when(param.Param{ID: "beats", Label: "Every", Unit: "beats", Min: 0.0625, Max: 32, Default: 0.5, Scale: param.Log}, "time", 0),
		when(param.Hertz("rate_hz", "Rate", 0.05, 40, 4), "time", 1),
		param.Percent("depth_percent", "Depth", 0, 100, 60),
		param.Percent("phase_percent", "Phase", 0, 100, 0),
	},
	Words: func(s Said) [2]string {
		return [2]string{[2]string{"tremolo", "auto-pan"}[int(s.Value("acts"))], s.rate()}
	},
	make: func(rate float64) Tuned { return &Tremolo{rate: rate} },
})

// Tremolo moves a sound's level, or its side with constant power, in time with the song
// or by itself.
type Tremolo struct {
	rate         float64
	pan          bool
	wave         int
	inBeats      bool
	beats, hertz float64
	depth, phase ramp
	per          float64 // beats a frame
	turn         turn
	left, right  float64 // gains, smoothed
	begun        bool
}

// rate is how often what modulates comes round.
func (s Said) rate() string {
	if s.Value("time") == 1 {
		return s.Text("rate_hz") + " Hz"
	}
	return "every " + s.Text("beats") + " beats"
}

// Tune takes the parameters of its kind.
func (t *Tremolo) Tune(v Values, glide int) {
	t.pan, t.wave, t.inBeats = v.Is("acts"), int(v.Get("wave")), !v.Is("time")
	t.beats, t.hertz = v.Get("beats"), v.Get("rate_hz")
	t.depth.to(v.Get("depth_percent")/100, glide)
	t.phase.to(v.Get("phase_percent")/100, glide)
}

func (t *Tremolo) at(c Clock) {
	t.per = c.PerFrame
	if t.inBeats {
		t.turn.atBeat(c, t.beats)
	} else {
		t.turn.at(c, 0)
	}
}

// wavesAt are the waves from -1 to 1 at a phase of 0 to 1; all but the square begin at 0
// or fall from the top.
func wavesAt(wave int, phase float64) float64 {
	switch wave {
	case 1:
		return 1 - 4*math.Abs(math.Mod(phase+0.25, 1)-0.5)
	case 2:
		if phase < 0.5 {
			return 1
		}
		return -1
	case 3:
		return 1 - 2*phase
	case 4:
		return 2*phase - 1
	}
	return math.Sin(2 * math.Pi * phase)
}

// Process applies the tremolo to b in place.
func (t *Tremolo) Process(b Block, _ []float64) {
	smooth := 1 - pole(0.7, t.rate) // a square does not click
	for i := range b.Left {
		step := t.hertz / t.rate
		if t.inBeats {
			step = t.per / t.beats
		}
		phase := t.turn.phase + t.phase.next()
		t.turn.next(step, 1)
		x := wavesAt(t.wave, phase-math.Floor(phase)) * t.depth.next()
		left, right := 1.0, 1.0
		if t.pan {
			angle := (x + 1) * math.Pi / 4
			left, right = math.Cos(angle)*math.Sqrt2, math.Sin(angle)*math.Sqrt2
		} else {
			left = 1 - t.depth.now/2 + x/2
			right = left
		}
		if !t.begun {
			t.left, t.right, t.begun = left, right, true
		}
		t.left += (left - t.left) * smooth
		t.right += (right - t.right) * smooth
		b.Left[i] *= t.left
		b.Right[i] *= t.right
	}
}

// Latency is 0.
func (t *Tremolo) Latency() int { return 0 }

// Tail is 0: it changes what is there.
func (t *Tremolo) Tail() int { return 0 }

// Reset begins anew.
func (t *Tremolo) Reset() {
	t.depth.end()
	t.phase.end()
	t.turn.reset()
	t.begun = false
}
