// Package demo fills an empty data folder with the projects of the fictional
// Lantern Street Rink: its house drummer recorded reference loops for the
// skating sessions, and its programmer rebuilds them.
package demo

import (
	"context"
	"embed"
	"fmt"
	"slices"
	"strings"

	"jubrak/app/service"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/preset"
	"jubrak/core/profile"
	"jubrak/core/project"
	"jubrak/core/sound"
)

//go:embed rink/*.flac
var recordings embed.FS

// closingTime is a project that was rebuilt of a take and then changed (demo/closing).
//
//go:embed closing-time.json
var closingTime []byte

// rebuild is how far the rink's programmer has come with a recording.
type rebuild struct {
	name, key, recording, title string
	bpm                         float64
	bars                        int
	kit                         []sound.Voice       // none: the default kit
	profile                     string              // of a genre, in place of a recording
	lanes                       map[string][]string // 16 marks a bar: 1..9 or a dot
	edits                       project.Edits
	mix                         project.Edits
	piece                       project.Edits
}

var rebuilds = []rebuild{
	{
		name: "Night skate", key: "G minor", profile: "genre-techno-rumble", bpm: 132, bars: 2, kit: nightKit(),
		lanes: map[string][]string{
			"kick":   {"9...9...9...9...", "9...9...9...9..."},
			"clap":   {"....8.......8...", "....8.......8..."},
			"hat":    {"..7...7...7...7.", "..7...7...7...75"},
			"open":   {"................", "..............6."},
			"shaker": {"8...............", "8..............."},
			"perc":   {"...6......5.....", "...6......5..4.."},
		},
		edits: project.Edits{project.SetNumber{At: "groove/feel/hat/lean_ms", Value: 6}, project.SetNumber{At: "groove/feel/swing_percent", Value: 54}, project.SetLane{Voice: "perc", Steps: 12}},
		mix:   nightMix(),
	},
	{
		name: "Speed round", key: "A minor", recording: "speed-round", title: "Rink drummer, take 5", bpm: 124, bars: 2,
		lanes: map[string][]string{
			"kick":  {"9...9...9...9...", "9...9...9...9..."},
			"snare": {"....8.......8...", "....8.......8..4"},
			"hat":   {"6..56..56..56.55", "6..56..56..56.55"},
			"open":  {"..8...8...8...8.", "..8...8...8...8."},
			"808":   {"......7.........", "......7.......6."},
		},
		edits: project.Edits{
			project.SetSound{Voice: "kick", Layers: preset.Find("kick-house-lights").Layers},
			project.SetSound{Voice: "snare", Layers: append(layers("snare-machine-nine"), named("claps", "Claps", -4, "clap-dry-pair"))},
			project.SetSound{Voice: "hat", Layers: preset.Find("hat_closed-two-noises").Layers},
			project.SetSound{Voice: "open", Layers: preset.Find("hat_open-held").Layers},
			project.SetNote{Voice: "808", Note: "A1"},
			project.SetNumber{At: "808/layers/drum/body.decay_ms", Value: 500},
			project.SetNumber{At: "groove/feel/hat/scatter_ms", Value: 1.2},
			// A roll that fades, a flam, a bass that glides, and a variation without the
			// second bar's first kick.
			put("hat", groove.Hit{Tick: 28 * 240, Velocity: 107, Length: 960, Roll: groove.Even{PerBeat: 6, VelocityTo: 40}}),
			put("snare", groove.Hit{Tick: 20 * 240, Velocity: 107, Flam: groove.Flam{Strokes: 1, Spacing: 18, Level: -12}}),
			put("808", groove.Hit{Tick: 6 * 240, Velocity: 94, Length: 16 * 240, Cut: true, Glide: 80}),
			put("808", groove.Hit{Tick: 22 * 240, Velocity: 94, Length: 720, Cut: true, Semitones: 3}),
			project.AddVariation{Name: "late kick"},
			project.TouchHits{Hits: []project.HitRef{{Voice: "kick", Hit: "h5"}}, As: "drop"},
			project.UseVariation{Variation: "a"},
		},
		mix: speedMix(),
	},
	{
		name: "Warm-up laps", key: "F minor", recording: "warm-up-laps", title: "Rink drummer, take 2", bpm: 92, bars: 2,
		lanes: map[string][]string{
			"kick":  {"9..4..8.9.....5.", "9..5....8.8..4.."},
			"snare": {"....9.......8..3", "....9..3....9..."},
			"hat":   {"8.5.7.5.8.5.7.54", "8.5.7.5.8.5.7.54"},
			"open":  {"................", "..........6....."},
			"808":   {"9.......9.......", "9.........8....."},
		},
		edits: project.Edits{
			project.SetNumber{At: "groove/feel/swing_percent", Value: 55},
			project.SetNumber{At: "groove/feel/hat/lean_ms", Value: 4},
			project.SetNumber{At: "groove/feel/snare/lean_ms", Value: 11},
			project.SetNumber{At: "groove/feel/hat/scatter_ms", Value: 2.2},
			project.SetNumber{At: "groove/feel/snare/scatter_ms", Value: 2},
			project.SetNumber{At: "groove/feel/hat/velocity_scatter", Value: 3},
			project.SetNumber{At: "kick/layers/drum/body.end_hz", Value: 46.2},
			project.SetNumber{At: "snare/layers/drum/ring.level_db", Value: -16},
			project.SetNumber{At: "snare/layers/drum/ring.pitch_hz", Value: 196},
			project.SetNumber{At: "snare/layers/drum/ring.wires_db", Value: -24},
			project.SetNumber{At: "hat/layers/drum/noise.hold_ms", Value: 5},
		},
		piece: warmUpPiece(),
	},
}

func put(voice string, h groove.Hit) project.PutHits {
	return project.PutHits{Hits: []project.NewHit{{Voice: voice, Hit: h}}}
}

// layers are those of a shipped sound, to be added to.
func layers(id string) []sound.Layer { return slices.Clone(preset.Find(id).Layers) }

// named is a shipped sound as one more layer.
func named(id, name string, level float64, of string) sound.Layer {
	l := preset.Find(of).Layers[0]
	l.ID, l.Name, l.Level = id, name, l.Level+level
	return l
}

// nightKit has a rumble kick and a shaker of two layers that is locked to the beat.
func nightKit() []sound.Voice {
	find := func(example string) sound.Voice {
		for _, e := range preset.Examples() {
			if e.ID == example {
				return e.Voices[0]
			}
		}
		panic("there is no example " + example)
	}
	voice := func(id, of string, level float64) sound.Voice {
		v := preset.Find(of).Voice()
		v.ID, v.Level = id, level
		return v
	}
	kick, clap, shaker := find("rumble"), find("clap"), find("shaker-loop")
	kick.Name, shaker.Name = "Rumble kick", "Shaker"
	kick.Level, clap.Level, shaker.Level, shaker.Mono = -7, -10, -13, true
	hat, open := voice("hat", "hat_closed-metal-six", -13), voice("open", "hat_open-cluster", -15)
	open.CutBy = []string{"hat"}
	return []sound.Voice{kick, clap, hat, open, shaker, voice("perc", "perc-shifted", -16)}
}

// Seed adds the demo's projects to a workshop that has none; in any other it
// does nothing.
func Seed(ctx context.Context, s *service.Service) error {
	have, err := s.Projects()
	if err != nil || len(have) > 0 {
		return err
	}
	if err := addClosingTime(ctx, s); err != nil {
		return fmt.Errorf("the demo project that was rebuilt could not be made: %w", err)
	}
	for i := range rebuilds {
		if err := rebuilds[i].add(ctx, s); err != nil {
			return fmt.Errorf("the demo project %q could not be made: %w", rebuilds[i].name, err)
		}
	}
	return nil
}

func addClosingTime(ctx context.Context, s *service.Service) error {
	d, err := project.Read(closingTime)
	if err != nil {
		return err
	}
	data, err := recordings.ReadFile("rink/speed-round.flac")
	if err != nil {
		return err
	}
	ref, err := s.Prepare(ctx, d.References[0].Name+".flac", data, func(string, float64) {})
	if err != nil {
		return err
	}
	ref.ID = d.References[0].ID
	d.References[0] = *ref
	_, err = s.Create(d)
	return err
}

func (r *rebuild) add(ctx context.Context, s *service.Service) error {
	d := project.New(r.name)
	d.Key, d.Tempo, d.Groove.Bars = r.key, music.Steady(r.bpm), r.bars
	if r.kit != nil {
		d.Kit.Voices, d.Groove.Lanes = r.kit, nil
		for i := range r.kit {
			d.Groove.EnsureLane(r.kit[i].ID)
		}
	}
	for voice, bars := range r.lanes {
		l := d.Groove.EnsureLane(voice)
		for step, mark := range strings.Join(bars, "") {
			if mark != '.' {
				l.Hits = append(l.Hits, groove.Hit{ID: l.NewHitID(), Tick: step * music.PPQ / 4, Velocity: int(mark-'0')*13 + 3})
			}
		}
	}
	if r.profile != "" {
		for _, p := range profile.Genres() {
			if p.ID == r.profile {
				ref := project.Reference{ID: service.NewID(), Name: p.Name, Kind: "profile", Profile: &p}
				return r.create(s, d, ref)
			}
		}
		return fmt.Errorf("there is no profile %q", r.profile)
	}
	data, err := recordings.ReadFile("rink/" + r.recording + ".flac")
	if err != nil {
		return err
	}
	ref, err := s.Prepare(ctx, r.title+".flac", data, func(string, float64) {})
	if err != nil {
		return err
	}
	return r.create(s, d, *ref)
}

func (r *rebuild) create(s *service.Service, d *project.Document, ref project.Reference) error {
	d, _, err := d.Apply(slices.Concat(project.Edits{project.AddReference{Reference: ref}}, r.edits, r.mix, r.piece), nil)
	if err == nil {
		_, err = s.Create(d)
	}
	return err
}
