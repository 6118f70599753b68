package effect

import (
	"fmt"

	"jubrak/core/param"
)

var _ = register(Kind{
	ID: "duck", Label: "Ducker, drawn shape", Group: Dynamics, Order: 6, Hint: "Follows a drawn, tempo-synced shape", Rows: true,
	Picture: Levels, Reduces: true, Alike: true, Shaped: true,
	Params: []param.Param{
		param.Percent("amount_percent", "Amount", 0, 100, 60),
		param.Milliseconds("smooth_ms", "Smoothing", 0.5, 50, 3),
		param.Percent("later_percent", "Offset", 0, 100, 0),
	},
	Words: func(s Said) [2]string {
		by := "on every beat"
		if s.ShapeName != "" {
			by = "by " + s.ShapeName
		}
		return [2]string{fmt.Sprintf("ducked %s %%", s.Text("amount_percent")), by}
	},
	make: func(rate float64) Tuned { return &Duck{rate: rate, shape: quarterDuck} },
})

// Duck turns a sound down by a shape over a part of the song's time: at 100 % where the
// shape lies at 0 nothing is left.
type Duck struct {
	rate          float64
	amount, later ramp
	smooth        float64
	shape         Shape `state:"shared"`
	gain          float64
	per           float64 // beats a frame
	turn          turn
	begun         bool
}

// quarterDuck is the shape of an effect that names none: down on every beat, back by its
// half (common practice).
var quarterDuck = Shape{ID: "quarter", Name: "Quarters", Beats: 1, Points: []float64{0, 0.15, 0.5, 0.8, 0.95, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1, 1}}

// Tune takes the parameters of its kind.
func (d *Duck) Tune(v Values, glide int) {
	d.amount.to(v.Get("amount_percent")/100, glide)
	d.smooth = 1 - pole(v.Get("smooth_ms"), d.rate)
	d.later.to(v.Get("later_percent")/100, glide)
}

func (d *Duck) follow(s *Shape) {
	if s == nil {
		s = &quarterDuck
	}
	d.shape = *s
}

func (d *Duck) at(c Clock) {
	d.per = c.PerFrame
	d.turn.atBeat(c, d.shape.Beats)
}

// Process ducks.
func (d *Duck) Process(b Block, _ []float64) {
	for i := range b.Left {
		goal := 1 - d.amount.next()*(1-d.shape.At((d.turn.phase-d.later.next())*d.shape.Beats))
		if !d.begun {
			d.gain, d.begun = goal, true
		}
		d.gain += (goal - d.gain) * d.smooth
		d.turn.next(d.per/d.shape.Beats, 1)
		times(b, i, d.gain)
	}
}

// Latency is 0.
func (d *Duck) Latency() int { return 0 }

// Tail is 0: it changes what is there.
func (d *Duck) Tail() int { return 0 }

// Reset begins anew.
func (d *Duck) Reset() {
	d.amount.end()
	d.later.end()
	d.begun = false
	d.turn.reset()
}
