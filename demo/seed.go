// Package demo fills an empty data folder with the projects of the fictional
// Lantern Street Rink: its house drummer recorded reference loops for the
// skating sessions, and its programmer rebuilds them.
package demo

import (
	"context"
	"embed"
	"fmt"
	"strings"

	"jubrak/app/workshop"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/project"
)

//go:embed rink/*.flac
var recordings embed.FS

// rebuild is how far the rink's programmer has come with a recording.
type rebuild struct {
	name, key, recording, title string
	bpm                         float64
	bars                        int
	lanes                       map[string][]string // 16 marks a bar: 1..9 or a dot
	edits                       project.Edits
}

var rebuilds = []rebuild{
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
			project.SetNumber{At: "open/layers/drum/metal.decay_ms", Value: 320},
			project.SetNumber{At: "open/layers/drum/noise.decay_ms", Value: 260},
			project.SetNumber{At: "kick/layers/drum/body.decay_ms", Value: 300},
			project.SetNote{Voice: "808", Note: "A1"},
			project.SetNumber{At: "808/layers/drum/body.decay_ms", Value: 500},
			project.SetNumber{At: "groove/feel/hat/scatter_ms", Value: 1.2},
		},
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
		},
	},
}

// Seed adds the demo's projects to a workshop that has none; in any other it
// does nothing.
func Seed(ctx context.Context, s *workshop.Workshop) error {
	have, err := s.Projects()
	if err != nil || len(have) > 0 {
		return err
	}
	for i := range rebuilds {
		if err := rebuilds[i].add(ctx, s); err != nil {
			return fmt.Errorf("the demo project %q could not be made: %w", rebuilds[i].name, err)
		}
	}
	return nil
}

func (r *rebuild) add(ctx context.Context, s *workshop.Workshop) error {
	d := project.New(r.name)
	d.Key, d.Tempo, d.Groove.Bars = r.key, music.Steady(r.bpm), r.bars
	for voice, bars := range r.lanes {
		l := d.Groove.EnsureLane(voice)
		for step, mark := range strings.Join(bars, "") {
			if mark != '.' {
				l.Hits = append(l.Hits, groove.Hit{ID: l.NewHitID(), Tick: step * music.PPQ / 4, Velocity: int(mark-'0')*13 + 3})
			}
		}
	}
	data, err := recordings.ReadFile("rink/" + r.recording + ".flac")
	if err != nil {
		return err
	}
	ref, err := s.Prepare(ctx, r.title+".flac", data, func(string, float64) {})
	if err != nil {
		return err
	}
	edits := append(project.Edits{project.AddReference{Reference: *ref}}, r.edits...)
	if d, _, err = d.Apply(edits, nil); err != nil {
		return err
	}
	_, err = s.Create(d)
	return err
}
