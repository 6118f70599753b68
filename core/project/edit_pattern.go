package project

import (
	"fmt"
	"slices"

	"jubrak/core/groove"
)

// Edits of whole lanes and of the pattern as a whole.
var patternEdits = map[string]Edit{
	"lane.grid": SetLane{}, "lane.shift": ShiftLane{}, "lane.fill": FillLane{}, "lane.spread": SpreadLane{},
	"groove.times": TimesGroove{}, "groove.repeat": RepeatBars{}, "groove.name": NameGroove{}, "groove.meter": SetMeter{},
	"hit.stretch": StretchHits{}, "hit.accent": TouchHits{}, "hit.sound": SoundHits{}, "hit.open": OpenHits{},
}

// NameGroove gives the groove another name.
type NameGroove struct {
	// Name has 1 to 80 letters.
	Name string `json:"name"`
}

func (e NameGroove) apply(d *Document, _ Env) ([]string, error) {
	if e.Name == "" || len([]rune(e.Name)) > 80 {
		return nil, fmt.Errorf("a groove's name has 1 to 80 letters")
	}
	d.Groove.Name = e.Name
	return nil, nil
}

func (e NameGroove) name(_, after *Document) string { return "Groove named " + after.Groove.Name }

// SetLane gives a lane a grid and a length of its own. Hits beyond its end go.
type SetLane struct {
	Voice string `json:"voice"`
	// Grid is steps per quarter note; 0 is the groove's.
	Grid int `json:"grid"`
	// Steps is its length in steps of its grid; 0 is the groove's.
	Steps int `json:"steps"`
}

func (e SetLane) apply(d *Document, _ Env) ([]string, error) {
	i, l, err := d.laneOf(e.Voice)
	if err != nil {
		return nil, err
	}
	if e.Grid != 0 && !slices.Contains(groove.Grids, e.Grid) {
		return nil, fmt.Errorf("grid %d is not one of %v steps per quarter note", e.Grid, groove.Grids)
	}
	if e.Steps < 0 || e.Steps > 1024 {
		return nil, fmt.Errorf("a lane has at most 1024 steps")
	}
	l.Grid, l.Steps = e.Grid, e.Steps
	end := d.Groove.LaneTicks(i)
	remove(l, func(h groove.Hit) bool { return h.Tick >= end })
	return nil, nil
}

func (e SetLane) name(before, _ *Document) string {
	switch {
	case e.Steps > 0:
		return fmt.Sprintf("%s: repeats after %s", before.nameOf(e.Voice), count(e.Steps, "step"))
	case e.Grid > 0:
		return fmt.Sprintf("%s: grid of %d steps a beat", before.nameOf(e.Voice), e.Grid)
	}
	return before.nameOf(e.Voice) + ": as long and as fine as the groove"
}

// laneOf finds or adds a voice's lane in a draft.
func (d *Document) laneOf(voice string) (int, *groove.Lane, error) {
	if d.Kit.Voice(voice) == nil {
		return 0, nil, noVoice(voice)
	}
	d.Groove.EnsureLane(voice)
	i := slices.IndexFunc(d.Groove.Lanes, func(l groove.Lane) bool { return l.Voice == voice })
	return i, &d.Groove.Lanes[i], nil
}

// ShiftLane moves all hits of a lane round by steps: what leaves at one end comes in at
// the other.
type ShiftLane struct {
	Voice string `json:"voice"`
	// Steps is by how many of its grid; negative is earlier.
	Steps int `json:"steps"`
}

func (e ShiftLane) apply(d *Document, _ Env) ([]string, error) {
	i, l, err := d.laneOf(e.Voice)
	if err != nil {
		return nil, err
	}
	length := d.Groove.LaneTicks(i)
	own(l)
	for j := range l.Hits {
		t := (l.Hits[j].Tick + e.Steps%1024*d.Groove.LaneStep(i)) % length
		l.Hits[j].Tick = (t + length) % length
	}
	l.Sort()
	return nil, nil
}

func (e ShiftLane) name(before, _ *Document) string {
	way := "later"
	n := e.Steps
	if n < 0 {
		way, n = "earlier", -n
	}
	return fmt.Sprintf("%s: %s %s", before.nameOf(e.Voice), count(n, "step"), way)
}

// FillLane puts a hit on every nth step of a lane, in place of what was there.
type FillLane struct {
	Voice string `json:"voice"`
	// Every is 1 for each step, 2 for every second, and so on.
	Every int `json:"every"`
	// From is the first step, counted from 0.
	From int `json:"from"`
	// Velocity is 1 to 127; 0 stands for 100.
	Velocity int `json:"velocity,omitempty"`
}

func (e FillLane) apply(d *Document, _ Env) ([]string, error) {
	i, l, err := d.laneOf(e.Voice)
	if err != nil {
		return nil, err
	}
	n := (d.Groove.LaneTicks(i) + d.Groove.LaneStep(i) - 1) / d.Groove.LaneStep(i)
	if e.Every < 1 || e.Every > n || e.From < 0 || e.From >= n {
		return nil, fmt.Errorf("this lane has %s: fill every 1 to %d of them, from step 1 to %d", count(n, "step"), n, n)
	}
	var steps []int
	for s := e.From; s < n; s += e.Every {
		steps = append(steps, s)
	}
	l.Hits = onSteps(steps, d.Groove.LaneStep(i), e.Velocity)
	return nil, nil
}

func onSteps(steps []int, ticks, velocity int) []groove.Hit {
	if velocity == 0 {
		velocity = 100
	}
	out := []groove.Hit{}
	for n, s := range steps {
		out = append(out, groove.Hit{ID: fmt.Sprintf("h%d", n+1), Tick: s * ticks, Velocity: velocity})
	}
	return out
}

func (e FillLane) name(before, _ *Document) string {
	return fmt.Sprintf("%s: on every %s", before.nameOf(e.Voice), ordinal(e.Every, "step"))
}

func ordinal(n int, what string) string {
	switch n {
	case 1:
		return what
	case 2:
		return "2nd " + what
	case 3:
		return "3rd " + what
	}
	return fmt.Sprintf("%dth %s", n, what)
}

// SpreadLane spreads strokes as evenly as can be over so many steps, again and again
// along the lane (Bjorklund's algorithm; Toussaint, The Euclidean algorithm generates
// traditional musical rhythms, 2005).
type SpreadLane struct {
	Voice string `json:"voice"`
	// Strokes is how many fall on the steps.
	Strokes int `json:"strokes"`
	// Steps is over how many steps they are spread.
	Steps int `json:"steps"`
	// Rotate is how many steps later the first falls.
	Rotate int `json:"rotate"`
	// Velocity is 1 to 127; 0 stands for 100.
	Velocity int `json:"velocity,omitempty"`
}

func (e SpreadLane) apply(d *Document, _ Env) ([]string, error) {
	i, l, err := d.laneOf(e.Voice)
	if err != nil {
		return nil, err
	}
	if e.Steps < 1 || e.Steps > 1024 || e.Strokes < 0 || e.Strokes > e.Steps {
		return nil, fmt.Errorf("at most as many strokes as steps are spread, over at most 1024 steps")
	}
	on := groove.Spread(e.Strokes, e.Steps)
	var steps []int
	for s := 0; s*d.Groove.LaneStep(i) < d.Groove.LaneTicks(i); s++ {
		if on[(((s-e.Rotate)%e.Steps)+e.Steps)%e.Steps] {
			steps = append(steps, s)
		}
	}
	l.Hits = onSteps(steps, d.Groove.LaneStep(i), e.Velocity)
	return nil, nil
}

func (e SpreadLane) name(before, _ *Document) string {
	return fmt.Sprintf("%s: %d spread over %s", before.nameOf(e.Voice), e.Strokes, count(e.Steps, "step"))
}

// Velocities of what is done in one stroke (common practice: ghosts at about a third,
// accents near the top).
const (
	ghostVelocity  = 40
	plainVelocity  = 100
	accentVelocity = 122
)
