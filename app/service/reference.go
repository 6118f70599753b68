package service

import (
	"bytes"
	"context"
	"errors"
	"math"
	"path/filepath"
	"strings"
	"time"

	"jubrak/app/live"
	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/compare"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/project"
	"jubrak/core/transcribe"
	"jubrak/internal/guard"
)

// Hear reads a file of any known kind and listens to it.
func Hear(ctx context.Context, data []byte, report transcribe.Progress) (*transcribe.Raw, error) {
	return follow(ctx, data, report, func(*audio.Buffer, transcribe.Raw) {})
}

// follow is Hear that shows what has been heard so far, the first time with the
// recording, later with nil.
func follow(ctx context.Context, data []byte, report transcribe.Progress, show func(*audio.Buffer, transcribe.Raw)) (*transcribe.Raw, error) {
	if len(data) == 0 {
		return nil, &format.Error{Code: format.CodeEmpty, Message: "The file is empty."}
	}
	if format.Sniff(data) == format.MIDI {
		p, err := format.ReadMIDI(bytes.NewReader(data))
		if err != nil {
			return nil, err
		}
		return transcribe.FromPerformance(p), nil
	}
	defer frugally()()
	report("decoding", 0)
	b, err := format.DecodeWatched(data, func(done float64) error {
		report("decoding", 0.1*done)
		return ctx.Err()
	})
	if err != nil {
		return nil, err
	}
	first := b // is let go as soon as it has been shown and prepared
	return transcribe.Follow(ctx, b, func(stage string, done float64) { report(stage, 0.1+0.9*done) }, func(raw transcribe.Raw) {
		show(first, raw)
		first = nil
	})
}

// SoFar is what has been heard in a file that is still being listened to.
type SoFar struct {
	Name     string              `json:"name"`
	Analysis transcribe.Analysis `json:"analysis"`
	Wave     Peaks               `json:"wave"`
}

// soFar keeps what is shown; the wave is drawn once.
func soFar(fileName string, show func(any)) func(*audio.Buffer, transcribe.Raw) {
	var wave *Peaks
	return func(b *audio.Buffer, raw transcribe.Raw) {
		if wave == nil {
			wave = drawPeaks(b, &Peaks{To: b.Seconds(), Points: [][2]float64{}}, 1200)
		}
		show(&SoFar{Name: displayName(fileName), Analysis: *transcribe.Finish(&raw, nil), Wave: *wave})
	}
}

// Prepare listens to a file and keeps its sound and what was heard, without
// adding it to a project yet.
func (s *Service) Prepare(ctx context.Context, fileName string, data []byte, report transcribe.Progress) (*project.Reference, error) {
	raw, err := Hear(ctx, data, report)
	if err != nil {
		return nil, err
	}
	blob, err := s.Store.PutBlob(data)
	if err != nil {
		return nil, err
	}
	return s.named(fileName, blob, raw)
}

// named is a reference to a blob, of which is kept what was heard.
func (s *Service) named(fileName, blob string, raw *transcribe.Raw) (*project.Reference, error) {
	ref := &project.Reference{ID: NewID(), Name: displayName(fileName), Kind: raw.Kind, Blob: blob, Corrections: []transcribe.Correction{}}
	return ref, s.keep(blob, raw)
}

// AddReference does the work of Import and waits for it. The keys of a MIDI
// file are filed by the user's mapping.
func (s *Service) AddReference(ctx context.Context, id, fileName string, data []byte, report transcribe.Progress) (string, error) {
	keep := func() (string, error) { return s.Store.PutBlob(data) }
	return s.add(ctx, id, fileName, data, keep, report, func(*audio.Buffer, transcribe.Raw) {})
}

// add listens to a file, keeps it by keep, which returns the blob's name, and gives it to
// a project.
func (s *Service) add(ctx context.Context, id, fileName string, data []byte, keep func() (string, error), report transcribe.Progress, show func(*audio.Buffer, transcribe.Raw)) (string, error) {
	raw, err := follow(ctx, data, report, show)
	if err != nil {
		return "", err
	}
	defer s.naming()()
	blob, err := keep()
	if err != nil {
		return "", err
	}
	ref, err := s.named(fileName, blob, raw)
	if err != nil {
		return "", err
	}
	if ref.Kind == "midi" {
		m, err := s.Mapping()
		if err != nil {
			return "", err
		}
		ref.Corrections = m.corrections()
	}
	return ref.ID, s.attach(id, ref)
}

// attach adds a reference to a project. Other edits may come in between: it
// tries again on the newest version.
func (s *Service) attach(id string, ref *project.Reference) error {
	for range 20 {
		st, err := s.Open(id)
		if err != nil {
			return err
		}
		_, err = s.Edit(id, st.Version, project.Edits{project.AddReference{Reference: *ref}}, "")
		if !errors.Is(err, store.ErrConflict) {
			return err
		}
	}
	return store.ErrConflict
}

func displayName(file string) string {
	name := strings.TrimSuffix(filepath.Base(file), filepath.Ext(file))
	name = strings.TrimSpace(strings.ReplaceAll(name, "_", " "))
	if name == "" || name == "." {
		name = "Reference"
	}
	if r := []rune(name); len(r) > 60 {
		name = string(r[:60])
	}
	return name
}

type cachedTrack struct {
	audio *audio.Buffer // at the engine's rate
}

// sound is the decoded recording of a reference at the engine's rate; nil for
// MIDI.
func (s *Service) sound(ref *project.Reference) (*audio.Buffer, error) {
	if ref.Kind != "audio" {
		return nil, nil
	}
	s.mu.Lock()
	t := s.track[ref.Blob]
	s.mu.Unlock()
	if t != nil {
		return t.audio, nil
	}
	data, err := s.Store.Blob(ref.Blob)
	if err != nil {
		return nil, err
	}
	b, err := format.Decode(data)
	if err != nil {
		return nil, err
	}
	t = &cachedTrack{audio: live.TrackOf(b)}
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.track) >= 4 {
		clear(s.track) // recordings are large: keep few
	}
	s.track[ref.Blob] = t
	return t.audio, nil
}

// Track prepares the active reference of a project for the monitor: the
// recording, the bars that repeat, and the gain that matches its loudness to
// the project's. nil where there is none to play.
func (s *Service) Track(ctx context.Context, st *State) (*engine.Track, float64, error) {
	ref := st.Document.Reference(st.Document.Active)
	if ref == nil {
		return nil, 1, nil
	}
	b, err := s.sound(ref)
	if b == nil || err != nil {
		return nil, 1, err
	}
	a, err := env{s}.Analysis(ref)
	if err != nil || a.Grid == nil {
		return nil, 1, err
	}
	beats := a.Grid.PerBar * max(wholeBars(a), 1)
	mine, err := s.mine(ctx, st)
	if err != nil {
		return nil, 1, err
	}
	return &engine.Track{Audio: b, Grid: *a.Grid, From: 0, To: beats}, compare.MatchGain(mine.Loudness, a.Level.Integrated), nil
}

// wholeBars counts the bars that end within the file (a tenth of a beat is
// forgiven).
func wholeBars(a *transcribe.Analysis) int {
	beats := a.Grid.Position(a.Duration)
	return int((beats + 0.1) / float64(a.Grid.PerBar))
}

// Peaks is a picture of a recording: the least and greatest sample in each of
// n equal parts between two times.
type Peaks struct {
	From   float64      `json:"from_s"`
	To     float64      `json:"to_s"`
	Points [][2]float64 `json:"points"`
}

// reference finds a reference of a project.
func (s *Service) reference(id, refID string) (*project.Reference, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	if ref := st.Document.Reference(refID); ref != nil {
		return ref, nil
	}
	return nil, store.ErrNotFound
}

// Wave draws the recording of a reference between two times in seconds.
func (s *Service) Wave(id, refID string, from, to float64, n int) (*Peaks, error) {
	ref, err := s.reference(id, refID)
	if err != nil {
		return nil, err
	}
	p := &Peaks{From: from, To: to, Points: [][2]float64{}}
	b, err := s.sound(ref)
	if b == nil || err != nil {
		return p, err
	}
	return drawPeaks(b, p, n), nil
}

func drawPeaks(b *audio.Buffer, p *Peaks, n int) *Peaks {
	rate := float64(b.Rate)
	for i := range n {
		a := p.From + (p.To-p.From)*float64(i)/float64(n)
		z := p.From + (p.To-p.From)*float64(i+1)/float64(n)
		lo, hi := math.Inf(1), math.Inf(-1)
		for _, ch := range b.Slice(int(a*rate), max(int(z*rate), int(a*rate)+1)).Channels {
			for _, v := range ch {
				lo, hi = min(lo, float64(v)), max(hi, float64(v))
			}
		}
		if lo > hi {
			lo, hi = 0, 0 // beyond the end
		}
		p.Points = append(p.Points, [2]float64{lo, hi})
	}
	return p
}

// retrack prepares, in the background, the reference of a project for its open
// monitors again, after an edit may have changed which one plays or how loud mine is. Edits
// that come while it works are taken up by one more round.
func (s *Service) retrack(id string) {
	guard.Go("preparing the reference to play", func() { s.retrackAll(id) })
}

func (s *Service) retrackAll(id string) {
	s.mu.Lock()
	s.stale[id]++
	if s.stale[id] > 1 {
		s.mu.Unlock()
		return
	}
	s.mu.Unlock()
	for {
		time.Sleep(retrackAfter)
		s.mu.Lock()
		seen := s.stale[id]
		s.mu.Unlock()
		_ = guard.Run("preparing the reference to play", func() error { s.retrackOnce(id); return nil })
		s.mu.Lock()
		if s.stale[id] == seen {
			delete(s.stale, id)
			s.mu.Unlock()
			return
		}
		s.mu.Unlock()
	}
}

func (s *Service) retrackOnce(id string) {
	if !s.isOpen(id) {
		return
	}
	st, err := s.Open(id)
	if err != nil {
		return // deleted in the meantime
	}
	track, gain, err := s.Track(context.Background(), st)
	if err != nil {
		return // the analysis shows the same error where the user can read it
	}
	s.Hub.Each(id, func(l *live.Session) { l.SetTrack(track, gain) })
}
