package service

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/gob"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"math"

	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/isolate"
	"jubrak/core/measure"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
	"jubrak/internal/guard"
)

// DrumSet is the drums of a reference by themselves; while they are worked out, how much is
// done.
type DrumSet struct {
	Done  float64     `json:"done"` // 0..1; 1 is all
	Drums []DrumSound `json:"drums"`
	// None says why there are none, where that is so.
	None string `json:"none"`
}

// DrumSound is a drum of a reference, drawn.
type DrumSound struct {
	isolate.Drum
	Name string `json:"name"`
	// Seconds is how long it is heard.
	Seconds float64 `json:"seconds"`
	Wave    Peaks   `json:"wave"`
	// DryWave is the same without the room; empty where there is none.
	DryWave Peaks `json:"dry_wave"`
	// Octaves are its third octaves, dB against the fullest, and how much of each is known,
	// 0..1.
	Octaves []DrumBand `json:"third_octaves"`
}

// DrumBand is a third octave of a drum.
type DrumBand struct {
	Hz    float64 `json:"hz"`
	DB    float64 `json:"db"`
	Known float64 `json:"known"`
}

// separating is the work on a reference's drums, done once for all who ask, and kept.
type separating struct {
	ready chan struct{} // closed when drums or err are there
	done  float64
	list  []isolate.Drum
	err   error
}

// result is the drums, where they are there.
func (w *separating) result() (list []isolate.Drum, ready bool, err error) {
	select {
	case <-w.ready:
		return w.list, true, w.err
	default:
		return nil, false, nil
	}
}

// mostSeparated is how many references' drums are held in memory.
const mostSeparated = 6

// drumKey names the drums of a reference by all that they depend on.
func drumKey(ref *project.Reference) (string, error) {
	text, err := json.Marshal(struct {
		Version, Heard int
		Corrections    []transcribe.Correction
		Choices        isolate.Choices
	}{isolate.Version, transcribe.RawVersion, ref.Corrections, ref.Drums.Choices})
	if err != nil {
		return "", err
	}
	sum := sha256.Sum256(text)
	return "drums-" + hex.EncodeToString(sum[:8]), nil
}

// separate begins the work on a reference's drums, or finds it under way or done.
func (s *Service) separate(ref *project.Reference) (*separating, error) {
	key, err := drumKey(ref)
	if err != nil {
		return nil, err
	}
	at := ref.Blob + key
	s.mu.Lock()
	defer s.mu.Unlock()
	if w := s.drums[at]; w != nil {
		return w, nil
	}
	if len(s.drums) >= mostSeparated {
		for k, w := range s.drums {
			if _, ready, _ := w.result(); ready { // somebody may wait for others
				delete(s.drums, k)
			}
		}
	}
	w := &separating{ready: make(chan struct{})}
	s.drums[at] = w
	copied := *ref
	guard.Go("the drums of a reference", func() {
		var list []isolate.Drum
		err := guard.Run("the drums of a reference", func() (err error) {
			list, err = s.findDrums(&copied, key, func(done float64) {
				s.mu.Lock()
				defer s.mu.Unlock()
				w.done = done
			})
			return err
		})
		s.mu.Lock()
		defer s.mu.Unlock()
		w.list, w.err, w.done = list, err, 1
		if err != nil {
			delete(s.drums, at) // it is tried again
		}
		close(w.ready)
	})
	return w, nil
}

// findDrums reads the drums that were kept, or works them out.
func (s *Service) findDrums(ref *project.Reference, key string, report func(float64)) (list []isolate.Drum, err error) {
	data, err := s.Store.Made(ref.Blob, key)
	if err == nil && gob.NewDecoder(bytes.NewReader(data)).Decode(&list) == nil {
		return list, nil
	}
	ctx := context.Background()
	a, err := s.finished(ctx, ref)
	if err != nil {
		return nil, err
	}
	if a.NoDrums && len(ref.Corrections) == 0 {
		return nil, nil // its hits are guesses
	}
	b, err := s.sound(ref)
	if err != nil || b == nil {
		return nil, err
	}
	if list, err = isolate.Find(ctx, b, a.Hits, ref.Drums.Choices, report); err != nil {
		return nil, err
	}
	var out bytes.Buffer
	if err := gob.NewEncoder(&out).Encode(list); err != nil {
		return nil, err
	}
	if err := s.Store.PutMade(ref.Blob, key, out.Bytes()); err != nil && !errors.Is(err, store.ErrDiskFull) {
		slog.Warn("the drums of a reference could not be kept", "reference", ref.Name, "error", err)
	}
	return list, nil
}

// drumsOf waits for the drums of a reference; nil where it has no sound.
func (s *Service) drumsOf(ctx context.Context, ref *project.Reference) ([]isolate.Drum, error) {
	if ref.Kind != "audio" {
		return nil, nil
	}
	w, err := s.separate(ref)
	if err != nil {
		return nil, err
	}
	select {
	case <-w.ready:
		return w.list, w.err
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// drumsThere is the drums of a reference where they are there already, else nil.
func (s *Service) drumsThere(ref *project.Reference) []isolate.Drum {
	key, err := drumKey(ref)
	if err != nil {
		return nil
	}
	s.mu.Lock()
	w := s.drums[ref.Blob+key]
	s.mu.Unlock()
	if w == nil {
		return nil
	}
	list, _, _ := w.result()
	return list
}

// Drums is the drums of a reference as they are known now: whoever asks begins the work and
// asks again.
func (s *Service) Drums(id, refID string) (*DrumSet, error) {
	ref, err := s.reference(id, refID)
	if err != nil {
		return nil, err
	}
	out := &DrumSet{Drums: []DrumSound{}, Done: 1}
	switch ref.Kind {
	case "midi":
		out.None = "A MIDI performance has strokes but no sound: there are no drums to take out of it."
		return out, nil
	case "profile":
		out.None = "A profile has no recording to take drums out of."
		return out, nil
	}
	w, err := s.separate(ref)
	if err != nil {
		return nil, err
	}
	list, ready, err := w.result()
	if err != nil {
		return nil, err
	}
	if !ready {
		s.mu.Lock()
		defer s.mu.Unlock()
		out.Done = math.Min(w.done, 0.99)
		return out, nil
	}
	for i := range list {
		out.Drums = append(out.Drums, drumSound(ref, &list[i]))
	}
	if len(out.Drums) == 0 {
		out.None = "No drums were heard in this recording. Add strokes by hand in Hits, and they are looked for here."
	}
	return out, nil
}

// drumName is what a drum is called.
func drumName(ref *project.Reference, f sound.Family, group int) string {
	if name := ref.Drums.Names[fmt.Sprintf("%s/%d", f, group)]; name != "" {
		return name
	}
	if group > 0 {
		return fmt.Sprintf("%s %d", f.Label(), group)
	}
	return f.Label()
}

// drawnSeconds is how much of a drum is drawn.
const drawnSeconds = 0.4

func drumSound(ref *project.Reference, d *isolate.Drum) DrumSound {
	out := DrumSound{Drum: *d, Name: drumName(ref, d.Family, d.Group), Seconds: d.Sound.Seconds() - isolate.Lead, DryWave: Peaks{Points: [][2]float64{}}, Octaves: []DrumBand{}}
	draw := func(b *audio.Buffer) Peaks {
		return *drawPeaks(b, &Peaks{From: isolate.Lead, To: isolate.Lead + drawnSeconds, Points: [][2]float64{}}, 300)
	}
	out.Wave = draw(d.Sound)
	if d.Dry != nil {
		out.DryWave = draw(d.Dry)
	}
	hz, db := measure.NewMeanSpectrum(d.Sound.Mono(), d.Sound.Rate).ThirdOctaves()
	top := math.Inf(-1)
	for _, v := range db {
		top = math.Max(top, v)
	}
	for i := range hz {
		out.Octaves = append(out.Octaves, DrumBand{math.Round(hz[i]), math.Round(10*(db[i]-top)) / 10, knownAt(&d.Known, hz[i])})
	}
	return out
}

// knownAt is how much of a drum's power around a frequency is known.
func knownAt(k *isolate.Known, hz float64) float64 {
	var sure, all float64
	for n := 0; n+1 < len(k.Edges); n++ {
		if k.Edges[n+1] < hz/1.122 || k.Edges[n] > hz*1.122 {
			continue
		}
		for f := range k.Level {
			p := math.Pow(10, k.Level[f][n]/10)
			all += p
			if k.Error[f][n] < isolate.SurelyKnown {
				sure += p
			}
		}
	}
	if all == 0 {
		return 0
	}
	return math.Round(100*sure/all) / 100
}

// drum finds a drum of a reference and its sound, as there or dry.
func (s *Service) drum(ctx context.Context, ref *project.Reference, of project.DrumOf) (*isolate.Drum, *audio.Buffer, error) {
	list, err := s.drumsOf(ctx, ref)
	if err != nil {
		return nil, nil, err
	}
	for i := range list {
		d := &list[i]
		if d.Family != of.Family || d.Group != of.Group {
			continue
		}
		if of.Dry && d.Dry != nil {
			return d, fromStroke(d.Dry), nil
		}
		return d, fromStroke(d.Sound), nil
	}
	return nil, nil, &Refusal{Code: "edit_refused", Message: "This drum is no longer found in the reference: its strokes were changed. Choose another one."}
}

// fromStroke is a drum from 3 ms before its stroke on, with an end that does not click.
func fromStroke(b *audio.Buffer) *audio.Buffer {
	out := b.Slice(int((isolate.Lead-drumLead)*float64(b.Rate)), b.Frames()).Clone()
	n := min(b.Rate/50, out.Frames())
	for _, ch := range out.Channels {
		for i := range n {
			ch[len(ch)-1-i] *= float32(i) / float32(n)
		}
	}
	return out
}

// DrumFile is a drum of a reference as a file, 48 kHz.
func (s *Service) DrumFile(ctx context.Context, id, refID string, of project.DrumOf, f format.SampleFormat) (export.File, error) {
	ref, err := s.reference(id, refID)
	if err != nil {
		return export.File{}, err
	}
	d, b, err := s.drum(ctx, ref, of)
	if err != nil {
		return export.File{}, err
	}
	return export.WAV(export.FileName(ref.Name)+"-"+DrumFileName(d), b, f), nil
}

// DrumFileName is the family of a drum, numbered where its row is two.
func DrumFileName(d *isolate.Drum) string {
	if d.Group == 0 {
		return string(d.Family)
	}
	return fmt.Sprintf("%s_%d", d.Family, d.Group)
}

// TakeDrum asks for a drum of a reference as the sound of a voice.
type TakeDrum struct {
	Base int `json:"base"`
	// Voice is whose layers become the drum.
	Voice string         `json:"voice"`
	Drum  project.DrumOf `json:"drum"`
}

// softTop is the velocity up to which a soft layer answers, softFade how wide the
// crossfade is.
const (
	softTop  = 70
	softFade = 24
)

// TakeDrum makes a drum of a reference the sound of a voice, as samples: a soft layer below
// a loud one where soft strokes are known.
func (s *Service) TakeDrum(ctx context.Context, id, refID string, ask TakeDrum) (*State, error) {
	ref, err := s.reference(id, refID)
	if err != nil {
		return nil, err
	}
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	v := st.Document.Kit.Voice(ask.Voice)
	if v == nil {
		return nil, store.ErrNotFound
	}
	d, b, err := s.drum(ctx, ref, ask.Drum)
	if err != nil {
		return nil, err
	}
	name := drumName(ref, d.Family, d.Group)
	blob, free, err := s.keepSound(b)
	if err != nil {
		return nil, err
	}
	defer free()
	loud := sound.Recorded("reference", name, blob)
	layers := []sound.Layer{loud}
	if d.Soft != nil && d.Soft.Sound != nil {
		soft, free, err := s.keepSound(fromStroke(d.Soft.Sound))
		if err != nil {
			return nil, err
		}
		defer free()
		layers[0].VelocityFrom, layers[0].VelocityFade = softTop+1, softFade
		below := sound.Recorded("reference-soft", name+", soft", soft)
		below.VelocityTo, below.VelocityFade = softTop, softFade
		layers = append(layers, below)
	}
	return s.Edit(id, ask.Base, project.Edits{project.SetSound{Voice: ask.Voice, Layers: layers, Title: name}}, "")
}
