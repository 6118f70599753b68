package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"

	"jubrak/app/jobs"
	"jubrak/app/store"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/project"
	"jubrak/core/transcribe"
)

// archive is the project with the sounds of its references and layers. One
// that is missing is left out; whoever opens the archive is informed.
func (s *Service) archive(d *project.Document) (export.File, error) {
	text, err := json.MarshalIndent(d, "", " ")
	if err != nil {
		return export.File{}, err
	}
	blobs := map[string][]byte{}
	for _, name := range d.Blobs() {
		data, err := s.Store.Blob(name)
		if errors.Is(err, store.ErrNotFound) {
			continue
		}
		if err != nil {
			return export.File{}, err
		}
		blobs[name] = data
	}
	return export.File{Name: export.FileName(d.Name) + ".jubrak", Write: func(w io.Writer) error {
		return format.WriteArchive(w, text, blobs)
	}}, nil
}

// ImportArchive opens a project archive as a new project, in the background.
// The job's result is the project's id, its notes say what came in and what was
// missing.
func (s *Service) ImportArchive(fileName string, file io.Reader) (jobs.Job, error) {
	return s.receive(&store.Task{Kind: taskArchive, Name: fileName}, file)
}

func (s *Service) openArchive(ctx context.Context, _ string, data []byte, w *jobs.Watch) (string, error) {
	id, notes, err := s.OpenArchive(ctx, data, w.Report)
	for _, n := range notes {
		w.Note(n)
	}
	return id, err
}

// OpenArchive makes a new project of an archive, with its references, layers
// and corrections, and listens to its recordings. notes say what came in and
// what was missing.
func (s *Service) OpenArchive(ctx context.Context, data []byte, report transcribe.Progress) (id string, notes []string, err error) {
	report("opening", 0)
	a, err := format.OpenArchive(data)
	if err != nil {
		return "", nil, err
	}
	text, err := a.Document()
	if err != nil {
		return "", nil, err
	}
	d, err := project.Read(text)
	if err != nil {
		return "", nil, &format.Error{Code: format.CodeUnusable, Message: Sentence(err)}
	}
	st, have, err := s.unpack(ctx, d, a)
	if err != nil {
		return "", nil, err
	}
	notes = append(notes, arrived(d))
	for i := range d.References {
		ref := &d.References[i]
		part := func(stage string, done float64) {
			report(stage, (float64(i)+done)/float64(len(d.References)))
		}
		switch {
		case ref.Blob == "":
		case !have[ref.Blob]:
			notes = append(notes, fmt.Sprintf("The recording of the reference “%s” was not in the archive, or is damaged or too large.", ref.Name))
		default:
			if _, err := s.Heard(ctx, ref, part); err != nil {
				if ctx.Err() != nil {
					return "", nil, errors.Join(ctx.Err(), s.Store.Delete(st.ID))
				}
				notes = append(notes, fmt.Sprintf("The reference “%s” cannot be heard: %s", ref.Name, Sentence(err)))
			}
		}
	}
	for _, l := range d.LayersWithout(func(blob string) bool { return have[blob] }) {
		notes = append(notes, fmt.Sprintf("%s: the sound of its layer “%s” was not in the archive, or is damaged or too large: the layer is silent.", l.Voice, l.Layer))
	}
	return st.ID, notes, nil
}

// unpack keeps the sounds of an archive and makes its project, which names them.
func (s *Service) unpack(ctx context.Context, d *project.Document, a *format.ProjectArchive) (st *State, have map[string]bool, err error) {
	defer s.naming()()
	have = map[string]bool{}
	for _, name := range d.Blobs() {
		if err := ctx.Err(); err != nil {
			return nil, nil, err
		}
		if have[name], err = s.bring(a, name); err != nil {
			return nil, nil, err
		}
	}
	st, err = s.Create(d)
	return st, have, err
}

// bring keeps a sound of an archive, without holding it in memory; false where it is
// missing or damaged, of which whoever opens the archive is informed.
func (s *Service) bring(a *format.ProjectArchive, name string) (bool, error) {
	r, err := a.OpenBlob(name)
	if err != nil {
		return false, nil
	}
	defer func() { _ = r.Close() }()
	in, err := s.Store.Receive(r)
	var broken *store.BrokenOff
	if errors.As(err, &broken) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	if in.Name != name {
		in.Drop()
		return false, nil
	}
	return true, in.Keep()
}

// arrived says what a document brings.
func arrived(d *project.Document) string {
	count := func(n int, what string) string {
		if n == 1 {
			return "1 " + what
		}
		return fmt.Sprintf("%d %ss", n, what)
	}
	hits, recordings, corrections := 0, 0, 0
	for _, l := range d.Groove.Lanes {
		hits += len(l.Hits)
	}
	for _, v := range d.Kit.Voices {
		for i := range v.Layers {
			if v.Layers[i].Recording != nil {
				recordings++
			}
		}
	}
	for _, r := range d.References {
		corrections += len(r.Corrections)
	}
	parts := []string{count(len(d.Kit.Voices), "voice"), count(hits, "hit"), count(recordings, "recorded sound"), count(len(d.References), "reference")}
	if corrections > 0 {
		parts = append(parts, count(corrections, "correction"))
	}
	return fmt.Sprintf("“%s” came in: %s.", d.Name, strings.Join(parts, ", "))
}

// Duplicate makes a new project of the present state of another.
func (s *Service) Duplicate(id string) (*State, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	d := st.Document
	if name := []rune(d.Name); len(name) > 113 {
		d.Name = string(name[:113])
	}
	d.Name += " (copy)"
	return s.Create(&d)
}
