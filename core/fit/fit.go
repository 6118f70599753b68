package fit

import (
	"context"
	"errors"
	"fmt"
	"math"
	"runtime"
	"slices"
	"sync"
	"time"

	"jubrak/core/audio"
	"jubrak/core/measure"
	"jubrak/core/sound"
)

// Options say what a fit may do.
type Options struct {
	// Parts may be used; nil are all.
	Parts []string
	// Held parts stay as they are in From.
	Held []string
	// From is where the search begins; nil is from what is measured.
	From *sound.Recipe
	// Effects may be added.
	Effects bool
	// Evaluations is how many recipes are tried, at least 60; 0 is DefaultEvaluations.
	Evaluations int
	// Budget only stops a search that takes too long; 0 is none.
	Budget time.Duration
	Seed   uint64
	// Workers is how many recipes are tried at a time; 0 is one for each processor. The
	// result does not depend on it.
	Workers int
	// GivesWay, where it is true, lets one recipe at a time be tried; nil never does.
	GivesWay func() bool
}

// DefaultEvaluations take about 10 s of one processor.
const DefaultEvaluations = 1000

// Result is a fitted recipe and how near it came.
type Result struct {
	Recipe sound.Recipe `json:"recipe"`
	// Soft is another one for soft strokes; nil where one does for all.
	Soft *SoftLayer `json:"soft"`
	// Level brings its hard stroke to a peak of -3 dBFS: that of the recipe's layer, dB.
	Level float64 `json:"level_db"`
	// Distance is measure.Distance to the target, Spectral is measure.SpectralDistance, dB.
	Distance    float64 `json:"distance_db"`
	Spectral    float64 `json:"spectral_db"`
	Evaluations int     `json:"evaluations"`
	// Stopped is true where time or the user ended the search before its evaluations.
	Stopped bool   `json:"stopped"`
	Seed    uint64 `json:"seed"`
	// Parts are measures of the fitted sound and of the target.
	Parts []Part `json:"parts"`
	// Words say what was not reached.
	Words []string `json:"words"`
}

// Part is a measure of the fitted sound beside the target's; nil cannot be measured.
type Part struct {
	Name   string   `json:"name"`
	Unit   string   `json:"unit"`
	Mine   *float64 `json:"mine"`
	Target *float64 `json:"target"`
	// Low and High are the ends of the range in which it is to lie, where there is one.
	Low  *float64 `json:"low"`
	High *float64 `json:"high"`
}

// Progress is called with the nearest recipe so far; it must not keep it.
type Progress func(done float64, nearest *sound.Recipe, loss float64)

type fitting struct {
	goal     *goal
	options  Options
	workers  int
	seed     uint64
	best     best
	all      int
	progress Progress
	alone    sync.Mutex
}

// Fit searches a recipe for a target. A context that ends stops the search; what is nearest
// then is the result.
func Fit(ctx context.Context, t *Target, o Options, progress Progress) (*Result, error) {
	g, err := t.ready()
	if err != nil {
		return nil, err
	}
	f := &fitting{goal: g, options: o, workers: o.Workers, seed: o.Seed, all: o.Evaluations, progress: progress}
	if f.workers <= 0 {
		f.workers = runtime.GOMAXPROCS(0)
	}
	if f.all == 0 {
		f.all = DefaultEvaluations
	}
	f.all = max(f.all, fewest)
	within := ctx
	if o.Budget > 0 {
		var cancel context.CancelFunc
		within, cancel = context.WithTimeout(ctx, o.Budget)
		defer cancel()
	}
	f.best.loss = 1e9
	f.begin(within)
	f.stages(within)
	f.simplify()
	f.tail()
	r := f.best.recipe
	var soft *SoftLayer
	if t.Soft != nil {
		r = g.softened(r, t)
		soft = g.soft(&r, t)
	}
	shot := Render(r, 3000)
	mine, aim := measure.Measure(shot), g.sound()
	return &Result{
		Recipe: r, Soft: soft, Level: LevelFor(shot), Evaluations: f.best.done, Stopped: within.Err() != nil, Seed: o.Seed,
		Distance: measure.Distance(shot, aim), Spectral: measure.SpectralDistance(shot, aim),
		Parts: partsOf(mine, g.facts), Words: g.words(&r, mine),
	}, nil
}

// loudestPeak is the peak of a fitted drum, dBFS.
const loudestPeak = -3.0

// LevelFor is the level of a layer, dB, that brings a stroke to a peak of -3 dBFS.
func LevelFor(shot *audio.Buffer) float64 {
	return math.Round(10*math.Min(math.Max(loudestPeak-audio.DB(shot.Peak()), -48), 12)) / 10
}

// begin draws the levels of each of some starts, and takes the nearest.
func (f *fitting) begin(ctx context.Context) {
	if f.options.From != nil {
		r := copied(f.options.From)
		f.try(&r)
		f.draw(ctx, 2)
		return
	}
	nearest := best{loss: 1e9}
	for _, shape := range f.shapes() {
		f.best.loss = 1e9
		r := f.start(shape)
		f.try(&r)
		f.turn()
		f.draw(ctx, 4)
		if f.best.loss < nearest.loss {
			nearest.loss, nearest.recipe = f.best.loss, f.best.recipe
		}
	}
	f.best.loss, f.best.recipe = nearest.loss, nearest.recipe
}

// turn finds the phase that the body starts with.
func (f *fitting) turn() {
	if !sounds(&f.best.recipe, "body") {
		return
	}
	r := copied(&f.best.recipe)
	for phase := 0.0; phase < 360; phase += 30 {
		r.Body.Phase = phase
		f.try(&r)
	}
}

// shapes are the shapes of the noise's filter that are tried, one where there is no noise.
func (f *fitting) shapes() []int {
	if !f.may("noise") {
		return []int{0}
	}
	if f.goal.family == sound.Kick || f.goal.family == sound.Bass808 {
		return []int{lowPassed, bandPassed}
	}
	return []int{lowPassed, highPassed, bandPassed}
}

// stages search the start of the target a few numbers at a time, round after round in
// smaller steps, with levels drawn anew after each; then the levels of all of it are drawn.
func (f *fitting) stages(ctx context.Context) {
	whole, start := f.goal, f.goal.brief()
	f.listen(start)
	stage := uint64(0)
	for round, step := range []float64{0.15, 0.08, 0.04} {
		blocks := f.blocks()
		each := float64(f.all-f.best.done)/float64(3-round) - 8
		sum := 0
		for _, b := range blocks {
			sum += 4 + len(b)
		}
		for _, b := range blocks {
			stage++
			f.search(ctx, b, int(each*float64(4+len(b))/float64(sum)), step, stage)
			f.draw(ctx, 1)
		}
		f.draw(ctx, 3)
	}
	f.listen(whole)
	f.draw(ctx, 6)
}

// listen goes on with another part of the target.
func (f *fitting) listen(g *goal) {
	f.goal, f.best.loss = g, 1e9
	r := copied(&f.best.recipe)
	f.try(&r)
}

// draw brings level curves and equalizers to the target some times over.
func (f *fitting) draw(ctx context.Context, times int) {
	g := f.goal
	for i := range times {
		if ctx.Err() != nil {
			return
		}
		r := copied(&f.best.recipe)
		h := g.hear(&r)
		if f.open("body") {
			g.redraw(&r, bodyCurve, h, g.bodyBands(&r), 12)
		}
		if f.open("noise") && i%2 == 0 {
			g.redraw(&r, noiseCurve, h, g.otherBands(&r), 12)
		}
		if f.options.Effects && i%2 == 1 {
			g.equalize(&r, h, 0)
		}
		f.try(&r)
	}
}

// may is whether a part may be used.
func (f *fitting) may(part string) bool {
	return f.options.Parts == nil || slices.Contains(f.options.Parts, part)
}

// open is whether a part may be changed.
func (f *fitting) open(part string) bool {
	return f.may(part) && !slices.Contains(f.options.Held, part)
}

func (f *fitting) report() {
	if f.progress != nil {
		f.progress(min(float64(f.best.done)/float64(f.all), 1), &f.best.recipe, f.best.loss)
	}
}

// blocks are the numbers that are searched together.
func (f *fitting) blocks() (out [][]gene) {
	r := &f.best.recipe
	if f.open("body") && sounds(r, "body") {
		hz := r.Body.End
		lo, hi := hz*0.996, hz*1.004
		if _, ok := measure.Arrives(f.goal.facts.PitchCurve); !ok {
			lo, hi = hz*0.8, hz*1.25
		} else if f.options.From != nil {
			lo, hi = min(lo, f.goal.hz*0.996), max(hi, f.goal.hz*1.004)
		}
		out = append(out, []gene{number("body.end_hz", max(lo, 20), min(hi, 2000)), number("body.start_hz", max(hi, 30), 3800), number("body.fall_ms", 2, 800), number("body.phase_deg", 0, 360)})
		harmonics := []gene{number("body.second_percent", 0, 30), number("body.second_ratio", 0.5, 8), number("body.second_decay_ms", 8, 1500)}
		if r.Effect(driveID) != nil && f.options.Effects {
			harmonics = append(harmonics, number("effects/"+driveID+"/amount_percent", 0, 95))
		}
		out = append(out, harmonics)
		if r.Curve(bodyCurve) == nil {
			out = append(out, []gene{number("body.level_db", -40, 6), number("body.attack_ms", 0.1, 40), number("body.decay_ms", 20, 4000)})
		}
	}
	if f.open("snap") && sounds(r, "snap") {
		out = append(out, []gene{number("snap.level_db", -50, 3), number("snap.colour_hz", 200, 12000), number("snap.decay_ms", 1, 100)})
	}
	if f.open("noise") && r.Curve(colorCurve) == nil && sounds(r, "noise") {
		out = append(out, []gene{number("noise.level_db", -50, 6), number("noise.attack_ms", 0.1, 60), number("noise.decay_ms", 10, 4000), number("noise.colour_hz", 150, 18000), number("noise.width_oct", 0.2, 5)})
	}
	if f.open("noise") && r.Curve(colorCurve) != nil {
		out = append(out, []gene{moved(colorCurve, "noise.colour_hz", true, 300, 18000), moved(colorCurve, "noise.colour_hz", false, 150, 16000), end(colorCurve, 8, 1500), number("noise.width_oct", 0.8, 5)})
	}
	if f.open("ring") && sounds(r, "ring") {
		hz := max(f.goal.hz, 40)
		out = append(out, []gene{number("ring.level_db", -50, 3), number("ring.pitch_hz", hz*0.7, hz*5), number("ring.decay_ms", 15, 2500), number("ring.damping_percent", 0, 100), number("ring.strike_percent", 0, 100)})
	}
	if f.open("metal") && sounds(r, "metal") {
		out = append(out, []gene{number("metal.level_db", -50, 3), number("metal.pitch_hz", 150, 2500), number("metal.decay_ms", 15, 3000), number("metal.ringing_percent", 0, 100)})
	}
	return out
}

// Parts are the parts of a recipe that a fit uses.
var Parts = []string{"body", "snap", "noise", "metal", "ring"}

// Validate checks the options.
func (o *Options) Validate() error {
	for _, list := range [][]string{o.Parts, o.Held} {
		for _, p := range list {
			if !slices.Contains(Parts, p) {
				return fmt.Errorf("a recipe has no part %q", p)
			}
		}
	}
	if o.Evaluations != 0 && o.Evaluations < fewest {
		return fmt.Errorf("a fit tries at least %d recipes", fewest)
	}
	if len(o.Held) > 0 && o.From == nil {
		return errors.New("parts can be held only in a recipe that is gone on from")
	}
	return nil
}

// fewest is the least evaluations of a fit.
const fewest = 60
