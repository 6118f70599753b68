package workshop

import (
	"context"
	"errors"

	"jubrak/app/store"
	"jubrak/core/deliver"
	"jubrak/core/engine"
	"jubrak/core/project"
)

// Export makes the file that what names: loop, stems, one-shots or midi of the groove;
// piece, sections, piece-stems or piece-midi of the arrangement; or project.
func (s *Workshop) Export(ctx context.Context, id string, d *project.Document, what string, o deliver.Options) (deliver.File, error) {
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
	case "piece":
		var ready map[string]engine.Ready
		if o.Backings {
			if ready, err = s.allBackings(ctx, id, d); err != nil {
				return deliver.File{}, err
			}
		}
		return deliver.PieceFile(ctx, d, s.samples(d), ready, o), nil
	case "sections":
		if parts, err = deliver.Sections(ctx, d, s.samples(d), o); err == nil {
			return deliver.Zip(name+"-sections", deliver.Files(parts, o.Format)), nil
		}
	case "piece-stems":
		if parts, err = deliver.PieceStems(ctx, d, s.samples(d), o); err == nil {
			return deliver.Zip(name+"-piece-stems", deliver.Files(parts, o.Format)), nil
		}
	case "piece-midi":
		var m *Mapping
		if m, err = s.Mapping(); err != nil {
			return deliver.File{}, err
		}
		o.Keys = m.families()
		var file deliver.File
		if file, err = deliver.PieceMIDI(d, o); err == nil {
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
