package export

import (
	"bytes"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/project"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// env hears a MIDI file as the program does.
type env struct{ a *transcribe.Analysis }

func (e env) Analysis(*project.Reference) (*transcribe.Analysis, error) { return e.a, nil }

// back exports a project's groove to a MIDI file and takes it into another project that
// has the same kit.
func back(t require.TestingT, d *project.Document, take project.Edit) (*project.Document, []string) {
	f, err := MIDI(d, Options{})
	require.NoError(t, err)
	var out bytes.Buffer
	require.NoError(t, f.Write(&out))
	p, err := format.ReadMIDI(bytes.NewReader(out.Bytes()))
	require.NoError(t, err)
	a := transcribe.Finish(transcribe.FromPerformance(p), nil)
	other := project.New("back")
	other.Kit = d.Kit
	other.Groove.Lanes = nil
	for _, v := range d.Kit.Voices {
		other.Groove.EnsureLane(v.ID)
	}
	next, notes, err := other.Apply(project.Edits{
		project.AddReference{Reference: project.Reference{ID: "r", Name: "Take", Kind: "midi", Blob: strings.Repeat("a", 64)}}, take,
	}, env{a})
	require.NoError(t, err)
	return next, notes
}

// played are the strokes of a groove in its first pass, in order: the voice, where it
// falls in ticks, how hard.
func played(d *project.Document) (out []string, at []float64) {
	type stroke struct {
		voice string
		at    float64
		v     int
	}
	g := d.Groove
	line := groove.NewLine(&g, d.Tempo, g.Ticks())
	var all []stroke
	for _, e := range line.Events(0, g.Ticks(), nil) {
		tick := math.Mod(line.Ticks(e.Time)+float64(g.Ticks()), float64(g.Ticks()))
		all = append(all, stroke{g.Lanes[e.Lane].Voice, tick, e.Velocity})
	}
	slices.SortFunc(all, func(a, b stroke) int {
		if a.voice != b.voice {
			return strings.Compare(a.voice, b.voice)
		}
		return int(math.Copysign(1, a.at-b.at))
	})
	for _, s := range all {
		out, at = append(out, fmt.Sprintf("%s %d", s.voice, s.v)), append(at, s.at)
	}
	return out, at
}

// rink is a project with three toms and a crash, of so many bars that all differ: a beat
// with flams and rolls, a fill over the toms.
func rink(t *testing.T, bars int, feel bool) *project.Document {
	edits := project.Edits{project.SetBars{Bars: bars}}
	for i, name := range []string{"Low tom", "Mid tom", "High tom"} {
		r := sound.DefaultRecipe(sound.Tom)
		tuned, err := r.Tuned(float64(5 * i))
		require.NoError(t, err)
		edits = append(edits, project.AddVoice{Family: sound.Tom, Name: name, Layers: []sound.Layer{sound.Synthesized("drum", name, tuned)}})
	}
	edits = append(edits, project.AddVoice{Family: sound.Crash, Name: "Crash"})
	d, _, err := project.New("Laps").Apply(edits, nil)
	require.NoError(t, err)
	id := func(name string) string {
		i := slices.IndexFunc(d.Kit.Voices, func(v sound.Voice) bool { return v.Name == name })
		return d.Kit.Voices[i].ID
	}
	var hits []project.NewHit
	put := func(voice string, bar, tick int, h groove.Hit) {
		h.Tick = bar*3840 + tick
		hits = append(hits, project.NewHit{Voice: voice, Hit: h})
	}
	for bar := range bars {
		for s := range 16 {
			if s%2 == 0 || (s+bar)%7 == 0 {
				put("hat", bar, s*240, groove.Hit{Velocity: 70 + (s*13+bar*7)%40})
			}
		}
		put("kick", bar, 0, groove.Hit{Velocity: 110})
		put("kick", bar, 240*(5+bar%9), groove.Hit{Velocity: 90})
		snare := groove.Hit{Velocity: 105}
		if bar%2 == 0 {
			snare.Flam = groove.Flam{Strokes: 1, Spacing: 25, Level: -9}
		}
		put("snare", bar, 960, groove.Hit{Velocity: 100})
		put("snare", bar, 2880, snare)
		if bar%4 == 3 {
			for k, tom := range []string{"High tom", "Mid tom", "Low tom"} {
				put(id(tom), bar, 3120+240*k, groove.Hit{Velocity: 80 + 10*k})
			}
			put("snare", bar, 1920, groove.Hit{Velocity: 60, Length: 480, Roll: groove.Even{Strokes: 4, VelocityTo: 99}})
		}
		if bar%8 == 0 {
			put(id("Crash"), bar, 0, groove.Hit{Velocity: 120})
		}
	}
	edits = project.Edits{project.PutHits{Hits: hits}, project.SetNumber{At: "tempo/bpm", Value: 96}}
	if feel {
		edits = append(edits, project.SetNumber{At: "groove/feel/swing_percent", Value: 58}, project.SetNumber{At: "groove/feel/snare/lean_ms", Value: 9},
			project.SetNumber{At: "groove/feel/kick/lean_ms", Value: -4}, project.SetNumber{At: "groove/feel/hat/scatter_ms", Value: 3})
	}
	d, _, err = d.Apply(edits, nil)
	require.NoError(t, err)
	return d
}

// A groove that is exported to a MIDI file and brought back is the same within half a
// tick: every bar, flams and rolls, three toms each on its own voice.
func TestAGrooveComesBackFromItsMIDIFile(t *testing.T) {
	for _, bars := range []int{8, 32} {
		for _, feel := range []bool{false, true} {
			d := rink(t, bars, feel)
			var take project.Edit = project.TakePattern{}
			if feel {
				take = project.TakeBoth{}
			}
			next, notes := back(t, d, take)
			assert.Empty(t, notes, "%d bars", bars)
			require.Equal(t, bars, next.Groove.Bars)
			next.Tempo = d.Tempo // taken alone, a pattern leaves the tempo
			was, wasAt := played(d)
			is, isAt := played(next)
			require.Equal(t, was, is, "%d bars", bars)
			for i := range wasAt {
				require.InDelta(t, wasAt[i], isAt[i], 0.5, "%s, ticks", was[i])
			}
			flams, rolls := 0, 0
			for _, l := range next.Groove.Lanes {
				for _, h := range l.Hits {
					if h.Flam.Strokes > 0 {
						flams++
					}
					if h.Rolls() {
						rolls++
					}
				}
			}
			assert.Equal(t, bars/2, flams)
			assert.Equal(t, bars/4, rolls)
		}
	}
}

// A change of tempo cannot be kept; it is said, and every hit keeps its bar and beat.
func TestAChangeOfTempoIsSaid(t *testing.T) {
	d := rink(t, 8, false)
	d.Tempo = music.TempoMap{{Tick: 0, BPM: 96}, {Tick: 4 * 3840, BPM: 120}}
	require.NoError(t, d.Validate())
	next, notes := back(t, d, project.TakePattern{})
	require.Len(t, notes, 1)
	assert.Contains(t, notes[0], "96 → 120 BPM at bar 5")
	for i, l := range d.Groove.Lanes {
		require.Len(t, next.Groove.Lanes[i].Hits, len(l.Hits), l.Voice)
	}
}

// Whatever is written on the grid, nothing is lost on the way out and back.
func TestAnyPatternComesBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := project.New("x")
		var hits []project.NewHit
		for _, v := range []string{"kick", "snare", "hat"} {
			for _, s := range rapid.SliceOfNDistinct(rapid.IntRange(0, 63), 1, 40, rapid.ID[int]).Draw(t, v) {
				hits = append(hits, project.NewHit{Voice: v, Hit: groove.Hit{Tick: s * 240, Velocity: rapid.IntRange(20, 127).Draw(t, "velocity")}})
			}
		}
		hits = append(hits, project.NewHit{Voice: "kick", Hit: groove.Hit{Tick: 0, Velocity: 100}}, project.NewHit{Voice: "kick", Hit: groove.Hit{Tick: 1920, Velocity: 100}})
		d, _, err := d.Apply(project.Edits{project.SetBars{Bars: 4}, project.PutHits{Hits: hits}}, nil)
		require.NoError(t, err)
		next, _ := back(t, d, project.TakePattern{})
		was, wasAt := played(d)
		is, isAt := played(next)
		require.Equal(t, was, is)
		for i := range wasAt {
			require.InDelta(t, wasAt[i], isAt[i], 0.5)
		}
	})
}
