// Package rebuild makes a project of one's own of a reference: its pattern and feel, a voice
// for each of its drums, fitted or sampled, and their levels, places and bus, all ordinary
// and editable. Each step is edits; whoever calls makes them and hears it grow.
package rebuild

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"jubrak/core/audio"
	"jubrak/core/compare"
	"jubrak/core/fit"
	"jubrak/core/isolate"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Sounds is what the drums of a rebuilt project are made of.
type Sounds string

// The kinds: recipes fitted to the reference's drums, the drums themselves as samples, both
// as layers, or the sounds that are there, only brought nearer.
const (
	Fits    Sounds = "fits"
	Samples Sounds = "samples"
	Both    Sounds = "both"
	Kept    Sounds = "kept"
)

// Stage is a step of a rebuild and what came of it.
type Stage struct {
	// ID is "pattern", "drum/" with a voice, "mix", or "compare".
	ID    string `json:"id"`
	Title string `json:"title"`
	// State is "waiting", "running", "done" or "left".
	State State `json:"state"`
	// Result says what came of it, Weak what is not as it should be.
	Result string   `json:"result"`
	Weak   []string `json:"weak"`
}

// State is how far a step is.
type State string

// The states; left is a step that was stopped before its end.
const (
	Waiting State = "waiting"
	Running State = "running"
	Done    State = "done"
	Left    State = "left"
)

// ErrNothing is the error for a reference in which there is nothing to rebuild.
var ErrNothing = errors.New("no drums were heard in this reference, so there is nothing to rebuild; choose another one, or add strokes by hand in Reference")

// Host makes the changes of a rebuild.
type Host struct {
	// Put makes edits, one change of the history, and returns the document then.
	Put func(edits project.Edits) (*project.Document, error)
	// Keep keeps a sound and returns the name of its blob; until free is called nobody
	// removes it.
	Keep func(b *audio.Buffer) (blob string, free func(), err error)
	// Samples are the sounds of layers of a document.
	Samples func(d *project.Document) sound.Samples
	Env     project.Env
	// GivesWay is true while something plays.
	GivesWay func() bool
	// Show is called with all steps whenever one of them has come further.
	Show func(stages []Stage, done float64)
}

// Options say how a project is rebuilt.
type Options struct {
	Sounds Sounds
	// Evaluations is how many recipes are tried for each drum; 0 is usualTries.
	Evaluations int
	Seed        uint64
}

// usualTries are recipes tried for each drum: fewer than a fit by itself, for there are many.
const usualTries = 500

// Report is what came of a rebuild.
type Report struct {
	Stages []Stage `json:"stages"`
	// Comparison is the rebuilt project against the reference, on the render.
	Comparison *compare.Comparison `json:"comparison"`
	// Stopped is true where it was stopped before its end: what was there stays.
	Stopped bool `json:"stopped"`
}

// rebuilding is a rebuild under way.
type rebuilding struct {
	h      *Host
	o      Options
	a      *compare.Against
	d      *project.Document
	stages []Stage
	// of are the drums, by voice.
	of map[string]*isolate.Drum
	// order are the voices that are made, in order.
	order []string
}

// Rebuild makes d, which has the reference as its active one, sound like it. A context that
// ends stops it; what is made then stays, and is reported.
func Rebuild(ctx context.Context, d *project.Document, a *compare.Against, o Options, h *Host) (*Report, error) {
	an := a.Analysis
	if a.Profile == nil && (an.Grid == nil || an.Feel == nil || len(an.Groove.Density) == 0) {
		return nil, ErrNothing
	}
	r := &rebuilding{h: h, o: o, a: a, d: d, of: map[string]*isolate.Drum{}}
	if r.o.Evaluations == 0 {
		r.o.Evaluations = usualTries
	}
	r.stages = append(r.stages, Stage{ID: "pattern", Title: "Pattern and feel", State: Waiting})
	r.plan()
	r.stages = append(r.stages, Stage{ID: "mix", Title: "Levels and bus", State: Waiting}, Stage{ID: "compare", Title: "Compared", State: Waiting})
	for i := range r.stages {
		r.stages[i].Weak = []string{}
	}
	out := &Report{}
	err := r.run(ctx, out)
	if ctx.Err() != nil && err != nil {
		out.Stopped, err = true, nil
		for i := range r.stages {
			if r.stages[i].State != Done {
				r.stages[i].State = Left
			}
		}
	}
	out.Stages = slices.Clone(r.stages)
	return out, err
}

func (r *rebuilding) run(ctx context.Context, out *Report) error {
	if err := r.stage("pattern", 0, func(s *Stage) error { return r.pattern(s) }); err != nil {
		return err
	}
	for i, id := range r.order {
		if err := r.stage("drum/"+id, 0.1+0.6*float64(i)/float64(len(r.order)), func(s *Stage) error { return r.voice(ctx, id, s) }); err != nil {
			return err
		}
	}
	if err := r.stage("mix", 0.72, func(s *Stage) error { return r.mix(ctx, s) }); err != nil {
		return err
	}
	return r.stage("compare", 0.95, func(s *Stage) error { return r.compare(ctx, s, out) })
}

// stage runs one step and shows it before and after.
func (r *rebuilding) stage(id string, done float64, do func(s *Stage) error) error {
	i := slices.IndexFunc(r.stages, func(s Stage) bool { return s.ID == id })
	s := &r.stages[i]
	s.State = Running
	r.h.Show(slices.Clone(r.stages), done)
	if err := do(s); err != nil {
		return err
	}
	s.State = Done
	r.h.Show(slices.Clone(r.stages), done)
	return nil
}

// plan says which voices are made: one for each drum, and for each family that strikes.
func (r *rebuilding) plan() {
	for _, f := range sound.Families {
		if r.a.Analysis.Groove.Density[f] == 0 {
			continue
		}
		var own []*isolate.Drum
		for i := range r.a.Drums {
			if r.a.Drums[i].Family == f {
				own = append(own, &r.a.Drums[i])
			}
		}
		for k := range max(len(own), 1) {
			id := idOf(f, k)
			r.order = append(r.order, id)
			name := f.Label()
			if k < len(own) {
				r.of[id] = own[k]
				if own[k].Group > 1 {
					name = fmt.Sprintf("%s %d", name, own[k].Group)
				}
			}
			r.stages = append(r.stages, Stage{ID: "drum/" + id, Title: name, State: Waiting})
		}
	}
}

func idOf(f sound.Family, k int) string {
	id := strings.ReplaceAll(string(f), "_", "-")
	if k > 0 {
		id = fmt.Sprintf("%s-%d", id, k+1)
	}
	return "r-" + id
}

// pattern makes the voices, and puts the hits of the reference where and how they fell.
func (r *rebuilding) pattern(s *Stage) error {
	edits := project.Edits{}
	if r.o.Sounds == Kept {
		r.keepVoices()
		for _, id := range r.order {
			if f := r.family(id); r.d.Kit.Voice(id) == nil {
				edits = append(edits, project.AddVoice{Family: f, Name: f.Label()})
			}
		}
	} else {
		kit := project.SetKit{Title: "for the rebuild"}
		for _, id := range r.order {
			f := r.family(id)
			v := sound.NewVoice(id, r.title(id), f)
			if usual := defaultVoice(f); usual != nil {
				v.Layers = usual.Layers
			}
			kit.Voices = append(kit.Voices, v)
		}
		edits = append(edits, kit)
	}
	edits = append(edits, project.TakeBoth{Bars: project.AllBars})
	if err := r.put(edits); err != nil {
		return err
	}
	if r.o.Sounds == Kept {
		r.keepVoices() // those that were added have ids now
	} else {
		for i := range r.order { // a kit gives its voices the ids of those before
			r.rename(i, r.d.Kit.Voices[i].ID)
		}
	}
	if err := r.put(r.divided()); err != nil {
		return err
	}
	hits := 0
	for i := range r.d.Groove.Lanes {
		hits += len(r.d.Groove.Lanes[i].Hits)
	}
	s.Result = fmt.Sprintf("%d hits over %d bars at %.2f BPM", hits, r.d.Groove.Bars, r.d.Tempo[0].BPM)
	if n := r.a.Analysis.Bars - r.d.Groove.Bars; n > 0 && r.a.Profile == nil && r.a.Analysis.LoopBars == nil {
		s.Weak = append(s.Weak, fmt.Sprintf("The last %d bars are left out: a groove has at most %d.", n, r.d.Groove.Bars))
	}
	return nil
}

// keepVoices lets the voices that are there stand for the families.
func (r *rebuilding) keepVoices() {
	for i, id := range r.order {
		f := r.family(id)
		v := compare.Voice(r.d, f)
		if v == nil || v.ID == id || slices.Contains(r.order, v.ID) {
			continue
		}
		r.rename(i, v.ID)
	}
}

// rename calls the voice at a place of the order by the id that it has in the kit.
func (r *rebuilding) rename(i int, id string) {
	was := r.order[i]
	if was == id {
		return
	}
	if drum := r.of[was]; drum != nil {
		delete(r.of, was)
		r.of[id] = drum
	}
	for k := range r.stages {
		if r.stages[k].ID == "drum/"+was {
			r.stages[k].ID = "drum/" + id
		}
	}
	r.order[i] = id
}

func (r *rebuilding) family(id string) sound.Family {
	if v := r.d.Kit.Voice(id); v != nil {
		return v.Family
	}
	if d := r.of[id]; d != nil {
		return d.Family
	}
	for _, f := range sound.Families {
		if idOf(f, 0) == id {
			return f
		}
	}
	return sound.Perc
}

func (r *rebuilding) title(id string) string {
	for i := range r.stages {
		if r.stages[i].ID == "drum/"+id {
			return r.stages[i].Title
		}
	}
	return id
}

// defaultVoice is the voice of a family in the default kit, or nil.
func defaultVoice(f sound.Family) *sound.Voice {
	kit := sound.DefaultKit()
	return kit.ForFamily(f)
}

// divided moves the hits of a row's second drum to a voice of its own.
func (r *rebuilding) divided() (out project.Edits) {
	if r.o.Sounds == Kept {
		return nil
	}
	a := r.a.Analysis
	for _, id := range r.order {
		drum := r.of[id]
		if drum == nil || drum.Group < 2 {
			continue
		}
		first := r.order[slices.IndexFunc(r.order, func(id string) bool { return r.family(id) == drum.Family })]
		lane := r.d.Groove.Lane(first)
		if lane == nil {
			continue
		}
		mine := map[string]bool{}
		for _, s := range drum.Strokes {
			mine[s.Hit] = true
		}
		var refs []project.HitRef
		step := 960 * 4 / a.Unit / a.Steps
		for i := range a.Hits {
			h := &a.Hits[i]
			if !mine[h.ID] || h.Bar == nil || h.Step == nil {
				continue
			}
			tick := (*h.Bar*a.StepsPerBar()+*h.Step)*step + h.Within
			for _, l := range lane.Hits {
				if l.Tick == tick {
					refs = append(refs, project.HitRef{Voice: first, Hit: l.ID})
				}
			}
		}
		if len(refs) > 0 {
			out = append(out, project.MoveHits{Hits: refs, Voice: id})
		}
	}
	return out
}

func (r *rebuilding) put(edits project.Edits) error {
	if len(edits) == 0 {
		return nil
	}
	d, err := r.h.Put(edits)
	if err == nil {
		r.d = d
	}
	return err
}

// softTop is the velocity up to which a soft sample answers, softFade how wide the crossfade
// is.
const (
	softTop  = 70
	softFade = 24
	// bothDown is how much softer recipe and sample are where both sound, dB.
	bothDown = -6.0
	// fitHeard is up to which distance a fit is near, dB: beyond it is said to be weak.
	fitHeard = 4.0
)

// voice makes the sound of one voice and puts it where the drum is.
func (r *rebuilding) voice(ctx context.Context, id string, s *Stage) error {
	drum := r.of[id]
	if drum == nil {
		if s.Result = "a sound of its family: the reference's is not known by itself"; r.o.Sounds == Kept {
			s.Result = "kept as it is: the reference's is not known by itself"
		}
		if r.a.Profile == nil {
			s.Weak = append(s.Weak, "Its sound was not found in the reference.")
		}
		return nil
	}
	edits := project.Edits{project.SetTarget{Target: project.Target{Voice: id, Reference: r.a.Reference, Drum: &project.DrumOf{Family: drum.Family, Group: drum.Group}}}}
	if r.o.Sounds == Kept {
		s.Result = "kept; brought nearer in the mix"
		return r.put(edits)
	}
	var layers []sound.Layer
	if r.o.Sounds != Fits {
		sampled, free, err := r.sampled(drum, s)
		if err != nil {
			return err
		}
		defer free()
		layers = sampled
		s.Result = "the reference's own sound"
	}
	if r.o.Sounds != Samples {
		got, err := fit.Fit(ctx, r.target(drum), fit.Options{Effects: true, Evaluations: r.o.Evaluations, Seed: r.o.Seed, GivesWay: r.h.GivesWay}, func(float64, *sound.Recipe, float64) {})
		if err != nil {
			s.Weak = append(s.Weak, fmt.Sprintf("It could not be fitted: %v.", err))
			return r.put(edits)
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		fitted := recipes(got)
		if len(layers) > 0 {
			for i := range layers {
				layers[i].Level += bothDown
			}
			for i := range fitted {
				fitted[i].Level += bothDown
			}
		}
		layers = append(layers, fitted...)
		s.Result = fmt.Sprintf("fitted, %.1f dB from it", got.Distance)
		if got.Distance > fitHeard {
			s.Weak = append(s.Weak, got.Words...)
		}
	}
	edits = append(edits, project.SetSound{Voice: id, Layers: layers, Title: "Rebuilt"})
	if pan := panOf(drum.Sound); r.o.Sounds == Fits && math.Abs(pan) > 0.05 {
		edits = append(edits, project.SetNumber{At: id + "/pan", Value: pan})
	}
	return r.put(edits)
}

// target is a drum as what a recipe is fitted to.
func (r *rebuilding) target(d *isolate.Drum) *fit.Target {
	t := &fit.Target{Family: d.Family, Sound: compare.DrumSound(d), Known: &d.Known, Lead: 0.003}
	if d.Soft != nil && d.Soft.Sound != nil {
		t.Soft, t.SoftBy = d.Soft.Sound.Slice(int((isolate.Lead-0.003)*float64(d.Soft.Sound.Rate)), d.Soft.Sound.Frames()), -d.Soft.Level
	}
	return t
}

// recipes are the layers of a fit.
func recipes(got *fit.Result) []sound.Layer {
	hard := sound.Synthesized("fit", "Fitted", got.Recipe)
	hard.Level = got.Level
	if got.Soft == nil {
		return []sound.Layer{hard}
	}
	hard.VelocityFrom = got.Soft.To + 1
	soft := sound.Synthesized("fit-soft", "Fitted, soft", got.Soft.Recipe)
	soft.Level, soft.VelocityTo = got.Level, got.Soft.To
	return []sound.Layer{hard, soft}
}

// sampled are the layers of a drum's own sound: a soft one below a loud one where soft
// strokes are known.
func (r *rebuilding) sampled(d *isolate.Drum, s *Stage) ([]sound.Layer, func(), error) {
	keep := func(b *audio.Buffer) (string, func(), error) { return r.h.Keep(ended(b)) }
	blob, free, err := keep(compare.DrumSound(d))
	if err != nil {
		return nil, nil, err
	}
	loud := sound.Recorded("sample", "Of the reference", blob)
	if d.Known.To < 60 {
		s.Weak = append(s.Weak, "Little of its sound is known: what follows is a guess.")
	}
	if d.Soft == nil || d.Soft.Sound == nil {
		return []sound.Layer{loud}, free, nil
	}
	blob, more, err := keep(d.Soft.Sound.Slice(int((isolate.Lead-0.003)*float64(d.Soft.Sound.Rate)), d.Soft.Sound.Frames()))
	if err != nil {
		free()
		return nil, nil, err
	}
	soft := sound.Recorded("sample-soft", "Of the reference, soft", blob)
	soft.VelocityTo, soft.VelocityFade = softTop, softFade
	loud.VelocityFrom, loud.VelocityFade = softTop+1, softFade
	return []sound.Layer{loud, soft}, func() { free(); more() }, nil
}

// ended is a sound with an end that does not click.
func ended(b *audio.Buffer) *audio.Buffer {
	out := b.Clone()
	n := min(b.Rate/50, out.Frames())
	for _, ch := range out.Channels {
		for i := range n {
			ch[len(ch)-1-i] *= float32(i) / float32(n)
		}
	}
	return out
}

// panOf is where a sound of two sides lies, -1 to 1, at equal power.
func panOf(b *audio.Buffer) float64 {
	if len(b.Channels) < 2 {
		return 0
	}
	energy := func(ch []float32) (sum float64) {
		for _, v := range ch {
			sum += float64(v) * float64(v)
		}
		return sum
	}
	left, right := energy(b.Channels[0]), energy(b.Channels[1])
	if left+right == 0 {
		return 0
	}
	return math.Round(100*(4/math.Pi*math.Atan2(math.Sqrt(right), math.Sqrt(left))-1)) / 100
}
