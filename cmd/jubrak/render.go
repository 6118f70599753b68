package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"jubrak/app/service"
	"jubrak/app/store"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// rendering is what render was asked for.
type rendering struct {
	dir                     string
	options                 export.Options
	mix, stems, shots, midi bool
	skipMissing             bool
	arrangement             bool
	section, variation      string
}

func renderCommand() *cobra.Command {
	var r rendering
	var bars, sampleFormat, data string
	c := &cobra.Command{
		Use: "render PROJECT", Short: "Make sound files from a project archive or one in the data folder", Args: exactly(1, "one project"),
		RunE: func(c *cobra.Command, args []string) error {
			r.options.Format = format.SampleFormat(sampleFormat)
			if !r.options.Format.Known() {
				return fmt.Errorf("%w: --format is wav16, wav24 or wav32f", errUsage)
			}
			if !(r.options.Gain >= -60 && r.options.Gain <= 12) {
				return fmt.Errorf("%w: --gain is -60 to 12 dB", errUsage)
			}
			var err error
			if r.options.Bars, err = barCount(bars); err != nil {
				return err
			}
			d, samples, err := findProject(args[0], data)
			if err != nil {
				return err
			}
			if r.variation != "" {
				if d, err = export.WithVariation(d, r.variation); err != nil {
					return err
				}
			}
			if (r.arrangement || r.section != "") && (r.variation != "" || r.options.Bars > 0) {
				return fmt.Errorf("%w: --variation and --bars are of a loop, not of --arrangement or --section", errUsage)
			}
			return r.run(c.Context(), d, samples)
		},
	}
	fl := c.Flags()
	fl.StringVar(&r.dir, "out", ".", "folder for the files")
	fl.StringVar(&bars, "bars", "", "number of bars, or 1:N; one cycle if not given")
	fl.StringVar(&sampleFormat, "format", "wav24", "wav16, wav24 or wav32f")
	fl.Float64Var(&r.options.Gain, "gain", 0, "change the level of sound files, dB")
	fl.StringVar(&data, "data", dataDir(), "folder for projects")
	fl.BoolVar(&r.mix, "mix", false, "the loop (the default)")
	fl.BoolVar(&r.stems, "stems", false, "one file for each voice and each bus")
	fl.BoolVar(&r.shots, "one-shots", false, "one hit of each voice")
	fl.IntVar(&r.options.Velocity, "velocity", 110, "velocity of one-shots, 1 to 127")
	fl.BoolVar(&r.options.Chain, "through-chain", false, "one-shots go through the effects of their rows")
	fl.BoolVar(&r.midi, "midi", false, "the groove as a MIDI file")
	fl.BoolVar(&r.options.Tracks, "tracks", false, "in the MIDI file, give each voice a track of its own")
	fl.BoolVar(&r.options.Notes, "notes", false, "in the MIDI file, write voices with pitches as notes on channels of their own")
	fl.BoolVar(&r.options.Pickup, "pickup", false, "in the MIDI file, give hits before the first downbeat a bar of their own instead of the loop's end")
	fl.BoolVar(&r.arrangement, "arrangement", false, "the whole piece in place of the loop; with --stems and --midi those of the piece")
	fl.StringVar(&r.section, "section", "", "a section of the piece, by its name")
	fl.StringVar(&r.variation, "variation", "", "the loop of another variation, by its letter or name")
	fl.BoolVar(&r.skipMissing, "skip-missing", false, "go on although the sound of a layer is missing")
	fl.BoolVar(&r.skipMissing, "without-lost", false, "as --skip-missing")
	_ = fl.MarkHidden("without-lost") // its former name; the flag is there
	return c
}

// barCount reads N or 1:N.
func barCount(s string) (int, error) {
	if s == "" {
		return 0, nil
	}
	n, err := strconv.Atoi(strings.TrimPrefix(s, "1:"))
	if err != nil || n < 1 || n > 4096 {
		return 0, fmt.Errorf("%w: --bars is a number of bars such as 8, or 1:8", errUsage)
	}
	return n, nil
}

// findProject reads an archive, or a project of the data folder by its id or
// name, with the sounds of its layers.
func findProject(which, dir string) (*project.Document, sound.Samples, error) {
	if data, err := os.ReadFile(which); err == nil {
		return readProject(data)
	}
	if _, err := os.Stat(filepath.Join(dir, "jubrak.db")); err != nil {
		return nil, nil, fmt.Errorf("there is no project archive %q and no data folder at %s", which, dir)
	}
	st, err := store.Open(dir)
	if err != nil {
		return nil, nil, err
	}
	defer func() { _ = st.Close() }()
	rows, err := st.Projects()
	if err != nil {
		return nil, nil, err
	}
	for _, r := range rows {
		if r.ID == which || strings.EqualFold(r.Name, which) {
			c, err := st.Load(r.ID)
			if err != nil {
				return nil, nil, err
			}
			d, err := project.Join(c.Document, c.Parts)
			if err != nil {
				return nil, nil, err
			}
			return d, service.Samples(d, st.Blob), nil
		}
	}
	return nil, nil, fmt.Errorf("there is no project %q in %s", which, dir)
}

// readProject reads an archive, or the document of one alone.
func readProject(data []byte) (*project.Document, sound.Samples, error) {
	if !bytes.HasPrefix(data, []byte("PK")) {
		d, err := project.Read(data)
		if err != nil {
			return nil, nil, err
		}
		return d, sound.Samples{}, nil
	}
	a, err := format.OpenArchive(data)
	if err != nil {
		return nil, nil, err
	}
	text, err := a.Document()
	if err != nil {
		return nil, nil, err
	}
	d, err := project.Read(text)
	if err != nil {
		return nil, nil, err
	}
	return d, service.Samples(d, a.Blob), nil
}

// lost names the layers whose sound is missing, as one error.
func lost(d *project.Document, samples sound.Samples) error {
	var names []string
	for _, l := range d.LayersWithout(func(blob string) bool { return samples[blob] != nil }) {
		names = append(names, fmt.Sprintf("%s: layer %q", l.Voice, l.Layer))
	}
	if len(names) == 0 {
		return nil
	}
	return fmt.Errorf("the sound of these layers is missing: %s", strings.Join(names, "; "))
}

func (r *rendering) run(ctx context.Context, d *project.Document, samples sound.Samples) error {
	if missing := lost(d, samples); missing != nil {
		if !r.skipMissing {
			return fmt.Errorf("%w. Nothing was made; --skip-missing goes on without them", missing)
		}
		fmt.Fprintln(os.Stderr, missing)
	}
	if err := os.MkdirAll(r.dir, 0o755); err != nil {
		return err
	}
	var parts []export.Part
	stemsOf, midiOf := export.Stems, export.MIDI
	var long []export.File
	if r.arrangement {
		stemsOf, midiOf = export.PieceStems, export.PieceMIDI
	}
	if r.section != "" {
		section, err := export.Section(ctx, d, samples, r.section, r.options)
		if err != nil {
			return err
		}
		parts = append(parts, section...)
	}
	if r.mix || !r.stems && !r.shots && !r.midi && r.section == "" {
		if r.arrangement { // of any length
			long = append(long, export.PieceFile(ctx, d, samples, nil, r.options))
		} else {
			loop, err := export.Loop(ctx, d, samples, r.options)
			if err != nil {
				return err
			}
			parts = append(parts, loop...)
		}
	}
	if r.stems {
		stems, err := stemsOf(ctx, d, samples, r.options)
		if err != nil {
			return err
		}
		parts = append(parts, stems...)
	}
	if r.shots {
		shots, err := export.OneShots(ctx, d, samples, r.options)
		if err != nil {
			return err
		}
		parts = append(parts, shots...)
	}
	if l := export.LevelOf(parts); l.Over > 0 {
		what := "they are cut off"
		if r.options.Format == format.WAV32F {
			what = "32-bit float keeps them, other formats cut them off"
		}
		fmt.Fprintf(os.Stderr, "%s goes %.1f dB above full scale; %d samples of all files are beyond it (%s). --gain %.1f brings all below.\n",
			l.File, l.Above(), l.Over, what, r.options.Gain-l.Above()-0.05)
	}
	files := append(long, export.Files(parts, r.options.Format)...)
	if r.midi {
		midi, err := midiOf(d, r.options)
		if err != nil {
			return err
		}
		files = append(files, midi)
	}
	for _, file := range files {
		path := filepath.Join(r.dir, file.Name)
		if err := writeFile(path, file); err != nil {
			return err
		}
		fmt.Println(path)
	}
	return nil
}

// writeFile leaves no half of a file behind.
func writeFile(path string, file export.File) error {
	w, err := os.Create(path)
	if err != nil {
		return err
	}
	if err := file.Write(w); err != nil {
		_ = w.Close()
		removeFile(path)
		return unwritten(file, err)
	}
	if err := w.Close(); err != nil {
		removeFile(path)
		return unwritten(file, err)
	}
	return nil
}

// removeFile removes a file, and never a device that was written to.
func removeFile(path string) {
	if info, err := os.Lstat(path); err == nil && info.Mode().IsRegular() {
		_ = os.Remove(path)
	}
}

func unwritten(file export.File, err error) error {
	var at *fs.PathError
	switch {
	case errors.Is(err, syscall.ENOSPC):
		err = errors.New("the disk is full; make room and do it again")
	case errors.As(err, &at):
		err = at.Err
	}
	return fmt.Errorf("%s could not be written: %w", file.Name, err)
}
