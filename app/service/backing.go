package service

import (
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math"
	"os"
	"strings"

	"jubrak/app/jobs"
	"jubrak/app/store"
	"jubrak/core/arrange"
	"jubrak/core/audio"
	"jubrak/core/backing"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/project"
)

// A backing is played from a file of its own, prepared once for its tempo and pitch: two
// channels of 16-bit samples at the engine's rate, at half level, so that what goes above
// full scale is kept.
const (
	pcmScale = 16384.0
	// tempoSeconds is how much of a recording its tempo is found in.
	tempoSeconds = 120
)

// AddBacking takes a recording as a backing of a project's arrangement, at a tick: it is
// there at once at its own speed; its tempo and first beat come when they are found.
func (s *Service) AddBacking(id, name string, at int, file io.Reader) (jobs.Job, error) {
	if _, err := s.Open(id); err != nil {
		return jobs.Job{}, err
	}
	in, err := s.Store.Receive(file)
	if err != nil {
		return jobs.Job{}, err
	}
	release := s.naming()
	defer release()
	if err := in.Keep(); err != nil {
		return jobs.Job{}, err
	}
	head, err := s.Store.Head(in.Name, 4096)
	if err == nil && format.Sniff(head) == format.Unknown {
		err = format.NotSound()
	}
	if err != nil {
		return jobs.Job{}, err
	}
	b := arrange.NewBacking("b"+NewID(), backingName(name), in.Name)
	b.At = max(at, 0)
	if err := s.editNewest(id, project.AddBacking{Backing: b}); err != nil {
		return jobs.Job{}, err
	}
	return s.Jobs.Start(jobs.Spec{Title: "Bringing " + b.Name, Kind: jobs.Backing, Project: id}, func(ctx context.Context, w *jobs.Watch) (string, error) {
		return b.ID, s.findTempo(ctx, id, &b, w)
	}), nil
}

// findTempo finds the tempo and the first beat of a backing and sets them.
func (s *Service) findTempo(ctx context.Context, id string, b *arrange.Backing, w *jobs.Watch) error {
	data, unmap, err := s.mapped(b.Blob)
	if err != nil {
		return err
	}
	defer unmap()
	part, err := format.DecodeStretch(data, 0, tempoSeconds, func(done float64) error {
		w.Report("reading", done/2)
		return ctx.Err()
	})
	if err != nil {
		return err
	}
	bpm, first, err := backing.Tempo(ctx, part, func(done float64) { w.Report("finding its tempo", 0.5+done/2) })
	if err != nil {
		return err
	}
	if bpm == 0 {
		w.Note("No beat was found in it, so it plays at its own speed. Type its tempo to fit it.")
		return nil
	}
	at := "backing/" + b.ID + "/"
	return s.editNewest(id,
		project.SetNumber{At: at + "tempo_bpm", Value: bpm}, project.SetNumber{At: at + "first_beat_s", Value: math.Round(first*1e4) / 1e4},
		project.SetBacking{Backing: b.ID, Fit: new(arrange.Stretched)})
}

// editNewest makes edits on whatever version of a project is the newest.
func (s *Service) editNewest(id string, edits ...project.Edit) error {
	for {
		now, err := s.Open(id)
		if err != nil {
			return err
		}
		if _, err = s.Edit(id, now.Version, edits, ""); !errors.Is(err, store.ErrConflict) {
			return err
		}
	}
}

// backingName is a file's name without its ending, as long as a name may be.
func backingName(file string) string {
	if i := strings.LastIndexByte(file, '.'); i > 0 {
		file = file[:i]
	}
	name := []rune(strings.TrimSpace(file))
	if len(name) > arrange.MaxName {
		name = name[:arrange.MaxName]
	}
	if len(name) == 0 {
		return "Backing"
	}
	return string(name)
}

// mapped is a blob's content as it lies on the disk.
func (s *Service) mapped(blob string) (data []byte, unmap func(), err error) {
	f, err := s.Store.BlobFile(blob)
	if err != nil {
		return nil, nil, err
	}
	defer func() { _ = f.Close() }()
	return store.Mapped(f)
}

// wanted is a prepared sound that a backing needs.
type wanted struct {
	key   string
	ready engine.Ready // without its recording
	how   backing.How
}

// wantedOf says what a backing of a document needs.
func wantedOf(d *project.Document, line *arrange.Line, b *arrange.Backing) wanted {
	w := wanted{how: backing.How{From: b.From, To: b.To, Speed: 1, Pitch: b.Pitch, Drumless: b.Drumless}}
	lead := max(b.FirstBeat-b.From, 0)
	switch {
	case b.StandIn != nil:
		lead = 0
	case b.Fit == arrange.Stretched && b.Tempo > 0:
		tempo := line.Tempo().BPM(float64(b.At))
		w.how.Speed = min(max(tempo/b.Tempo, 0.25), 4)
		w.ready.Tempo = b.Tempo * w.how.Speed
	case b.Fit == arrange.AsTape && b.Tempo > 0:
		w.ready.Tempo = b.Tempo
	}
	w.ready.Lead = lead / w.how.Speed
	of := []any{3, b.Blob, w.how}
	if b.StandIn != nil {
		of = []any{3, b.StandIn, line.Tempo(), line.End(), d.Key}
	}
	text, _ := json.Marshal(of) // plain numbers and texts
	sum := sha256.Sum256(text)
	w.key = hex.EncodeToString(sum[:16]) + ".pcm"
	return w
}

// backings are those of a project's arrangement that are ready to be played. What is not
// is prepared, and the project's monitors are informed when it is there.
func (s *Service) backings(id string, d *project.Document) map[string]engine.Ready {
	list := d.Arrangement.Backings
	if len(list) == 0 {
		return nil
	}
	out := map[string]engine.Ready{}
	line := d.PieceLine()
	for i := range list {
		w := wantedOf(d, line, &list[i])
		rec, err := s.recording(w.key)
		if err == nil {
			w.ready.Recording = rec
			out[list[i].ID] = w.ready
			continue
		}
		s.prepareLater(id, d, list[i], w)
	}
	return out
}

// allBackings are the backings of a project's arrangement, prepared where they are not
// ready yet.
func (s *Service) allBackings(ctx context.Context, id string, d *project.Document) (map[string]engine.Ready, error) {
	line := d.PieceLine()
	for i := range d.Arrangement.Backings {
		b := &d.Arrangement.Backings[i]
		if b.Mute {
			continue
		}
		if err := s.prepare(ctx, d, b, wantedOf(d, line, b), func(float64) {}); err != nil {
			return nil, err
		}
	}
	ready := s.backings(id, d)
	if ready == nil {
		ready = map[string]engine.Ready{}
	}
	return ready, nil
}

// recording opens a prepared sound; open ones are kept.
func (s *Service) recording(key string) (*pcm, error) {
	s.mu.Lock()
	known := s.pcms[key]
	s.mu.Unlock()
	if known != nil {
		return known, nil
	}
	f, err := s.Store.PreparedFile(key)
	if err != nil {
		return nil, err
	}
	info, err := f.Stat()
	if err != nil {
		_ = f.Close()
		return nil, err
	}
	rec := &pcm{file: f, frames: info.Size() / 4}
	s.mu.Lock()
	defer s.mu.Unlock()
	if other := s.pcms[key]; other != nil {
		_ = f.Close()
		return other, nil
	}
	s.pcms[key] = rec
	return rec, nil
}

// prepareLater begins to prepare a backing, once for all who ask.
func (s *Service) prepareLater(id string, d *project.Document, b arrange.Backing, w wanted) {
	s.mu.Lock()
	if s.preparing[w.key] != "" {
		s.mu.Unlock()
		return
	}
	s.preparing[w.key] = "begun"
	s.mu.Unlock()
	done := func(j jobs.Job) {
		s.mu.Lock()
		delete(s.preparing, w.key)
		if j.Status == jobs.Failed || j.Status == jobs.Cancelled {
			s.preparing[w.key] = "failed: " + j.Error // it is not tried again by itself
		}
		s.mu.Unlock()
		if now, err := s.Open(id); err == nil && j.Status == jobs.Done {
			s.Hub.Load(id, s.PieceSong(id, &now.Document), now.Version, false)
		}
	}
	s.Jobs.Start(jobs.Spec{Title: "Preparing " + b.Name, Kind: jobs.Backing, Project: id, Ended: done}, func(ctx context.Context, watch *jobs.Watch) (string, error) {
		return b.ID, s.prepare(ctx, d, &b, w, func(done float64) { watch.Report("preparing", done) })
	})
}

// prepare makes the sound of a backing, where it is not there.
func (s *Service) prepare(ctx context.Context, d *project.Document, b *arrange.Backing, w wanted, report func(done float64)) error {
	if _, err := s.recording(w.key); err == nil {
		return nil
	}
	return s.Store.Prepare(w.key, func(f *os.File) error {
		out := &pcmWriter{to: f}
		var err error
		if b.StandIn != nil {
			err = backing.StandIn(ctx, b.StandIn, d.PieceLine(), d.Key, out.put, report)
		} else {
			err = s.makeBacking(ctx, b, w.how, out, report)
		}
		if err != nil {
			return err
		}
		return out.flush()
	})
}

func (s *Service) makeBacking(ctx context.Context, b *arrange.Backing, how backing.How, out *pcmWriter, report func(done float64)) error {
	data, unmap, err := s.mapped(b.Blob)
	if errors.Is(err, store.ErrNotFound) {
		return &Refusal{Code: "no_sound", Message: fmt.Sprintf("The recording of %q is gone from the disk. The rest plays on; bring it again, or remove it.", b.Name)}
	}
	if err != nil {
		return err
	}
	defer unmap()
	err = backing.Make(ctx, data, how, out.put, func(done float64) error {
		report(done)
		return ctx.Err()
	})
	var broken *format.Error
	if errors.As(err, &broken) && broken.Partial() && out.frames > engine.Rate {
		slog.Warn("a backing is cut short", "name", b.Name, "error", err)
		return nil // as far as it is whole
	}
	return err
}

// pcm is a prepared sound on the disk.
type pcm struct {
	file   *os.File
	frames int64
}

// Frames is how long it is.
func (p *pcm) Frames() int64 { return p.frames }

// Read reads frames from a place on.
func (p *pcm) Read(at int64, left, right []float32) {
	var buffer [4 * 1024]byte
	for done := 0; done < len(left); {
		n := min(len(left)-done, len(buffer)/4)
		got, _ := p.file.ReadAt(buffer[:4*n], (at+int64(done))*4) // what cannot be read is silent
		clear(buffer[got : 4*n])
		for k := range n {
			left[done+k] = float32(int16(binary.LittleEndian.Uint16(buffer[4*k:]))) / pcmScale
			right[done+k] = float32(int16(binary.LittleEndian.Uint16(buffer[4*k+2:]))) / pcmScale
		}
		done += n
	}
}

// pcmWriter writes a prepared sound.
type pcmWriter struct {
	to     io.Writer
	bytes  []byte
	frames int
}

func (w *pcmWriter) put(b *audio.Buffer) error {
	l, r := b.Channels[0], b.Channels[len(b.Channels)-1]
	for i := range l {
		for _, x := range [2]float32{l[i], r[i]} {
			v := math.Round(float64(x) * pcmScale)
			w.bytes = binary.LittleEndian.AppendUint16(w.bytes, uint16(int16(min(max(v, -32768), 32767))))
		}
	}
	w.frames += len(l)
	if len(w.bytes) > 1<<18 {
		return w.flush()
	}
	return nil
}

func (w *pcmWriter) flush() error {
	_, err := w.to.Write(w.bytes)
	w.bytes = w.bytes[:0]
	return err
}

// BackingFacts are what is known of a backing as it is played.
type BackingFacts struct {
	ID string `json:"id"`
	// Ready is whether it can be heard; Problem says why not where it never will.
	Ready   bool   `json:"ready"`
	Problem string `json:"problem"`
	// Seconds is how long one round of it lasts as it is played, Ticks where all of it ends.
	Seconds float64 `json:"seconds"`
	From    int     `json:"from"` // ticks; where it begins, perhaps before its place
	To      int     `json:"to"`
}

// Backings are the facts of a project's backings.
func (s *Service) Backings(id string) ([]BackingFacts, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	d := &st.Document
	ready := s.backings(id, d)
	line := d.PieceLine()
	out := []BackingFacts{}
	for i := range d.Arrangement.Backings {
		b := &d.Arrangement.Backings[i]
		f := BackingFacts{ID: b.ID, From: b.At, To: b.At}
		w := wantedOf(d, line, b)
		if r, ok := ready[b.ID]; ok {
			f.Ready = true
			f.Seconds = float64(r.Recording.Frames()) / engine.Rate
			f.From = backingTick(line, b.At, &r, -r.Lead)
			f.To = backingTick(line, b.At, &r, f.Seconds*float64(max(b.Rounds, 1))-r.Lead)
		} else {
			s.mu.Lock()
			f.Problem = strings.TrimPrefix(strings.TrimPrefix(s.preparing[w.key], "begun"), "failed: ")
			s.mu.Unlock()
		}
		out = append(out, f)
	}
	return out, nil
}

// backingTick is the tick at which so many seconds of a backing have gone by from its place.
func backingTick(line *arrange.Line, at int, r *engine.Ready, seconds float64) int {
	if r.Tempo > 0 {
		return at + int(math.Round(seconds*r.Tempo/60*960))
	}
	return int(math.Round(line.TicksOf(line.Straight(float64(at)) + seconds)))
}

// BackingWave is a picture of a backing as it is played, n points over one round of it.
func (s *Service) BackingWave(id, backing string, n int) (*Peaks, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	b := st.Document.Arrangement.Backing(backing)
	if b == nil {
		return nil, store.ErrNotFound
	}
	rec, err := s.recording(wantedOf(&st.Document, st.Document.PieceLine(), b).key)
	if err != nil {
		return nil, err
	}
	return rec.picture(n), nil
}

// pictureFrames is how many frames are looked at for each point of a picture, at most.
const pictureFrames = 4096

// picture is the least and greatest sample around n places.
func (p *pcm) picture(n int) *Peaks {
	out := &Peaks{To: float64(p.frames) / engine.Rate, Points: [][2]float64{}}
	per := max(p.frames/int64(n), 1)
	look := int(min(per, pictureFrames))
	l, r := make([]float32, look), make([]float32, look)
	for k := range int64(n) {
		p.Read(k*per+max(per-int64(look), 0)/2, l, r)
		var low, high float32
		for i := range l {
			low, high = min(low, l[i], r[i]), max(high, l[i], r[i])
		}
		out.Points = append(out.Points, [2]float64{float64(low), float64(high)})
	}
	return out
}
