package project

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"jubrak/core/isolate"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Edits of the references and of what is built towards them.
var referenceEdits = map[string]Edit{
	"reference.add": AddReference{}, "reference.remove": RemoveReference{}, "reference.activate": ActivateReference{}, "reference.correct": Correct{},
	"reference.aim": AimReference{}, "target.set": SetTarget{}, "target.clear": ClearTarget{},
	"drums.stroke": LeaveStroke{}, "drums.row": DivideRow{}, "drums.name": NameDrum{},
}

func noReference() error { return fmt.Errorf("the reference is no longer there") }

// AddReference adds a reference and makes it the target.
type AddReference struct {
	Reference Reference `json:"reference"`
}

func (e AddReference) apply(d *Document, _ Env) ([]string, error) {
	r := e.Reference
	if r.ID == "" || d.Reference(r.ID) != nil {
		return nil, fmt.Errorf("the reference needs an id of its own")
	}
	if r.Corrections == nil {
		r.Corrections = []transcribe.Correction{}
	}
	d.References = append(d.References, r)
	d.Active = r.ID
	return nil, nil
}

func (e AddReference) name(_, _ *Document) string {
	return fmt.Sprintf("Reference %s added", e.Reference.Name)
}

// RemoveReference takes a reference away, with the targets cut out of it.
type RemoveReference struct {
	// Reference is its id.
	Reference string `json:"reference"`
}

func (e RemoveReference) apply(d *Document, _ Env) ([]string, error) {
	if d.Reference(e.Reference) == nil {
		return nil, noReference()
	}
	d.References = slices.DeleteFunc(d.References, func(r Reference) bool { return r.ID == e.Reference })
	d.Targets = slices.DeleteFunc(d.Targets, func(t Target) bool { return t.Reference == e.Reference })
	if d.Active == e.Reference {
		d.Active = ""
		if n := len(d.References); n > 0 {
			d.Active = d.References[n-1].ID
		}
	}
	return nil, nil
}

func (e RemoveReference) name(before, _ *Document) string {
	return fmt.Sprintf("Reference %s removed", before.referenceName(e.Reference))
}

func (d *Document) referenceName(id string) string {
	if r := d.Reference(id); r != nil {
		return r.Name
	}
	return id
}

// ActivateReference makes a reference the target.
type ActivateReference struct {
	// Reference is its id; empty for none.
	Reference string `json:"reference"`
}

func (e ActivateReference) apply(d *Document, _ Env) ([]string, error) {
	d.Active = e.Reference
	return nil, nil
}

func (e ActivateReference) name(before, _ *Document) string {
	if e.Reference == "" {
		return "No reference"
	}
	return fmt.Sprintf("Reference %s chosen", before.referenceName(e.Reference))
}

// Correct sets right what was heard in a reference.
type Correct struct {
	// Reference is its id.
	Reference  string                `json:"reference"`
	Correction transcribe.Correction `json:"correction"`
}

func (e Correct) apply(d *Document, _ Env) ([]string, error) {
	r := d.Reference(e.Reference)
	if r == nil {
		return nil, noReference()
	}
	c := e.Correction
	if n := len(r.Corrections); n > 0 && replaces(&c, &r.Corrections[n-1]) {
		r.Corrections = r.Corrections[:n-1]
	}
	r.Corrections = append(r.Corrections, c)
	return nil, nil
}

func (e Correct) name(before, _ *Document) string {
	return fmt.Sprintf("%s: %s", before.referenceName(e.Reference), e.Correction.Words())
}

// replaces reports whether a correction sets again what the one before set.
func replaces(c, before *transcribe.Correction) bool {
	switch c.Kind {
	case "move", "weigh", "refile", "beat", "tempo", "meter", "grid", "map":
		return c.Kind == before.Kind && c.Hit == before.Hit && c.Beats == before.Beats && c.Key == before.Key
	}
	return false
}

// SetTarget makes a drum of a reference, or a cut of it, what a voice is built towards.
type SetTarget struct {
	Target Target `json:"target"`
}

func (e SetTarget) apply(d *Document, _ Env) ([]string, error) {
	t := e.Target
	if d.Reference(t.Reference) == nil {
		return nil, noReference()
	}
	if d.Kit.Voice(t.Voice) == nil {
		return nil, noVoice(t.Voice)
	}
	switch {
	case (t.Drum == nil) == (t.Slice == nil):
		return nil, fmt.Errorf("a target is a drum of the reference or a cut of it")
	case t.Slice != nil && (!t.Slice.Family.Known() || !(t.Slice.From >= 0 && t.Slice.To > t.Slice.From && t.Slice.To < 36000)):
		return nil, fmt.Errorf("the slice has no place in the recording")
	case t.Drum != nil && (!t.Drum.Family.Known() || t.Drum.Group < 0 || t.Drum.Group > isolate.MostGroups):
		return nil, fmt.Errorf("the reference has no such drum")
	}
	_, _ = ClearTarget{t.Voice}.apply(d, nil) // never refused
	d.Targets = append(d.Targets, t)
	return nil, nil
}

func (e SetTarget) name(before, _ *Document) string {
	return before.nameOf(e.Target.Voice) + ": target chosen"
}

// ClearTarget forgets the target of a voice.
type ClearTarget struct {
	Voice string `json:"voice"`
}

func (e ClearTarget) apply(d *Document, _ Env) ([]string, error) {
	d.Targets = slices.DeleteFunc(slices.Clone(d.Targets), func(t Target) bool { return t.Voice == e.Voice })
	return nil, nil
}

func (e ClearTarget) name(before, _ *Document) string {
	return before.nameOf(e.Voice) + ": no target"
}

// LeaveStroke leaves a stroke out of a reference's drum, or takes it back.
type LeaveStroke struct {
	// Reference is its id.
	Reference string `json:"reference"`
	// Hit is the id of the stroke.
	Hit string `json:"hit"`
	// Out leaves it out; false takes it back.
	Out bool `json:"out"`
}

func (e LeaveStroke) apply(d *Document, _ Env) ([]string, error) {
	r := d.Reference(e.Reference)
	if r == nil {
		return nil, noReference()
	}
	if e.Hit == "" || len(e.Hit) > 40 {
		return nil, fmt.Errorf("the reference has no such stroke")
	}
	out := slices.DeleteFunc(slices.Clone(r.Drums.LeftOut), func(id string) bool { return id == e.Hit })
	if e.Out {
		out = append(out, e.Hit)
	}
	r.Drums.LeftOut = out
	return nil, nil
}

func (e LeaveStroke) name(before, _ *Document) string {
	what := "stroke taken back"
	if e.Out {
		what = "stroke left out"
	}
	return before.referenceName(e.Reference) + ": " + what
}

// DivideRow says of how many drums a row of a reference is made: 1, 2, or 0 to find out.
type DivideRow struct {
	// Reference is its id.
	Reference string       `json:"reference"`
	Family    sound.Family `json:"family"`
	// Drums is 1, 2, or 0 to find out.
	Drums int `json:"drums"`
}

func (e DivideRow) apply(d *Document, _ Env) ([]string, error) {
	r := d.Reference(e.Reference)
	if r == nil {
		return nil, noReference()
	}
	if !e.Family.Known() || e.Drums < 0 || e.Drums > isolate.MostGroups {
		return nil, fmt.Errorf("a row is made of one drum or of %d", isolate.MostGroups)
	}
	rows := maps.Clone(r.Drums.Rows)
	if rows == nil {
		rows = map[sound.Family]int{}
	}
	rows[e.Family] = e.Drums
	if e.Drums == 0 {
		delete(rows, e.Family)
	}
	r.Drums.Rows = rows
	return nil, nil
}

func (e DivideRow) name(before, _ *Document) string {
	what := "joined"
	switch e.Drums {
	case 0:
		what = "as found"
	case 2:
		what = "split in two"
	}
	return fmt.Sprintf("%s: %s %s", before.referenceName(e.Reference), e.Family.Label(), what)
}

// NameDrum names a drum of a reference; an empty name is the family's.
type NameDrum struct {
	// Reference is its id.
	Reference string       `json:"reference"`
	Family    sound.Family `json:"family"`
	// Group is 0 where the row is one drum, else which of its drums, from 1.
	Group int `json:"group"`
	// Name has at most 40 characters.
	Name string `json:"name"`
}

func (e NameDrum) apply(d *Document, _ Env) ([]string, error) {
	r := d.Reference(e.Reference)
	if r == nil {
		return nil, noReference()
	}
	if !e.Family.Known() || e.Group < 0 || e.Group > isolate.MostGroups {
		return nil, fmt.Errorf("the reference has no such drum")
	}
	name := strings.TrimSpace(e.Name)
	if utf8.RuneCountInString(name) > 40 {
		return nil, fmt.Errorf("a name has at most 40 characters")
	}
	names := maps.Clone(r.Drums.Names)
	if names == nil {
		names = map[string]string{}
	}
	key := fmt.Sprintf("%s/%d", e.Family, e.Group)
	names[key] = name
	if name == "" {
		delete(names, key)
	}
	r.Drums.Names = names
	return nil, nil
}

func (e NameDrum) name(before, _ *Document) string {
	return fmt.Sprintf("%s: %s named", before.referenceName(e.Reference), e.Family.Label())
}

// AimReference chooses what of a habit is the target: the ranges of its recordings, or
// one of them.
type AimReference struct {
	// Reference is its id.
	Reference string `json:"reference"`
	// Recording is counted from 1; 0 is the ranges.
	Recording int `json:"recording"`
}

func (e AimReference) apply(d *Document, _ Env) ([]string, error) {
	r := d.Reference(e.Reference)
	if r == nil {
		return nil, noReference()
	}
	if r.Profile == nil || r.Profile.Habit == nil {
		return nil, fmt.Errorf("%q is not made of several recordings", r.Name)
	}
	if e.Recording < 0 || e.Recording > len(r.Profile.Habit.Recordings) {
		return nil, fmt.Errorf("it is made of %s", count(len(r.Profile.Habit.Recordings), "recording"))
	}
	p, h := *r.Profile, *r.Profile.Habit
	h.Aim = e.Recording
	p.Habit = &h
	r.Profile = &p
	return nil, nil
}

func (e AimReference) name(before, after *Document) string {
	if r := after.Reference(e.Reference); r != nil && e.Recording > 0 && r.Profile != nil {
		return fmt.Sprintf("Aims at %s", r.Profile.Habit.Recordings[e.Recording-1].Name)
	}
	return fmt.Sprintf("Aims at the ranges of %s", before.referenceName(e.Reference))
}
