package project

import (
	"encoding/json"
	"errors"
	"math"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/music"
	"jubrak/core/slice"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// fakeEnv hears the same performance in every reference.
type fakeEnv struct{ a *transcribe.Analysis }

func (f fakeEnv) Analysis(*Reference) (*transcribe.Analysis, error) {
	if f.a == nil {
		return nil, errors.New("the sound is missing")
	}
	return f.a, nil
}

// heard is 8 bars at 96 BPM: swung hats at 58 %, a snare 9 ms late, a clap
// and a conga that the default kit lacks.
func heard() *transcribe.Analysis {
	p := &format.Performance{PPQ: 9600, Meter: music.Meter{Beats: 4, Unit: 4}, Tempo: []format.MIDITempo{{Micros: 625000}}}
	ms := func(x float64) int { return int(x / 625 * 9600) }
	for bar := range 8 {
		note := func(step, late, key, velocity int) {
			p.Notes = append(p.Notes, format.MIDINote{Tick: bar*38400 + step*2400 + late, Length: 1000, Channel: 9, Key: key, Velocity: velocity})
		}
		for s := range 16 {
			late := 0
			if s%2 == 1 {
				late = ms(0.08 * 312.5)
			}
			note(s, late, 42, 70+10*(s%2))
		}
		note(0, 0, 36, 112)
		note(10, 0, 36, 90)
		note(4, ms(9), 38, 100)
		note(12, ms(9), 38, 104)
		if bar == 3 {
			note(15, ms(25), 63, 80)
		}
	}
	return transcribe.Finish(transcribe.FromPerformance(p), nil)
}

func withReference(t *testing.T) *Document {
	d, _, err := New("x").Apply(Edits{AddReference{Reference: Reference{ID: "r", Name: "Take", Kind: "midi", Blob: strings.Repeat("a", 64)}}}, nil)
	require.NoError(t, err)
	return d
}

func TestNewIsValidAndReadable(t *testing.T) {
	d := New("Lap one")
	require.NoError(t, d.Validate())
	text, err := json.Marshal(d)
	require.NoError(t, err)
	back, err := Read(text)
	require.NoError(t, err)
	assert.Equal(t, d.Kit, back.Kit)
	assert.NotContains(t, regexp.MustCompile(`"(recording|attack|rumble|gate)":null`).ReplaceAllString(string(text), ""), "null", "lists are empty rather than absent")
}

func TestReadRefuses(t *testing.T) {
	for name, text := range map[string]string{
		"no JSON": "hello", "newer": `{"schema":99}`, "no schema": `{}`,
		"no name": `{"schema":1,"tempo":[{"tick":0,"bpm":100}]}`,
	} {
		_, err := Read([]byte(text))
		assert.Error(t, err, name)
	}
	_, err := Read([]byte(`{"name":"a list of laps"}`))
	assert.ErrorContains(t, err, "not a Jubrak project", "that it is newer would be untrue")
	_, err = Read([]byte(`{"schema":99}`))
	assert.ErrorContains(t, err, "newer")
}

// A name counts letters, not bytes.
func TestNamesOfAllScripts(t *testing.T) {
	for _, name := range []string{strings.Repeat("ä", 120), strings.Repeat("夜", 120)} {
		require.NoError(t, New(name).Validate())
	}
	require.Error(t, New(strings.Repeat("ä", 121)).Validate())
}

func TestHitEdits(t *testing.T) {
	d := New("x")
	apply := func(edits ...Edit) {
		t.Helper()
		next, _, err := d.Apply(edits, nil)
		require.NoError(t, err)
		d = next
	}
	apply(AddHit{Voice: "kick", Tick: 480, Velocity: 90}, AddHit{Voice: "kick", Tick: 0})
	l := d.Groove.Lane("kick")
	require.Len(t, l.Hits, 2)
	assert.Equal(t, []int{0, 480}, []int{l.Hits[0].Tick, l.Hits[1].Tick}, "in order of time")
	assert.Equal(t, 100, l.Hits[0].Velocity, "the default")
	apply(AddHit{Voice: "kick", Tick: 0, Velocity: 50})
	assert.Len(t, d.Groove.Lane("kick").Hits, 2, "one hit a place")
	a, b := HitRef{"kick", d.Groove.Lane("kick").Hits[0].ID}, HitRef{"kick", d.Groove.Lane("kick").Hits[1].ID}
	apply(ChangeHits{Hits: []HitRef{a, b}, Number: "velocity", By: 100})
	assert.Equal(t, []int{87, 127}, []int{d.Groove.Lane("kick").Find(a.Hit).Velocity, d.Groove.Lane("kick").Find(b.Hit).Velocity}, "all stop where the first does")
	apply(SetHits{Hits: []HitRef{a}, Number: "nudge_ms", Value: -900}, ChangeHits{Hits: []HitRef{b}, Number: "nudge_ms", By: 2.5}, SetHits{Hits: []HitRef{b}, Number: "semitones", Value: -5})
	assert.Equal(t, -200.0, d.Groove.Lane("kick").Find(a.Hit).Nudge)
	assert.Equal(t, 2.5, d.Groove.Lane("kick").Find(b.Hit).Nudge)
	assert.Equal(t, -5.0, d.Groove.Lane("kick").Find(b.Hit).Semitones)
	apply(MoveHits{Hits: []HitRef{b}, Ticks: 240, Voice: "snare"})
	assert.Len(t, d.Groove.Lane("kick").Hits, 1)
	assert.Equal(t, 720, d.Groove.Lane("snare").Hits[0].Tick)
	apply(MoveHits{Hits: []HitRef{a}, Ticks: -5000})
	assert.Equal(t, 0, d.Groove.Lane("kick").Hits[0].Tick, "stops at the start")
	apply(DeleteHits{Hits: []HitRef{a}}, Clear{})
	assert.Empty(t, d.Groove.Lane("kick").Hits)
}

func TestShorterGrooveDropsWhatLiesBeyond(t *testing.T) {
	d, _, err := New("x").Apply(Edits{AddHit{Voice: "kick", Tick: 0}, AddHit{Voice: "kick", Tick: 4000}, SetBars{Bars: 1}}, nil)
	require.NoError(t, err)
	assert.Len(t, d.Groove.Lane("kick").Hits, 1)
}

func TestRefusedEditsChangeNothing(t *testing.T) {
	d := New("x")
	before, _ := json.Marshal(d)
	for name, e := range map[string]Edit{
		"unknown voice":  AddHit{Voice: "spoon"},
		"outside":        AddHit{Voice: "kick", Tick: 1 << 30},
		"missing hit":    SetHits{Hits: []HitRef{{"kick", "h9"}}, Number: "velocity", Value: 5},
		"not a number":   SetNumber{At: "groove/feel/swing_percent", Value: math.NaN()},
		"pair":           SetPair{Pair: 5},
		"param":          SetNumber{At: "kick/layers/drum/body.smell", Value: 1},
		"note":           SetNote{Voice: "808", Note: "H7"},
		"bars":           SetBars{Bars: 0},
		"grid":           SetGrid{Grid: 7},
		"empty name":     RenameProject{Name: "  "},
		"gone reference": ActivateReference{Reference: "zz"},
		"take of none":   TakeBoth{},
		"correct none":   Correct{Reference: "zz", Correction: transcribe.Correction{Kind: "double"}},
	} {
		_, _, err := d.Apply(Edits{SetNumber{At: "tempo/bpm", Value: 77}, e}, fakeEnv{})
		assert.Error(t, err, name)
	}
	after, _ := json.Marshal(d)
	assert.Equal(t, string(before), string(after))
}

func TestVoiceEdits(t *testing.T) {
	d, _, err := New("x").Apply(Edits{
		SetNote{Voice: "808", Note: "G1"}, SetNumber{At: "kick/layers/drum/body.decay_ms", Value: 250},
		SetNumber{At: "hat/level_db", Value: -20}, ChangeNumber{At: "hat/level_db", By: -3}, SetNumber{At: "hat/pan", Value: -0.4}, SetNumber{At: "hat/mute", Value: 1},
		SetNumber{At: "groove/feel/hat/lean_ms", Value: 12}, SetNumber{At: "groove/feel/hat/scatter_ms", Value: 2}, SetNumber{At: "groove/feel/strength_percent", Value: 60}, SetSeed{Seed: 9}, SetScatterKind{Kind: "pink"},
	}, nil)
	require.NoError(t, err)
	r := d.Kit.Voice("808").Synth().Recipe.Body
	assert.InDelta(t, 48.999, r.End, 0.001)
	assert.InDelta(t, 2, r.Start/r.End, 0.001, "the start of the fall moves along")
	assert.Equal(t, 250.0, d.Kit.Voice("kick").Synth().Recipe.Body.Decay)
	assert.Equal(t, -23.0, d.Kit.Voice("hat").Level)
	assert.True(t, d.Kit.Voice("hat").Mute)
	assert.Equal(t, 12.0, d.Groove.Feel.Voices["hat"].Lean)
	assert.Equal(t, int64(9), d.Groove.Seed)
	d, _, err = d.Apply(Edits{Straighten{}, ResetLayer{Voice: "kick", Layer: "drum"}}, nil)
	require.NoError(t, err)
	assert.Empty(t, d.Groove.Feel.Voices)
	assert.Equal(t, 420.0, d.Kit.Voice("kick").Synth().Recipe.Body.Decay)
}

func TestTakeBoth(t *testing.T) {
	d, notes, err := withReference(t).Apply(Edits{TakeBoth{Bars: OnlyCycle}}, fakeEnv{heard()})
	require.NoError(t, err)
	assert.InDelta(t, 96, d.Tempo[0].BPM, 0.01)
	assert.Equal(t, 1, d.Groove.Bars)
	assert.Len(t, d.Groove.Lane("hat").Hits, 16)
	assert.Len(t, d.Groove.Lane("kick").Hits, 2)
	assert.Equal(t, []int{4 * 240, 12 * 240}, []int{d.Groove.Lane("snare").Hits[0].Tick, d.Groove.Lane("snare").Hits[1].Tick})
	assert.Equal(t, 100, d.Groove.Lane("snare").Hits[0].Velocity)
	assert.InDelta(t, 58, d.Groove.Feel.Swing, 0.05)
	assert.InDelta(t, 9, d.Groove.Feel.Voices["snare"].Lean, 0.1)
	require.Len(t, notes, 2)
	assert.Contains(t, notes[0], "1 bar of 8 bars are taken")
	assert.Contains(t, notes[1], "conga")
	all, _, err := withReference(t).Apply(Edits{TakeBoth{}}, fakeEnv{heard()})
	require.NoError(t, err)
	assert.Equal(t, 8, all.Groove.Bars, "all bars as played, where nothing else is asked for")
	assert.Len(t, all.Groove.Lane("hat").Hits, 128)
}

func TestTakeOneOrTheOther(t *testing.T) {
	base := withReference(t)
	pattern, _, err := base.Apply(Edits{TakePattern{}}, fakeEnv{heard()})
	require.NoError(t, err)
	assert.Equal(t, 50.0, pattern.Groove.Feel.Swing)
	assert.NotEmpty(t, pattern.Groove.Lane("kick").Hits)
	feel, _, err := base.Apply(Edits{TakeFeel{Reference: "r"}}, fakeEnv{heard()})
	require.NoError(t, err)
	assert.InDelta(t, 58, feel.Groove.Feel.Swing, 0.05)
	assert.Empty(t, feel.Groove.Lane("kick").Hits)
	assert.Equal(t, 100.0, feel.Tempo[0].BPM)
	_, _, err = base.Apply(Edits{TakeBoth{}}, fakeEnv{})
	assert.ErrorContains(t, err, "missing")
	_, _, err = base.Apply(Edits{TakeBoth{}}, fakeEnv{transcribe.Finish(&transcribe.Raw{Hits: []transcribe.Hit{}}, nil)})
	assert.ErrorContains(t, err, "no beat")
}

// Derivation: at 480 ticks to a quarter a sixteenth triplet is 80 ticks of the
// file and 160 of the groove's.
func TestTakeKeepsRolls(t *testing.T) {
	p := &format.Performance{PPQ: 480, Meter: music.Meter{Beats: 4, Unit: 4}, Tempo: []format.MIDITempo{{Micros: 500000}}}
	for bar := range 8 {
		strike := func(key, tick, velocity int) {
			p.Notes = append(p.Notes, format.MIDINote{Tick: bar*1920 + tick, Length: 20, Channel: 9, Key: key, Velocity: velocity})
		}
		strike(36, 0, 110)
		strike(38, 960, 110)
		for eighth := range 7 {
			strike(42, eighth*240, 90)
		}
		for k := 1; k < 6; k++ {
			strike(42, 1440+k*80, 90-8*k)
		}
		strike(38, 960-20, 40) // a flam
	}
	a := transcribe.Finish(transcribe.FromPerformance(p), nil)
	d, _, err := withReference(t).Apply(Edits{TakePattern{Bars: OnlyCycle}}, fakeEnv{a})
	require.NoError(t, err)
	require.Equal(t, 1, d.Groove.Bars)
	require.Len(t, d.Groove.Lane("snare").Hits, 1)
	snare := d.Groove.Lane("snare").Hits[0]
	assert.Equal(t, 110, snare.Velocity)
	assert.Equal(t, 1, snare.Flam.Strokes)
	assert.InDelta(t, 20.83, snare.Flam.Spacing, 0.01, "20 ticks of the file at 120 BPM, ms")
	assert.InDelta(t, 40*math.Log10(40.0/110), snare.Flam.Level, 0.01)
	hats := d.Groove.Lane("hat").Hits
	require.Len(t, hats, 7)
	roll := hats[6]
	assert.Equal(t, groove.Even{Strokes: 6, VelocityTo: 50}, roll.Roll)
	assert.Equal(t, 960, roll.Length)
	assert.Equal(t, 2880, roll.Tick)
	all, _, err := withReference(t).Apply(Edits{TakePattern{}}, fakeEnv{a})
	require.NoError(t, err)
	assert.Equal(t, 8, all.Groove.Bars)
	assert.Len(t, all.Groove.Lane("hat").Hits, 8*7)
	_, _, err = withReference(t).Apply(Edits{TakePattern{Bars: "some"}}, fakeEnv{a})
	assert.Error(t, err)
}

func TestReferences(t *testing.T) {
	d := withReference(t)
	assert.Equal(t, "r", d.Active)
	d, _, err := d.Apply(Edits{AddReference{Reference: Reference{ID: "s", Name: "Other"}}, ActivateReference{Reference: "r"}, Correct{Reference: "r", Correction: transcribe.Correction{Kind: "double"}}}, nil)
	require.NoError(t, err)
	assert.Equal(t, "r", d.Active)
	assert.Len(t, d.Reference("r").Corrections, 1)
	d, _, err = d.Apply(Edits{RemoveReference{Reference: "r"}}, nil)
	require.NoError(t, err)
	assert.Equal(t, "s", d.Active)
}

// docs/edits.md names every edit.
func TestEditsAreDocumented(t *testing.T) {
	text, err := os.ReadFile("../../docs/edits.md")
	require.NoError(t, err)
	named := regexp.MustCompile("`([a-z]+\\.[a-z_]+)`").FindAllStringSubmatch(string(text), -1)
	seen := map[string]bool{}
	for _, n := range named {
		seen[n[1]] = true
	}
	for _, k := range kinds {
		assert.True(t, seen[k.Op], "%s is not in docs/edits.md", k.Op)
	}
}

func TestTargets(t *testing.T) {
	d := New("x")
	d.References = []Reference{{ID: "r", Name: "r", Kind: "audio", Corrections: []transcribe.Correction{}}}
	set := func(voice string, family sound.Family, from float64) Edit {
		return SetTarget{Target: Target{Voice: voice, Reference: "r", Slice: &slice.Slice{Family: family, From: from, To: from + 0.3}}}
	}
	alone := SetTarget{Target: Target{Voice: "snare", Reference: "r", Drum: &DrumOf{Family: sound.Rim, Group: 2, Dry: true}}}
	next, _, err := d.Apply(Edits{set("kick", sound.Kick, 1), alone, set("kick", sound.Kick, 3)}, nil)
	require.NoError(t, err)
	require.Len(t, next.Targets, 2, "one a voice: the last stays")
	assert.Equal(t, 3.0, next.Target("kick").Slice.From)
	assert.Equal(t, sound.Rim, next.Target("snare").Drum.Family, "of whatever family")
	cleared, _, err := next.Apply(Edits{ClearTarget{Voice: "kick"}}, nil)
	require.NoError(t, err)
	assert.Nil(t, cleared.Target("kick"))
	assert.NotNil(t, next.Target("kick"), "what was stays as it was")
	gone, _, err := next.Apply(Edits{RemoveReference{Reference: "r"}}, nil)
	require.NoError(t, err)
	assert.Empty(t, gone.Targets, "without its recording a target is nothing")
	gone, _, err = next.Apply(Edits{RemoveVoice{Voice: "kick"}}, nil)
	require.NoError(t, err)
	assert.Nil(t, gone.Target("kick"), "nor without its voice")
	both := alone
	both.Target.Slice = next.Target("kick").Slice
	for name, e := range map[string]Edit{
		"no reference": SetTarget{Target: Target{Voice: "kick", Reference: "nobody"}}, "no place": set("kick", sound.Kick, -1), "no voice": set("nobody", sound.Kick, 1),
		"both": both, "neither": SetTarget{Target: Target{Voice: "kick", Reference: "r"}}, "no group": SetTarget{Target: Target{Voice: "kick", Reference: "r", Drum: &DrumOf{Family: sound.Kick, Group: 9}}},
	} {
		_, _, err = d.Apply(Edits{e}, nil)
		assert.Error(t, err, name)
	}
}

func TestChoicesOfDrums(t *testing.T) {
	d := New("x")
	d.References = []Reference{{ID: "r", Name: "r", Kind: "audio", Corrections: []transcribe.Correction{}}}
	d.tidy()
	next, _, err := d.Apply(Edits{LeaveStroke{"r", "r7", true}, LeaveStroke{"r", "r7", true}, DivideRow{"r", sound.Snare, 2}, NameDrum{"r", sound.Snare, 2, " Stick "}}, nil)
	require.NoError(t, err)
	assert.Equal(t, []string{"r7"}, next.References[0].Drums.LeftOut)
	assert.Equal(t, map[sound.Family]int{sound.Snare: 2}, next.References[0].Drums.Rows)
	assert.Equal(t, map[string]string{"snare/2": "Stick"}, next.References[0].Drums.Names)
	assert.Empty(t, d.References[0].Drums.Rows, "what was stays as it was")
	back, _, err := next.Apply(Edits{LeaveStroke{"r", "r7", false}, DivideRow{"r", sound.Snare, 0}, NameDrum{"r", sound.Snare, 2, ""}}, nil)
	require.NoError(t, err)
	assert.Equal(t, d.References[0].Drums, back.References[0].Drums)
	for _, e := range []Edit{LeaveStroke{"r", "", true}, LeaveStroke{"q", "r1", true}, DivideRow{"r", sound.Snare, 3}, DivideRow{"r", "x", 1}, NameDrum{"r", sound.Snare, 0, strings.Repeat("a", 41)}} {
		_, _, err := d.Apply(Edits{e}, nil)
		assert.Error(t, err)
	}
}

func TestCorrectionsThatSetAgainReplace(t *testing.T) {
	d := New("x")
	d.References = []Reference{{ID: "r", Name: "r", Kind: "audio", Corrections: []transcribe.Correction{}}}
	correct := func(c transcribe.Correction) Edit { return Correct{Reference: "r", Correction: c} }
	next, _, err := d.Apply(Edits{
		correct(transcribe.Correction{Kind: "move", Hit: "a", Time: 1}), correct(transcribe.Correction{Kind: "move", Hit: "a", Time: 2}),
		correct(transcribe.Correction{Kind: "move", Hit: "b", Time: 3}), correct(transcribe.Correction{Kind: "double"}), correct(transcribe.Correction{Kind: "double"}),
	}, nil)
	require.NoError(t, err)
	require.Len(t, next.References[0].Corrections, 4)
	assert.Equal(t, 2.0, next.References[0].Corrections[0].Time)
}
