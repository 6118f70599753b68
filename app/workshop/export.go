package workshop

import (
	"context"
	"errors"

	"jubrak/app/store"
	"jubrak/core/deliver"
	"jubrak/core/drums"
	"jubrak/core/engine"
	"jubrak/core/listen"
	"jubrak/core/match"
	"jubrak/core/project"
)

// Compare sets a project against its active reference; nil where it has none.
func (s *Workshop) Compare(ctx context.Context, id string) (*match.Comparison, error) {
	for {
		c, err := s.compare(ctx, id)
		if !errors.Is(err, errSuperseded) {
			return c, err
		}
	}
}

func (s *Workshop) compare(ctx context.Context, id string) (*match.Comparison, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	ref := st.Document.Reference(st.Document.Active)
	if ref == nil {
		return nil, &Refusal{Code: "no_reference", Message: "There is nothing to compare with yet. Bring a reference first."}
	}
	a, err := s.full(ctx, ref)
	if err != nil {
		return nil, err
	}
	shared, err := s.mine(ctx, st)
	if err != nil {
		return nil, err
	}
	mine := new(*shared)
	if ref.Profile != nil {
		mine.MeasureTones(&st.Document, s.samples(&st.Document), ref.Profile)
	}
	c := match.Compare(&st.Document, mine, a, ref.Profile)
	return c, s.Store.PutJudgement(&store.Judgement{ProjectID: id, Version: st.Version, Outside: c.Outside, Told: c.Told})
}

// full is the analysis of a reference with what its drums say, which are worked out where
// they are not there.
func (s *Workshop) full(ctx context.Context, ref *project.Reference) (*listen.Analysis, error) {
	if ref.Profile != nil {
		return ref.Profile.Analysis(), nil
	}
	a, err := s.finished(ctx, ref)
	if err != nil {
		return nil, err
	}
	list, err := s.drumsOf(ctx, ref)
	return drums.With(a, list), err
}

// CompareReferences sets one reference of a project against the active one.
func (s *Workshop) CompareReferences(ctx context.Context, id, other string) (*match.Comparison, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	if st.Document.Active == "" {
		return nil, &Refusal{Code: "no_reference", Message: "There is nothing to compare with yet. Bring a reference first."}
	}
	a, err := s.Analysis(ctx, id, other)
	if err != nil {
		return nil, err
	}
	b, err := s.Analysis(ctx, id, st.Document.Active)
	if err != nil {
		return nil, err
	}
	return match.References(a, b), nil
}

// Export makes the file that what names: loop, stems, one-shots, midi or
// project.
func (s *Workshop) Export(ctx context.Context, d *project.Document, what string, o deliver.Options) (deliver.File, error) {
	name := deliver.FileName(d.Name)
	var parts []deliver.Part
	var err error
	switch what {
	case "loop":
		if parts, err = deliver.Loop(ctx, d, s.samples(d), o); err == nil {
			return deliver.Files(parts, o.Format)[0], nil
		}
	case "stems":
		if parts, err = deliver.Stems(ctx, d, s.samples(d), o); err == nil {
			return deliver.Zip(name+"-stems", deliver.Files(parts, o.Format)), nil
		}
	case "one-shots":
		if parts, err = deliver.OneShots(ctx, d, s.samples(d), o); err == nil {
			return deliver.Zip(name+"-one-shots", deliver.Files(parts, o.Format)), nil
		}
	case "midi":
		var m *Mapping
		if m, err = s.Mapping(); err != nil {
			return deliver.File{}, err
		}
		o.Keys = m.families()
		var file deliver.File
		if file, err = deliver.MIDI(d, o); err == nil {
			return file, nil
		}
	case "project":
		return s.archive(d)
	default:
		return deliver.File{}, store.ErrNotFound
	}
	return deliver.File{}, tooLong(err)
}

// tooLong turns what cannot be rendered for its length into a refusal.
func tooLong(err error) error {
	var long *engine.TooLong
	if errors.As(err, &long) {
		return &Refusal{Code: "too_long", Message: Sentence(long)}
	}
	return err
}

// Levels tells how loud a project's sound files would come out.
func (s *Workshop) Levels(ctx context.Context, d *project.Document, o deliver.Options) (*deliver.Levels, error) {
	l, err := deliver.Measure(ctx, d, s.samples(d), o)
	return l, tooLong(err)
}
