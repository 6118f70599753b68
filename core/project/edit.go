package project

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/listen"
	"jubrak/core/music"
	"jubrak/core/sound"
)

// Edit is one change of a document. Op says which; the other fields are what
// it needs (see Ops). Times are ticks or ms, levels dB, pitches Hz.
type Edit struct {
	Op         string             `json:"op"`
	Voice      string             `json:"voice,omitempty"`
	Hits       []HitRef           `json:"hits,omitempty"`
	Param      string             `json:"param,omitempty"`
	Text       string             `json:"text,omitempty"`
	Value      float64            `json:"value,omitempty"`
	Tick       int                `json:"tick,omitempty"`
	Reference  string             `json:"reference,omitempty"`
	Correction *listen.Correction `json:"correction,omitempty"`
	New        *Reference         `json:"new_reference,omitempty"`
	Target     *Target            `json:"target,omitempty"`
	Layer      *sound.Layer       `json:"layer,omitempty"`
	Put        []NewHit           `json:"put,omitempty"`
}

// NewHit is a hit to be put on the lane of a voice.
type NewHit struct {
	Voice     string  `json:"voice"`
	Tick      int     `json:"tick"`
	Velocity  int     `json:"velocity"`
	Nudge     float64 `json:"nudge_ms"`
	Semitones float64 `json:"semitones"`
}

// HitRef names a hit by its voice and id.
type HitRef struct {
	Voice string `json:"voice"`
	Hit   string `json:"hit"`
}

// Env gives edits what the document does not hold itself.
type Env interface {
	// Analysis is what was heard in a reference, corrected.
	Analysis(ref *Reference) (*listen.Analysis, error)
}

type op func(d *Document, e *Edit, env Env) (notes []string, err error)

// ops lists every edit. The comment beside each tells the fields it reads.
var ops = map[string]op{
	"project.rename":        rename,                                                                                         // text
	"project.key":           plain(func(d *Document, e *Edit) error { d.Key = e.Text; return nil }),                         // text
	"tempo.set":             plain(func(d *Document, e *Edit) error { d.Tempo = music.Steady(e.Value); return nil }),        // value: BPM
	"groove.bars":           plain(setBars),                                                                                 // value
	"groove.grid":           plain(func(d *Document, e *Edit) error { d.Groove.Grid = int(e.Value); return nil }),           // value: steps per quarter
	"groove.clear":          plain(clearLanes),                                                                              // voice, or all
	"hit.add":               plain(addHit),                                                                                  // voice, tick, value: velocity
	"hit.put":               plain(putHits),                                                                                 // put
	"hit.delete":            plain(deleteHits),                                                                              // hits
	"hit.move":              plain(moveHits),                                                                                // hits, tick: by how much; voice: to this lane
	"hit.velocity":          plain(eachHit(func(h *groove.Hit, v float64) { h.Velocity = velocity(v) })),                    // hits, value
	"hit.louder":            plain(louder),                                                                                  // hits, value: by
	"hit.nudge":             plain(eachHit(func(h *groove.Hit, v float64) { h.Nudge = limit(v, groove.MaxNudge) })),         // hits, value: ms
	"hit.nudge_by":          plain(nudgeBy),                                                                                 // hits, value: ms
	"hit.pitch":             plain(eachHit(func(h *groove.Hit, v float64) { h.Semitones = limit(v, groove.MaxSemitones) })), // hits, value: semitones
	"feel.swing":            plain(func(d *Document, e *Edit) error { d.Groove.Feel.Swing = e.Value; return nil }),          // value: %
	"feel.pair":             plain(func(d *Document, e *Edit) error { d.Groove.Feel.Pair = int(e.Value); return nil }),      // value: 8 or 16
	"feel.strength":         plain(func(d *Document, e *Edit) error { d.Groove.Feel.Strength = e.Value; return nil }),       // value: %
	"feel.scatter_kind":     plain(func(d *Document, e *Edit) error { d.Groove.Feel.ScatterKind = e.Text; return nil }),     // text
	"feel.seed":             plain(func(d *Document, e *Edit) error { d.Groove.Seed = int64(e.Value); return nil }),         // value
	"feel.lean":             voiceFeel(func(f *groove.VoiceFeel, v float64) { f.Lean = v }),                                 // voice, value: ms
	"feel.scatter":          voiceFeel(func(f *groove.VoiceFeel, v float64) { f.Scatter = v }),                              // voice, value: ms
	"feel.velocity_scatter": voiceFeel(func(f *groove.VoiceFeel, v float64) { f.VelocityScatter = v }),                      // voice, value
	"feel.straight":         plain(func(d *Document, _ *Edit) error { d.Groove.Feel = groove.Straight(); return nil }),
	"voice.param":           plain(setParam),                                                                               // voice, param, value
	"voice.note":            plain(setNote),                                                                                // voice, text: note name
	"voice.gain":            voice(func(v *sound.Voice, e *Edit) { v.Gain = e.Value }),                                     // voice, value: dB
	"voice.gain_by":         voice(func(v *sound.Voice, e *Edit) { v.Gain = math.Max(math.Min(v.Gain+e.Value, 12), -60) }), // voice, value: dB
	"voice.pan":             voice(func(v *sound.Voice, e *Edit) { v.Pan = e.Value }),                                      // voice, value: -1..1
	"voice.mute":            voice(func(v *sound.Voice, e *Edit) { v.Mute = e.Value != 0 }),                                // voice, value: 0 or 1
	"voice.reset":           voice(func(v *sound.Voice, _ *Edit) { v.Recipe = sound.DefaultRecipe(v.Family) }),             // voice
	"voice.synth":           voice(func(v *sound.Voice, e *Edit) { v.SynthOff = e.Value == 0 }),                            // voice, value: 0 or 1
	"layer.add":             plain(addLayer),                                                                               // voice, layer
	"layer.set":             layer(func(l *sound.Layer, e *Edit) error { return l.Set(e.Param, e.Value) }),                 // voice, text: layer, param, value
	"layer.flip":            layer(func(l *sound.Layer, e *Edit) error { l.Flip = e.Value != 0; return nil }),              // voice, text: layer, value: 0 or 1
	"layer.mute":            layer(func(l *sound.Layer, e *Edit) error { l.Mute = e.Value != 0; return nil }),              // voice, text: layer, value: 0 or 1
	"layer.remove":          voice(removeLayer),                                                                            // voice, text: layer
	"reference.add":         plain(addReference),                                                                           // new_reference
	"reference.remove":      plain(removeReference),                                                                        // reference
	"reference.activate":    plain(func(d *Document, e *Edit) error { d.Active = e.Reference; return nil }),                // reference
	"reference.correct":     plain(correct),                                                                                // reference, correction
	"target.set":            plain(setTarget),                                                                              // target
	"target.clear":          plain(clearTarget),                                                                            // text: family
	"take.pattern":          take(true, false),                                                                             // reference
	"take.feel":             take(false, true),                                                                             // reference
	"take.both":             take(true, true),                                                                              // reference
}

// Ops names every edit, sorted.
func Ops() []string {
	var names []string
	for n := range ops {
		names = append(names, n)
	}
	sort.Strings(names)
	return names
}

// Apply makes the edits on a copy and returns it with notes for the user. The
// copy shares with d the hits of the lanes that no edit touched; neither may be
// changed. A refused edit leaves everything as it was.
func (d *Document) Apply(edits []Edit, env Env) (*Document, []string, error) {
	out := d.draft()
	var notes []string
	for i := range edits {
		do, ok := ops[edits[i].Op]
		if !ok {
			return nil, nil, fmt.Errorf("there is no edit called %q", edits[i].Op)
		}
		more, err := do(out, &edits[i], env)
		if err != nil {
			return nil, nil, err
		}
		notes = append(notes, more...)
	}
	out.tidy()
	if err := out.Validate(); err != nil {
		return nil, nil, err
	}
	return out, notes, nil
}

func plain(f func(*Document, *Edit) error) op {
	return func(d *Document, e *Edit, _ Env) ([]string, error) { return nil, f(d, e) }
}

func voice(f func(*sound.Voice, *Edit)) op {
	return plain(func(d *Document, e *Edit) error {
		v := d.Kit.Voice(e.Voice)
		if v == nil {
			return fmt.Errorf("there is no voice %q", e.Voice)
		}
		f(v, e)
		return nil
	})
}

func layer(f func(*sound.Layer, *Edit) error) op {
	return plain(func(d *Document, e *Edit) error {
		v := d.Kit.Voice(e.Voice)
		if v == nil || v.Layer(e.Text) == nil {
			return fmt.Errorf("the layer is no longer there")
		}
		return f(v.Layer(e.Text), e)
	})
}

func addLayer(d *Document, e *Edit) error {
	v := d.Kit.Voice(e.Voice)
	if v == nil || e.Layer == nil {
		return fmt.Errorf("there is no voice %q", e.Voice)
	}
	if v.Layer(e.Layer.ID) != nil {
		return fmt.Errorf("the layer needs an id of its own")
	}
	v.Layers = append(v.Layers, *e.Layer)
	return nil
}

func removeLayer(v *sound.Voice, e *Edit) {
	v.Layers = slices.DeleteFunc(v.Layers, func(l sound.Layer) bool { return l.ID == e.Text })
}

func voiceFeel(f func(*groove.VoiceFeel, float64)) op {
	return plain(func(d *Document, e *Edit) error {
		if d.Kit.Voice(e.Voice) == nil {
			return fmt.Errorf("there is no voice %q", e.Voice)
		}
		if d.Groove.Feel.Voices == nil {
			d.Groove.Feel.Voices = map[string]groove.VoiceFeel{}
		}
		v := d.Groove.Feel.Voices[e.Voice]
		f(&v, e.Value)
		d.Groove.Feel.Voices[e.Voice] = v
		return nil
	})
}

func velocity(v float64) int { return int(math.Round(math.Min(math.Max(v, 1), 127))) }

func limit(v, most float64) float64 { return math.Min(math.Max(v, -most), most) }

func rename(d *Document, e *Edit, _ Env) ([]string, error) {
	d.Name = strings.TrimSpace(e.Text)
	return nil, nil
}

// setBars changes the length; hits beyond the new end go.
func setBars(d *Document, e *Edit) error {
	d.Groove.Bars = int(e.Value)
	if d.Groove.Bars < 1 || d.Groove.Bars > groove.MaxBars {
		return fmt.Errorf("a groove has 1 to %d bars", groove.MaxBars)
	}
	for i := range d.Groove.Lanes {
		end := d.Groove.LaneTicks(i)
		remove(&d.Groove.Lanes[i], func(h groove.Hit) bool { return h.Tick >= end })
	}
	return nil
}

func clearLanes(d *Document, e *Edit) error {
	for i := range d.Groove.Lanes {
		if l := &d.Groove.Lanes[i]; e.Voice == "" || l.Voice == e.Voice {
			l.Hits = []groove.Hit{}
		}
	}
	return nil
}

func setParam(d *Document, e *Edit) error {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return fmt.Errorf("there is no voice %q", e.Voice)
	}
	p, ok := sound.ParamByID(e.Param)
	if !ok {
		return fmt.Errorf("there is no parameter %q", e.Param)
	}
	return p.Set(&v.Recipe, e.Value)
}

// setNote tunes the body to a note; the start of the fall moves with it.
func setNote(d *Document, e *Edit) error {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return fmt.Errorf("there is no voice %q", e.Voice)
	}
	n, err := music.ParseNote(e.Text)
	if err != nil {
		return err
	}
	ratio := v.Recipe.Body.Start / v.Recipe.Body.End
	hz := music.Hz(float64(n))
	for id, value := range map[string]float64{"body.end_hz": hz, "body.start_hz": hz * ratio} {
		p, _ := sound.ParamByID(id)
		if err := p.Set(&v.Recipe, value); err != nil {
			return err
		}
	}
	return nil
}

func addReference(d *Document, e *Edit) error {
	if e.New == nil || e.New.ID == "" || d.Reference(e.New.ID) != nil {
		return fmt.Errorf("the reference needs an id of its own")
	}
	r := *e.New
	if r.Corrections == nil {
		r.Corrections = []listen.Correction{}
	}
	d.References = append(d.References, r)
	d.Active = r.ID
	return nil
}

func removeReference(d *Document, e *Edit) error {
	if d.Reference(e.Reference) == nil {
		return fmt.Errorf("the reference is no longer there")
	}
	d.References = slices.DeleteFunc(d.References, func(r Reference) bool { return r.ID == e.Reference })
	d.Targets = slices.DeleteFunc(d.Targets, func(t Target) bool { return t.Reference == e.Reference })
	if d.Active == e.Reference {
		d.Active = ""
		if n := len(d.References); n > 0 {
			d.Active = d.References[n-1].ID
		}
	}
	return nil
}

func correct(d *Document, e *Edit) error {
	r := d.Reference(e.Reference)
	if r == nil || e.Correction == nil {
		return fmt.Errorf("the reference is no longer there")
	}
	c := *e.Correction
	if n := len(r.Corrections); n > 0 && replaces(&c, &r.Corrections[n-1]) {
		r.Corrections = r.Corrections[:n-1]
	}
	r.Corrections = append(r.Corrections, c)
	return nil
}

// replaces tells whether a correction sets again what the one before set.
func replaces(c, before *listen.Correction) bool {
	switch c.Kind {
	case "move", "weigh", "refile", "beat", "tempo", "meter", "grid", "map":
		return c.Kind == before.Kind && c.Hit == before.Hit && c.Beats == before.Beats && c.Key == before.Key
	}
	return false
}

// setTarget makes a slice the target of its family.
func setTarget(d *Document, e *Edit) error {
	t := e.Target
	if t == nil || d.Reference(t.Reference) == nil {
		return fmt.Errorf("the reference is no longer there")
	}
	if !t.Slice.Family.Known() || !(t.Slice.From >= 0 && t.Slice.To > t.Slice.From && t.Slice.To < 36000) {
		return fmt.Errorf("the slice has no place in the recording")
	}
	_ = clearTarget(d, &Edit{Text: string(t.Slice.Family)})
	d.Targets = append(d.Targets, *t)
	return nil
}

func clearTarget(d *Document, e *Edit) error {
	d.Targets = slices.DeleteFunc(d.Targets, func(t Target) bool { return string(t.Slice.Family) == e.Text })
	return nil
}
