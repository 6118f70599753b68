package service

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"jubrak/app/live"
	"jubrak/app/store"
	"jubrak/core/groove"
	"jubrak/core/project"
)

// mostHeld is how many projects stay in memory.
const mostHeld = 16

// held is a project in memory: its present state, which nobody changes, and one
// writer at a time. Readers never wait for the writer.
type held struct {
	writer  sync.Mutex
	now     atomic.Pointer[State] // nil until it is read
	gesture string                // that the last edit belonged to
	began   *project.Document     // what it began from
}

// hold finds the place of a project in memory. Where too many are held, those
// that nobody is writing to are read anew when they are wanted.
func (s *Service) hold(id string) *held {
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
func (s *Service) letGo(id string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if h := s.held[id]; h != nil {
		h.now.Store(nil)
	}
}

// read is the present state, from memory or the store.
func (s *Service) read(h *held, id string) (*State, error) {
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
	d, err := documentOf(c)
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

// documentOf reads what the store has; what cannot be read, as a project of a
// newer version, is a *Refusal.
func documentOf(c *store.Current) (*project.Document, error) {
	d, err := project.Join(c.Document, c.Parts)
	if err != nil {
		return nil, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	return d, nil
}

// stateOf is a document as the interface shows it. What falls in lanes as in
// before, which may be nil, is taken from there.
func stateOf(c *store.Current, d *project.Document, before *State) *State {
	st := &State{ID: c.ID, Version: c.Version, CanUndo: c.CanUndo, CanRedo: c.CanRedo, Document: *d, Falls: make([][]Fall, len(d.Groove.Lanes)), Notes: []string{}, CycleTicks: d.Groove.CycleTicks(), CycleIsLonger: d.Groove.CycleIsLonger()}
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

// sameFeel reports whether two documents differ in nothing that moves hits but the
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
func (s *Service) Open(id string) (*State, error) { return s.read(s.hold(id), id) }

// Changed is what an edit made of a project's state.
type Changed struct {
	Version    int  `json:"version"`
	CanUndo    bool `json:"can_undo"`
	CanRedo    bool `json:"can_redo"`
	CycleTicks int  `json:"cycle_ticks"`
	// CycleIsLonger says that the lanes meet again later than that, after years.
	CycleIsLonger bool `json:"cycle_is_longer"`
	// Notes say what an edit left out or could not do.
	Notes []string `json:"notes"`
	// Patch makes document and falls of the state at the version that the edit
	// was based on those of the new one.
	Patch []project.Patch `json:"patch"`
}

// Edit applies edits to the version base of a project, lets every open monitor hear it at
// once, and saves; where that fails, they hear again what was before. Edits with the same
// coalesce name in a row are one change to undo.
func (s *Service) Edit(id string, base int, edits project.Edits, coalesce string) (*State, error) {
	_, after, notes, err := s.edit(id, base, edits, coalesce)
	if err != nil {
		return nil, err
	}
	known := *after
	known.Notes = append(known.Notes, notes...)
	return &known, nil
}

// Change is Edit that answers with what changed.
func (s *Service) Change(id string, base int, edits project.Edits, coalesce string) (*Changed, error) {
	before, after, notes, err := s.edit(id, base, edits, coalesce)
	if err != nil {
		return nil, err
	}
	return changed(before, after, notes), nil
}

// changed returns what makes a state of another one of the same project.
func changed(before, after *State, notes []string) *Changed {
	patch := project.Diff("/document", &before.Document, &after.Document)
	patch = append(patch, diffFalls("/falls", before.Falls, after.Falls)...)
	return &Changed{after.Version, after.CanUndo, after.CanRedo, after.CycleTicks, after.CycleIsLonger, append([]string{}, notes...), patch}
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

func (s *Service) edit(id string, base int, edits project.Edits, coalesce string) (before, after *State, notes []string, err error) {
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
		return nil, nil, nil, &Refusal{Code: "edit_refused", Message: Sentence(err)}
	}
	kept := &before.Document
	if !before.inParts {
		kept = nil // what the store has is in one piece
	}
	if coalesce == "" || coalesce != h.gesture {
		h.gesture, h.began = coalesce, &before.Document
	}
	change := store.Change{Name: next.Name, Coalesce: coalesce, Label: edits.Name(h.began, next)}
	if change.Document, err = next.Rest(); err != nil {
		return nil, nil, nil, err
	}
	if change.Parts, err = next.Parts(next.ChangedLanes(kept)); err != nil {
		return nil, nil, nil, err
	}
	// Heard first: a disk may take a tenth of a second.
	s.Hub.Load(id, s.PieceSong(id, next), base+1, next.Variation != before.Document.Variation)
	c, err := s.Store.Save(id, base, change)
	if err != nil {
		s.Hub.Load(id, s.PieceSong(id, &before.Document), base+1, false)
		return nil, nil, nil, s.broken(id, err)
	}
	after = stateOf(c, next, before)
	after.inParts = true
	h.now.Store(after)
	s.retrackOpen(id) // which reads the state that is stored now
	return before, after, notes, nil
}

// publish hands a version of a project to its open monitors, and prepares the reference for
// them anew.
func (s *Service) publish(id string, d *project.Document, version int) {
	s.Hub.Load(id, s.PieceSong(id, d), version, false)
	s.retrackOpen(id)
}

// retrackOpen prepares the reference for open monitors, where there are any.
func (s *Service) retrackOpen(id string) {
	if s.isOpen(id) {
		s.retrack(id)
	}
}

// Monitor is a new monitor of a project, which follows its changes until it leaves; key is
// the browser's name for it.
func (s *Service) Monitor(id, key string) (session *live.Session, leave func(), err error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, nil, err
	}
	session = live.NewSession(s.PieceSong(id, &st.Document), st.Version, s.Study(id))
	leave = s.Hub.Join(id, key, session)
	h := s.hold(id)
	h.writer.Lock() // an edit may have been heard before it joined, and not be saved yet
	now, err := s.read(h, id)
	h.writer.Unlock()
	if err == nil && now.Version != st.Version {
		session.Load(s.PieceSong(id, &now.Document), now.Version, false)
	}
	s.retrack(id)
	return session, leave, nil
}

// UndoRedo undoes (-1) or redoes (+1).
func (s *Service) UndoRedo(id string, base, by int) (*Changed, error) {
	return s.move(id, base, func() (*store.Current, error) { return s.Store.UndoRedo(id, base, by) })
}

// Go goes to a place in the history.
func (s *Service) Go(id string, base, position int) (*Changed, error) {
	return s.move(id, base, func() (*store.Current, error) { return s.Store.Go(id, base, position) })
}

func (s *Service) move(id string, base int, to func() (*store.Current, error)) (*Changed, error) {
	h := s.hold(id)
	h.writer.Lock()
	defer h.writer.Unlock()
	before, err := s.read(h, id)
	if err != nil {
		return nil, err
	}
	if before.Version != base {
		return nil, store.ErrConflict
	}
	c, err := to()
	if err != nil {
		return nil, s.broken(id, err)
	}
	d, err := documentOf(c)
	if err != nil {
		return nil, err
	}
	after := stateOf(c, d, nil)
	after.inParts = len(c.Parts) > 0
	h.now.Store(after)
	h.gesture, h.began = "", nil
	s.publish(id, d, c.Version)
	return changed(before, after, nil), nil
}

// History is the changes that can be gone back to.
type History struct {
	// Changes are in order of time; each is the project as it was after it.
	Changes []HistoryEntry `json:"changes"`
	// Position is that of the present change.
	Position int `json:"position"`
}

// HistoryEntry is a place in the history.
type HistoryEntry struct {
	Position int `json:"position"`
	// Name says what the change did; empty for the beginning.
	Name string `json:"name"`
	// At is when, RFC 3339.
	At string `json:"at"`
}

// History lists the changes of a project.
func (s *Service) History(id string) (*History, error) {
	places, now, err := s.Store.Places(id)
	if err != nil {
		return nil, err
	}
	out := &History{Changes: []HistoryEntry{}, Position: now}
	for _, p := range places {
		out.Changes = append(out.Changes, HistoryEntry{p.Position, p.Label, p.CreatedAt.UTC().Format(time.RFC3339)})
	}
	return out, nil
}

// broken lets go of a project that the store may know otherwise.
func (s *Service) broken(id string, err error) error {
	if errors.Is(err, store.ErrConflict) || errors.Is(err, store.ErrNotFound) {
		s.letGo(id)
	}
	return err
}
