package service

import (
	"context"
	"errors"
	"slices"
	"time"

	"jubrak/app/live"
	"jubrak/core/compare"
	"jubrak/core/project"
	"jubrak/internal/guard"
)

// measuring is the render and the measures of a project's own sound: done once
// for all who ask for the same, and given up when an edit has made it worthless
// or nobody waits any more.
type measuring struct {
	of      *project.Document
	done    chan struct{} // closed when mine and err are there
	mine    *compare.Mine
	err     error
	cancel  context.CancelFunc
	waiting int
	before  *measuring // the last one that was done, or nil
}

// errSuperseded is the end of a measuring that a newer document took the place of.
var errSuperseded = errors.New("the project has been changed meanwhile")

// mine measures a project's own sound in the background: see measuring. The
// answer is shared and is not to be changed.
func (s *Service) mine(ctx context.Context, st *State) (*compare.Mine, error) {
	m := s.join(st)
	defer s.leave(st.ID, m)
	select {
	case <-m.done:
		return m.mine, m.err
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// join finds or begins the measuring of a state.
func (s *Service) join(st *State) *measuring {
	s.mu.Lock()
	defer s.mu.Unlock()
	var before *measuring
	if m := s.measures[st.ID]; m != nil {
		if m.err == nil && sameSound(m.of, &st.Document) {
			m.waiting++
			return m
		}
		m.cancel()
		if before = m.before; m.mine != nil {
			before = m
			m.before = nil
		}
	}
	ctx, cancel := context.WithCancel(context.Background())
	m := &measuring{of: &st.Document, done: make(chan struct{}), cancel: cancel, waiting: 1, before: before}
	if len(s.measures) > mostHeld {
		clear(s.measures) // who waits for one still has it
	}
	s.measures[st.ID] = m
	guard.Go("measuring the project", func() {
		mine := &compare.Mine{}
		if before != nil {
			*mine = *before.mine
		}
		err := guard.Run("measuring the project", func() error {
			return mine.Measure(s.background.context(ctx), m.of, s.samples(m.of))
		})
		if errors.Is(err, context.Canceled) {
			err = errSuperseded
		}
		s.mu.Lock()
		if m.err = err; err == nil {
			m.mine = mine
		}
		s.mu.Unlock()
		cancel()
		close(m.done)
	})
	return m
}

// leave reports that one who waited has gone; the last one ends what is not done.
func (s *Service) leave(id string, m *measuring) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if m.waiting--; m.waiting == 0 && m.mine == nil {
		m.cancel()
		if s.measures[id] == m {
			if s.measures[id] = m.before; m.before == nil {
				delete(s.measures, id)
			}
		}
	}
}

// sameSound reports whether two documents sound the same: they differ at most in
// names, references and targets.
func sameSound(a, b *project.Document) bool {
	if a == b {
		return true
	}
	if !slices.Equal(a.Tempo, b.Tempo) || len(a.Groove.Lanes) != len(b.Groove.Lanes) || !project.SameKit(&a.Kit, &b.Kit) || !sameFeel(a, b) {
		return false
	}
	for i := range b.Groove.Lanes {
		if !sameLane(a.Groove.Lanes, i, &b.Groove.Lanes[i]) {
			return false
		}
	}
	return true
}

// retrackAfter is how long an edit waits before the reference is made ready
// again: others may follow at once.
const retrackAfter = 200 * time.Millisecond

func (s *Service) isOpen(id string) bool {
	open := false
	s.Hub.Each(id, func(*live.Session) { open = true })
	return open
}
