package main

import (
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"runtime/debug"
	"strings"

	"github.com/spf13/cobra"

	"jubrak/app/service"
	"jubrak/core/audio"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/isolate"
	"jubrak/core/transcribe"
)

// drumFile is a drum as it was written.
type drumFile struct {
	isolate.Drum
	File string `json:"file"`
	// Dry is whether the file is without the room: asked for, and known.
	Dry bool `json:"dry"`
}

func drumsCommand() *cobra.Command {
	var out string
	var dry, asJSON bool
	c := &cobra.Command{
		Use: "drums FILE --out DIR", Short: "Take the drums out of a recording, each by itself", Args: exactly(1, "one file"),
		RunE: func(c *cobra.Command, args []string) error {
			if out == "" {
				return fmt.Errorf("%w: give --out, the folder for the drums", errUsage)
			}
			data, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			debug.SetMemoryLimit(listenMemory)
			raw, err := service.Hear(c.Context(), data, progressBar())
			if err != nil {
				return err
			}
			if raw.Kind != "audio" {
				return fmt.Errorf("%s is a MIDI file: it has strokes but no sound, so there are no drums to take out of it", filepath.Base(args[0]))
			}
			list, err := findDrums(c.Context(), data, 0, math.Inf(1), transcribe.Finish(raw, nil))
			if err != nil {
				return err
			}
			if err := os.MkdirAll(out, 0o755); err != nil {
				return err
			}
			files := []drumFile{}
			for i := range list {
				d := &list[i]
				f := drumFile{Drum: *d, File: service.DrumFileName(d) + ".wav"}
				b := d.Sound
				if dry && d.Dry != nil {
					b, f.Dry = d.Dry, true
				}
				w := export.WAV(service.DrumFileName(d), b, format.WAV32F)
				if err := writeFile(filepath.Join(out, f.File), w); err != nil {
					return err
				}
				files = append(files, f)
			}
			if asJSON {
				return printJSON(struct {
					Drums []drumFile `json:"drums"`
				}{files})
			}
			printDrums(files)
			return nil
		},
	}
	c.Flags().StringVar(&out, "out", "", "folder for a WAV file of each drum")
	c.Flags().BoolVar(&dry, "dry", false, "without the room, where it can be separated from the drum")
	c.Flags().BoolVar(&asJSON, "json", false, "print one JSON document")
	return c
}

// findDrums takes the drums out of a file, or out of a stretch of it, that was heard.
func findDrums(ctx context.Context, data []byte, from, to float64, a *transcribe.Analysis) ([]isolate.Drum, error) {
	if a.NoDrums {
		return nil, nil // its hits are guesses
	}
	var b *audio.Buffer
	var err error
	if from > 0 || !math.IsInf(to, 1) {
		b, err = format.DecodeStretch(data, from, min(to, 1e6), func(float64) error { return ctx.Err() })
	} else {
		b, err = format.Decode(data)
	}
	if err != nil {
		return nil, err
	}
	report := progressBar()
	return isolate.Find(ctx, b, a.Hits, isolate.Choices{}, func(done float64) { report("drums", done) })
}

// printDrums returns what is known of each drum.
func printDrums(files []drumFile) {
	if len(files) == 0 {
		fmt.Println("No drums were heard.")
	}
	value := func(m *isolate.Measure, digits int, unit string) string {
		if m == nil {
			return "-"
		}
		return fmt.Sprintf("%.*f ±%.*f %s", digits, m.Value, digits, m.Within, unit)
	}
	for _, f := range files {
		used := 0
		for _, s := range f.Strokes {
			if s.Used {
				used++
			}
		}
		fmt.Printf("%-18s %d strokes, %d used. Fundamental %s, decay %s, snap %s\n", f.File, len(f.Strokes), used,
			value(f.Facts.Fundamental, 1, "Hz"), value(f.Facts.Decay, 0, "ms"), value(f.Facts.Snap, 1, "dB"))
		fmt.Printf("%-18s %s\n", "", strings.Join(f.Words, " "))
	}
}
