package workshop

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
	"sync"
	"sync/atomic"

	"jubrak/app/store"
	"jubrak/core/groove"
	"jubrak/core/project"
)

// mostHeld is how many projects stay in memory.
const mostHeld = 16

// held is a project in memory: its present state, which nobody changes, and one
// writer at a time. Readers never wait for the writer.
type held struct {
	writer sync.Mutex
	now    atomic.Pointer[State] // nil until it is read
}

// hold finds the place of a project in memory. Where too many are held, those
// that nobody is writing to are read anew when they are wanted.
func (s *Workshop) hold(id string) *held {
	s.mu.Lock()
	defer s.mu.Unlock()
	h := s.held[id]
	if h == nil {
		h = &held{}
		s.held[id] = h
	}
	full := 0
	for other, o := range s.held {
		if other == id || o.now.Load() == nil {
			continue
		}
		if full++; full >= mostHeld && o.writer.TryLock() {
			o.now.Store(nil)
			o.writer.Unlock()
		}
	}
	return h
}

// letGo forgets what is in memory of a project.
func (s *Workshop) letGo(id string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if h := s.held[id]; h != nil {
		h.now.Store(nil)
	}
}

// read is the present state, from memory or the store.
func (s *Workshop) read(h *held, id string) (*State, error) {
	if st := h.now.Load(); st != nil {
		return st, nil
	}
	c, err := s.Store.Load(id)
	if err != nil {
		s.mu.Lock()
		delete(s.held, id) // asking for what is not there leaves nothing
		s.mu.Unlock()
		return nil, err
	}
	d, err := project.Join(c.Document, c.Parts)
	if err != nil {
		return nil, err
	}
	st := stateOf(c, d, nil)
	st.inParts = len(c.Parts) > 0
	if !h.now.CompareAndSwap(nil, st) {
		if now := h.now.Load(); now != nil {
			return now, nil // a writer was quicker
		}
	}
	return st, nil
}

// stateOf is a document as the interface shows it. What falls in lanes as in
// before, which may be nil, is taken from there.
func stateOf(c *store.Current, d *project.Document, before *State) *State {
	st := &State{ID: c.ID, Version: c.Version, CanUndo: c.CanUndo, CanRedo: c.CanRedo, Document: *d, Falls: make([][]Fall, len(d.Groove.Lanes)), Notes: []string{}, CycleTicks: d.Groove.CycleTicks()}
	line := groove.NewLine(&d.Groove, d.Tempo, 0)
	same := before != nil && sameFeel(&before.Document, d)
	for i := range d.Groove.Lanes {
		l := &d.Groove.Lanes[i]
		if same && sameLane(before.Document.Groove.Lanes, i, l) {
			st.Falls[i] = before.Falls[i]
			continue
		}
		st.Falls[i] = make([]Fall, len(l.Hits))
		for j, f := range line.Falls(i) {
			st.Falls[i][j] = Fall{Hit: l.Hits[f.Hit].ID, Offset: f.Offset, Velocity: f.Velocity}
		}
	}
	return st
}

// sameFeel tells whether two documents differ in nothing that moves hits but the
// hits themselves.
func sameFeel(a, b *project.Document) bool {
	x, y := a.Groove, b.Groove
	x.Lanes, y.Lanes = nil, nil
	return reflect.DeepEqual(x, y) && slices.Equal(a.Tempo, b.Tempo)
}

func sameLane(before []groove.Lane, i int, l *groove.Lane) bool {
	return i < len(before) && before[i].Voice == l.Voice && before[i].Steps == l.Steps && before[i].SameHits(l)
}

// Open reads a project. The state may be shared and is not to be changed.
func (s *Workshop) Open(id string) (*State, error) { return s.read(s.hold(id), id) }

// Changed is what an edit made of a project's state.
type Changed struct {
	Version    int  `json:"version"`
	CanUndo    bool `json:"can_undo"`
	CanRedo    bool `json:"can_redo"`
	CycleTicks int  `json:"cycle_ticks"`
	// Notes say what an edit left out or could not do.
	Notes []string `json:"notes"`
	// Patch makes document and falls of the state at the version that the edit
	// was based on those of the new one.
	Patch []project.Patch `json:"patch"`
}

// Edit applies edits to the version base of a project, saves, and lets every
// open monitor hear it at once. Edits with the same coalesce name in a row
// are one step of undo.
func (s *Workshop) Edit(id string, base int, edits []project.Edit, coalesce string) (*State, error) {
	_, after, notes, err := s.edit(id, base, edits, coalesce)
	if err != nil {
		return nil, err
	}
	told := *after
	told.Notes = append(told.Notes, notes...)
	return &told, nil
}

// Change is Edit that answers with what changed.
func (s *Workshop) Change(id string, base int, edits []project.Edit, coalesce string) (*Changed, error) {
	before, after, notes, err := s.edit(id, base, edits, coalesce)
	if err != nil {
		return nil, err
	}
	patch := project.Diff("/document", &before.Document, &after.Document)
	patch = append(patch, diffFalls("/falls", before.Falls, after.Falls)...)
	return &Changed{after.Version, after.CanUndo, after.CanRedo, after.CycleTicks, append([]string{}, notes...), patch}, nil
}

func diffFalls(path string, a, b [][]Fall) []project.Patch {
	if len(a) != len(b) {
		return []project.Patch{{Op: "replace", Path: path, Value: b}}
	}
	var out []project.Patch
	for i := range b {
		out = append(out, project.DiffList(fmt.Sprintf("%s/%d", path, i), a[i], b[i], func(x, y *Fall) bool { return *x == *y })...)
	}
	return out
}

func (s *Workshop) edit(id string, base int, edits []project.Edit, coalesce string) (before, after *State, notes []string, err error) {
	h := s.hold(id)
	h.writer.Lock()
	defer h.writer.Unlock()
	before, err = s.read(h, id)
	if err != nil {
		return nil, nil, nil, err
	}
	if before.Version != base {
		return nil, nil, nil, store.ErrConflict
	}
	next, notes, err := before.Document.Apply(edits, env{s})
	if err != nil {
		return nil, nil, nil, &Refusal{Code: "edit_refused", Message: sentence(err)}
	}
	kept := &before.Document
	if !before.inParts {
		kept = nil // what the store has is in one piece
	}
	change := store.Change{Name: next.Name, Coalesce: coalesce}
	if change.Document, err = next.Rest(); err != nil {
		return nil, nil, nil, err
	}
	if change.Parts, err = next.Parts(next.ChangedLanes(kept)); err != nil {
		return nil, nil, nil, err
	}
	c, err := s.Store.Save(id, base, change)
	if err != nil {
		return nil, nil, nil, s.broken(id, err)
	}
	after = stateOf(c, next, before)
	after.inParts = true
	h.now.Store(after)
	s.Hub.Load(id, s.Song(next), c.Version)
	return before, after, notes, nil
}

// Step undoes (-1) or redoes (+1).
func (s *Workshop) Step(id string, base, by int) (*State, error) {
	h := s.hold(id)
	h.writer.Lock()
	defer h.writer.Unlock()
	c, err := s.Store.Step(id, base, by)
	if err != nil {
		return nil, s.broken(id, err)
	}
	d, err := project.Join(c.Document, c.Parts)
	if err != nil {
		return nil, err
	}
	st := stateOf(c, d, nil)
	st.inParts = len(c.Parts) > 0
	h.now.Store(st)
	s.Hub.Load(id, s.Song(d), c.Version)
	return st, nil
}

// broken lets go of a project that the store may know otherwise.
func (s *Workshop) broken(id string, err error) error {
	if errors.Is(err, store.ErrConflict) || errors.Is(err, store.ErrNotFound) {
		s.letGo(id)
	}
	return err
}
