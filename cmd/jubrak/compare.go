package main

import (
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"jubrak/app/service"
	"jubrak/core/compare"
	"jubrak/core/format"
	"jubrak/core/isolate"
	"jubrak/core/transcribe"
)

// compared is a comparison as it is printed.
type compared struct {
	Reference string `json:"reference"`
	*compare.Comparison
}

func compareCommand() *cobra.Command {
	var asJSON bool
	var data string
	c := &cobra.Command{
		Use: "compare MINE REFERENCE...", Short: "Set a project, or a recording, against references: what differs, by how much, and what closes it",
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) < 2 {
				return fmt.Errorf("%w: give a project or a recording, and at least one reference", errUsage)
			}
			return nil
		},
		RunE: func(c *cobra.Command, args []string) error {
			mine, err := mineOf(c.Context(), args[0], data)
			if err != nil {
				return err
			}
			list := []compared{}
			for _, path := range args[1:] {
				a, err := againstFile(c.Context(), path)
				if err != nil {
					return fmt.Errorf("%s: %w", filepath.Base(path), err)
				}
				list = append(list, compared{path, mine(a)})
			}
			if asJSON {
				return printJSON(struct {
					Comparisons []compared `json:"comparisons"`
				}{list})
			}
			for i := range list {
				list[i].print()
			}
			return nil
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "print one JSON document")
	c.Flags().StringVar(&data, "data", dataDir(), "folder for projects")
	return c
}

// mineOf reads what is compared: a recording, a performance or a project.
func mineOf(ctx context.Context, path, data string) (func(*compare.Against) *compare.Comparison, error) {
	if file, err := os.ReadFile(path); err == nil {
		if k := format.Sniff(file); k != format.Archive && k != format.Unknown {
			a, err := againstFile(ctx, path)
			if err != nil {
				return nil, err
			}
			return func(b *compare.Against) *compare.Comparison { return compare.References(a, b) }, nil
		}
	}
	d, samples, err := findProject(path, data)
	if err != nil {
		return nil, err
	}
	mine, err := compare.MeasureMine(ctx, d, samples)
	if err != nil {
		return nil, err
	}
	return func(b *compare.Against) *compare.Comparison {
		for i := range d.References { // its targets are drums of the same recording
			if d.References[i].ID == d.Active {
				b.Reference = d.Active
			}
		}
		return compare.Compare(d, mine, b)
	}, nil
}

// againstFile listens to a reference and takes its drums out.
func againstFile(ctx context.Context, path string) (*compare.Against, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	raw, err := service.Hear(ctx, data, progressBar())
	if err != nil {
		return nil, err
	}
	a := &compare.Against{Analysis: transcribe.Finish(raw, nil)}
	if raw.Kind != "audio" || a.Analysis.NoDrums {
		return a, nil
	}
	if a.Drums, err = findDrums(ctx, data, 0, math.Inf(1), a.Analysis); err != nil {
		return nil, err
	}
	a.Analysis = isolate.With(a.Analysis, a.Drums)
	return a, nil
}

func (c *compared) print() {
	fmt.Printf("%s: %d of %d values outside\n", filepath.Base(c.Reference), c.Outside, c.Measurable)
	for _, r := range c.Order() {
		fmt.Printf("  %s", r.Sentence)
		if r.Change != "" {
			fmt.Printf(" %s.", r.Change)
		}
		fmt.Println()
	}
}
