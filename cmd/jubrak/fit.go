package main

import (
	"encoding/json"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"jubrak/core/audio"
	"jubrak/core/export"
	"jubrak/core/fit"
	"jubrak/core/format"
	"jubrak/core/measure"
	"jubrak/core/sound"
)

// fitted is a fit as it was written.
type fitted struct {
	Target string       `json:"target"`
	Family sound.Family `json:"family"`
	File   string       `json:"file"`
	*fit.Result
}

func fitCommand() *cobra.Command {
	var family, out, recipe string
	var asJSON, plain bool
	var o fit.Options
	c := &cobra.Command{
		Use: "fit TARGET... --family F --out OUT.wav", Short: "Search a recipe that sounds as near as can be to a recorded drum",
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) == 0 {
				return fmt.Errorf("%w: give at least one file to fit to", errUsage)
			}
			return nil
		},
		RunE: func(c *cobra.Command, args []string) error {
			switch {
			case out == "":
				return fmt.Errorf("%w: give --out, the file of the fitted sound, or a folder for those of many", errUsage)
			case family != "" && !sound.Family(family).Known():
				return fmt.Errorf("%w: --family is one of %s", errUsage, familyNames())
			}
			if err := o.Validate(); err != nil {
				return fmt.Errorf("%w: --evaluations: %w", errUsage, err)
			}
			o.Effects = !plain
			if len(args) > 1 {
				for _, dir := range []string{out, recipe} {
					if dir != "" {
						if err := os.MkdirAll(dir, 0o755); err != nil {
							return err
						}
					}
				}
			}
			list := []fitted{}
			for _, path := range args {
				f, err := fitFile(c, path, family, o)
				if err != nil {
					return fmt.Errorf("%s: %w", filepath.Base(path), err)
				}
				f.File = out
				to := recipe
				if name := strings.TrimSuffix(filepath.Base(path), filepath.Ext(path)); len(args) > 1 {
					f.File = filepath.Join(out, name+".wav")
					if recipe != "" {
						to = filepath.Join(recipe, name+".json")
					}
				}
				if err := f.write(to); err != nil {
					return err
				}
				list = append(list, *f)
				if !asJSON {
					f.print()
				}
			}
			if asJSON {
				return printJSON(struct {
					Fits []fitted `json:"fits"`
				}{list})
			}
			return nil
		},
	}
	c.Flags().StringVar(&family, "family", "", "what drum it is to be; without it as it is measured")
	c.Flags().StringVar(&out, "out", "", "WAV file of the fitted sound, 48 kHz; of many targets the folder")
	c.Flags().StringVar(&recipe, "recipe", "", "JSON file of the recipe; of many targets the folder")
	c.Flags().Uint64Var(&o.Seed, "seed", 1, "the same seed and evaluations give the same recipe")
	c.Flags().IntVar(&o.Evaluations, "evaluations", fit.DefaultEvaluations, "how many recipes are tried")
	c.Flags().DurationVar(&o.Budget, "budget", time.Minute, "stops the search after so long, which is reported")
	c.Flags().BoolVar(&plain, "no-effects", false, "no effects in the recipe")
	c.Flags().BoolVar(&asJSON, "json", false, "print one JSON document")
	return c
}

func fitFile(c *cobra.Command, path, family string, o fit.Options) (*fitted, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	b, err := format.Decode(data)
	if err != nil {
		return nil, err
	}
	f := &fitted{Target: path, Family: sound.Family(family)}
	if family == "" {
		if guess := measure.Measure(b).FamilyGuess; guess != nil {
			f.Family = sound.Family(*guess)
		}
		if !f.Family.Known() {
			f.Family = sound.Perc
		}
	}
	report := progressBar()
	f.Result, err = fit.Fit(c.Context(), &fit.Target{Sound: b, Family: f.Family}, o, func(done float64, _ *sound.Recipe, _ float64) { report("fitting", done) })
	if err == nil {
		err = c.Context().Err()
	}
	return f, err
}

// write renders the fitted sound to its file, and its recipe to another.
func (f *fitted) write(recipe string) error {
	shot := fit.Render(f.Recipe, 8000)
	for _, ch := range shot.Channels {
		for i := range ch {
			ch[i] *= float32(audio.Gain(f.Level))
		}
	}
	if err := writeFile(f.File, export.WAV(filepath.Base(f.File), shot, format.WAV32F)); err != nil {
		return err
	}
	if recipe == "" {
		return nil
	}
	return writeFile(recipe, export.File{Name: filepath.Base(recipe), Write: func(w io.Writer) error {
		e := json.NewEncoder(w)
		e.SetIndent("", "  ")
		return e.Encode(f.Recipe)
	}})
}

func (f *fitted) print() {
	stopped := ""
	if f.Stopped {
		stopped = ", stopped by --budget"
	}
	fmt.Printf("%s as %s: %.1f dB away, spectra %.1f dB; %d recipes tried%s\n", filepath.Base(f.Target), f.Family.Label(), f.Distance, f.Spectral, f.Evaluations, stopped)
	for _, p := range f.Parts {
		if p.Mine != nil && p.Target != nil {
			fmt.Printf("  %-12s %8.1f %s, target %.1f\n", p.Name, *p.Mine, p.Unit, *p.Target)
		}
	}
	for _, w := range f.Words {
		fmt.Println("  " + w)
	}
}
