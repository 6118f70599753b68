// Package service is what the interface can ask for: it joins the document,
// its store, the listener, the live monitor and long work.
package service

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"sync"

	"jubrak/app/jobs"
	"jubrak/app/live"
	"jubrak/app/store"
	"jubrak/core/compare"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/isolate"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// Service is safe for concurrent use.
type Service struct {
	Store    *store.Store
	Jobs     *jobs.Manager
	Hub      *live.Hub
	blobs    sync.RWMutex     // held for writing while unnamed blobs are removed
	mu       sync.Mutex       // guards the caches
	held     map[string]*held // open projects
	heard    map[string]*transcribe.Raw
	reports  map[string]*reporting // by blob and corrections
	track    map[string]*cachedTrack
	drums    map[string]*separating   // by blob and what else they depend on
	layer    map[string]*sound.Sample // decoded, by blob
	long     map[string]*LongFile     // that wait for a stretch to be chosen, by blob
	listed   map[string]Summary       // of the versions last listed
	stale    map[string]int           // projects whose monitors wait for their reference
	measures map[string]*measuring    // by project, the newest
	applied  recent[compare.Applied]
	blinds   recent[blindPlay]
	rebuilt  recent[Rebuilt]
	fits     *fits
	// Prepared sounds that are open, and those that are being made, or were not made, by key.
	pcms       map[string]*pcm
	preparing  map[string]string
	background *background
}

// New is a service over an open store.
func New(s *store.Store) *Service {
	hub := live.NewHub()
	background := newBackground(hub.Playing)
	return &Service{Store: s, Jobs: jobs.New(background.context), Hub: hub, background: background, held: map[string]*held{}, heard: map[string]*transcribe.Raw{}, reports: map[string]*reporting{}, track: map[string]*cachedTrack{}, drums: map[string]*separating{}, layer: map[string]*sound.Sample{}, long: map[string]*LongFile{}, stale: map[string]int{}, measures: map[string]*measuring{}, listed: map[string]Summary{}, fits: newFits(), pcms: map[string]*pcm{}, preparing: map[string]string{}}
}

// Close ends long work.
func (s *Service) Close() {
	s.Jobs.Close()
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, p := range s.pcms {
		_ = p.file.Close() // it was only read
	}
}

// State is a project as the interface shows it.
type State struct {
	ID       string           `json:"id"`
	Version  int              `json:"version"`
	CanUndo  bool             `json:"can_undo"`
	CanRedo  bool             `json:"can_redo"`
	Document project.Document `json:"document"`
	// Falls returns where the hits of each lane fall in its first pass, in the
	// order of lanes and hits.
	Falls [][]Fall `json:"falls"`
	// CycleTicks is the length after which the whole groove repeats.
	CycleTicks int `json:"cycle_ticks"`
	// CycleIsLonger says that the lanes meet again later than that, after years.
	CycleIsLonger bool `json:"cycle_is_longer"`
	// Notes say what an edit left out or could not do.
	Notes []string `json:"notes"`

	inParts bool // in the store
}

// Fall is where one hit falls.
type Fall struct {
	Hit      string  `json:"hit"`
	Offset   float64 `json:"offset_ms"`
	Velocity int     `json:"velocity"`
}

// NewID is a random name of 12 hex digits.
func NewID() string {
	var b [6]byte
	_, _ = rand.Read(b[:]) // never fails
	return hex.EncodeToString(b[:])
}

// Create makes a project from a document.
func (s *Service) Create(d *project.Document) (*State, error) {
	if err := d.Validate(); err != nil {
		return nil, &Refusal{Code: "invalid", Message: Sentence(err)}
	}
	data, err := json.Marshal(d)
	if err != nil {
		return nil, err
	}
	id := NewID()
	if err := s.Store.Create(id, d.Name, data); err != nil {
		return nil, err
	}
	return s.Open(id)
}

// Refusal is a request that cannot be met: a code for programs, a sentence
// for people.
type Refusal struct {
	Code    string
	Message string
}

func (r *Refusal) Error() string { return r.Message }

// Sentence is an error as a sentence for people.
func Sentence(err error) string {
	text := []rune(err.Error())
	if text[0] >= 'a' && text[0] <= 'z' {
		text[0] -= 'a' - 'A'
	}
	if last := text[len(text)-1]; last != '.' {
		text = append(text, '.')
	}
	return string(text)
}

// Song is what the engine plays of a project.
func (s *Service) Song(d *project.Document) engine.Song { return d.Song(s.samples(d)) }

// PieceSong is Song with the arrangement of a project, and what of its backings is ready.
func (s *Service) PieceSong(id string, d *project.Document) engine.Song {
	song := d.PieceSong(s.samples(d))
	song.Piece.Ready = s.backings(id, d)
	return song
}

// env gives edits the analyses they need.
type env struct{ s *Service }

func (e env) Analysis(ref *project.Reference) (*transcribe.Analysis, error) {
	if ref.Profile != nil {
		return ref.Profile.Analysis(), nil
	}
	return e.s.analyzed(context.Background(), ref)
}

// Analysis is what was heard in a reference of a project, corrected.
func (s *Service) Analysis(ctx context.Context, id, refID string) (*transcribe.Analysis, error) {
	ref, err := s.reference(id, refID)
	if err != nil {
		return nil, err
	}
	if ref.Profile != nil {
		return ref.Profile.Analysis(), nil
	}
	return s.analyzed(ctx, ref)
}

// analyzed is what was heard in a reference, with what its drums say where they are there.
func (s *Service) analyzed(ctx context.Context, ref *project.Reference) (*transcribe.Analysis, error) {
	a, err := s.finished(ctx, ref)
	if err != nil {
		return nil, err
	}
	return isolate.With(a, s.drumsThere(ref)), nil
}

func (s *Service) remember(blob string, raw *transcribe.Raw) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.heard) > 64 {
		clear(s.heard)
	}
	s.heard[blob] = raw
}

// Heard is the raw result of listening to a reference, from memory, the
// store, or anew.
func (s *Service) Heard(ctx context.Context, ref *project.Reference, report transcribe.Progress) (*transcribe.Raw, error) {
	s.mu.Lock()
	raw := s.heard[ref.Blob]
	s.mu.Unlock()
	if raw != nil {
		return raw, nil
	}
	if data, err := s.Store.Hearing(ref.Blob, transcribe.RawVersion); err == nil {
		raw = &transcribe.Raw{}
		if err := json.Unmarshal(data, raw); err == nil {
			s.remember(ref.Blob, raw)
			return raw, nil
		}
	}
	head, err := s.Store.Head(ref.Blob, 4096)
	if err == nil && format.Sniff(head) == format.Unknown {
		return nil, format.NotSound() // nothing of it is read for that
	}
	data, err := s.Store.Blob(ref.Blob)
	if err != nil {
		return nil, fmt.Errorf("the sound of %q is missing from the data folder: %w", ref.Name, err)
	}
	raw, err = Hear(ctx, data, report)
	if err != nil {
		return nil, err
	}
	return raw, s.keep(ref.Blob, raw)
}

// keep stores what was heard in a blob.
func (s *Service) keep(blob string, raw *transcribe.Raw) error {
	text, err := json.Marshal(raw)
	if err != nil {
		return err
	}
	s.remember(blob, raw)
	return s.Store.PutHearing(blob, transcribe.RawVersion, text)
}
