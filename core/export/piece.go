package export

import (
	"context"
	"fmt"
	"io"
	"math"
	"strings"

	"jubrak/core/arrange"
	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// Piece is the whole arrangement as one file, with what rings on behind its last bar. It
// is *engine.TooLong where it lasts longer than a file can.
func Piece(ctx context.Context, d *project.Document, samples sound.Samples, o Options) ([]Part, error) {
	out, err := engine.Render(ctx, d.PieceSong(samples), engine.Bounce{Rate: engine.Rate})
	if err != nil {
		return nil, err
	}
	return scale([]Part{{FileName(d.Name) + "-piece", out.Mix}}, o.Gain), nil
}

// inMemory is up to how long a piece is rendered once and held, s; a longer one is played
// through twice, first for its length.
var inMemory = 600.0

// PieceFile is the whole arrangement as a file of any length; memory does not grow beyond
// that of inMemory. With ready its backings are heard, too.
func PieceFile(ctx context.Context, d *project.Document, samples sound.Samples, ready map[string]engine.Ready, o Options) File {
	song := d.PieceSong(samples)
	song.Piece.Ready = ready
	stream := func() *engine.Stream {
		return engine.NewStream(song, engine.Bounce{Rate: engine.Rate, Backings: ready != nil}).AtTape()
	}
	gain := audio.Gain(o.Gain)
	return File{Name: FileName(d.Name) + "-piece.wav", Write: func(w io.Writer) error {
		if line := d.PieceLine(); line.Seconds(float64(line.End())) <= inMemory {
			b := audio.New(engine.Rate, 2, 0)
			if err := stream().Each(ctx, func(l, r []float64) error {
				for i := range l {
					b.Channels[0] = append(b.Channels[0], float32(l[i]*gain))
					b.Channels[1] = append(b.Channels[1], float32(r[i]*gain))
				}
				return nil
			}); err != nil {
				return err
			}
			return format.WriteWAV(w, b, o.Format)
		}
		frames := 0
		if err := stream().Each(ctx, func(l, _ []float64) error {
			frames += len(l)
			return nil
		}); err != nil {
			return err
		}
		s := stream()
		var l, r [engine.MaxBlock]float64
		block := [][]float32{make([]float32, engine.MaxBlock), make([]float32, engine.MaxBlock)}
		return format.WriteWAVFrom(w, engine.Rate, 2, frames, o.Format, func() ([][]float32, error) {
			n := s.Next(l[:], r[:])
			for i := range n {
				block[0][i], block[1][i] = float32(l[i]*gain), float32(r[i]*gain)
			}
			return [][]float32{block[0][:n], block[1][:n]}, ctx.Err()
		})
	}}
}

// PieceStems is one file for each voice that is heard and one for each bus, over the whole
// arrangement.
func PieceStems(ctx context.Context, d *project.Document, samples sound.Samples, o Options) ([]Part, error) {
	out, err := engine.Render(ctx, d.PieceSong(samples), engine.Bounce{Rate: engine.Rate, Stems: true})
	if err != nil {
		return nil, err
	}
	return scale(stemParts(d, out), o.Gain), nil
}

// Sections is one file for each section, in order. They are cut from the whole, so that
// one after another they are the piece; the last has what rings on.
func Sections(ctx context.Context, d *project.Document, samples sound.Samples, o Options) ([]Part, error) {
	whole, err := Piece(ctx, d, samples, o)
	if err != nil {
		return nil, err
	}
	b := whole[0].B
	spans := d.PieceLine().Spans()
	var parts []Part
	for i, s := range spans {
		from, to := FrameOf(d, s.From), FrameOf(d, s.To)
		if i == len(spans)-1 {
			to = b.Frames()
		}
		name := fmt.Sprintf("%s-section-%02d-%s", FileName(d.Name), i+1, FileName(d.Arrangement.Sections[i].Name))
		parts = append(parts, Part{name, b.Slice(min(from, b.Frames()), min(to, b.Frames()))})
	}
	return parts, nil
}

// FrameOf is the frame of a tick of the arrangement in its sound files.
func FrameOf(d *project.Document, tick int) int {
	line := d.PieceLine()
	return int(math.Round(line.Seconds(float64(tick)) / d.Arrangement.Speed.Tape() * engine.Rate))
}

// Section is the section of a name, the first of it, as a file. The error names those
// that there are.
func Section(ctx context.Context, d *project.Document, samples sound.Samples, name string, o Options) ([]Part, error) {
	var names []string
	for i := range d.Arrangement.Sections {
		s := &d.Arrangement.Sections[i]
		if strings.EqualFold(s.Name, name) {
			parts, err := Sections(ctx, d, samples, o)
			if err != nil {
				return nil, err
			}
			return parts[i : i+1], nil
		}
		names = append(names, s.Name)
	}
	return nil, fmt.Errorf("there is no section %q; there are %s", name, strings.Join(names, ", "))
}

// WithVariation is the document with another variation in hand, by its letter or name.
func WithVariation(d *project.Document, which string) (*project.Document, error) {
	var names []string
	for _, v := range d.Variations {
		if strings.EqualFold(v.ID, which) || v.Name != "" && strings.EqualFold(v.Name, which) {
			out, _, err := d.Apply(project.Edits{project.UseVariation{Variation: v.ID}}, nil)
			return out, err
		}
		if !v.Here {
			names = append(names, strings.ToUpper(v.ID))
		}
	}
	return nil, fmt.Errorf("there is no variation %q; there are %s", which, strings.Join(names, ", "))
}

// PieceMIDI is the arrangement as a Standard MIDI File with its tempo map, meters, and a
// marker for each section and each marker. A ramp of the tempo is written as a change
// every sixteenth, each rounded so that none is off by what those before were.
func PieceMIDI(d *project.Document, o Options) (File, error) {
	line := d.PieceLine()
	if s := line.Seconds(float64(line.End())); s > arrange.MaxSeconds {
		return File{}, &engine.TooLong{Bars: d.Arrangement.Bars(), Seconds: s}
	}
	p := piecePerformance(d, line, o)
	return File{Name: FileName(d.Name) + "-piece.mid", Write: func(w io.Writer) error {
		return format.WriteMIDI(w, p, d.Name)
	}}, nil
}

func piecePerformance(d *project.Document, line *arrange.Line, o Options) *format.Performance {
	const fine = midiPPQ / music.PPQ
	tape := d.Arrangement.Speed.Tape()
	spans := line.Spans()
	p := &format.Performance{PPQ: midiPPQ, Meter: spans[0].Meter, End: line.End() * fine}
	pitched := map[string]int{}
	if o.Notes {
		pitched = channels(d, line.Grooves()...)
	}
	if o.Tracks {
		for i := range d.Kit.Voices {
			p.Tracks = append(p.Tracks, d.Kit.Voices[i].Name)
		}
	}
	keys := d.Kit.Keys(o.Keys)
	shift := 0
	events := line.Events(0, line.End(), nil)
	for i := range events {
		if at := line.Ticks(events[i].Time); at < -float64(shift) && o.Pickup {
			shift = spans[0].Meter.BarTicks()
		}
	}
	for i := range events {
		e := &events[i]
		at := max(int(math.Round((line.Ticks(e.Time)+float64(shift))*fine)), 0)
		if n, ok := noteOf(d, line.Grooves()[e.Part], e, at, keys, pitched, o); ok {
			p.Notes = append(p.Notes, n)
		}
	}
	p.End += shift * fine
	for i, s := range spans {
		at := (s.From + shift) * fine
		if i == 0 {
			at = 0
		}
		p.Markers = append(p.Markers, format.MIDIMarker{Tick: at, Name: d.Arrangement.Sections[i].Name})
		if i > 0 && s.Meter != spans[i-1].Meter {
			p.Meters = append(p.Meters, format.MIDIMeter{Tick: at, Meter: s.Meter})
		}
		for _, m := range d.Arrangement.Markers {
			if m.Section == d.Arrangement.Sections[i].ID {
				p.Markers = append(p.Markers, format.MIDIMarker{Tick: (s.From + m.Tick + shift) * fine, Name: m.Name})
			}
		}
	}
	p.Tempo = tempoOf(line, tape, shift)
	p.Separate()
	return p
}

// rampStep is every how many ticks a ramp changes the tempo of a MIDI file.
const rampStep = music.PPQ / 4

// tempoOf is the tempo map of a MIDI file. What a tempo is off for its whole microseconds
// is made up for by the next one.
func tempoOf(line *arrange.Line, tape float64, shift int) []format.MIDITempo {
	var out []format.MIDITempo
	written := 0.0 // seconds, as the file counts them
	put := func(from, to int) {
		want := line.Seconds(float64(to))/tape - written
		micros := max(int(math.Round(want/float64(to-from)*music.PPQ*1e6)), 1)
		written += float64(micros) / 1e6 * float64(to-from) / music.PPQ
		at := from + shift
		if from == 0 {
			at = 0
		}
		if n := len(out); n > 0 && out[n-1].Micros == micros {
			return
		}
		out = append(out, format.MIDITempo{Tick: at * midiPPQ / music.PPQ, Micros: micros})
	}
	tempo := line.Tempo()
	for i, c := range tempo {
		end := line.End()
		if i+1 < len(tempo) {
			end = min(tempo[i+1].Tick, end)
		}
		// A whole number of microseconds drifts over a long steady stretch, too.
		step := 64 * music.PPQ
		if c.To != 0 {
			step = rampStep
		}
		for at := c.Tick; at < end; at += step {
			put(at, min(at+step, end))
		}
	}
	return out
}
