package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"sort"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"jubrak/app/service"
	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/measure"
	"jubrak/core/preset"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

func soundCommand() *cobra.Command {
	c := &cobra.Command{Use: "sound", Short: "Make, list, find and vary sounds", Args: func(_ *cobra.Command, args []string) error {
		return fmt.Errorf("%w: sound new, sound list, sound find or sound vary", errUsage)
	}, RunE: func(*cobra.Command, []string) error { return nil }}
	c.AddCommand(soundNew(), soundList(), soundFind(), soundVary())
	return c
}

// shotBPM is the tempo at which the command line strikes: what counts in beats needs
// one.
const shotBPM = 120

// shot renders a recipe with a velocity at which it has its own level.
func shot(r *sound.Recipe) *audio.Buffer {
	return synth.OneShot(*r, engine.Rate, synth.Stroke{Velocity: 127, Seed: 1, BeatMS: 60000.0 / shotBPM}, 8000)
}

func soundNew() *cobra.Command {
	var family, out, recipe, from string
	var sets []string
	var atLevel float64
	c := &cobra.Command{
		Use: "new --family F", Short: "Make a sound from a family's default or a shipped sound, with values set", Args: exactly(0, "no arguments but flags"),
		RunE: func(cmd *cobra.Command, _ []string) error {
			var r sound.Recipe
			switch {
			case from != "":
				s := preset.Find(from)
				if s == nil {
					return fmt.Errorf("there is no sound %q; see jubrak sound list", from)
				}
				r = *s.Layers[0].Recipe
			case !sound.Family(family).Known():
				return fmt.Errorf("%w: --family is one of %s", errUsage, familyNames())
			default:
				r = sound.DefaultRecipe(sound.Family(family))
			}
			r.Own()
			level := levelFlag(cmd, &atLevel)
			if from != "" && level == nil {
				level = &preset.Find(from).Layers[0].Level
			}
			for _, s := range sets {
				if err := assign(&r, s); err != nil {
					return err
				}
			}
			if err := r.Validate(); err != nil {
				return err
			}
			if out == "" && recipe == "" {
				return printJSON(r)
			}
			if recipe != "" {
				if err := writeRecipe(recipe, &r); err != nil {
					return err
				}
			}
			if out != "" {
				return writeSound(out, leveled(out, shot(&r), level))
			}
			return nil
		},
	}
	c.Flags().Float64Var(&atLevel, "level", 0, "level, dB; a shipped sound has its own")
	c.Flags().StringVar(&family, "family", "", "family of the drum")
	c.Flags().StringVar(&from, "from", "", "shipped sound to begin with")
	c.Flags().StringArrayVar(&sets, "set", nil, "number=value, such as body.end_hz=46; may be repeated")
	c.Flags().StringVar(&out, "out", "", "WAV file to write")
	c.Flags().StringVar(&recipe, "recipe", "", "JSON file to write the recipe to")
	return c
}

// levelFlag is the value of --level where it was given, else nil.
func levelFlag(cmd *cobra.Command, value *float64) *float64 {
	if cmd.Flags().Changed("level") {
		return value
	}
	return nil
}

// highestPeak is the peak that a sound file has at most, dBFS: integers have no room above
// full scale.
const highestPeak = -0.3

// leveled brings a sound to a level, dB, and where it would clip as far down as it must,
// which is said on standard error.
func leveled(name string, b *audio.Buffer, level *float64) *audio.Buffer {
	by := 0.0
	if level != nil {
		by = *level
	}
	if peak := audio.DB(math.Max(b.Peak(), 1e-9)); peak+by > highestPeak {
		fmt.Fprintf(os.Stderr, "%s would clip by %.1f dB; it is %.1f dB softer than asked\n", filepath.Base(name), math.Max(peak+by, 0), peak+by-highestPeak)
		by = highestPeak - peak
	}
	gain := float32(audio.Gain(by))
	for _, x := range b.Channels {
		for i := range x {
			x[i] *= gain
		}
	}
	return b
}

// assign sets a number of a recipe, held to its range with a word on standard error.
func assign(r *sound.Recipe, text string) error {
	id, value, ok := strings.Cut(text, "=")
	n, known := r.Number(id)
	if !ok || !known {
		return fmt.Errorf("%w: --set %s: a recipe has no number %q", errUsage, text, id)
	}
	v, err := strconv.ParseFloat(value, 64)
	if err != nil {
		return fmt.Errorf("%w: --set %s: %q is no number", errUsage, text, value)
	}
	held, err := n.Held(v)
	if err != nil {
		return fmt.Errorf("--set %s: %w", text, err)
	}
	if held != v {
		fmt.Fprintf(os.Stderr, "%s is held to %g %s: it runs from %g to %g\n", id, held, n.Unit, n.Min, n.Max)
	}
	return n.Set(r, held)
}

func familyNames() string {
	names := make([]string, len(sound.Families))
	for i, f := range sound.Families {
		names[i] = string(f)
	}
	return strings.Join(names, ", ")
}

func writeRecipe(path string, r *sound.Recipe) error {
	data, err := json.MarshalIndent(r, "", " ")
	if err != nil {
		return err
	}
	return os.WriteFile(path, append(data, '\n'), 0o644)
}

func writeSound(path string, b *audio.Buffer) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	return errors.Join(format.WriteWAV(f, b, format.WAV24), f.Close())
}

// listed is a sound of the library as the command line returns of it.
type listed struct {
	ID          string       `json:"id"`
	Name        string       `json:"name"`
	Family      sound.Family `json:"family"`
	Tags        []string     `json:"tags"`
	Fundamental *float64     `json:"fundamental_hz"`
	Decay       *float64     `json:"decay_60db_ms"`
	Brightness  *float64     `json:"spectral_centroid_hz"`
	Distance    *float64     `json:"distance_db"`
}

func library(family, tag string, like measure.Print) []listed {
	out := []listed{}
	for _, s := range preset.Sounds() {
		if family != "" && string(s.Family) != family || tag != "" && !strings.Contains(strings.Join(s.Tags, " "), tag) {
			continue
		}
		facts, _ := preset.Known(s.ID)
		l := listed{ID: s.ID, Name: s.Name, Family: s.Family, Tags: s.Tags, Fundamental: facts.Fundamental, Decay: facts.Decay, Brightness: facts.Brightness}
		if like != nil {
			d := like.Distance(facts.Print)
			l.Distance = &d
		}
		out = append(out, l)
	}
	if like != nil {
		sort.SliceStable(out, func(i, j int) bool { return *out[i].Distance < *out[j].Distance })
	}
	return out
}

func printList(list []listed, asJSON bool) error {
	if asJSON {
		return printJSON(map[string]any{"sounds": list})
	}
	number := func(v *float64, unit string) string {
		if v == nil {
			return "–"
		}
		return fmt.Sprintf("%.0f %s", *v, unit)
	}
	for _, l := range list {
		fmt.Printf("%-28s %-18s %9s %9s %9s", l.ID, l.Name, number(l.Fundamental, "Hz"), number(l.Decay, "ms"), number(l.Brightness, "Hz"))
		if l.Distance != nil {
			fmt.Printf(" %6.1f dB", *l.Distance)
		}
		fmt.Printf("  %s\n", strings.Join(l.Tags, ", "))
	}
	return nil
}

func soundList() *cobra.Command {
	var family, tag string
	var asJSON bool
	c := &cobra.Command{
		Use: "list", Short: "List the shipped sounds", Args: exactly(0, "no arguments but flags"),
		RunE: func(*cobra.Command, []string) error { return printList(library(family, tag, nil), asJSON) },
	}
	c.Flags().StringVar(&family, "family", "", "only this family")
	c.Flags().StringVar(&tag, "tag", "", "with this tag alone")
	c.Flags().BoolVar(&asJSON, "json", false, "one JSON document")
	return c
}

func soundFind() *cobra.Command {
	var family, like string
	var most int
	var than preset.Than
	var asJSON bool
	c := &cobra.Command{
		Use: "find --like FILE", Short: "Find the shipped sounds that are most like a one-shot", Args: exactly(0, "no arguments but flags"),
		RunE: func(*cobra.Command, []string) error {
			if like == "" {
				return fmt.Errorf("%w: --like names a sound file", errUsage)
			}
			data, err := os.ReadFile(like)
			if err != nil {
				return err
			}
			b, err := format.Decode(data)
			if err != nil {
				return err
			}
			print := measure.PrintOf(b)
			if print == nil {
				return fmt.Errorf("%s is silent", like)
			}
			if most < 1 {
				return fmt.Errorf("%w: --count is 1 or more", errUsage)
			}
			if family != "" && !sound.Family(family).Known() {
				return fmt.Errorf("%w: --family is one of %s", errUsage, familyNames())
			}
			m := measure.Measure(b)
			list := slices.DeleteFunc(library(family, "", print), func(l listed) bool {
				return !than.Holds(preset.Facts{Fundamental: l.Fundamental, Decay: l.Decay, Brightness: l.Brightness}, m.Fundamental, m.Decay, m.Centroid)
			})
			return printList(list[:min(most, len(list))], asJSON)
		},
	}
	c.Flags().StringVar(&like, "like", "", "one-shot to match")
	c.Flags().StringVar(&family, "family", "", "only this family")
	c.Flags().BoolVar(&than.Darker, "darker", false, "only those darker than it")
	c.Flags().BoolVar(&than.Brighter, "brighter", false, "only those brighter than it")
	c.Flags().BoolVar(&than.Shorter, "shorter", false, "only those shorter than it")
	c.Flags().BoolVar(&than.Longer, "longer", false, "only those longer than it")
	c.Flags().BoolVar(&than.Lower, "lower", false, "only those lower than it")
	c.Flags().BoolVar(&than.Higher, "higher", false, "only those higher than it")
	c.Flags().IntVar(&most, "count", 10, "how many")
	c.Flags().BoolVar(&asJSON, "json", false, "one JSON document")
	return c
}

func soundVary() *cobra.Command {
	var count int
	var percent float64
	var seed uint64
	var dir, only string
	var atLevel float64
	c := &cobra.Command{
		Use: "vary RECIPE", Short: "Make variants of a recipe as numbered files", Args: exactly(1, "one recipe, a JSON file"),
		RunE: func(cmd *cobra.Command, args []string) error {
			groups := strings.Split(only, ",")
			switch {
			case dir == "":
				return fmt.Errorf("%w: --out names a folder", errUsage)
			case count < 1 || count > service.MostVariants:
				return fmt.Errorf("%w: --count is 1 to %d", errUsage, service.MostVariants)
			case !(percent >= 0 && percent <= 100):
				return fmt.Errorf("%w: --far is 0 to 100 percent", errUsage)
			}
			for _, g := range groups {
				if !slices.Contains(preset.Groups, g) {
					return fmt.Errorf("%w: --only is some of %s, not %q", errUsage, strings.Join(preset.Groups, ","), g)
				}
			}
			level := levelFlag(cmd, &atLevel)
			data, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			var r sound.Recipe
			if data, err = project.UpgradeSaved(data, 0); err != nil {
				return fmt.Errorf("%s is not a recipe: %w", args[0], err)
			}
			if err := json.Unmarshal(data, &r); err != nil {
				return fmt.Errorf("%s is not a recipe: %w", args[0], err)
			}
			r.Tidy()
			if err := r.Validate(); err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			if err := os.MkdirAll(dir, 0o755); err != nil {
				return err
			}
			name := strings.TrimSuffix(filepath.Base(args[0]), filepath.Ext(args[0]))
			next := lastNumber(dir, name)
			progress := progressBar()
			for i, v := range preset.Vary(r, count, percent, groups, seed) {
				next++
				path := filepath.Join(dir, fmt.Sprintf("%s-%03d", name, next))
				if err := errors.Join(writeRecipe(path+".json", &v), writeSound(path+".wav", leveled(path+".wav", shot(&v), level))); err != nil {
					return err
				}
				fmt.Println(path + ".wav")
				progress("varying", float64(i+1)/float64(count))
			}
			return nil
		},
	}
	c.Flags().Float64Var(&atLevel, "level", 0, "level of each, dB")
	c.Flags().IntVar(&count, "count", 12, "how many")
	c.Flags().Float64Var(&percent, "far", 20, "how far they go, percent")
	c.Flags().Uint64Var(&seed, "seed", 1, "the same seed makes the same variants")
	c.Flags().StringVar(&only, "only", strings.Join(preset.Groups, ","), "what may change")
	c.Flags().StringVar(&dir, "out", "", "folder; numbers go on from the last one there")
	return c
}

// lastNumber is the greatest number of a set of files in a folder.
func lastNumber(dir, name string) (last int) {
	found, _ := filepath.Glob(filepath.Join(dir, name+"-*.wav"))
	for _, f := range found {
		text := strings.TrimSuffix(strings.TrimPrefix(filepath.Base(f), name+"-"), ".wav")
		if n, err := strconv.Atoi(text); err == nil {
			last = max(last, n)
		}
	}
	return last
}
