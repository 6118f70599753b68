package main

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"jubrak/app/service"
	"jubrak/core/audio"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/project"
	"jubrak/core/rebuild"
	"jubrak/core/transcribe"
)

// rebuiltFile is a project that was made of a reference.
type rebuiltFile struct {
	Reference  string          `json:"reference"`
	File       string          `json:"file"`
	Stages     []rebuild.Stage `json:"stages"`
	Inside     int             `json:"inside"`
	Measurable int             `json:"measurable"`
	// Skipped is true of a file that was there already.
	Skipped bool `json:"skipped"`
}

func rebuildCommand() *cobra.Command {
	var to string
	var samples, fits, asJSON bool
	o := rebuild.Options{Sounds: rebuild.Fits}
	c := &cobra.Command{
		Use: "rebuild REFERENCE... --to FILE-OR-DIR", Short: "Make a project of each reference: pattern, feel, sounds and levels",
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) == 0 {
				return fmt.Errorf("%w: give at least one reference", errUsage)
			}
			return nil
		},
		RunE: func(c *cobra.Command, args []string) error {
			one := strings.HasSuffix(to, ".jubrak")
			switch {
			case to == "":
				return fmt.Errorf("%w: give --to, a .jubrak file, or a folder", errUsage)
			case one && len(args) > 1:
				return fmt.Errorf("%w: --to is a folder where there are many references", errUsage)
			case samples && fits:
				o.Sounds = rebuild.Both
			case samples:
				o.Sounds = rebuild.Samples
			}
			if !one {
				if err := os.MkdirAll(to, 0o755); err != nil {
					return err
				}
			}
			list := []rebuiltFile{}
			for _, path := range args {
				r := rebuiltFile{Reference: path, File: to, Stages: []rebuild.Stage{}}
				if !one {
					r.File = filepath.Join(to, strings.TrimSuffix(filepath.Base(path), filepath.Ext(path))+".jubrak")
				}
				if _, err := os.Stat(r.File); err == nil && !one { // resumed: what is there stays
					r.Skipped = true
				} else if err := r.make(c.Context(), o); err != nil {
					return fmt.Errorf("%s: %w", filepath.Base(path), err)
				}
				list = append(list, r)
				if !asJSON {
					r.print()
				}
			}
			if asJSON {
				return printJSON(struct {
					Rebuilt []rebuiltFile `json:"rebuilt"`
				}{list})
			}
			return nil
		},
	}
	c.Flags().StringVar(&to, "to", "", "project archive (.jubrak), or a folder; files that are there are kept")
	c.Flags().BoolVar(&samples, "samples", false, "the drums' own samples; with --fit both as layers")
	c.Flags().BoolVar(&fits, "fit", false, "fitted recipes, the default")
	c.Flags().IntVar(&o.Evaluations, "evaluations", 0, "how many recipes are tried for each drum; 0 is the usual number")
	c.Flags().Uint64Var(&o.Seed, "seed", 1, "the same seed and evaluations give the same recipes")
	c.Flags().BoolVar(&asJSON, "json", false, "print one JSON document")
	return c
}

// make rebuilds a reference and writes the project.
func (r *rebuiltFile) make(ctx context.Context, o rebuild.Options) error {
	data, err := os.ReadFile(r.Reference)
	if err != nil {
		return err
	}
	a, err := againstFile(ctx, r.Reference)
	if err != nil {
		return err
	}
	blobs := map[string][]byte{}
	keep := func(data []byte) string {
		sum := sha256.Sum256(data)
		name := hex.EncodeToString(sum[:])
		blobs[name] = data
		return name
	}
	ref := project.Reference{ID: service.NewID(), Kind: "audio", Blob: keep(data), Corrections: []transcribe.Correction{}}
	if format.Sniff(data) == format.MIDI {
		ref.Kind, o.Sounds = "midi", rebuild.Kept
	}
	a.Reference = ref.ID
	m, err := rebuild.NewMemory(strings.TrimSuffix(filepath.Base(r.Reference), filepath.Ext(r.Reference)), ref, a.Analysis)
	if err != nil {
		return err
	}
	m.Name = func(b *audio.Buffer) (string, error) {
		var out bytes.Buffer
		err := format.WriteWAV(&out, b, format.WAV32F)
		return keep(out.Bytes()), err
	}
	report := progressBar()
	got, err := rebuild.Rebuild(ctx, m.Document, a, o, m.Host(func(stages []rebuild.Stage, done float64) {
		for i := range stages {
			if stages[i].State == rebuild.Running {
				report(stages[i].Title, done)
			}
		}
	}))
	if err != nil {
		return err
	}
	if got.Stopped {
		return ctx.Err()
	}
	r.Stages = got.Stages
	if c := got.Comparison; c != nil {
		r.Inside, r.Measurable = c.Measurable-c.Outside, c.Measurable
	}
	text, err := json.MarshalIndent(m.Document, "", " ")
	if err != nil {
		return err
	}
	used := map[string][]byte{}
	for _, b := range m.Document.Blobs() {
		used[b] = blobs[b]
	}
	return writeFile(r.File, export.File{Name: filepath.Base(r.File), Write: func(out io.Writer) error { return format.WriteArchive(out, text, used) }})
}

func (r *rebuiltFile) print() {
	if r.Skipped {
		fmt.Printf("%s: is there already\n", r.File)
		return
	}
	fmt.Printf("%s: %d of %d values inside\n", r.File, r.Inside, r.Measurable)
	for _, s := range r.Stages {
		fmt.Printf("  %-18s %s\n", s.Title, s.Result)
		for _, w := range s.Weak {
			fmt.Printf("  %-18s %s\n", "", w)
		}
	}
}
