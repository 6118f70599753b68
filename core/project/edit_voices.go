package project

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/sound"
)

// Edits of the voices of the kit. Lanes and feel follow them.
var voiceEdits = map[string]Edit{
	"voice.add": AddVoice{}, "voice.duplicate": DuplicateVoice{}, "voice.rename": RenameVoice{}, "voice.move": MoveVoice{},
	"voice.refile": RefileVoice{}, "voice.remove": RemoveVoice{}, "voice.note": SetNote{},
}

// AddVoice adds a voice with the default sound of its family, and an empty lane.
type AddVoice struct {
	Family sound.Family `json:"family"`
	// Name has 1 to 40 letters; where it is empty the voice is called after its
	// family.
	Name string `json:"name,omitempty"`
	// Layers are its sound in place of the default one, at most 8.
	Layers []sound.Layer `json:"layers,omitempty"`
}

func (e AddVoice) apply(d *Document, _ Env) ([]string, error) {
	if !e.Family.Known() {
		return nil, fmt.Errorf("there is no family %q", e.Family)
	}
	name := strings.TrimSpace(e.Name)
	if name == "" {
		name = d.freeName(e.Family.Label())
	}
	v := sound.NewVoice(d.freeVoice(string(e.Family)), name, e.Family)
	if len(e.Layers) > 0 {
		v.Layers = slices.Clone(e.Layers)
	}
	d.Kit.Voices = append(d.Kit.Voices, v)
	d.Groove.EnsureLane(v.ID)
	return nil, nil
}

func (e AddVoice) name(_, after *Document) string {
	return after.Kit.Voices[len(after.Kit.Voices)-1].Name + " added"
}

// freeVoice is an id that no voice has.
func (d *Document) freeVoice(like string) string {
	like = strings.TrimRight(like, "0123456789_")
	if like == "" {
		like = "voice"
	}
	for n := 1; ; n++ {
		id := like
		if n > 1 {
			id = fmt.Sprintf("%s%d", like, n)
		}
		if d.Kit.Voice(id) == nil && !slices.Contains(reserved, id) {
			return id
		}
	}
}

// freeName is a name that no voice has.
func (d *Document) freeName(like string) string {
	for n := 1; ; n++ {
		name := like
		if n > 1 {
			name = fmt.Sprintf("%s %d", like, n)
		}
		if !slices.ContainsFunc(d.Kit.Voices, func(v sound.Voice) bool { return v.Name == name }) {
			return name
		}
	}
}

// DuplicateVoice adds a voice like another one after it, with the same sound,
// hits and feel.
type DuplicateVoice struct {
	Voice string `json:"voice"`
}

func (e DuplicateVoice) apply(d *Document, _ Env) ([]string, error) {
	i := d.placeOf(e.Voice)
	if i < 0 {
		return nil, noVoice(e.Voice)
	}
	v := d.Kit.Voices[i]
	v.ID = d.freeVoice(v.ID)
	letters := []rune(v.Name)
	v.Name = d.freeName(string(letters[:min(len(letters), sound.MaxName-3)]))
	v.CutBy = slices.Clone(v.CutBy)
	d.Kit.Voices = slices.Insert(d.Kit.Voices, i+1, v)
	from := *d.Groove.EnsureLane(e.Voice)
	*d.Groove.EnsureLane(v.ID) = groove.Lane{Voice: v.ID, Hits: from.Hits, Steps: from.Steps, Grid: from.Grid}
	if f, ok := d.Groove.Feel.Voices[e.Voice]; ok {
		d.Groove.Feel.Voices[v.ID] = f
	}
	if slices.Contains(d.Groove.Feel.Drift.Voices, e.Voice) {
		d.Groove.Feel.Drift.Voices = append(slices.Clone(d.Groove.Feel.Drift.Voices), v.ID)
	}
	d.orderLanes()
	return nil, nil
}

func (e DuplicateVoice) name(before, _ *Document) string {
	return before.nameOf(e.Voice) + " duplicated"
}

func (d *Document) placeOf(voice string) int {
	return slices.IndexFunc(d.Kit.Voices, func(v sound.Voice) bool { return v.ID == voice })
}

// orderLanes puts the lanes in the order of the voices.
func (d *Document) orderLanes() {
	slices.SortStableFunc(d.Groove.Lanes, func(a, b groove.Lane) int { return d.placeOf(a.Voice) - d.placeOf(b.Voice) })
}

// RenameVoice gives a voice another name; its id stays.
type RenameVoice struct {
	Voice string `json:"voice"`
	// Name has 1 to 40 letters.
	Name string `json:"name"`
}

func (e RenameVoice) apply(d *Document, _ Env) ([]string, error) {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return nil, noVoice(e.Voice)
	}
	v.Name = strings.TrimSpace(e.Name)
	return nil, nil
}

func (e RenameVoice) name(before, after *Document) string {
	return fmt.Sprintf("%s renamed to %s", before.nameOf(e.Voice), after.nameOf(e.Voice))
}

// MoveVoice moves a voice's row up or down.
type MoveVoice struct {
	Voice string `json:"voice"`
	// To is the row it comes to, counted from 0; beyond the ends it stops there.
	To int `json:"to"`
}

func (e MoveVoice) apply(d *Document, _ Env) ([]string, error) {
	i := d.placeOf(e.Voice)
	if i < 0 {
		return nil, noVoice(e.Voice)
	}
	v := d.Kit.Voices[i]
	rest := slices.Delete(d.Kit.Voices, i, i+1)
	d.Kit.Voices = slices.Insert(rest, min(max(e.To, 0), len(rest)), v)
	d.orderLanes()
	return nil, nil
}

func (e MoveVoice) name(before, after *Document) string {
	return fmt.Sprintf("%s moved to row %d", before.nameOf(e.Voice), after.placeOf(e.Voice)+1)
}

// RefileVoice files a voice under another family; its sound stays.
type RefileVoice struct {
	Voice  string       `json:"voice"`
	Family sound.Family `json:"family"`
}

func (e RefileVoice) apply(d *Document, _ Env) ([]string, error) {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return nil, noVoice(e.Voice)
	}
	v.Family = e.Family
	return nil, nil
}

func (e RefileVoice) name(before, _ *Document) string {
	return fmt.Sprintf("%s filed as %s", before.nameOf(e.Voice), e.Family.Label())
}

// RemoveVoice takes a voice out of the kit, with its lane and its part of the
// feel.
type RemoveVoice struct {
	Voice string `json:"voice"`
}

func (e RemoveVoice) apply(d *Document, _ Env) ([]string, error) {
	if d.Kit.Voice(e.Voice) == nil {
		return nil, noVoice(e.Voice)
	}
	isIt := func(id string) bool { return id == e.Voice }
	d.Kit.Voices = slices.DeleteFunc(d.Kit.Voices, func(v sound.Voice) bool { return isIt(v.ID) })
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		if slices.ContainsFunc(v.CutBy, isIt) {
			v.CutBy = slices.DeleteFunc(slices.Clone(v.CutBy), isIt)
		}
		if v.Gate != nil && isIt(v.Gate.By) {
			v.Gate = nil // nothing would open it any more
		}
	}
	d.Targets = slices.DeleteFunc(slices.Clone(d.Targets), func(t Target) bool { return isIt(t.Voice) })
	d.Groove.Lanes = slices.DeleteFunc(d.Groove.Lanes, func(l groove.Lane) bool { return isIt(l.Voice) })
	for i := range d.Groove.Lanes {
		l := &d.Groove.Lanes[i]
		if slices.ContainsFunc(l.Hits, func(h groove.Hit) bool { return isIt(h.Sound) }) {
			own(l)
			for j := range l.Hits {
				if isIt(l.Hits[j].Sound) {
					l.Hits[j].Sound = ""
				}
			}
		}
	}
	d.Groove.Feel.Ramp.Voices = slices.DeleteFunc(slices.Clone(d.Groove.Feel.Ramp.Voices), isIt)
	maps.DeleteFunc(d.Groove.Feel.Voices, func(id string, _ groove.VoiceFeel) bool { return isIt(id) })
	d.Groove.Feel.Drift.Voices = slices.DeleteFunc(slices.Clone(d.Groove.Feel.Drift.Voices), isIt)
	return nil, nil
}

func (e RemoveVoice) name(before, _ *Document) string { return before.nameOf(e.Voice) + " removed" }

// SetNote tunes a voice to a note: its pitches settle there, the starts of falls and the
// curves that drive them move along. Its other layers keep their intervals.
type SetNote struct {
	Voice string `json:"voice"`
	// Layer is the one that is tuned alone; empty tunes the first that has a pitch, and
	// the others with it.
	Layer string `json:"layer,omitempty"`
	// Note is a name and an octave, such as A1, perhaps with cents after it, as in
	// A1 +12; middle C is C4. A name alone is the nearest note of that name.
	Note string `json:"note"`
}

func (e SetNote) apply(d *Document, _ Env) ([]string, error) {
	v := d.Kit.Voice(e.Voice)
	if v == nil {
		return nil, noVoice(e.Voice)
	}
	if e.Layer != "" && v.Layer(e.Layer) == nil {
		return nil, fmt.Errorf("the layer is no longer there")
	}
	root := v.RootHz()
	if e.Layer != "" {
		root = v.Layer(e.Layer).RootHz()
	}
	if root == 0 {
		return nil, fmt.Errorf("%s has no part with a pitch that could be tuned: a body, a ring or a recording whose root is known", v.Name)
	}
	n, err := music.ParsePitch(e.Note)
	if class, bare := music.ParseNote(strings.TrimSpace(e.Note) + "4"); err != nil && bare == nil {
		// A name alone is the nearest note of that name.
		n, err = float64(class)+12*math.Round((music.NoteOf(root)-float64(class))/12), nil
	}
	if err != nil {
		return nil, err
	}
	by := n - music.NoteOf(root)
	for _, l := range v.Layers {
		if e.Layer != "" && l.ID != e.Layer || l.RootHz() == 0 {
			continue
		}
		ownLayer(v, l.ID)
		own := v.Layer(l.ID)
		if own.Recipe == nil {
			row := sound.LayerParams.Find("pitch_st")
			if err := row.Check(own.Pitch + by); err != nil {
				return nil, fmt.Errorf("%s, %s: %w", v.Name, l.Name, err)
			}
			own.Pitch += by
			continue
		}
		tuned, err := own.Recipe.Tuned(by)
		if err != nil {
			return nil, fmt.Errorf("%s, %s: %w", v.Name, l.Name, err)
		}
		*own.Recipe = tuned
	}
	return nil, nil
}

func (e SetNote) name(before, _ *Document) string {
	return fmt.Sprintf("%s tuned to %s", before.nameOf(e.Voice), e.Note)
}
