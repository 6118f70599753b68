package project

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"jubrak/core/groove"
	"jubrak/core/transcribe"
)

// Edit is one change of a document: one of the types in Kinds. As JSON it is an
// object with its op, the name of its kind, and its fields.
type Edit interface {
	// apply changes a draft and may note what it left out.
	apply(d *Document, env Env) (notes []string, err error)
	// name says in a few words what the edit made of a document.
	name(before, after *Document) string
}

// Env gives edits what the document does not hold itself.
type Env interface {
	// Analysis is what was heard in a reference, corrected.
	Analysis(ref *Reference) (*transcribe.Analysis, error)
}

// Edits are made in order, all or none.
type Edits []Edit

// Kind is a kind of edit: its op and the type that holds its fields.
type Kind struct {
	Op   string
	Type reflect.Type
}

// Kinds are all kinds of edit, sorted by op.
func Kinds() []Kind { return slices.Clone(kinds) }

var kinds = func() []Kind {
	var out []Kind
	add := func(op string, e Edit) { out = append(out, Kind{op, reflect.TypeOf(e)}) }
	for _, group := range []map[string]Edit{numberEdits, songEdits, hitEdits, patternEdits, variationEdits, feelEdits, noteEdits, voiceEdits, layerEdits, recipeEdits, effectEdits, kitEdits, mixEdits, deskEdits, referenceEdits, takeEdits, sectionEdits, overEdits, backingEdits} {
		for op, e := range group {
			add(op, e)
		}
	}
	slices.SortFunc(out, func(a, b Kind) int { return strings.Compare(a.Op, b.Op) })
	return out
}()

// Op is the name of an edit's kind.
func Op(e Edit) string {
	for _, k := range kinds {
		if k.Type == reflect.TypeOf(e) {
			return k.Op
		}
	}
	panic(fmt.Sprintf("%T is no kind of edit", e))
}

// MarshalJSON writes each edit with its op.
func (s Edits) MarshalJSON() ([]byte, error) {
	out := []byte{'['}
	for i, e := range s {
		fields, err := json.Marshal(e)
		if err != nil {
			return nil, err
		}
		op, err := json.Marshal(Op(e))
		if err != nil {
			return nil, err
		}
		if i > 0 {
			out = append(out, ',')
		}
		out = append(append(out, `{"op":`...), op...)
		if len(fields) > len("{}") {
			out = append(out, ',')
		}
		out = append(out, fields[1:]...)
	}
	return append(out, ']'), nil
}

// UnmarshalJSON reads edits by their ops. One that is not known, and a field that
// its kind does not have, are refused.
func (s *Edits) UnmarshalJSON(data []byte) error {
	var raw []json.RawMessage
	if err := json.Unmarshal(data, &raw); err != nil {
		return err
	}
	*s = make(Edits, 0, len(raw))
	for _, r := range raw {
		var head struct {
			Op string `json:"op"`
		}
		if err := json.Unmarshal(r, &head); err != nil {
			return &UnknownEdit{fmt.Sprintf("an edit is an object with an op, not %s", r)}
		}
		i := slices.IndexFunc(kinds, func(k Kind) bool { return k.Op == head.Op })
		if i < 0 {
			return &UnknownEdit{fmt.Sprintf("there is no edit called %q", head.Op)}
		}
		e, err := readEdit(kinds[i].Type, r)
		if err != nil {
			return &UnknownEdit{fmt.Sprintf("%s: %s", head.Op, strings.TrimPrefix(err.Error(), "json: "))}
		}
		*s = append(*s, e)
	}
	return nil
}

// UnknownEdit is a text that is no edit.
type UnknownEdit struct{ Message string }

// Error is the sentence for people.
func (u *UnknownEdit) Error() string { return u.Message }

// readEdit reads the fields of an edit; op stands beside them.
func readEdit(t reflect.Type, data []byte) (Edit, error) {
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(data, &fields); err != nil {
		return nil, err
	}
	delete(fields, "op")
	rest, err := json.Marshal(fields)
	if err != nil {
		return nil, err
	}
	at := reflect.New(t)
	d := json.NewDecoder(bytes.NewReader(rest))
	d.DisallowUnknownFields()
	if err := d.Decode(at.Interface()); err != nil {
		return nil, err
	}
	for i := range t.NumField() {
		if t.Field(i).Anonymous {
			continue // where an effect stands: checked by the edit
		}
		name, rest, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
		if _, ok := fields[name]; !ok && rest == "" {
			return nil, fmt.Errorf("%s is missing", name)
		}
	}
	return at.Elem().Interface().(Edit), nil
}

// Apply makes the edits on a copy and returns it with notes for the user. The
// copy shares with d whatever no edit touched; neither may be changed. A refused
// edit leaves everything as it was.
func (d *Document) Apply(edits Edits, env Env) (*Document, []string, error) {
	out := d.draft()
	var notes []string
	for _, e := range edits {
		more, err := e.apply(out, env)
		if err != nil {
			return nil, nil, err
		}
		notes = append(notes, more...)
		// The next edit counts by bars, grids and the tempo, and adds to what there is.
		if err := out.validFrame(); err != nil {
			return nil, nil, err
		}
	}
	out.tidy()
	notes = append(notes, out.tidyPiece()...)
	if err := out.Validate(); err != nil {
		return nil, nil, err
	}
	return out, notes, nil
}

// validFrame checks between the edits of a batch what later ones rely on.
func (d *Document) validFrame() error {
	if err := d.Tempo.Validate(); err != nil {
		return err
	}
	if err := d.Groove.ValidateFrame(); err != nil {
		return err
	}
	hits := 0
	for i := range d.Groove.Lanes {
		hits += len(d.Groove.Lanes[i].Hits)
	}
	if hits > groove.MaxHits {
		return fmt.Errorf("a groove holds at most %d hits", groove.MaxHits)
	}
	return nil
}

// Name says in a few words what edits made of a document, for the list of changes
// that can be undone.
func (s Edits) Name(before, after *Document) string {
	if len(s) == 0 {
		return "Nothing"
	}
	first := s[0].name(before, after)
	if n := len(s) - 1; n > 0 {
		return fmt.Sprintf("%s, and %d more", first, n)
	}
	return first
}

func noVoice(id string) error { return fmt.Errorf("there is no voice %q", id) }
