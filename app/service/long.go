package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"jubrak/app/jobs"
	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/format"
	"jubrak/core/transcribe"
)

// ChooseStretch begins the result of a job that brought a file too long to be
// listened to whole, or one that can only be read so far; the id of the file
// follows. See Long.
const ChooseStretch = "choose-stretch/"

// LongFile is a file of which a stretch must be chosen.
type LongFile struct {
	ID     string        `json:"id"`
	Name   string        `json:"name"`
	Survey format.Survey `json:"survey"`
	// Longest is how much of it can be listened to, seconds; From and To are a
	// proposal.
	Longest float64 `json:"longest_s"`
	From    float64 `json:"from_s"`
	To      float64 `json:"to_s"`
}

// Stretch is a part of a long file, seconds.
type Stretch struct {
	From float64 `json:"from_s"`
	To   float64 `json:"to_s"`
}

// proposed is the length of the stretch that is proposed, seconds: enough for
// the pattern and its drifts.
const proposed = 120

// survey looks through a file that could not be read whole, and keeps it until a
// stretch is chosen. If nothing of it can be used, why stands.
func (s *Service) survey(ctx context.Context, t *store.Task, data []byte, why *format.Error, report transcribe.Progress) (string, error) {
	found, err := format.SurveyFile(data, func(done float64) error {
		report("surveying", done)
		return ctx.Err()
	})
	if why.Partial() && ctx.Err() == nil && (err != nil || found.Damage == "") {
		return "", why
	}
	if err != nil {
		return "", err
	}
	id := t.Blob
	l := &LongFile{ID: id, Name: t.Name, Survey: *found, Longest: found.Length(), To: found.Seconds}
	if found.Seconds > l.Longest || found.Damage == "" {
		l.From = found.Fullest(proposed)
		l.To = min(l.From+proposed, found.Seconds)
	}
	text, err := json.Marshal(l)
	if err != nil {
		return "", err
	}
	if err := s.Store.PutTask(&store.Task{ID: "long-" + id, Project: t.Project, Kind: taskChoose, Name: t.Name, Blob: id, Data: text}); err != nil {
		return "", err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	s.long[id] = l
	return ChooseStretch + id, nil
}

// Long is a file that waits for a stretch to be chosen.
func (s *Service) Long(id string) (*LongFile, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if l := s.long[id]; l != nil {
		return l, nil
	}
	return nil, store.ErrNotFound
}

// DropLong forgets a long file.
func (s *Service) DropLong(id string) error {
	if _, err := s.Long(id); err != nil {
		return err
	}
	s.mu.Lock()
	delete(s.long, id)
	s.mu.Unlock()
	if err := s.Store.DropTask("long-" + id); err != nil {
		return err
	}
	return s.sweep()
}

// ImportStretch cuts a stretch out of a long file and brings it as Import does.
// The long file is forgotten then.
func (s *Service) ImportStretch(project, id string, part Stretch) (jobs.Job, error) {
	l, err := s.Long(id)
	if err != nil {
		return jobs.Job{}, err
	}
	if !(part.From >= 0 && part.To-part.From >= 1 && part.To-part.From <= l.Longest && part.From < l.Survey.Seconds) {
		return jobs.Job{}, &Refusal{Code: "invalid", Message: fmt.Sprintf("The stretch must lie in the file and last from 1 s to %.0f min.", l.Longest/60)}
	}
	part.To = min(part.To, l.Survey.Seconds)
	name := displayName(l.Name)
	if part.From >= 1 {
		name = fmt.Sprintf("%s from %s", name, clock(part.From))
	}
	text, err := json.Marshal(part)
	if err != nil {
		return jobs.Job{}, err
	}
	return s.begin(&store.Task{ID: NewID(), Project: project, Kind: taskStretch, Name: name, Blob: id, Data: text})
}

// bringStretch is the work of ImportStretch.
func (s *Service) bringStretch(ctx context.Context, t *store.Task, w *jobs.Watch) (string, error) {
	var part Stretch
	if err := json.Unmarshal(t.Data, &part); err != nil {
		return "", err
	}
	view, err := s.Store.View(t.Blob)
	if err != nil {
		return "", err
	}
	defer view.Close()
	defer frugally()()
	report := releasing(view, w)
	b, err := format.DecodeStretch(view.Data, part.From, part.To, func(done float64) error {
		report("decoding", 0.3*done)
		return ctx.Err()
	})
	if err != nil {
		return "", err
	}
	view.Release()
	cut, err := s.received(b)
	if err != nil {
		return "", err
	}
	defer cut.Drop() // it is kept before that, or not at all
	heard, err := cut.View()
	if err != nil {
		return "", err
	}
	defer heard.Close()
	report = releasing(heard, w)
	later := func(stage string, done float64) { report(stage, 0.3+0.7*done) }
	keep := func() (string, error) { return cut.Name, cut.Keep() }
	ref, err := s.add(ctx, t.Project, t.Name+".wav", heard.Data, keep, later, soFar(t.Name+".wav", w.Show))
	if err != nil {
		return "", err
	}
	if err := s.DropLong(t.Blob); err != nil && !errors.Is(err, store.ErrNotFound) {
		return "", err
	}
	return ref, nil
}

// received is a recording as a WAV file that has arrived.
func (s *Service) received(b *audio.Buffer) (*store.Incoming, error) {
	r, w := io.Pipe()
	go func() { _ = w.CloseWithError(format.WriteWAV(w, b, format.WAV24)) }()
	defer func() { _ = r.Close() }()
	return s.Store.Receive(r)
}

// clock writes seconds as minutes and seconds.
func clock(seconds float64) string {
	return fmt.Sprintf("%d:%02d", int(seconds)/60, int(seconds)%60)
}
