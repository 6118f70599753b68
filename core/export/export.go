// Package export makes what is handed over of a project: loops, stems,
// one-shots and MIDI, each a named file that writes itself.
package export

import (
	"archive/zip"
	"context"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"
	"unicode"

	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/mixreport"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// File is something to take away.
type File struct {
	Name  string
	Write func(io.Writer) error
}

// Options say how to hand over.
type Options struct {
	// Bars is the number of bars; 0 means one full cycle of the groove.
	Bars   int
	Format format.SampleFormat
	// Gain changes the level of sound files, dB.
	Gain float64
	// Velocity is that of one-shots, 1 to 127; 0 stands for 110.
	Velocity int
	// Backings lets those of the arrangement be heard in the whole piece.
	Backings bool
	// Chain takes one-shots through the effects of their rows.
	Chain bool
	// Pickup puts a bar before a MIDI file's first where a hit falls before
	// it; otherwise such a hit stands at the loop's end.
	Pickup bool
	// Tracks gives each voice a track of its own in a MIDI file.
	Tracks bool
	// Notes writes voices with pitches as notes on channels of their own rather than
	// as drum keys.
	Notes bool
	// Keys are the keys of families in place of General MIDI's.
	Keys map[sound.Family]int
}

// mostLetters keeps file names within what every file system takes, at up to
// four bytes a letter.
const mostLetters = 50

// FileName makes a plain name for files from a title: letters and digits of
// all scripts, the rest as hyphens.
func FileName(title string) string {
	var b strings.Builder
	dash, letters := false, 0
	for _, r := range strings.ToLower(title) {
		if letters == mostLetters {
			break
		}
		if unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsMark(r) && b.Len() > 0 && !dash {
			b.WriteRune(r)
			dash = false
			letters++
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

// WAV is a buffer as a file.
func WAV(name string, b *audio.Buffer, f format.SampleFormat) File {
	return File{Name: name + ".wav", Write: func(w io.Writer) error { return format.WriteWAV(w, b, f) }}
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

// Part is a sound file before it is written.
type Part struct {
	Name string // without its ending
	B    *audio.Buffer
}

// Files are parts in a sample format.
func Files(parts []Part, f format.SampleFormat) []File {
	files := []File{}
	for _, p := range parts {
		files = append(files, WAV(p.Name, p.B, f))
	}
	return files
}

// scale changes the level of parts by gain dB.
func scale(parts []Part, gain float64) []Part {
	if g := float32(audio.Gain(gain)); g != 1 {
		for _, p := range parts {
			for _, ch := range p.B.Channels {
				for i := range ch {
					ch[i] *= g
				}
			}
		}
	}
	return parts
}

// Loop is the groove's cycle, or a number of bars, as one file that loops
// without a seam. It is *engine.TooLong where that would never end.
func Loop(ctx context.Context, d *project.Document, samples sound.Samples, o Options) ([]Part, error) {
	out, err := engine.Render(ctx, d.Song(samples), engine.Bounce{Rate: engine.Rate, Bars: o.Bars, Seamless: true})
	if err != nil {
		return nil, err
	}
	return scale([]Part{loopPart(d, out)}, o.Gain), nil
}

func loopPart(d *project.Document, out *engine.Rendered) Part {
	return Part{fmt.Sprintf("%s-loop-%gbpm", FileName(d.Name), math.Round(d.Tempo[0].BPM*10)/10), out.Mix}
}

// Stems is one file for each voice that is heard and one for each bus; those of the rows
// that go to the output are the loop together, before the output's own steps.
func Stems(ctx context.Context, d *project.Document, samples sound.Samples, o Options) ([]Part, error) {
	out, err := engine.Render(ctx, d.Song(samples), engine.Bounce{Rate: engine.Rate, Bars: o.Bars, Seamless: true, Stems: true})
	if err != nil {
		return nil, err
	}
	return scale(stemParts(d, out), o.Gain), nil
}

func stemParts(d *project.Document, out *engine.Rendered) (parts []Part) {
	for i, b := range out.Stems {
		if v := &d.Kit.Voices[i]; !v.Mute {
			parts = append(parts, Part{fmt.Sprintf("%s-stem-%02d-%s", FileName(d.Name), i+1, FileName(v.Name)), b})
		}
	}
	for i, b := range out.Buses {
		if bus := &d.Mix.Buses[i]; !bus.Mute {
			parts = append(parts, Part{fmt.Sprintf("%s-bus-%02d-%s", FileName(d.Name), i+1, FileName(bus.Name)), b})
		}
	}
	return parts
}

// OneShots is one file for each voice, at the level it has in the mix; mono where
// its sides are alike. They last as long as they ring.
func OneShots(ctx context.Context, d *project.Document, samples sound.Samples, o Options) (parts []Part, err error) {
	s := d.Stroke()
	if o.Velocity > 0 {
		s.Velocity = o.Velocity
	}
	for i := range d.Kit.Voices {
		v := &d.Kit.Voices[i]
		var b *audio.Buffer
		if o.Chain && len(v.Chain) > 0 {
			if b, err = mixreport.InRow(ctx, d, v, samples, s.Velocity); err != nil {
				return nil, err
			}
			b = ended(b)
		} else {
			b = ended(synth.Shot(v, samples, engine.Rate, s, shotMS))
		}
		part := []Part{{fmt.Sprintf("%s-%02d-%s", FileName(d.Name), i+1, FileName(v.Name)), b}}
		parts = append(parts, scale(part, v.Level+o.Gain)...)
		if err := ctx.Err(); err != nil {
			return nil, err
		}
	}
	return parts, nil
}

// shotMS is the longest one-shot.
const shotMS = 60_000

// Shot is a one-shot of a voice, trimmed where it has fallen below -80 dB of its peak, of
// one channel where both sides are alike, at most 6 s long: what is looked at and
// compared.
func Shot(v *sound.Voice, samples sound.Samples, s synth.Stroke) *audio.Buffer {
	return ended(synth.Shot(v, samples, engine.Rate, s, 6000))
}

// ended is a sound without what comes after it has fallen below -80 dB of its peak, of
// one channel where both sides are alike.
func ended(b *audio.Buffer) *audio.Buffer {
	if slices.Equal(b.Channels[0], b.Channels[1]) {
		b.Channels = b.Channels[:1]
	}
	limit := float32(b.Peak() * 1e-4)
	end := 1
	for _, x := range b.Channels {
		last := len(x)
		for last > 1 && x[last-1] < limit && x[last-1] > -limit {
			last--
		}
		end = max(end, last)
	}
	return b.Slice(0, min(end, b.Frames()))
}
