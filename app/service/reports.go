package service

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"

	"jubrak/core/project"
	"jubrak/core/transcribe"
	"jubrak/internal/guard"
)

// reporting is the analysis of a reference, made once for all who ask for it and kept. It
// is given up when nobody waits any more.
type reporting struct {
	done    chan struct{} // closed when a or err is there
	a       *transcribe.Analysis
	err     error
	waiting int
	cancel  context.CancelFunc
}

// mostReported is how many hits all analyses together may have that are kept.
const mostReported = 300_000

// finished is what was heard in a reference, corrected. It may be shared and is not to be
// changed.
func (s *Service) finished(ctx context.Context, ref *project.Reference) (*transcribe.Analysis, error) {
	text, err := json.Marshal(ref.Corrections)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(text)
	key := ref.Blob + hex.EncodeToString(sum[:8])
	s.mu.Lock()
	r := s.reports[key]
	if r == nil {
		r = &reporting{done: make(chan struct{})}
		s.reports[key] = r
		var work context.Context
		work, r.cancel = context.WithCancel(context.Background())
		guard.Go("an analysis", func() { s.report(work, key, r, ref) })
	}
	r.waiting++
	s.mu.Unlock()
	select {
	case <-r.done:
	case <-ctx.Done():
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	r.waiting--
	select {
	case <-r.done:
		return r.a, r.err
	default:
		if r.waiting == 0 { // the work is worth nothing to anybody
			r.cancel()
			delete(s.reports, key)
		}
		return nil, ctx.Err()
	}
}

func (s *Service) report(ctx context.Context, key string, r *reporting, ref *project.Reference) {
	failed := guard.Run("an analysis", func() error {
		raw, err := s.Heard(ctx, ref, func(string, float64) {})
		if err == nil {
			r.a, err = transcribe.FinishContext(ctx, raw, ref.Corrections)
		}
		return err
	})
	s.mu.Lock()
	defer s.mu.Unlock()
	r.cancel()
	if r.err = failed; failed != nil && s.reports[key] == r {
		delete(s.reports, key) // it is tried again
	}
	close(r.done)
	hits := 0
	for other, o := range s.reports {
		select {
		case <-o.done:
			if o.a == nil {
				continue
			}
			if hits += len(o.a.Hits); hits > mostReported && other != key {
				delete(s.reports, other)
			}
		default:
		}
	}
}
