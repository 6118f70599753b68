package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"jubrak/app/jobs"
	"jubrak/app/store"
	"jubrak/core/compare"
	"jubrak/core/isolate"
	"jubrak/core/project"
)

// noReference says what to do where nothing can be compared.
var noReference = &Refusal{Code: "no_reference", Message: "There is nothing to compare with yet. Bring a reference first."}

// changedMeanwhile is why differences are not closed over an edit that came in between.
var changedMeanwhile = &Refusal{Code: "conflict", Message: "The project was changed while differences were measured, so nothing was closed. Apply again."}

// facing is a project and its active reference, both measured.
type facing struct {
	st      *State
	ref     *project.Reference
	against *compare.Against
	mine    *compare.Mine
}

func (f *facing) compare() *compare.Comparison {
	return compare.Compare(&f.st.Document, f.mine, f.against)
}

// facing measures a project and its active reference, again where an edit came in between.
func (s *Service) facing(ctx context.Context, id string) (*facing, error) {
	for {
		st, err := s.Open(id)
		if err != nil {
			return nil, err
		}
		f := &facing{st: st, ref: st.Document.Reference(st.Document.Active)}
		if f.ref == nil {
			return nil, noReference
		}
		if f.against, err = s.against(ctx, f.ref); err != nil {
			return nil, err
		}
		if f.mine, err = s.mine(ctx, st); !errors.Is(err, errSuperseded) {
			return f, err
		}
	}
}

// Compare sets a project against its active reference and, beside it, against others by
// their ids.
func (s *Service) Compare(ctx context.Context, id string, others []string) (*compare.Comparison, error) {
	f, err := s.facing(ctx, id)
	if err != nil {
		return nil, err
	}
	c := f.compare()
	c.Names = append(c.Names, f.ref.Name)
	if err := s.keepDistance(f.st, f.ref, c); err != nil {
		return nil, err
	}
	for _, other := range others {
		o := f.st.Document.Reference(other)
		if o == nil || o.ID == f.ref.ID {
			continue
		}
		b, err := s.against(ctx, o)
		if err != nil {
			return nil, err
		}
		c.Beside(compare.Compare(&f.st.Document, f.mine, b), o.Name)
	}
	return c, nil
}

// keepDistance keeps how far a version lies from its reference.
func (s *Service) keepDistance(st *State, ref *project.Reference, c *compare.Comparison) error {
	parts, err := json.Marshal(c.Parts)
	if err != nil {
		return err
	}
	return s.Store.PutDistance(&store.Distance{ProjectID: st.ID, Version: st.Version, Reference: ref.ID, Outside: c.Outside, Measurable: c.Measurable, Parts: parts})
}

// Distance is how far a version of a project lay from its reference.
type Distance struct {
	Version    int                 `json:"version"`
	Outside    int                 `json:"outside"`
	Measurable int                 `json:"measurable"`
	Parts      []compare.PartCount `json:"parts"`
}

// Distances are those of a project to its active reference, the oldest first: each version
// that was compared.
func (s *Service) Distances(id string) ([]Distance, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	rows, err := s.Store.DistancesOf(id, st.Document.Active)
	out := []Distance{}
	for _, r := range rows {
		one := Distance{r.Version, r.Outside, r.Measurable, []compare.PartCount{}}
		if len(r.Parts) > 0 && json.Unmarshal(r.Parts, &one.Parts) == nil {
			out = append(out, one)
		}
	}
	return out, err
}

// against is a reference with its drums, which are worked out where they are not there.
func (s *Service) against(ctx context.Context, ref *project.Reference) (*compare.Against, error) {
	out := &compare.Against{Profile: ref.Profile, Reference: ref.ID}
	if ref.Profile != nil {
		out.Analysis = ref.Profile.Analysis()
		return out, nil
	}
	a, err := s.finished(ctx, ref)
	if err != nil {
		return nil, err
	}
	out.Drums, err = s.drumsOf(ctx, ref)
	out.Analysis = isolate.With(a, out.Drums)
	return out, err
}

// CompareReferences sets one reference of a project against the active one.
func (s *Service) CompareReferences(ctx context.Context, id, other string) (*compare.Comparison, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	mine, theirs := st.Document.Reference(other), st.Document.Reference(st.Document.Active)
	if theirs == nil {
		return nil, noReference
	}
	if mine == nil {
		return nil, store.ErrNotFound
	}
	a, err := s.against(ctx, mine)
	if err != nil {
		return nil, err
	}
	b, err := s.against(ctx, theirs)
	if err != nil {
		return nil, err
	}
	c := compare.References(a, b)
	c.Names = append(c.Names, theirs.Name)
	return c, nil
}

// CompareProject sets another project, an attempt at the same, against the active reference
// of this one. There is nothing to change in it from here.
func (s *Service) CompareProject(ctx context.Context, id, other string) (*compare.Comparison, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	ref := st.Document.Reference(st.Document.Active)
	if ref == nil {
		return nil, noReference
	}
	attempt, err := s.Open(other)
	if err != nil {
		return nil, err
	}
	a, err := s.against(ctx, ref)
	if err != nil {
		return nil, err
	}
	mine, err := compare.MeasureMine(ctx, &attempt.Document, s.samples(&attempt.Document))
	if err != nil {
		return nil, err
	}
	c := compare.Compare(&attempt.Document, mine, a)
	c.Fixed()
	c.Names = append(c.Names, ref.Name)
	return c, nil
}

// ApplyAsk asks for rows of a comparison to be closed.
type ApplyAsk struct {
	// Rows are their ids; none are all that lie outside.
	Rows []string `json:"rows"`
}

// Apply closes rows of a comparison in the background: one change of the history, and a
// report of what was measured then (Applied).
func (s *Service) Apply(id string, ask ApplyAsk) (jobs.Job, error) {
	st, err := s.Open(id)
	if err != nil {
		return jobs.Job{}, err
	}
	ref := st.Document.Reference(st.Document.Active)
	if ref == nil {
		return jobs.Job{}, noReference
	}
	ready := make(chan string, 1)
	job := s.Jobs.Start(jobs.Spec{Title: "Closing differences", Kind: jobs.Apply, Project: id}, func(ctx context.Context, w *jobs.Watch) (string, error) {
		job := <-ready
		a, err := s.against(ctx, ref)
		if err != nil {
			return "", errors.New(Sentence(err))
		}
		k := &compare.Closer{Samples: s.samples(&st.Document), Env: env{s}}
		got, err := k.Apply(ctx, &st.Document, a, ask.Rows, func(done float64, what string) { w.Report(what, done) })
		if err != nil {
			return "", err
		}
		s.applied.put(job, got)
		if len(got.Edits) == 0 {
			return "", nil
		}
		switch _, err := s.Edit(id, st.Version, got.Edits, ""); {
		case errors.Is(err, store.ErrConflict):
			return "", errors.New(changedMeanwhile.Message)
		case err != nil:
			return "", errors.New(Sentence(err))
		}
		return fmt.Sprint(len(got.Rows)), nil
	})
	ready <- job.ID
	return job, nil
}

// Applied is what a job of Apply has done.
func (s *Service) Applied(job string) (*compare.Applied, error) {
	if got := s.applied.get(job); got != nil {
		return got, nil
	}
	return nil, store.ErrNotFound
}
