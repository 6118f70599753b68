package export

import (
	"bytes"
	"context"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

func TestFileNames(t *testing.T) {
	for title, want := range map[string]string{
		"Warm-up laps": "warm-up-laps", "  Ünder / over!! ": "ünder-over", "": "untitled", "♯♯": "untitled", "../../etc": "etc", "A": "a",
		"日本語": "日本語", "Für Elise": "für-elise", "Ночь 2": "ночь-2", strings.Repeat("夜", 90): strings.Repeat("夜", 50),
	} {
		assert.Equal(t, want, FileName(title), title)
	}
}

// heard is what is heard in a recording, as a project's env gives it.
type heard struct{ a *transcribe.Analysis }

func (h heard) Analysis(*project.Reference) (*transcribe.Analysis, error) { return h.a, nil }

// taken is a project that took pattern and feel of a recording.
func taken(t *testing.T, path string) *project.Document {
	t.Helper()
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	b, err := format.Decode(data)
	require.NoError(t, err)
	raw, err := transcribe.Analyze(context.Background(), b, func(string, float64) {})
	require.NoError(t, err)
	d, _, err := project.New("Lap").Apply(project.Edits{
		project.AddReference{Reference: project.Reference{ID: "r", Name: "r", Kind: "audio", Blob: strings.Repeat("a", 64)}}, project.TakeBoth{},
	}, heard{transcribe.Finish(raw, nil)})
	require.NoError(t, err)
	return d
}

// seam is the step from a loop's end to its start, and the largest within.
func seam(b *audio.Buffer) (at, within float64) {
	for _, ch := range b.Channels {
		at = max(at, math.Abs(float64(ch[0]-ch[len(ch)-1])))
		for i := 1; i < len(ch); i++ {
			within = max(within, math.Abs(float64(ch[i]-ch[i-1])))
		}
	}
	return at, within
}

// A loop is one cycle that fits itself: over references, seeds and kinds of
// scatter its seam is no larger than any other step in it, stems included.
func TestLoopsCloseWithoutASeam(t *testing.T) {
	paths := []string{"../../fixtures/set/dry-funk-95.flac", "../../fixtures/gm/lazy-88.flac"}
	if !testing.Short() {
		paths = append(paths, "../../fixtures/set/dry-boom-bap-83.flac", "../../fixtures/set/dry-techno-140.flac", "../../fixtures/gm/house-124.flac",
			"../../demo/rink/warm-up-laps.flac", "../../demo/rink/speed-round.flac")
	}
	for i, path := range paths {
		d := taken(t, path)
		seeds := int64(6)
		if i > 1 {
			seeds = 2
		}
		for seed := range seeds {
			d.Groove.Seed = seed
			d.Groove.Feel.ScatterKind = []groove.ScatterKind{groove.White, groove.Pink}[seed%2]
			parts, err := Stems(context.Background(), d, nil, Options{})
			require.NoError(t, err)
			loop, err := Loop(context.Background(), d, nil, Options{})
			require.NoError(t, err)
			for _, p := range append(parts, loop...) {
				at, within := seam(p.B)
				assert.LessOrEqual(t, at, within, "%s, seed %d, %s", filepath.Base(path), seed, p.Name)
			}
		}
	}
}

// dense is two bars of kick and hat.
func dense(t *testing.T) *project.Document {
	t.Helper()
	var put []project.NewHit
	for s := range 32 {
		put = append(put, project.NewHit{Voice: "hat", Hit: groove.Hit{Tick: s * 240, Velocity: 90}})
		if s%4 == 0 {
			put = append(put, project.NewHit{Voice: "kick", Hit: groove.Hit{Tick: s * 240, Velocity: 110}})
		}
	}
	d, _, err := project.New("Für Elise").Apply(project.Edits{project.PutHits{Hits: put}, project.SetNumber{At: "tempo/bpm", Value: 120}}, nil)
	require.NoError(t, err)
	return d
}

func read(t *testing.T, d *project.Document, o Options) *format.Performance {
	t.Helper()
	f, err := MIDI(d, o)
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, f.Write(&b))
	p, err := format.ReadMIDI(&b)
	require.NoError(t, err)
	return p
}

func ticksOf(p *format.Performance, key int) (out []int) {
	for _, n := range p.Notes {
		if n.Key == key {
			out = append(out, n.Tick)
		}
	}
	return out
}

// Derivation: at 120 BPM and 960 ticks to a quarter, 12 ms are 23.04 ticks.
func TestMIDIKeepsEarlyHits(t *testing.T) {
	d := dense(t)
	d.Groove.Bars = 1
	d, _, err := d.Apply(project.Edits{project.SetBars{Bars: 1}, project.SetNumber{At: "groove/feel/kick/lean_ms", Value: -12}}, nil)
	require.NoError(t, err)
	assert.Equal(t, []int{960 - 23, 1920 - 23, 2880 - 23, 3840 - 23}, ticksOf(read(t, d, Options{}), 36), "in the loop the first stands before the end")
	assert.Equal(t, []int{3840 - 23, 3840 + 960 - 23, 3840 + 1920 - 23, 3840 + 2880 - 23}, ticksOf(read(t, d, Options{Pickup: true}), 36), "in a bar of its own")
	four := read(t, d, Options{Bars: 4})
	assert.Len(t, ticksOf(four, 36), 16, "bars are honoured")
	assert.Equal(t, 4*3840-23, slices.Max(ticksOf(four, 36)))
	// The same as in the sound file of the loop.
	parts, err := Loop(context.Background(), d, nil, Options{})
	require.NoError(t, err)
	assert.Equal(t, 2*engine.Rate, parts[0].B.Frames())
}

// Each note ends before the next of its key, and the track ends with its cycle,
// whatever the feel: property over grids, swing, scatter and rolls.
func TestMIDINotesNeverOverlap(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := project.New("Roll")
		d.Groove.Grid = rapid.SampledFrom(groove.Grids).Draw(t, "grid")
		d.Tempo = music.Steady(rapid.Float64Range(30, 300).Draw(t, "bpm"))
		var put []project.NewHit
		for _, step := range rapid.SliceOfDistinct(rapid.IntRange(0, 4*d.Groove.Grid*d.Groove.Bars-1), rapid.ID[int]).Draw(t, "steps") {
			put = append(put, project.NewHit{Voice: rapid.SampledFrom([]string{"hat", "snare"}).Draw(t, "voice"), Hit: groove.Hit{Tick: step * d.Groove.StepTicks(), Velocity: 80}})
		}
		d, _, err := d.Apply(project.Edits{
			project.PutHits{Hits: put},
			project.SetNumber{At: "groove/feel/swing_percent", Value: rapid.Float64Range(50, 75).Draw(t, "swing")},
			project.SetNumber{At: "groove/feel/hat/lean_ms", Value: rapid.Float64Range(-40, 40).Draw(t, "lean")},
			project.SetNumber{At: "groove/feel/hat/scatter_ms", Value: rapid.Float64Range(0, 20).Draw(t, "scatter")},
		}, nil)
		require.NoError(t, err)
		ticks := d.Groove.CycleTicks()
		p := performance(d, ticks, Options{Pickup: rapid.Bool().Draw(t, "pickup")})
		struck := map[[2]int]bool{}
		for _, n := range p.Notes {
			require.False(t, struck[[2]int{n.Key, n.Tick}])
			struck[[2]int{n.Key, n.Tick}] = true
		}
		for _, n := range p.Notes {
			require.Positive(t, n.Length)
			for _, m := range p.Notes {
				require.False(t, m.Key == n.Key && m.Tick > n.Tick && m.Tick < n.Tick+n.Length, "%v runs into %v", n, m)
			}
		}
		require.Zero(t, p.End%(ticks/d.Groove.Bars), "whole bars")
		var b bytes.Buffer
		require.NoError(t, format.WriteMIDI(&b, p, ""))
		if len(p.Notes) > 0 {
			back, err := format.ReadMIDI(&b)
			require.NoError(t, err)
			require.Equal(t, p.Notes, back.Notes)
		}
	})
}

func TestLevels(t *testing.T) {
	d := dense(t)
	quiet, err := Measure(context.Background(), d, nil, Options{})
	require.NoError(t, err)
	assert.Zero(t, quiet.Loop.Over)
	assert.Zero(t, quiet.Loop.Above())
	for i := range d.Kit.Voices {
		d.Kit.Voices[i].Level = 12
	}
	loud, err := Measure(context.Background(), d, nil, Options{})
	require.NoError(t, err)
	assert.Positive(t, loud.Loop.Over)
	assert.Greater(t, *loud.Stems.Peak-*quiet.Stems.Peak, 12.0)
	parts, err := Loop(context.Background(), d, nil, Options{Gain: -loud.Loop.Above() - 0.01})
	require.NoError(t, err)
	low := LevelOf(parts)
	assert.Zero(t, low.Over, "lowered by what is reported, it fits")
	assert.InDelta(t, 0, *low.Peak, 0.02)
	assert.Equal(t, "für-elise-loop-120bpm", loud.Loop.File)
	assert.Empty(t, loud.Missing)
	d.Kit.Voices[0].Layers = []sound.Layer{sound.Recorded("l", "rim dry", "gone")}
	without, err := Measure(context.Background(), d, sound.Samples{}, Options{})
	require.NoError(t, err)
	assert.Equal(t, []project.LayerOf{{Voice: d.Kit.Voices[0].Name, Layer: "rim dry"}}, without.Missing)
	silent, err := Measure(context.Background(), project.New("x"), nil, Options{})
	require.NoError(t, err)
	assert.Nil(t, silent.Loop.Peak)
}

// Lanes of coprime lengths meet again after years: nothing lists that cycle.
func TestCoprimeLanes(t *testing.T) {
	d := dense(t)
	for i, steps := range []int{61, 59, 53, 47, 43} {
		d.Groove.Lanes[i].Steps = steps
		d.Groove.Lanes[i].Hits = nil
		for s := range steps {
			d.Groove.Lanes[i].Hits = append(d.Groove.Lanes[i].Hits, groove.Hit{ID: fmt.Sprint("h", s), Tick: s * 240, Velocity: 90})
		}
	}
	require.NoError(t, d.Validate())
	_, err := Loop(context.Background(), d, nil, Options{})
	var long *engine.TooLong
	require.ErrorAs(t, err, &long)
	assert.Contains(t, err.Error(), "choose a number of bars")
	_, err = MIDI(d, Options{})
	require.ErrorAs(t, err, &long)
	parts, err := Loop(context.Background(), d, nil, Options{Bars: 2})
	require.NoError(t, err)
	assert.Equal(t, 4*engine.Rate, parts[0].B.Frames())
	p := read(t, d, Options{Bars: 2})
	assert.Len(t, p.Notes, 5*32, "each lane fills the bars")
	d.Groove.Lanes[0].Steps, d.Groove.Lanes[1].Steps = 1021, 1019
	d.Groove.Lanes[2].Steps, d.Groove.Lanes[3].Steps, d.Groove.Lanes[4].Steps = 1013, 1009, 997
	assert.Equal(t, groove.LongestCycle, d.Groove.CycleTicks())
	e := engine.New(engine.Rate)
	e.Load(d.Song(nil))
	e.Play(0)
	var l, r [512]float64
	for range 20 {
		e.Process(l[:], r[:])
	}
	assert.Positive(t, e.Position())
}

// Groove to MIDI file and back: each stroke within half a tick, rolls and flams as
// played notes; voices with pitches as notes, each voice on a track, the user's keys.
func TestPlayedStrokesInMIDI(t *testing.T) {
	d, _, err := project.New("x").Apply(project.Edits{
		project.SetNumber{At: "tempo/bpm", Value: 97.3},
		project.PutHits{Hits: []project.NewHit{
			{Voice: "hat", Hit: groove.Hit{Tick: 960, Velocity: 110, Length: 960, Roll: groove.Even{PerBeat: 6, VelocityTo: 30, Spacing: 70}}},
			{Voice: "snare", Hit: groove.Hit{Tick: 1920, Velocity: 100, Nudge: 7.3, Flam: groove.Flam{Strokes: 2, Spacing: 15, Level: -12}}},
			{Voice: "808", Hit: groove.Hit{Tick: 0, Velocity: 110, Length: 1440, Cut: true}}, {Voice: "808", Hit: groove.Hit{Tick: 1440, Velocity: 110, Length: 480, Semitones: 12}},
		}},
		project.SetNumber{At: "groove/feel/hat/lean_ms", Value: 11.7},
	}, nil)
	require.NoError(t, err)
	ticks := d.Groove.CycleTicks()
	back := func(o Options) *format.Performance {
		f, err := MIDI(d, o)
		require.NoError(t, err)
		var b bytes.Buffer
		require.NoError(t, f.Write(&b))
		p, err := format.ReadMIDI(&b)
		require.NoError(t, err)
		return p
	}
	p := back(Options{})
	assert.Equal(t, 960, p.PPQ)
	events := groove.NewLine(&d.Groove, d.Tempo, ticks).Events(0, ticks, nil)
	require.Len(t, p.Notes, len(events))
	halfTick := 60 / 97.3 / 960 / 2 * 1.01
	for _, e := range events {
		found := false
		for _, n := range p.Notes {
			found = found || math.Abs(p.Seconds(n.Tick)-e.Time) <= halfTick && n.Velocity == e.Velocity
		}
		assert.True(t, found, "%+v", e)
	}
	p = back(Options{Notes: true})
	var bass []format.MIDINote
	for _, n := range p.Notes {
		if n.Channel == 0 {
			bass = append(bass, n)
		}
	}
	require.Len(t, bass, 2)
	assert.Equal(t, d.RootOf("808"), bass[0].Key)
	assert.Equal(t, d.RootOf("808")+12, bass[1].Key)
	assert.Equal(t, 1440, bass[0].Length)
	p = back(Options{Keys: map[sound.Family]int{sound.Snare: 40}})
	assert.Len(t, ticksOf(p, 40), 3)
	f, err := MIDI(d, Options{Tracks: true})
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, f.Write(&b))
	assert.Equal(t, 1+len(d.Kit.Voices), bytes.Count(b.Bytes(), []byte("MTrk")))
	assert.Contains(t, b.String(), "Open hat")
}
