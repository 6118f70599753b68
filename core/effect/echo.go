package effect

import (
	"fmt"
	"math"

	"jubrak/core/dsp"
	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "echo", Label: "Delay", Group: Space, Order: 2, Hint: "Echoes in ms or in beats", Rows: true, Mixed: 25,
	Picture: Levels,
	Params: []param.Param{
		unit("time", "Time in", "beats", "ms"),
		when(param.Param{ID: "beats", Label: "Beats", Unit: "beats", Min: 0.0625, Max: 4, Default: 0.75, Scale: param.Log}, "time", 0),
		when(param.Milliseconds("time_ms", "Time", 1, 2000, 250), "time", 1),
		param.Percent("feedback_percent", "Feedback", 0, 95, 35),
		param.Percent("cross_percent", "Ping-pong", 0, 100, 0),
		param.Hertz("low_cut_hz", "Low cut", 20, 4000, 150),
		param.Hertz("high_cut_hz", "High cut", 300, 20000, 7000),
	},
	Words: func(s Said) [2]string {
		time := s.Text("beats") + " beats"
		if s.Value("time") == 1 {
			time = s.Text("time_ms") + " ms"
		}
		return [2]string{fmt.Sprintf("delay, %s %%", s.Text(mixedID)), time}
	},
	make: func(rate float64) Tuned { return newEcho(rate) },
})

// echoMost is the longest time, seconds: four beats of a slow song are held to it.
const echoMost = 4.0

// Echo repeats a sound, softer and duller each time; from side to side it alternates
// left and right. A new time glides there, as a tape does.
type Echo struct {
	rate            float64
	inBeats         bool
	beats, ms       float64
	lead, time      float64 // frames, on their way: time follows lead, lead what is asked
	feedback, cross ramp
	line            [2]line
	cuts            [2][2]dsp.Moving
	last            [2]float64 // corners
	per             float64
	begun           bool
}

func newEcho(rate float64) *Echo {
	e := &Echo{rate: rate, per: 2 / rate}
	for c := range e.line {
		e.line[c] = newLine(int(echoMost*rate) + 8)
	}
	return e
}

// Tune takes the parameters of its kind.
func (e *Echo) Tune(v Values, glide int) {
	e.inBeats, e.beats, e.ms = !v.Is("time"), v.Get("beats"), v.Get("time_ms")
	e.feedback.to(v.Get("feedback_percent")/100, glide)
	e.cross.to(v.Get("cross_percent")/100, glide)
	if corners := [2]float64{v.Get("low_cut_hz"), v.Get("high_cut_hz")}; corners != e.last {
		e.last = corners
		for c := range 2 {
			e.cuts[c][0].To(dsp.HighPass(corners[0], math.Sqrt2/2, e.rate), glide)
			e.cuts[c][1].To(dsp.LowPass(corners[1], math.Sqrt2/2, e.rate), glide)
		}
	}
}

func (e *Echo) at(c Clock) {
	if c.PerFrame > 0 {
		e.per = c.PerFrame
	}
}

func (e *Echo) goal() float64 {
	frames := e.ms / 1000 * e.rate
	if e.inBeats {
		frames = e.beats / e.per
	}
	return min(max(frames, 2), echoMost*e.rate)
}

// Process repeats; only what comes back is heard, and the mix of the effect adds the sound
// itself.
func (e *Echo) Process(b Block, _ []float64) {
	goal := e.goal()
	if !e.begun {
		e.lead, e.time, e.begun = goal, goal, true
	}
	follow := 1 - pole(30, e.rate)
	for i := range b.Left {
		e.lead += (goal - e.lead) * follow
		e.time += (e.lead - e.time) * follow
		if math.Abs(goal-e.time) < 1e-3 && math.Abs(goal-e.lead) < 1e-3 {
			e.lead, e.time = goal, goal
		}
		left, right := e.line[0].read(e.time), e.line[1].read(e.time)
		left = e.cuts[0][1].Next(e.cuts[0][0].Next(left))
		right = e.cuts[1][1].Next(e.cuts[1][0].Next(right))
		feedback, cross := e.feedback.next(), e.cross.next()
		inL, inR := b.Left[i], b.Right[i]
		mid := (inL + inR) / 2
		// From side to side all goes in at the left and changes sides at each round.
		e.line[0].write(inL + (mid-inL)*cross + feedback*(left+(right-left)*cross))
		e.line[1].write(inR*(1-cross) + feedback*right*(1-cross) + left*cross)
		b.Left[i], b.Right[i] = left, right
	}
}

// Latency is 0.
func (e *Echo) Latency() int { return 0 }

// Tail is until the rounds are 60 dB down, at most 20 seconds.
func (e *Echo) Tail() int {
	rounds := 2.0
	if e.feedback.goal > 0.01 {
		rounds += 60 / (-20 * math.Log10(e.feedback.goal))
	}
	return int(min(rounds*e.goal()*(1+e.cross.goal), 20*e.rate))
}

// Reset forgets the past.
func (e *Echo) Reset() {
	e.feedback.end()
	e.cross.end()
	for c := range 2 {
		e.line[c].reset()
		e.cuts[c][0].Reset()
		e.cuts[c][1].Reset()
	}
	e.begun = false
}
