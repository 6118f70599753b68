package service

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"sync"
	"time"

	"jubrak/app/jobs"
	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/fit"
	"jubrak/core/format"
	"jubrak/core/measure"
	"jubrak/core/project"
	"jubrak/core/slice"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// FitAsk asks for a recipe as near as can be to a target: a drum of a reference, another
// voice, a file that was uploaded; none of them is the voice's own target.
type FitAsk struct {
	// Kind is "recipe", or "layers" for up to three sounds of the library laid over each
	// other.
	Kind      FitKind         `json:"kind"`
	Reference string          `json:"reference"`
	Drum      *project.DrumOf `json:"drum"`
	Voice     string          `json:"voice"`
	File      string          `json:"file"`
	// Parts of a recipe may be used; empty are all. Held ones stay as they are in Layer,
	// from which the search goes on; an empty Layer is from what is measured.
	Parts []string `json:"parts"`
	Held  []string `json:"held"`
	Layer string   `json:"layer"`
	// Effects may be added.
	Effects bool `json:"effects"`
	// Evaluations is how many recipes are tried, 60 to MostEvaluations.
	Evaluations int `json:"evaluations"`
	Seed        int `json:"seed"`
}

// FitKind is what is fitted.
type FitKind string

// The kinds.
const (
	FitRecipe FitKind = "recipe"
	FitLayers FitKind = "layers"
)

// MostEvaluations is the most recipes that a fit tries.
const MostEvaluations = 20000

// FitSoFar is how far a fit has come.
type FitSoFar struct {
	Done float64 `json:"done"`
	// Loss is how far the nearest sound lies off, dB, where the target is known.
	Loss float64 `json:"loss_db"`
	// Target names what it is fitted to.
	Target string `json:"target"`
	// Layers are the nearest sound; none so far are empty.
	Layers []sound.Layer `json:"layers"`
	// Wave and Aim are the nearest sound and the target, each as loud as the other.
	Wave Peaks `json:"wave"`
	Aim  Peaks `json:"aim"`
	// Octaves are the third octaves of both.
	Octaves []FitBand `json:"third_octaves"`
	// Line is the loss over the work so far.
	Line []float64 `json:"line"`
	// Result is there once the search for a recipe has ended, Picks once sounds of the
	// library are found.
	Result *fit.Result      `json:"result"`
	Picks  *fit.Combination `json:"picks"`
}

// FitBand is a third octave, dB against the fullest of the target's.
type FitBand struct {
	Hz   float64 `json:"hz"`
	Mine float64 `json:"mine"`
	Aim  float64 `json:"aim"`
}

// FitFile is a file that was uploaded to fit a sound to.
type FitFile struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// fits are the fits of late, by job, and the files that they were made to.
type fits struct {
	sync.Mutex
	soFar map[string]*FitSoFar
	files map[string]*fitFile
	// starts are the targets' own first milliseconds, by job.
	starts map[string]*audio.Buffer
	order  []string // of both, the oldest first
}

type fitFile struct {
	name string
	b    *audio.Buffer
}

func newFits() *fits {
	return &fits{soFar: map[string]*FitSoFar{}, files: map[string]*fitFile{}, starts: map[string]*audio.Buffer{}}
}

// mostFits is how many fits and files are remembered.
const mostFits = 24

func (f *fits) remember(id string) {
	if f.order = append(f.order, id); len(f.order) > mostFits {
		delete(f.soFar, f.order[0])
		delete(f.files, f.order[0])
		delete(f.starts, f.order[0])
		f.order = f.order[1:]
	}
}

// FitTo keeps a file to fit sounds to, until some others have come.
func (s *Service) FitTo(name string, data []byte) (*FitFile, error) {
	if format.Sniff(data) == format.MIDI {
		return nil, &Refusal{Code: "invalid", Message: "A target is a recorded sound; this is a MIDI file."}
	}
	b, err := format.Decode(data)
	if err != nil {
		return nil, err
	}
	if b.Seconds() > sound.MaxLayerSeconds {
		return nil, &Refusal{Code: "invalid", Message: fmt.Sprintf("A target lasts at most %d s; this file lasts %.0f s. Bring it as a reference: its drums are taken out of it.", sound.MaxLayerSeconds, b.Seconds())}
	}
	s.fits.Lock()
	defer s.fits.Unlock()
	id := NewID()
	s.fits.files[id] = &fitFile{displayName(name), b}
	s.fits.remember(id)
	return &FitFile{id, displayName(name)}, nil
}

// noTarget says what to do where there is nothing to fit to.
var noTarget = &Refusal{Code: "invalid", Message: "This voice has no target yet. Choose a drum of a reference, another voice or a file."}

// fitTarget finds what a voice is fitted to, and what that is called.
func (s *Service) fitTarget(ctx context.Context, d *project.Document, v *sound.Voice, ask *FitAsk) (*fit.Target, string, error) {
	t := &fit.Target{Family: v.Family}
	switch {
	case ask.File != "":
		s.fits.Lock()
		file := s.fits.files[ask.File]
		s.fits.Unlock()
		if file == nil {
			return nil, "", &Refusal{Code: "invalid", Message: "The file is no longer at hand. Choose it again."}
		}
		t.Sound = file.b
		return t, file.name, nil
	case ask.Voice != "":
		of := d.Kit.Voice(ask.Voice)
		if of == nil {
			return nil, "", store.ErrNotFound
		}
		t.Sound = synth.Shot(of, s.samples(d), engine.Rate, d.Stroke(), 4000)
		return t, of.Name, nil
	}
	aim := d.Target(v.ID)
	if ask.Drum != nil {
		aim = &project.Target{Reference: ask.Reference, Drum: ask.Drum}
	}
	if aim == nil {
		return nil, "", noTarget
	}
	ref := d.Reference(aim.Reference)
	if ref == nil {
		return nil, "", noTarget
	}
	if aim.Drum == nil {
		whole, err := s.sound(ref)
		if err != nil || whole == nil {
			return nil, "", errors.Join(err, noTarget)
		}
		t.Sound = slice.Cut(whole, *aim.Slice)
		return t, fmt.Sprintf("%s, %.2f s", ref.Name, aim.Slice.From), nil
	}
	drum, b, err := s.drum(ctx, ref, *aim.Drum)
	if err != nil {
		return nil, "", err
	}
	shown := &TargetSound{Measures: *measure.Measure(b)}
	shown.known(drum)
	t.Sound, t.Known, t.Lead, t.Facts = b, &drum.Known, drumLead, &shown.Measures
	if drum.Soft != nil && drum.Soft.Sound != nil {
		t.Soft, t.SoftBy = fromStroke(drum.Soft.Sound), -drum.Soft.Level
	}
	return t, drumName(ref, drum.Family, drum.Group) + " of " + ref.Name, nil
}

// Fit begins to search a recipe for a voice; Fitted is how far it has come. Nothing of the
// project is changed.
func (s *Service) Fit(id, voice string, ask FitAsk) (jobs.Job, error) {
	st, err := s.Open(id)
	if err != nil {
		return jobs.Job{}, err
	}
	d := &st.Document
	v := d.Kit.Voice(voice)
	if v == nil {
		return jobs.Job{}, store.ErrNotFound
	}
	o := fit.Options{Parts: ask.Parts, Held: ask.Held, Effects: ask.Effects, Evaluations: ask.Evaluations, Seed: uint64(ask.Seed), GivesWay: s.Hub.Playing}
	if len(o.Parts) == 0 {
		o.Parts = nil
	}
	if ask.Evaluations > MostEvaluations {
		return jobs.Job{}, &Refusal{Code: "invalid", Message: fmt.Sprintf("A fit tries at most %d recipes.", MostEvaluations)}
	}
	name := ""
	if ask.Kind != FitRecipe && ask.Kind != FitLayers {
		return jobs.Job{}, &Refusal{Code: "invalid", Message: "What is fitted is a recipe or layers."}
	}
	if ask.Layer != "" {
		l := v.Layer(ask.Layer)
		if l == nil || l.Recipe == nil {
			return jobs.Job{}, &Refusal{Code: "invalid", Message: "Only a recipe can be gone on from."}
		}
		o.From, name = l.Recipe, l.Name
	}
	if err := o.Validate(); err != nil {
		return jobs.Job{}, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	if ask.Drum == nil && ask.Voice == "" && ask.File == "" && d.Target(voice) == nil {
		return jobs.Job{}, noTarget
	}
	ready := make(chan string, 1)
	job := s.Jobs.Start(jobs.Spec{Title: "Fitting " + v.Name, Kind: jobs.Fit, Project: id}, func(ctx context.Context, w *jobs.Watch) (string, error) {
		job := <-ready
		t, aim, err := s.fitTarget(ctx, d, v, &ask)
		if err != nil {
			return "", errors.New(Sentence(err))
		}
		w.Report("measuring "+aim, 0)
		if name == "" {
			name = cut(aim, sound.MaxName-len(softName))
		}
		f := &fitShown{s: s, job: job, aim: aim, name: name, target: t.Sound}
		s.fits.Lock()
		s.fits.starts[job] = startOf(t.Sound)
		s.fits.Unlock()
		if ask.Kind == FitLayers {
			return aim, s.fitLayers(ctx, t, f, w.Report)
		}
		result, err := fit.Fit(ctx, t, o, func(done float64, nearest *sound.Recipe, loss float64) {
			w.Report("searching", done)
			f.show(done, nearest, loss)
		})
		if err != nil {
			return "", errors.New(Sentence(err))
		}
		f.end(result)
		if err := ctx.Err(); err != nil {
			return "", err
		}
		return aim, nil
	})
	s.fits.Lock()
	s.fits.soFar[job.ID] = &FitSoFar{Layers: []sound.Layer{}, Wave: Peaks{Points: [][2]float64{}}, Aim: Peaks{Points: [][2]float64{}}, Octaves: []FitBand{}, Line: []float64{}}
	s.fits.remember(job.ID)
	s.fits.Unlock()
	ready <- job.ID
	return job, nil
}

// Fitted is how far a fit has come.
func (s *Service) Fitted(job string) (*FitSoFar, error) {
	s.fits.Lock()
	defer s.fits.Unlock()
	f := s.fits.soFar[job]
	if f == nil {
		return nil, store.ErrNotFound
	}
	out := *f
	return &out, nil
}

// fitShown draws what a fit has found, now and then.
type fitShown struct {
	s        *Service
	job, aim string
	name     string
	target   *audio.Buffer
	last     time.Time
	line     []float64
}

const (
	showEvery = 400 * time.Millisecond
	fitDrawn  = 300 // points of a wave
	longLine  = 400
)

func (f *fitShown) show(done float64, r *sound.Recipe, loss float64) {
	now := time.Now()
	if now.Sub(f.last) < showEvery || len(f.line) > longLine {
		return
	}
	f.last = now
	f.line = append(f.line, math.Round(loss*100)/100)
	f.put(done, loss, *r, levelOf(*r), nil)
}

func (f *fitShown) end(result *fit.Result) {
	f.put(1, result.Distance, result.Recipe, result.Level, result)
}

// softName ends the name of a layer for soft strokes.
const softName = " soft"

// cut is a name of at most n letters.
func cut(name string, n int) string {
	r := []rune(name)
	return strings.TrimSpace(string(r[:min(n, len(r))]))
}

func levelOf(r sound.Recipe) float64 { return fit.LevelFor(fit.Render(r, 1500)) }

// put draws a recipe beside the target.
func (f *fitShown) put(done, loss float64, r sound.Recipe, level float64, result *fit.Result) {
	r.Own()
	layer := sound.Synthesized("fit", f.name, r)
	layer.Level = level
	out := &FitSoFar{Done: done, Loss: loss, Layers: []sound.Layer{layer}, Line: slices.Clone(f.line), Result: result}
	if result != nil && result.Soft != nil {
		soft := sound.Synthesized("fit-soft", f.name+softName, result.Soft.Recipe)
		soft.Level = level
		soft.VelocityTo = result.Soft.To
		out.Layers[0].VelocityFrom = result.Soft.To + 1
		out.Layers = append(out.Layers, soft)
	}
	f.keep(out, fit.Render(r, 1500))
}

// keep draws what is found and keeps it.
func (f *fitShown) keep(out *FitSoFar, shot *audio.Buffer) {
	out.Target, out.Loss = f.aim, math.Round(out.Loss*100)/100
	out.Wave, out.Aim, out.Octaves = drawFit(shot, f.target)
	f.s.fits.Lock()
	defer f.s.fits.Unlock()
	if f.s.fits.soFar[f.job] != nil {
		f.s.fits.soFar[f.job] = out
	}
}

// drawFit draws a sound over its target: from the onset of each, both with a peak of 1.
func drawFit(mine, target *audio.Buffer) (wave, aim Peaks, bands []FitBand) {
	begin := func(b *audio.Buffer) float64 {
		return math.Max(float64(measure.Onset(b.Mono(), b.Rate))/float64(b.Rate)-0.003, 0)
	}
	seconds := math.Min(math.Max(target.Seconds()-begin(target), 0.05), 0.6)
	draw := func(b *audio.Buffer) Peaks {
		from := begin(b)
		p := *drawPeaks(b, &Peaks{From: from, To: from + seconds, Points: [][2]float64{}}, fitDrawn)
		top := math.Max(b.Peak(), 1e-9)
		for i := range p.Points {
			p.Points[i][0], p.Points[i][1] = p.Points[i][0]/top, p.Points[i][1]/top
		}
		return p
	}
	levels := func(b *audio.Buffer) (hz, db []float64) {
		return measure.NewMeanSpectrum(b.Slice(int(begin(b)*float64(b.Rate)), b.Frames()).Mono(), b.Rate).ThirdOctaves()
	}
	hz, theirs := levels(target)
	_, ours := levels(mine)
	top := math.Inf(-1)
	for _, v := range theirs {
		top = math.Max(top, v)
	}
	bands = []FitBand{}
	for i := range hz {
		if i < len(ours) {
			bands = append(bands, FitBand{math.Round(hz[i]), math.Round(10*(ours[i]-top)) / 10, math.Round(10*(theirs[i]-top)) / 10})
		}
	}
	return draw(mine), draw(target), bands
}

// startOf is a target from its onset on, as much as may be laid over another sound.
func startOf(b *audio.Buffer) *audio.Buffer {
	from := max(measure.Onset(b.Mono(), b.Rate)-b.Rate/1000, 0)
	return b.Slice(from, min(from+(ownAttack+ownFade+5)*b.Rate/1000, b.Frames())).Clone()
}

// drumLead is where the stroke is in what fromStroke makes, seconds.
const drumLead = 0.003

// fitLayers finds sounds of the library, shipped and the user's own, that add up to a target.
func (s *Service) fitLayers(ctx context.Context, t *fit.Target, f *fitShown, report func(stage string, done float64)) error {
	library, err := s.Library()
	if err != nil {
		return err
	}
	var sounds project.Document
	for _, sh := range library.Sounds {
		if len(sh.Layers)*fit.MostPicks <= sound.MaxLayers+1 {
			v := sound.NewVoice(sh.ID, sh.Name, sh.Family)
			v.Layers = sh.Layers
			sounds.Kit.Voices = append(sounds.Kit.Voices, v)
		}
	}
	samples, of := s.samples(&sounds), sounds.Kit.Voices
	var list []fit.Candidate
	for i := range of {
		if err := ctx.Err(); err != nil {
			return err
		}
		report("striking the library", 0.3*float64(i)/float64(len(of)))
		list = append(list, fit.Candidate{Name: of[i].Name, Shot: synth.Shot(&of[i], samples, measure.DistanceRate, synth.Hard(fit.Velocity, 1), 1500)})
	}
	c, err := fit.Combine(ctx, t, list, func(done float64) { report("adding sounds up", 0.3+0.7*done) })
	if err != nil {
		return errors.New(Sentence(err))
	}
	out := &FitSoFar{Done: 1, Loss: c.Distance, Layers: []sound.Layer{}, Line: []float64{}, Picks: c}
	sum := fit.Sum(list, c.Picks)
	louder := fit.LevelFor(sum)
	for n, p := range c.Picks {
		for m, l := range of[p.Candidate].Layers {
			l.ID = fmt.Sprintf("fit%d-%d", n+1, m+1)
			if len(of[p.Candidate].Layers) == 1 {
				l.Name = p.Name
			}
			l.Level = math.Min(math.Max(l.Level+p.Gain+louder, -48), 12)
			l.Start = math.Min(l.Start+p.Start, 100)
			l.LowCut, l.HighCut = math.Max(l.LowCut, p.LowCut), math.Min(l.HighCut, p.HighCut)
			out.Layers = append(out.Layers, l)
		}
	}
	f.keep(out, sum)
	return nil
}

// TakeFit makes what a fit has found the sound of its voice, and keeps it as an attempt.
type TakeFit struct {
	Base int    `json:"base"`
	Job  string `json:"job"`
	// Attack lays the target's own first milliseconds over it.
	Attack bool `json:"attack"`
	// Coalesce is that of the tries that were heard in the voice's place: all is one change.
	Coalesce string `json:"coalesce"`
}

// How much of a target's own start is laid over a fitted sound, and its fade, ms.
const (
	ownAttack = 12
	ownFade   = 8
)

// TakeFit makes what a fit has found the voice's sound, one change of the history, and an
// attempt of its own.
func (s *Service) TakeFit(id, voice string, ask TakeFit) (*State, error) {
	f, err := s.Fitted(ask.Job)
	if err != nil {
		return nil, err
	}
	if len(f.Layers) == 0 {
		return nil, &Refusal{Code: "invalid", Message: "Nothing is found yet."}
	}
	title := "Fit to " + f.Target
	layers := slices.Clone(f.Layers)
	if ask.Attack {
		s.fits.Lock()
		b := s.fits.starts[ask.Job]
		s.fits.Unlock()
		if b == nil {
			return nil, store.ErrNotFound
		}
		blob, free, err := s.keepSound(b)
		if err != nil {
			return nil, err
		}
		defer free()
		layers[0].Attack = &sound.Attack{Blob: blob, Length: ownAttack, Fade: ownFade, Level: math.Min(math.Max(audio.DB(0.7/math.Max(b.Peak(), 1e-6)), -48), 12)}
	}
	st, err := s.Edit(id, ask.Base, project.Edits{project.SetSound{Voice: voice, Layers: layers, Title: title}}, ask.Coalesce)
	if err != nil {
		return nil, err
	}
	_, err = s.KeepAttempt(id, voice, cut(title, sound.MaxName))
	return st, err
}
