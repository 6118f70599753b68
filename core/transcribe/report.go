package transcribe

import (
	"context"
	"fmt"
	"math"
	"slices"
	"sort"

	"gonum.org/v1/gonum/stat"

	"jubrak/core/groove"
	"jubrak/core/sound"
)

// Finish applies corrections to what was heard and works out everything that
// follows from it. Its time grows as the number of hits does.
func Finish(raw *Raw, corrections []Correction) *Analysis {
	a, _ := FinishContext(context.Background(), raw, corrections) // nothing ends it
	return a
}

// FinishContext is Finish that is given up, with the context's error, when that ends.
func FinishContext(ctx context.Context, raw *Raw, corrections []Correction) (*Analysis, error) {
	a := &Analysis{
		Duration: raw.Duration, SampleRate: raw.SampleRate, Meter: "4/4", Unit: max(raw.Unit, 1), Steps: 4,
		Beats: []float64{}, Downbeats: []float64{}, Level: raw.Level, Balance: raw.Balance, Bands: raw.Bands, NoDrums: raw.NoDrums, OtherNotes: raw.OtherNotes,
		Share: raw.Share, Groove: Density{Density: map[sound.Family]float64{}},
		LeftOut: []Region{}, TempoCurve: []TempoPoint{}, Rolls: []Roll{}, ByStep: []StepStat{}, Cycles: []Cycle{}, Facts: []Fact{},
	}
	a.Hits = append(a.Hits, raw.Hits...)
	var grid *groove.BeatGrid
	if raw.Grid != nil {
		copied := *raw.Grid
		copied.Beats = append([]float64(nil), raw.Grid.Beats...)
		grid = &copied
	}
	confidence, barOne := raw.Confidence, raw.BarOne
	for i, c := range corrections {
		a.correct(grid, c, i)
		if c.setsBeat() {
			confidence = 1
		}
		if c.setsBar() {
			confidence, barOne = 1, 1
		}
	}
	sort.SliceStable(a.Hits, func(i, j int) bool { return a.Hits[i].Time < a.Hits[j].Time })
	if a.Hits == nil {
		a.Hits = []Hit{}
	}
	if grid != nil {
		a.BarOne = &barOne
		if err := a.measure(ctx, grid, confidence); err != nil {
			return nil, err
		}
		if barOne < 1 { // nobody has said
			if a.AlikeBeats = a.alikeFrom(); a.AlikeBeats != nil && *a.AlikeBeats%grid.PerBar != 0 {
				a.BarOne = nil
			}
		}
	}
	a.Facts = a.facts()
	return a, ctx.Err()
}

// measure works out what needs a grid.
func (a *Analysis) measure(ctx context.Context, grid *groove.BeatGrid, confidence float64) error {
	a.Meter = fmt.Sprintf("%d/%d", grid.PerBar, a.Unit)
	a.Confidence = &confidence
	if a.Unit == 8 && a.Steps == 4 {
		a.Steps = 2 // a step is a sixteenth
	}
	a.place(grid)
	if err := ctx.Err(); err != nil {
		return err
	}
	bpm := grid.BPM() * 4 / float64(a.Unit)
	a.Tempo, a.Grid = &bpm, grid
	a.Beats = grid.Beats
	for i := wrap(grid.Downbeat, grid.PerBar); i < len(grid.Beats); i += grid.PerBar {
		a.Downbeats = append(a.Downbeats, grid.Beats[i])
	}
	beats := float64(len(grid.Beats)-1) * 4 / float64(a.Unit)
	for _, h := range a.Counted() {
		a.Groove.Density[h.Family] += 1 / math.Max(beats, 1)
	}
	if n := a.loopBars(); n > 0 {
		a.LoopBars, a.Bars = &n, n
	}
	for _, part := range []func(){a.findCycles, func() { a.ByStep = a.byStep() }, func() { a.Steady = a.Steadiest() }, func() { a.TempoCurve = a.tempoCurve() }} {
		if part(); ctx.Err() != nil {
			return ctx.Err()
		}
	}
	return nil
}

// loopBars is how many bars the file is exactly long, if it begins with a bar
// and its tempo is steady; else 0.
func (a *Analysis) loopBars() int {
	bar := a.Grid.Seconds(float64(a.Grid.PerBar)) - a.Grid.Seconds(0)
	n := math.Round(a.Duration / bar)
	last := a.Grid.Seconds(n*float64(a.Grid.PerBar)) - a.Grid.Seconds((n-1)*float64(a.Grid.PerBar))
	if n < 1 || math.Abs(a.Grid.Seconds(0)) > 0.03 || math.Abs(last/bar-1) > 0.005 || math.Abs(a.Duration-n*bar) > math.Max(0.012, 0.0015*a.Duration) {
		return 0
	}
	return int(n)
}

// alikeFrom is after how many beats a loop is the same as from its beginning;
// nil where it is not.
func (a *Analysis) alikeFrom() *int {
	if a.LoopBars == nil || len(a.OnSteps()) == 0 {
		return nil
	}
	type place struct {
		family sound.Family
		step   int
	}
	beats := *a.LoopBars * a.Grid.PerBar
	struck := map[place]bool{}
	for _, h := range a.OnSteps() {
		struck[place{h.Family, wrap(*h.Bar*a.StepsPerBar()+*h.Step, beats*a.Steps)}] = true
	}
	for later := 1; 2*later <= beats; later++ {
		same := 0
		for p := range struck {
			if struck[place{p.family, (p.step + later*a.Steps) % (beats * a.Steps)}] {
				same++
			}
		}
		if beats%later == 0 && same == len(struck) {
			return &later
		}
	}
	return nil
}

// Counted are the hits that speak for feel and pattern.
func (a *Analysis) Counted() []Hit {
	if len(a.LeftOut) == 0 {
		return a.Hits
	}
	return slices.DeleteFunc(slices.Clone(a.Hits), func(h Hit) bool { return a.leftOut(h.Time) })
}

// OnSteps are the hits counted that are struck on steps of the grid: no grace
// notes, and not between steps in a roll. They are shared and not to be changed.
func (a *Analysis) OnSteps() []Hit {
	if a.onSteps == nil {
		a.onSteps = a.stepped()
	}
	return a.onSteps
}

func (a *Analysis) stepped() []Hit {
	return slices.DeleteFunc(append(make([]Hit, 0, len(a.Hits)), a.Counted()...), func(h Hit) bool { return h.Within != 0 || h.Grace })
}

func (a *Analysis) leftOut(t float64) bool {
	return slices.ContainsFunc(a.LeftOut, func(r Region) bool { return t >= r.From && t <= r.To })
}

// StepsPerBar is the number of steps of a bar.
func (a *Analysis) StepsPerBar() int { return a.Steps * a.Grid.PerBar }

// place assigns hits to steps, measures the feel, and moves the grid so that
// the anchor's on-beat hits average zero.
func (a *Analysis) place(grid *groove.BeatGrid) {
	heard := make([]groove.Heard, len(a.Hits))
	for i, h := range a.Hits {
		heard[i] = groove.Heard{Voice: string(h.Family), Time: h.Time, Velocity: h.Velocity, Covered: h.Covered}
		if h.Key != nil {
			heard[i].Voice = fmt.Sprint(h.Family, *h.Key) // each key rolls and flams by itself
		}
	}
	placed, rolls, pair := groove.Assign(heard, grid, a.Steps)
	for i := range placed {
		placed[i].Voice = string(a.Hits[i].Family)
	}
	var speaking []groove.Placed
	for _, p := range placed {
		if !a.leftOut(p.Time) {
			speaking = append(speaking, p)
		}
	}
	frame := groove.Frame{Steps: a.Steps, PerBar: grid.PerBar, Beat: 60 / grid.BPM(), Pair: pair, Anchor: string(sound.Kick)}
	m := groove.Measure(speaking, frame)
	if a.Unit == 8 { // the beat is an eighth, so all note values are half as long
		m.Grid *= 2
		m.Pair = 16
	}
	for i := range grid.Beats {
		grid.Beats[i] += m.OriginShift / 1000
	}
	a.Feel = &m
	perBar := a.Steps * grid.PerBar
	for i := range a.Hits {
		bar := int(math.Floor(float64(placed[i].Step) / float64(perBar)))
		step := placed[i].Step - bar*perBar
		offset := placed[i].Offset - m.OriginShift
		a.Hits[i].Bar, a.Hits[i].Step, a.Hits[i].Offset = &bar, &step, &offset
		a.Hits[i].Within, a.Hits[i].Grace = placed[i].Within*4/a.Unit, placed[i].Grace
		a.Bars = max(a.Bars, bar+1)
	}
	a.noteRolls(rolls)
}

// byStep folds the hits on the cycle, or on one bar where none is known.
func (a *Analysis) byStep() []StepStat {
	type place struct {
		family sound.Family
		step   int
	}
	length := a.StepsPerBar()
	if a.CycleBars != nil {
		length *= *a.CycleBars
	}
	at := map[place][]Hit{}
	for _, h := range a.OnSteps() {
		p := place{h.Family, wrap(*h.Bar*a.StepsPerBar()+*h.Step, length)}
		at[p] = append(at[p], h)
	}
	out := []StepStat{}
	for p, hits := range at {
		s := StepStat{Family: p.family, Step: p.step, Count: len(hits)}
		var offsets, velocities []float64
		for _, h := range hits {
			velocities = append(velocities, float64(h.Velocity))
			if !h.Covered {
				offsets = append(offsets, *h.Offset)
			}
		}
		s.Timed = len(offsets)
		s.Offset, s.OffsetSD = meanAndSD(offsets)
		s.Velocity, s.VelocitySD = meanAndSD(velocities)
		out = append(out, s)
	}
	sort.Slice(out, func(i, j int) bool {
		if out[i].Family != out[j].Family {
			return out[i].Family < out[j].Family
		}
		return out[i].Step < out[j].Step
	})
	return out
}

// meanAndSD are 0 of nothing; the spread of one is 0.
func meanAndSD(x []float64) (mean, sd float64) {
	switch len(x) {
	case 0:
		return 0, 0
	case 1:
		return x[0], 0
	}
	return stat.MeanStdDev(x, nil)
}

// tempoCurve is the tempo bar by bar: the tempo of the grid there, corrected
// by the slope of a line through the hits' offsets, less what is usual at
// their step, over the bar and its neighbours.
func (a *Analysis) tempoCurve() []TempoPoint {
	type place struct {
		family sound.Family
		step   int
	}
	sum, n := map[place]float64{}, map[place]float64{}
	at := map[int][]Hit{} // by bar
	for _, h := range a.OnSteps() {
		if h.Covered {
			continue
		}
		p := place{h.Family, *h.Step}
		sum[p], n[p] = sum[p]+*h.Offset, n[p]+1
		at[*h.Bar] = append(at[*h.Bar], h)
	}
	out := []TempoPoint{}
	for bar := range a.Bars {
		var x, y []float64
		for near := bar - 1; near <= bar+1; near++ {
			for _, h := range at[near] {
				if p := (place{h.Family, *h.Step}); n[p] >= 2 {
					x, y = append(x, h.Time), append(y, (*h.Offset-sum[p]/n[p])/1000)
				}
			}
		}
		slope, err, ok := slopeOf(x, y)
		if !ok {
			continue
		}
		beat := float64(bar*a.Grid.PerBar) + float64(a.Grid.PerBar)/2
		local := 60 / a.Grid.BeatSeconds(beat) * 4 / float64(a.Unit)
		out = append(out, TempoPoint{bar, a.Grid.Seconds(beat), local * (1 - slope), local * err})
	}
	return out
}

// slopeOf is the least-squares slope of y over x, with its standard error.
func slopeOf(x, y []float64) (slope, err float64, ok bool) {
	n := float64(len(x))
	if n < 6 {
		return 0, 0, false
	}
	var mx, my, xx, xy, rest float64
	for i := range x {
		mx, my = mx+x[i]/n, my+y[i]/n
	}
	for i := range x {
		xx += (x[i] - mx) * (x[i] - mx)
		xy += (x[i] - mx) * (y[i] - my)
	}
	if xx < 1e-6 {
		return 0, 0, false
	}
	slope = xy / xx
	for i := range x {
		rest += math.Pow(y[i]-my-slope*(x[i]-mx), 2)
	}
	return slope, math.Sqrt(rest / (n - 2) / xx), true
}
