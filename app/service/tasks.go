package service

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"log/slog"

	"jubrak/app/jobs"
	"jubrak/app/store"
	"jubrak/core/format"
	"jubrak/core/transcribe"
)

// Kinds of tasks.
const (
	taskReference = "reference" // listen to a file
	taskStretch   = "stretch"   // listen to a stretch of a long file
	taskChoose    = "choose"    // wait for a stretch to be chosen
	taskArchive   = "archive"   // open a project archive
)

// Import listens to a file in the background and, when that is done, adds it
// to the project as its active reference. Nothing is changed if it fails or
// is cancelled. The job's result is the reference's id, or ChooseStretch with
// the id of a file of which a stretch must be chosen: it is too long, or can only
// be read so far. The file is on the disk when Import returns; what it cannot be
// is refused at once.
func (s *Service) Import(id, fileName string, file io.Reader) (jobs.Job, error) {
	if _, err := s.Store.Load(id); err != nil {
		return jobs.Job{}, err
	}
	return s.receive(&store.Task{Project: id, Kind: taskReference, Name: fileName}, file)
}

// receive keeps the file of a task and begins its work.
func (s *Service) receive(t *store.Task, file io.Reader) (jobs.Job, error) {
	in, err := s.Store.Receive(file) // however slow the sender is, nobody waits for it
	if err != nil {
		return jobs.Job{}, err
	}
	head, err := in.Head(4096)
	if err == nil {
		err = usable(t.Kind, head, in.Size)
	}
	if err != nil {
		in.Drop()
		return jobs.Job{}, err
	}
	defer s.naming()()
	if err := in.Keep(); err != nil {
		return jobs.Job{}, err
	}
	t.ID, t.Blob = NewID(), in.Name
	return s.begin(t)
}

// usable refuses what a task can make nothing of, by its first bytes.
func usable(kind string, head []byte, size int64) error {
	archive := format.Sniff(head) == format.Archive
	switch {
	case size == 0:
		return &format.Error{Code: format.CodeEmpty, Message: "The file is empty."}
	case kind == taskArchive && !archive:
		return &format.Error{Code: format.CodeUnknown, Message: "This is not a project archive. One made by Export ends in .jubrak."}
	case kind == taskReference && archive:
		return &format.Error{Code: format.CodeUnknown, Message: "This is a project archive or another zip; a reference is a sound or MIDI file. Open a project on the list of projects."}
	case kind == taskReference && format.Sniff(head) == format.Unknown:
		return format.NotSound()
	}
	return nil
}

// begin keeps a task and puts its work in line.
func (s *Service) begin(t *store.Task) (jobs.Job, error) {
	if err := s.Store.PutTask(t); err != nil {
		return jobs.Job{}, err
	}
	return s.Jobs.Start(s.spec(t), func(ctx context.Context, w *jobs.Watch) (string, error) {
		result, err := s.work(ctx, t, w)
		if errors.Is(err, store.ErrNotFound) {
			err = errors.New("the project was deleted in the meantime")
		}
		if err != nil && !errors.Is(err, context.Canceled) {
			err = errors.New(Sentence(err))
		}
		return result, err
	}), nil
}

func (s *Service) spec(t *store.Task) jobs.Spec {
	title := "Listening to " + t.Name
	if t.Kind == taskArchive {
		title = "Opening " + t.Name
	}
	return jobs.Spec{ID: t.ID, Title: title, Project: t.Project, Ended: func(jobs.Job) {
		if t.Kind == taskChoose {
			return
		}
		if err := errors.Join(s.Store.DropTask(t.ID), s.sweep()); err != nil {
			slog.Warn("a task could not be cleared away", "task", t.Name, "error", err)
		}
	}}
}

func (s *Service) work(ctx context.Context, t *store.Task, w *jobs.Watch) (string, error) {
	switch t.Kind {
	case taskStretch:
		return s.bringStretch(ctx, t, w)
	case taskChoose:
		return ChooseStretch + t.Blob, nil
	}
	view, err := s.Store.View(t.Blob)
	if err != nil {
		return "", err
	}
	defer view.Close()
	data, report := view.Data, releasing(view, w)
	if t.Kind == taskArchive {
		return s.openArchive(ctx, t.Name, data, w)
	}
	kept := func() (string, error) { return t.Blob, nil }
	ref, err := s.add(ctx, t.Project, t.Name, data, kept, report, soFar(t.Name, w.Show))
	var failed *format.Error
	if errors.As(err, &failed) && format.Sniff(data) != format.MIDI && (failed.Code == format.CodeTooLong || failed.Partial()) {
		return s.survey(ctx, t, data, failed, report)
	}
	return ref, err
}

// releasing is the report of work on a blob, which gives back what was read of it.
func releasing(v *store.View, w *jobs.Watch) transcribe.Progress {
	return func(stage string, done float64) {
		v.Release()
		w.Report(stage, done)
	}
}

// Restore lists the work that was under way when the program last stopped as
// interrupted, and clears away what nothing names. To be called once, first.
func (s *Service) Restore() error {
	tasks, err := s.Store.Tasks()
	if err != nil {
		return err
	}
	for i := range tasks {
		t := &tasks[i]
		if _, err := s.Store.Load(t.Project); t.Project != "" && errors.Is(err, store.ErrNotFound) {
			if err := s.Store.DropTask(t.ID); err != nil {
				return err
			}
			continue
		}
		if t.Kind == taskChoose {
			l := &LongFile{}
			if err := json.Unmarshal(t.Data, l); err != nil {
				return err
			}
			s.long[l.ID] = l
		}
		s.Jobs.Interrupted(s.spec(t))
	}
	return errors.Join(s.Store.DropParts(), s.sweep())
}

// Restart begins interrupted work again.
func (s *Service) Restart(job string) (jobs.Job, error) {
	tasks, err := s.Store.Tasks()
	if err != nil {
		return jobs.Job{}, err
	}
	for i := range tasks {
		if j, ok := s.Jobs.Get(job); ok && tasks[i].ID == job && j.Status == jobs.Interrupted {
			return s.begin(&tasks[i])
		}
	}
	return jobs.Job{}, store.ErrNotFound
}

// Cancel stops a job; interrupted work is forgotten with its file.
func (s *Service) Cancel(job string) bool {
	j, _ := s.Jobs.Get(job)
	ok := s.Jobs.Cancel(job)
	if ok && j.Status == jobs.Interrupted {
		s.forgetChoice(job)
	}
	return ok
}

// forgetChoice drops the long file that a job of taskChoose offered.
func (s *Service) forgetChoice(job string) {
	const prefix = "long-"
	if len(job) > len(prefix) && job[:len(prefix)] == prefix {
		if err := s.DropLong(job[len(prefix):]); err != nil {
			slog.Warn("a long file could not be dropped", "error", err)
		}
	}
}

// Delete removes a project, ends the work for it, and removes the sounds that
// nothing else names.
func (s *Service) Delete(id string) error {
	if err := s.Store.Delete(id); err != nil {
		return err
	}
	if err := s.Store.DeleteItemsLike(attemptsOf(id, "")); err != nil {
		return err
	}
	s.letGo(id)
	s.Hub.End(id)
	for _, j := range s.Jobs.List() {
		if j.Project == id && !j.Status.Ended() {
			s.Cancel(j.ID)
		}
	}
	return s.sweep()
}

// naming holds off sweeps while a blob is kept that nothing names yet; the
// function returned ends that.
func (s *Service) naming() (done func()) {
	s.blobs.RLock()
	return s.blobs.RUnlock
}

// sweep removes what nothing names any more.
func (s *Service) sweep() error {
	s.blobs.Lock()
	defer s.blobs.Unlock()
	_, err := s.Store.Sweep()
	return err
}
