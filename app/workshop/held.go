package workshop

import (
	"errors"
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
		return nil, err
	}
	d, err := project.Join(c.Document, c.Parts)
	if err != nil {
		return nil, err
	}
	st := stateOf(c, d)
	st.inParts = len(c.Parts) > 0
	if !h.now.CompareAndSwap(nil, st) {
		return h.now.Load(), nil // a writer was quicker
	}
	return st, nil
}

func stateOf(c *store.Current, d *project.Document) *State {
	st := &State{ID: c.ID, Version: c.Version, CanUndo: c.CanUndo, CanRedo: c.CanRedo, Document: *d, Falls: []Fall{}, Notes: []string{}, CycleTicks: d.Groove.CycleTicks()}
	for _, f := range groove.NewLine(&d.Groove, d.Tempo, 0).Falls() {
		l := &d.Groove.Lanes[f.Lane]
		st.Falls = append(st.Falls, Fall{Voice: l.Voice, Hit: l.Hits[f.Hit].ID, Offset: f.Offset, Velocity: f.Velocity})
	}
	return st
}

// Open reads a project. The state may be shared and is not to be changed.
func (s *Workshop) Open(id string) (*State, error) { return s.read(s.hold(id), id) }

// Edit applies edits to the version base of a project, saves, and lets every
// open monitor hear it at once. Edits with the same coalesce name in a row
// are one step of undo.
func (s *Workshop) Edit(id string, base int, edits []project.Edit, coalesce string) (*State, error) {
	h := s.hold(id)
	h.writer.Lock()
	defer h.writer.Unlock()
	st, err := s.read(h, id)
	if err != nil {
		return nil, err
	}
	if st.Version != base {
		return nil, store.ErrConflict
	}
	next, notes, err := st.Document.Apply(edits, env{s})
	if err != nil {
		return nil, &Refusal{Code: "edit_refused", Message: sentence(err)}
	}
	before := &st.Document
	if !st.inParts {
		before = nil // what the store has is in one piece
	}
	change := store.Change{Name: next.Name, Coalesce: coalesce}
	if change.Document, err = next.Rest(); err != nil {
		return nil, err
	}
	if change.Parts, err = next.Parts(next.ChangedLanes(before)); err != nil {
		return nil, err
	}
	c, err := s.Store.Save(id, base, change)
	if err != nil {
		return nil, s.broken(id, err)
	}
	after := stateOf(c, next)
	after.inParts = true
	h.now.Store(after)
	s.Hub.Load(id, s.Song(next), c.Version)
	told := *after
	told.Notes = append(told.Notes, notes...)
	return &told, nil
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
	st := stateOf(c, d)
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
