package service

import (
	"context"
	"errors"

	"jubrak/app/store"
	"jubrak/core/engine"
	"jubrak/core/export"
	"jubrak/core/project"
)

// Export makes the file that what names: loop, stems, one-shots or midi of the groove;
// piece, sections, piece-stems or piece-midi of the arrangement; or project.
func (s *Service) Export(ctx context.Context, id string, d *project.Document, what string, o export.Options) (export.File, error) {
	name := export.FileName(d.Name)
	var parts []export.Part
	var err error
	switch what {
	case "loop":
		if parts, err = export.Loop(ctx, d, s.samples(d), o); err == nil {
			return export.Files(parts, o.Format)[0], nil
		}
	case "stems":
		if parts, err = export.Stems(ctx, d, s.samples(d), o); err == nil {
			return export.Zip(name+"-stems", export.Files(parts, o.Format)), nil
		}
	case "one-shots":
		if parts, err = export.OneShots(ctx, d, s.samples(d), o); err == nil {
			return export.Zip(name+"-one-shots", export.Files(parts, o.Format)), nil
		}
	case "midi":
		var m *Mapping
		if m, err = s.Mapping(); err != nil {
			return export.File{}, err
		}
		o.Keys = m.families()
		var file export.File
		if file, err = export.MIDI(d, o); err == nil {
			return file, nil
		}
	case "piece":
		var ready map[string]engine.Ready
		if o.Backings {
			if ready, err = s.allBackings(ctx, id, d); err != nil {
				return export.File{}, err
			}
		}
		return export.PieceFile(ctx, d, s.samples(d), ready, o), nil
	case "sections":
		if parts, err = export.Sections(ctx, d, s.samples(d), o); err == nil {
			return export.Zip(name+"-sections", export.Files(parts, o.Format)), nil
		}
	case "piece-stems":
		if parts, err = export.PieceStems(ctx, d, s.samples(d), o); err == nil {
			return export.Zip(name+"-piece-stems", export.Files(parts, o.Format)), nil
		}
	case "piece-midi":
		var m *Mapping
		if m, err = s.Mapping(); err != nil {
			return export.File{}, err
		}
		o.Keys = m.families()
		var file export.File
		if file, err = export.PieceMIDI(d, o); err == nil {
			return file, nil
		}
	case "project":
		return s.archive(d)
	default:
		return export.File{}, store.ErrNotFound
	}
	return export.File{}, tooLong(err)
}

// tooLong turns what cannot be rendered for its length into a refusal.
func tooLong(err error) error {
	var long *engine.TooLong
	if errors.As(err, &long) {
		return &Refusal{Code: "too_long", Message: Sentence(long)}
	}
	return err
}

// Levels returns how loud a project's sound files would come out.
func (s *Service) Levels(ctx context.Context, d *project.Document, o export.Options) (*export.Levels, error) {
	l, err := export.Measure(ctx, d, s.samples(d), o)
	return l, tooLong(err)
}
