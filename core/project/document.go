// Package project is the one document that holds a user's work, the edits
// that change it, and the upgrades of its older versions.
package project

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"jubrak/core/arrange"
	"jubrak/core/effect"
	"jubrak/core/engine"
	"jubrak/core/groove"
	"jubrak/core/isolate"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/profile"
	"jubrak/core/slice"
	"jubrak/core/sound"
	"jubrak/core/synth"
	"jubrak/core/transcribe"
)

// Schema is the version of the document written by this program.
const Schema = 9

// Document is a project. Its JSON form is published in docs/formats.md.
type Document struct {
	Schema int            `json:"schema"`
	Name   string         `json:"name"`
	Key    string         `json:"key"`
	Tempo  music.TempoMap `json:"tempo"`
	Kit    sound.Kit      `json:"kit"`
	// Mix is the mix beside the voices' own rows.
	Mix    mixer.Desk    `json:"mix"`
	Groove groove.Groove `json:"groove"`
	// Arrangement is the whole piece that the grooves make.
	Arrangement arrange.Arrangement `json:"arrangement"`
	// Variations are the grooves of the project, at most 64 and those of places; Variation is the id of
	// that which Groove holds, the others hold their own.
	Variations []Variation `json:"variations"`
	Variation  string      `json:"variation"`
	References []Reference `json:"references"`
	// Active is the id of the reference that is the target, or empty.
	Active string `json:"active_reference"`
	// Targets are what voices are built towards, one a voice.
	Targets []Target `json:"targets"`
}

// Target is what a voice is built towards: a drum of a reference by itself, or a cut of it.
type Target struct {
	Voice     string       `json:"voice"`
	Reference string       `json:"reference"`
	Drum      *DrumOf      `json:"drum,omitempty"`
	Slice     *slice.Slice `json:"slice,omitempty"`
}

// DrumChoices are what the user has said of a reference's drums.
type DrumChoices struct {
	isolate.Choices
	// Names are those of drums, by family and group ("snare/2").
	Names map[string]string `json:"names"`
}

// tidy makes what is not there empty.
func (c *DrumChoices) tidy() {
	if c.LeftOut == nil {
		c.LeftOut = []string{}
	}
	if c.Rows == nil {
		c.Rows = map[sound.Family]int{}
	}
	if c.Names == nil {
		c.Names = map[string]string{}
	}
}

// DrumOf names a drum of a reference.
type DrumOf struct {
	Family sound.Family `json:"family"`
	// Group is 0 where the row is one drum, else which of its drums, from 1.
	Group int `json:"group"`
	// Dry is without the room.
	Dry bool `json:"dry"`
}

// Target finds the target of a voice, or nil.
func (d *Document) Target(voice string) *Target {
	for i := range d.Targets {
		if d.Targets[i].Voice == voice {
			return &d.Targets[i]
		}
	}
	return nil
}

// Reference is a recording or performance to match. Its sound is a blob
// named by its SHA-256; what was heard in it is kept beside the blob.
type Reference struct {
	ID          string                  `json:"id"`
	Name        string                  `json:"name"`
	Kind        string                  `json:"kind"` // "audio", "midi" or "profile"
	Blob        string                  `json:"blob"` // empty for a profile
	Drums       DrumChoices             `json:"drums"`
	Corrections []transcribe.Correction `json:"corrections"`
	// Profile is the reference itself where it is one.
	Profile *profile.Profile `json:"profile"`
}

// Variation is a groove of the project: another version of it, or an attempt that was
// kept.
type Variation struct {
	ID string `json:"id"`
	// Name is what it is called beside its letter.
	Name string `json:"name"`
	// Here is that of a place of the arrangement alone, which goes with it.
	Here bool `json:"here,omitempty"`
	// Groove is nil for the one that is played and changed.
	Groove *groove.Groove `json:"groove,omitempty"`
}

// MaxVariations is the most grooves of one project, those of places apart.
const MaxVariations = 64

// MaxReferences is the most references of one project.
const MaxReferences = 32

// New is an empty project: the default kit, two empty bars of sixteenths at
// 100 BPM, no reference.
func New(name string) *Document {
	d := &Document{
		Schema: Schema, Name: name, Tempo: music.Steady(100), Kit: sound.DefaultKit(), References: []Reference{}, Targets: []Target{},
		Variations: []Variation{{ID: "a", Name: ""}}, Variation: "a",
		Groove: groove.Groove{Name: "Groove A", Bars: 2, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(), Seed: 1},
	}
	for _, v := range d.Kit.Voices {
		d.Groove.EnsureLane(v.ID)
	}
	d.Arrangement = oneSection(d)
	d.tidy()
	return d
}

// Read decodes and validates a document of any version up to Schema.
func Read(data []byte) (*Document, error) {
	d, err := decode(data)
	if err != nil {
		return nil, err
	}
	d.tidy()
	return d, d.Validate()
}

func decode(data []byte) (*Document, error) {
	var head struct {
		Schema int `json:"schema"`
	}
	if err := json.Unmarshal(data, &head); err != nil {
		return nil, fmt.Errorf("this is not a Jubrak project: %w", err)
	}
	if head.Schema < 1 {
		return nil, fmt.Errorf("this is not a Jubrak project: it names no schema")
	}
	if head.Schema > Schema {
		return nil, fmt.Errorf("the project was made by a newer version of Jubrak (schema %d, this one reads up to %d)", head.Schema, Schema)
	}
	data, err := upgrade(data, head.Schema)
	if err != nil {
		return nil, err
	}
	var d Document
	if err := json.Unmarshal(data, &d); err != nil {
		return nil, fmt.Errorf("this is not a Jubrak project: %w", err)
	}
	return &d, nil
}

// Validate checks the whole document.
func (d *Document) Validate() error {
	if n := utf8.RuneCountInString(strings.TrimSpace(d.Name)); n == 0 || n > 120 {
		return fmt.Errorf("a project needs a name of 1 to 120 characters")
	}
	if err := d.Tempo.Validate(); err != nil {
		return err
	}
	if err := d.Kit.Validate(); err != nil {
		return err
	}
	for i := range d.Kit.Voices {
		if id := d.Kit.Voices[i].ID; slices.Contains(reserved, id) || strings.Contains(id, ":") {
			return fmt.Errorf("a voice cannot have the id %q, which is an address of something else", id)
		}
	}
	if err := d.Mix.Validate(); err != nil {
		return err
	}
	if err := d.Groove.Validate(); err != nil {
		return err
	}
	if err := d.validVariations(); err != nil {
		return err
	}
	if err := d.Arrangement.Validate(d.GrooveOf, d.Tempo); err != nil {
		return err
	}
	if len(d.References) > MaxReferences {
		return fmt.Errorf("a project holds at most %d references", MaxReferences)
	}
	for i := range d.References {
		if p := d.References[i].Profile; p != nil {
			if err := p.Validate(); err != nil {
				return err
			}
		}
		if (d.References[i].Kind == "profile") != (d.References[i].Profile != nil) {
			return fmt.Errorf("reference %q has lost its profile", d.References[i].Name)
		}
		for j := range d.References[i].Corrections {
			if err := d.References[i].Corrections[j].Validate(); err != nil {
				return err
			}
		}
	}
	if d.Active != "" && d.Reference(d.Active) == nil {
		return fmt.Errorf("the active reference %q is not in the project", d.Active)
	}
	return nil
}

// tidy makes lists that hold nothing empty rather than absent, as the
// published schema says.
func (d *Document) tidy() {
	if len(d.Variations) == 0 {
		d.Variations, d.Variation = []Variation{{ID: "a"}}, "a"
	}
	d.tidyMix()
	d.Arrangement.Tidy()
	f := &d.Groove.Feel
	if f.Voices == nil {
		f.Voices = map[string]groove.VoiceFeel{}
	}
	for id, v := range f.Voices {
		if v.Contour == nil {
			v.Contour = []float64{}
		}
		if v.Accent == nil {
			v.Accent = []float64{}
		}
		f.Voices[id] = v
	}
	if f.Drift.Curve == nil || f.Drift.Voices == nil {
		f.Drift = groove.Drift{Curve: []float64{}, Voices: []string{}}
	}
	for i := range d.Kit.Voices {
		if d.Kit.Voices[i].CutBy == nil {
			d.Kit.Voices[i].CutBy = []string{}
		}
		if d.Kit.Voices[i].Layers == nil {
			d.Kit.Voices[i].Layers = []sound.Layer{}
		}
		for j := range d.Kit.Voices[i].Layers {
			if r := d.Kit.Voices[i].Layers[j].Recipe; r != nil && r.Untidy() {
				ownLayer(&d.Kit.Voices[i], d.Kit.Voices[i].Layers[j].ID)
				d.Kit.Voices[i].Layers[j].Recipe.Tidy()
			}
		}
	}
	for i := range d.Groove.Lanes {
		if d.Groove.Lanes[i].Hits == nil {
			d.Groove.Lanes[i].Hits = []groove.Hit{}
		}
		d.Groove.Lanes[i].Sort()
	}
	for i := range d.References {
		if p := d.References[i].Profile; p != nil {
			p.Tidy()
		}
		if d.References[i].Corrections == nil {
			d.References[i].Corrections = []transcribe.Correction{}
		}
		d.References[i].Drums.tidy()
	}
	if d.References == nil {
		d.References = []Reference{}
	}
	if d.Targets == nil {
		d.Targets = []Target{}
	}
}

// Reference finds a reference by id, or nil.
func (d *Document) Reference(id string) *Reference {
	for i := range d.References {
		if d.References[i].ID == id {
			return &d.References[i]
		}
	}
	return nil
}

// Song is what the engine plays of the project, with the sounds of its
// layers. It shares memory with d.
func (d *Document) Song(samples sound.Samples) engine.Song {
	return engine.Song{Kit: d.Kit, Mix: d.Mix, Groove: d.Groove, Tempo: d.Tempo, Samples: samples}
}

// Stroke is a stroke of velocity 110 at the project's tempo, as sounds are measured
// with: small differences of taste in velocity do not show.
func (d *Document) Stroke() synth.Stroke {
	return synth.Stroke{Velocity: 110, Seed: 1, BeatMS: 60000 / d.Tempo[0].BPM}
}

// Blobs are the sounds that the project needs: of references and of layers.
func (d *Document) Blobs() (names []string) {
	for i := range d.References {
		names = append(names, d.References[i].Blob)
	}
	for i := range d.Kit.Voices {
		for _, l := range d.Kit.Voices[i].Layers {
			names = append(names, l.Blobs()...)
		}
	}
	for _, b := range d.Arrangement.Backings {
		names = append(names, b.Blob)
	}
	names = append(names, d.EffectBlobs()...)
	slices.Sort(names)
	return slices.DeleteFunc(slices.Compact(names), func(n string) bool { return n == "" })
}

// EffectBlobs are the recordings that effects of the mix use.
func (d *Document) EffectBlobs() (names []string) {
	for _, row := range d.Rows() {
		if chain := d.Chain(row); chain != nil {
			effect.Each(*chain, func(fx *effect.Effect) {
				if fx.Recording != nil {
					names = append(names, fx.Recording.Blob)
				}
			})
		}
	}
	return names
}

// LayerOf names a layer by its voice, in words.
type LayerOf struct {
	Voice string `json:"voice"`
	Layer string `json:"layer"`
}

// LayersWithout lists the layers, and the effects by their rows, whose sound is not there.
func (d *Document) LayersWithout(there func(blob string) bool) []LayerOf {
	out := []LayerOf{}
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		for _, l := range v.Layers {
			if slices.ContainsFunc(l.Blobs(), func(blob string) bool { return !there(blob) }) {
				out = append(out, LayerOf{v.Name, l.Name})
			}
		}
	}
	for _, row := range d.Rows() {
		if chain := d.Chain(row); chain != nil {
			effect.Each(*chain, func(fx *effect.Effect) {
				if fx.Recording != nil && !there(fx.Recording.Blob) {
					out = append(out, LayerOf{d.RowName(row), fx.Recording.Name})
				}
			})
		}
	}
	return out
}
