package listen

import (
	"fmt"
	"math"
	"sort"

	"jubrak/core/groove"
	"jubrak/core/sound"
)

// Correction is one thing that a person set right about what was heard. It
// is kept apart from Raw, so it survives a new analysis and can be undone.
type Correction struct {
	// Kind is "halve", "double" (tempo), "bar_one" (Beats moves bar one
	// later by that many beats), "delete", "add" or "refile" (hits).
	Kind     string       `json:"kind"`
	Beats    int          `json:"beats"`
	Hit      string       `json:"hit"`
	Time     float64      `json:"time_s"`
	Family   sound.Family `json:"family"`
	Velocity int          `json:"velocity"`
}

// Validate checks the correction by itself.
func (c *Correction) Validate() error {
	switch c.Kind {
	case "halve", "double":
		return nil
	case "bar_one":
		if c.Beats < -16 || c.Beats > 16 {
			return fmt.Errorf("bar one moves by at most 16 beats at once")
		}
		return nil
	case "delete":
		return nil
	case "add":
		if !(c.Time >= 0 && c.Time < 36000) || c.Velocity < 1 || c.Velocity > 127 || !c.Family.Known() {
			return fmt.Errorf("a hit needs a time, a known family and a velocity of 1 to 127")
		}
		return nil
	case "refile":
		if !c.Family.Known() {
			return fmt.Errorf("unknown family %q", c.Family)
		}
		return nil
	}
	return fmt.Errorf("unknown correction %q", c.Kind)
}

// Finish applies corrections to what was heard and works out everything that
// follows from it.
func Finish(raw *Raw, corrections []Correction) *Analysis {
	a := &Analysis{
		Duration: raw.Duration, SampleRate: raw.SampleRate, Meter: "4/4",
		Beats: []float64{}, Downbeats: []float64{}, Level: raw.Level, Balance: raw.Balance,
		KickHz: raw.KickHz, Groove: Density{Density: map[sound.Family]float64{}},
	}
	a.Hits = append(a.Hits, raw.Hits...)
	var grid *groove.BeatGrid
	if raw.Grid != nil {
		copied := *raw.Grid
		copied.Beats = append([]float64(nil), raw.Grid.Beats...)
		grid = &copied
	}
	for i, c := range corrections {
		a.correct(grid, c, i)
	}
	sort.SliceStable(a.Hits, func(i, j int) bool { return a.Hits[i].Time < a.Hits[j].Time })
	if a.Hits == nil {
		a.Hits = []Hit{}
	}
	if grid == nil {
		return a
	}
	a.Meter = fmt.Sprintf("%d/%d", grid.PerBar, raw.Unit)
	confidence := raw.Confidence
	a.Confidence = &confidence
	a.place(grid)
	bpm := grid.BPM()
	a.Tempo, a.Grid = &bpm, grid
	a.Beats = grid.Beats
	for i := ((grid.Downbeat % grid.PerBar) + grid.PerBar) % grid.PerBar; i < len(grid.Beats); i += grid.PerBar {
		a.Downbeats = append(a.Downbeats, grid.Beats[i])
	}
	beats := (grid.Beats[len(grid.Beats)-1] - grid.Beats[0]) / 60 * bpm
	for _, h := range a.Hits {
		a.Groove.Density[h.Family] += 1 / math.Max(beats, 1)
	}
	a.CycleBars = a.cycle()
	return a
}

func (a *Analysis) correct(grid *groove.BeatGrid, c Correction, index int) {
	switch c.Kind {
	case "double":
		if grid != nil {
			doubleBeats(grid)
		}
	case "halve":
		if grid != nil && len(grid.Beats) >= 4 {
			halveBeats(grid)
		}
	case "bar_one":
		if grid != nil {
			grid.Downbeat += c.Beats
			grid.Downbeat = ((grid.Downbeat % grid.PerBar) + grid.PerBar) % grid.PerBar
		}
	case "delete":
		for i := range a.Hits {
			if a.Hits[i].ID == c.Hit {
				a.Hits = append(a.Hits[:i:i], a.Hits[i+1:]...)
				return
			}
		}
	case "refile":
		for i := range a.Hits {
			if a.Hits[i].ID == c.Hit {
				a.Hits[i].Family, a.Hits[i].Confidence = c.Family, 1
			}
		}
	case "add":
		a.Hits = append(a.Hits, Hit{ID: fmt.Sprintf("c%d", index+1), Time: c.Time, Family: c.Family, Velocity: c.Velocity, Confidence: 1})
	}
}

func doubleBeats(g *groove.BeatGrid) {
	out := make([]float64, 0, 2*len(g.Beats))
	for i, b := range g.Beats {
		out = append(out, b)
		if i+1 < len(g.Beats) {
			out = append(out, (b+g.Beats[i+1])/2)
		}
	}
	g.Beats, g.Downbeat = out, 2*g.Downbeat
}

func halveBeats(g *groove.BeatGrid) {
	first := ((g.Downbeat % 2) + 2) % 2
	var out []float64
	for i := first; i < len(g.Beats); i += 2 {
		out = append(out, g.Beats[i])
	}
	g.Beats, g.Downbeat = out, (g.Downbeat-first)/2
}

// place assigns hits to steps, measures the feel, and moves the grid so that
// the anchor's on-beat hits average zero.
func (a *Analysis) place(grid *groove.BeatGrid) {
	const steps = 4
	heard := make([]groove.Heard, len(a.Hits))
	for i, h := range a.Hits {
		heard[i] = groove.Heard{Voice: string(h.Family), Time: h.Time, Velocity: h.Velocity}
	}
	placed, pair := groove.Assign(heard, grid, steps)
	frame := groove.Frame{Steps: steps, PerBar: grid.PerBar, Beat: 60 / grid.BPM(), Pair: pair, Anchor: string(sound.Kick)}
	m := groove.Measure(placed, frame)
	for i := range grid.Beats {
		grid.Beats[i] += m.OriginShift / 1000
	}
	a.Feel = &m
	perBar := steps * grid.PerBar
	for i := range a.Hits {
		bar := int(math.Floor(float64(placed[i].Step) / float64(perBar)))
		step := placed[i].Step - bar*perBar
		offset := placed[i].Offset - m.OriginShift
		a.Hits[i].Bar, a.Hits[i].Step, a.Hits[i].Offset = &bar, &step, &offset
		a.Bars = max(a.Bars, bar+1)
	}
}

// cycle is the shortest of 1, 2, 4 or 8 bars after which the pattern
// repeats: of the hits of each family that has enough of them, and of all
// together, nearly nine in ten have their like one cycle later. nil where the
// file is too short to say.
func (a *Analysis) cycle() *int {
	type place struct {
		family    sound.Family
		bar, step int
	}
	at := map[place]bool{}
	last := -1
	for _, h := range a.Hits {
		at[place{h.Family, *h.Bar, *h.Step}] = true
		last = max(last, *h.Bar)
	}
	for _, n := range []int{1, 2, 4, 8} {
		if last+1 < 2*n {
			return nil
		}
		same, all := map[sound.Family]int{}, map[sound.Family]int{}
		for p := range at {
			if p.bar < 0 || p.bar+n > last {
				continue
			}
			for _, group := range []sound.Family{p.family, ""} {
				all[group]++
				if at[place{p.family, p.bar + n, p.step}] {
					same[group]++
				}
			}
		}
		repeats := all[""] > 0
		for group, count := range all {
			if count >= 8 || group == "" {
				repeats = repeats && float64(same[group]) >= 0.88*float64(count)
			}
		}
		if repeats {
			return &n
		}
	}
	return nil
}
