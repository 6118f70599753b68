package main

import (
	"context"
	"fmt"
	"io"
	"math"
	"os"
	"runtime/debug"
	"strings"

	"github.com/spf13/cobra"

	"jubrak/app/service"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/isolate"
	"jubrak/core/measure"
	"jubrak/core/music"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// listenMemory is where the garbage collector begins to hurry while a file is
// heard: ten minutes of stereo then take less than 500 MB.
const listenMemory = 380 << 20

// hearStretch listens to a part of a file, which may be too long as a whole.
func hearStretch(ctx context.Context, data []byte, from, to float64) (*transcribe.Raw, error) {
	b, err := format.DecodeStretch(data, from, min(to, 1e6), func(float64) error { return ctx.Err() })
	if err != nil {
		return nil, err
	}
	return transcribe.Analyze(ctx, b, progressBar())
}

func analyzeCommand() *cobra.Command {
	var asJSON bool
	var midi string
	var from, to float64
	c := &cobra.Command{
		Use: "analyze FILE", Short: "Analyze a reference: audio or MIDI", Args: exactly(1, "one file"),
		RunE: func(c *cobra.Command, args []string) error {
			data, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			debug.SetMemoryLimit(listenMemory)
			var raw *transcribe.Raw
			if c.Flags().Changed("from") || c.Flags().Changed("to") {
				raw, err = hearStretch(c.Context(), data, from, to)
			} else {
				raw, err = service.Hear(c.Context(), data, progressBar())
			}
			if err != nil {
				return err
			}
			a := transcribe.Finish(raw, nil)
			if raw.Kind == "audio" {
				list, err := findDrums(c.Context(), data, from, to, a)
				if err != nil {
					return err
				}
				a = isolate.With(a, list)
			}
			if midi != "" {
				if err := writeFile(midi, heardMIDI(a)); err != nil {
					return err
				}
			}
			if asJSON {
				return printJSON(a)
			}
			printAnalysis(a)
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print one JSON document")
	c.Flags().Float64Var(&from, "from", 0, "listen from this second on; times then count from it")
	c.Flags().Float64Var(&to, "to", math.Inf(1), "listen up to this second")
	c.Flags().StringVar(&midi, "midi", "", "also write the hits to this MIDI file")
	return c
}

// progressBar draws on a terminal and is silent elsewhere.
func progressBar() transcribe.Progress {
	info, err := os.Stderr.Stat()
	if err != nil || info.Mode()&os.ModeCharDevice == 0 {
		return func(string, float64) {}
	}
	return func(stage string, done float64) {
		n := int(done * 30)
		fmt.Fprintf(os.Stderr, "\r%-10s [%s%s] %3.0f %%", stage, strings.Repeat("=", n), strings.Repeat(" ", 30-n), done*100)
		if done >= 1 {
			fmt.Fprintln(os.Stderr)
		}
	}
}

// printAnalysis returns what was found: in sentences, then family by family.
func printAnalysis(a *transcribe.Analysis) {
	fmt.Printf("%.2f s, %d hits", a.Duration, len(a.Hits))
	if a.Tempo == nil {
		fmt.Println(", no beat found")
		return
	}
	fmt.Printf(" in %d bars; sure of the beat to %.0f %%\n\n", a.Bars, 100**a.Confidence)
	for _, f := range a.Facts {
		if f.Text != "" {
			fmt.Println(f.Text)
		}
	}
	known := func(format string, values ...*float64) string {
		numbers := make([]any, len(values))
		for i, v := range values {
			if v == nil {
				return "-"
			}
			numbers[i] = *v
		}
		return fmt.Sprintf(format, numbers...)
	}
	fmt.Printf("\n%-12s %5s %14s %12s %10s\n", "", "hits", "lean, ms", "scatter, ms", "velocity")
	for _, family := range sound.Families {
		if v, ok := a.Feel.Voices[string(family)]; ok {
			fmt.Printf("%-12s %5d %14s %12s %10s\n", family, v.Count, known("%+.1f ±%.1f", v.Lean, v.LeanErr),
				known("%.1f", v.Scatter), known("%.0f ±%.0f", &v.VelocityMean, &v.VelocitySD))
		}
	}
	fmt.Printf("\nswing of %dths %s; - is not enough to say\n", a.Feel.Pair, known("%.1f %% ±%.1f", a.Feel.Swing, a.Feel.SwingErr))
}

// heardMIDI writes the hits with their own times at the measured tempo.
func heardMIDI(a *transcribe.Analysis) export.File {
	return export.File{Write: func(w io.Writer) error {
		bpm := 120.0
		if a.Tempo != nil {
			bpm = *a.Tempo
		}
		p := &format.Performance{PPQ: 3840, Meter: music.Meter{Beats: 4, Unit: 4}, Tempo: []format.MIDITempo{{Micros: int(60e6/bpm + 0.5)}}}
		for _, h := range a.Hits {
			p.Notes = append(p.Notes, format.MIDINote{Tick: int(h.Time*bpm/60*3840 + 0.5), Length: 480, Channel: 9, Key: h.Family.Key(), Velocity: h.Velocity})
		}
		p.Separate()
		return format.WriteMIDI(w, p, "heard")
	}}
}

func measureCommand() *cobra.Command {
	var asJSON bool
	c := &cobra.Command{
		Use: "measure FILE", Short: "Measure a one-shot", Args: exactly(1, "one file"),
		RunE: func(_ *cobra.Command, args []string) error {
			data, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			b, err := format.Decode(data)
			if err != nil {
				return err
			}
			m := measure.Measure(b)
			if asJSON {
				return printJSON(m)
			}
			line := func(name string, v *float64, unit string) {
				if v == nil {
					fmt.Printf("%-14s not measurable\n", name)
				} else {
					fmt.Printf("%-14s %.1f %s\n", name, *v, unit)
				}
			}
			line("peak", m.Peak, "dBFS")
			line("loudness", m.Integrated, "LUFS")
			line("attack", m.Attack, "ms")
			line("decay (60 dB)", m.Decay, "ms")
			line("fundamental", m.Fundamental, "Hz")
			line("centroid", m.Centroid, "Hz")
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print one JSON document")
	return c
}
