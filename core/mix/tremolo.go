package mix

import (
	"math"

	"jubrak/core/param"
)

var tremoloKind = inRows(kind("tremolo", "Tremolo and auto-pan", func(rate float64) Tuned { return &Tremolo{rate: rate} },
	param.Choice("acts", "", "Moves", "level", "left and right"),
	param.Choice("wave", "", "Wave", "sine", "triangle", "square", "falling", "rising"),
	param.Choice("time", "", countedIn, "beats", "Hz"),
	param.Param{ID: "beats", Label: "Once in", Unit: "beats", Min: 0.0625, Max: 32, Default: 0.5, Scale: param.Log},
	hz("rate_hz", "Rate", 0.05, 40, 4),
	percent("depth_percent", "Depth", 0, 100, 60),
	percent("phase_percent", "Phase", 0, 100, 0),
))

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

// Tune takes the numbers of its kind.
func (t *Tremolo) Tune(v []float64, glide int) {
	t.pan, t.wave, t.inBeats = v[0] == 1, int(v[1]), v[2] == 0
	t.beats, t.hertz = v[3], v[4]
	t.depth.to(v[5]/100, glide)
	t.phase.to(v[6]/100, glide)
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

// Process trembles.
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
