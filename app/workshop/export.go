package workshop

import (
	"archive/zip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"strings"
	"unicode"

	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/match"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// File is something to take away.
type File struct {
	Name  string
	Write func(io.Writer) error
}

// exportPPQ keeps micro-timing to about a tenth of a millisecond.
const exportPPQ = 3840

// FileName makes a plain name for files from a title.
func FileName(title string) string {
	var b strings.Builder
	dash := false
	for _, r := range strings.ToLower(title) {
		if r < unicode.MaxASCII && (unicode.IsLetter(r) || unicode.IsDigit(r)) {
			b.WriteRune(r)
			dash = false
		} else if !dash && b.Len() > 0 {
			b.WriteByte('-')
			dash = true
		}
	}
	if name := strings.Trim(b.String(), "-"); name != "" {
		return name
	}
	return "untitled"
}

func wav(name string, b *audio.Buffer, f format.SampleFormat) File {
	return File{Name: name + ".wav", Write: func(w io.Writer) error { return format.WriteWAV(w, b, f) }}
}

// Loop is the groove's cycle, or a number of bars, as one file that loops
// without a seam.
func Loop(ctx context.Context, d *project.Document, samples sound.Samples, bars int, f format.SampleFormat) (File, error) {
	out, err := engine.Render(ctx, d.Song(samples), engine.Bounce{Rate: engine.Rate, Bars: bars, Seamless: true})
	if err != nil {
		return File{}, err
	}
	return wav(fmt.Sprintf("%s-loop-%gbpm", FileName(d.Name), round1(d.Tempo[0].BPM)), out.Mix, f), nil
}

func round1(x float64) float64 { return math.Round(x*10) / 10 }

// Stems is one file for each voice that is heard; together they are the loop.
func Stems(ctx context.Context, d *project.Document, samples sound.Samples, bars int, f format.SampleFormat) ([]File, error) {
	out, err := engine.Render(ctx, d.Song(samples), engine.Bounce{Rate: engine.Rate, Bars: bars, Seamless: true, Stems: true})
	if err != nil {
		return nil, err
	}
	files := []File{}
	for i, b := range out.Stems {
		if v := &d.Kit.Voices[i]; !v.Mute {
			files = append(files, wav(fmt.Sprintf("%s-stem-%02d-%s", FileName(d.Name), i+1, FileName(v.Name)), b, f))
		}
	}
	return files, nil
}

// OneShots is one mono file for each voice, at the level it has in the mix.
func OneShots(d *project.Document, samples sound.Samples, f format.SampleFormat) []File {
	files := []File{}
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		b := Shot(v, samples)
		g := float32(audio.Gain(v.Gain))
		for k := range b.Channels[0] {
			b.Channels[0][k] *= g
		}
		files = append(files, wav(fmt.Sprintf("%s-%02d-%s", FileName(d.Name), i+1, FileName(v.Name)), b, f))
	}
	return files
}

// MIDI is one cycle of the groove as a Standard MIDI File on channel 10 with
// General MIDI percussion keys; its micro-timing is in the ticks. A hit that
// falls before the start is put at the start.
func MIDI(d *project.Document) File {
	return File{Name: FileName(d.Name) + ".mid", Write: func(w io.Writer) error {
		p := &format.Performance{PPQ: exportPPQ, Meter: d.Groove.Meter}
		for _, t := range d.Tempo {
			p.Tempo = append(p.Tempo, format.MIDITempo{Tick: t.Tick * exportPPQ / 960, Micros: int(math.Round(60e6 / t.BPM))})
		}
		for _, e := range d.Groove.Events(d.Tempo, 0, nil) {
			v := d.Kit.Voice(d.Groove.Lanes[e.Lane].Voice)
			if v == nil || v.Mute {
				continue
			}
			at := d.Tempo.Ticks(d.Tempo.Seconds(float64(e.Tick)) + e.Offset/1000)
			tick := max(int(math.Round(at*exportPPQ/960)), 0)
			p.Notes = append(p.Notes, format.MIDINote{Tick: tick, Length: exportPPQ / 8, Channel: 9, Key: v.Family.Key(), Velocity: e.Velocity})
		}
		return format.WriteMIDI(w, p, d.Name)
	}}
}

// Zip packs files into one archive.
func Zip(name string, files []File) File {
	return File{Name: name + ".zip", Write: func(w io.Writer) error {
		z := zip.NewWriter(w)
		for _, f := range files {
			entry, err := z.Create(f.Name)
			if err != nil {
				return err
			}
			if err := f.Write(entry); err != nil {
				return err
			}
		}
		return z.Close()
	}}
}

// Compare sets a project against its active reference; nil where it has none.
func (s *Workshop) Compare(ctx context.Context, id string) (*match.Comparison, error) {
	st, err := s.Open(id)
	if err != nil {
		return nil, err
	}
	ref := st.Document.Reference(st.Document.Active)
	if ref == nil {
		return nil, &Refusal{Code: "no_reference", Message: "There is nothing to compare with yet. Bring a reference first."}
	}
	a, err := env{s}.Analysis(ref)
	if err != nil {
		return nil, err
	}
	mine, err := match.MeasureMine(ctx, &st.Document, s.samples(&st.Document))
	if err != nil {
		return nil, err
	}
	if ref.Profile != nil {
		mine.MeasureTones(&st.Document, s.samples(&st.Document), ref.Profile)
	}
	return match.Compare(&st.Document, mine, a, ref.Profile), nil
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
func (s *Workshop) Export(ctx context.Context, d *project.Document, what string, bars int, f format.SampleFormat) (File, error) {
	switch what {
	case "loop":
		return Loop(ctx, d, s.samples(d), bars, f)
	case "stems":
		files, err := Stems(ctx, d, s.samples(d), bars, f)
		return Zip(FileName(d.Name)+"-stems", files), err
	case "one-shots":
		return Zip(FileName(d.Name)+"-one-shots", OneShots(d, s.samples(d), f)), nil
	case "midi":
		return MIDI(d), nil
	case "project":
		return s.archive(d)
	}
	return File{}, store.ErrNotFound
}

// archive is the project with the sounds of its references and layers.
func (s *Workshop) archive(d *project.Document) (File, error) {
	text, err := json.MarshalIndent(d, "", " ")
	if err != nil {
		return File{}, err
	}
	blobs := map[string][]byte{}
	for _, name := range d.Blobs() {
		data, err := s.Store.Blob(name)
		if err != nil {
			return File{}, err
		}
		blobs[name] = data
	}
	return File{Name: FileName(d.Name) + ".jubrak", Write: func(w io.Writer) error {
		return format.WriteArchive(w, text, blobs)
	}}, nil
}
