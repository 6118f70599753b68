// Command closing makes demo/closing-time.json anew: the demo's speed round rebuilt, then
// changed. It takes about a minute; run it from the repository's root.
package main

import (
	"context"
	"encoding/json"
	"log"
	"os"
	"strings"

	"jubrak/core/compare"
	"jubrak/core/groove"
	"jubrak/core/isolate"
	"jubrak/core/preset"
	"jubrak/core/project"
	"jubrak/core/rebuild"
	"jubrak/core/transcribe"
	"jubrak/demo/rink"
)

const file = "demo/closing-time.json"

func main() {
	ctx := context.Background()
	b := rink.Takes[1].Record()
	raw, err := transcribe.Analyze(ctx, b, func(string, float64) {})
	check(err)
	a := &compare.Against{Analysis: transcribe.Finish(raw, nil), Reference: "r"}
	a.Drums, err = isolate.Find(ctx, b, a.Analysis.Hits, isolate.Choices{}, func(float64) {})
	check(err)
	a.Analysis = isolate.With(a.Analysis, a.Drums)
	m, err := rebuild.NewMemory("Closing time", project.Reference{ID: "r", Kind: "audio", Blob: strings.Repeat("0", 64)}, a.Analysis)
	check(err)
	_, err = rebuild.Rebuild(ctx, m.Document, a, rebuild.Options{Sounds: rebuild.Fits, Seed: 1}, m.Host(nil))
	check(err)
	d, _, err := m.Document.Apply(changes(m.Document), m)
	check(err)
	d, _, err = d.Apply(bass(d), m)
	check(err)
	d.Key, d.References[0].Name = "A minor", "Rink drummer, take 5"
	text, err := json.Marshal(d)
	check(err)
	check(os.WriteFile(file, append(text, '\n'), 0o644))
}

// changes are what the rink's programmer did with it: another snare, a lazier hat that
// leaves every fourth hit out, and a bass.
func changes(d *project.Document) project.Edits {
	snare, hat := compare.Voice(d, "snare").ID, compare.Voice(d, "hat_closed").ID
	out := project.Edits{
		project.SetSound{Voice: snare, Layers: preset.Find("snare-machine-nine").Layers, Title: "Machine nine"},
		project.SetNumber{At: "groove/feel/" + hat + "/lean_ms", Value: 9},
	}
	gone := project.DeleteHits{}
	for i, h := range d.Groove.Lane(hat).Hits {
		if i%4 == 3 {
			gone.Hits = append(gone.Hits, project.HitRef{Voice: hat, Hit: h.ID})
		}
	}
	return append(out, gone, project.AddVoice{Family: "808", Name: "808"})
}

// bass is what the voice that was added plays.
func bass(d *project.Document) project.Edits {
	voice := d.Kit.Voices[len(d.Kit.Voices)-1].ID
	put := project.PutHits{}
	for bar := range d.Groove.Bars {
		for _, step := range []int{0, 6, 10} {
			put.Hits = append(put.Hits, project.NewHit{Voice: voice, Hit: groove.Hit{Tick: bar*3840 + step*240, Velocity: 100, Length: 720}})
		}
	}
	return project.Edits{project.SetNote{Voice: voice, Note: "A1"}, put}
}

func check(err error) {
	if err != nil {
		log.Fatal(err)
	}
}
