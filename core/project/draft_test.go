package project

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/arrange"
	"jubrak/core/effect"
	"jubrak/core/groove"
	"jubrak/core/mixer"
	"jubrak/core/music"
	"jubrak/core/profile"
	"jubrak/core/slice"
	"jubrak/core/sound"
	"jubrak/core/transcribe"
)

// every is an edit of each kind that changes the document of full.
func every() map[string]Edit {
	hit := []HitRef{{"kick", "h1"}, {"hat", "h1"}}
	out := map[string]Edit{}
	for _, e := range []Edit{
		SetNumber{"kick/layers/drum/body.decay_ms", 99}, ChangeNumber{"kick/level_db", -3},
		RenameProject{"Another"}, SetKey{"Am"}, SetBars{1}, SetGrid{3}, Clear{"kick"},
		AddHit{"kick", 0, 12}, PutHits{[]NewHit{newHit("kick", 0, 9), newHit("snare", 0, 9)}}, DeleteHits{hit}, MoveHits{Hits: hit, Ticks: 240},
		SetHits{hit, "velocity", 3}, ChangeHits{hit, "nudge_ms", 3},
		SetPair{8}, SetScatterKind{"white"}, SetSeed{77}, Straighten{},
		AddVoice{Family: sound.Clap, Name: "Slap"}, DuplicateVoice{"kick"}, RenameVoice{"kick", "Boom"}, MoveVoice{"kick", 3}, RefileVoice{"kick", sound.Tom}, RemoveVoice{"hat"}, SetNote{Voice: "kick", Note: "A1"},
		AddLayer{"kick", sound.Recorded("l2", "Second", "b")}, RemoveLayer{"kick", "l1"}, RenameLayer{"kick", "l1", "Slap"}, MoveLayer{"kick", "l1", 0}, ResetLayer{"snare", "drum"},
		AddEffect{Chain: InRecipe("kick", "drum"), Kind: "clip", To: 1, Values: map[string]float64{"gain_db": 9}}, RemoveEffect{InRecipe("kick", "drum"), "drive1"}, MoveEffect{Chain: InRecipe("kick", "drum"), Effect: "drive1", To: 5}, SwitchEffect{InRecipe("kick", "drum"), "drive1", true},
		AddCurve{"kick", "drum", aCurve("")}, DrawCurve{"kick", "drum", "body.end_hz"}, SetCurve{"kick", "drum", aCurve("curve1")}, RemoveCurve{"kick", "drum", "curve1"},
		SetModulation{"kick", "drum", sound.Modulation{By: "velocity", At: "body.end_hz", From: -1, To: 2}}, RemoveModulation{"kick", "drum", "velocity", "snap.level_db"},
		SetRecipe{"kick", "drum", sound.DefaultRecipe(sound.Tom), "Tom"}, DrawWave{"kick", "drum", []float64{0, 1, 0, -1}}, SetSample{"kick", "drum", "snap", "s"},
		SetKit{[]sound.Voice{sound.NewVoice("boom", "Boom", sound.Kick)}, "One"}, SetSound{"kick", []sound.Layer{sound.Rumbling("r", "Wet")}, "Wet"}, SetCutBy{"kick", []string{"snare"}}, SetGate{"808", "kick"}, SetAttack{"kick", "drum", "b"},
		AddReference{Reference{ID: "r2", Name: "Lap", Kind: "midi"}}, RemoveReference{"r"}, ActivateReference{""}, AimReference{"habit", 1}, Correct{"r", transcribe.Correction{Kind: "tempo", Value: 91}},
		SetTarget{Target{Voice: "snare", Reference: "r", Slice: &slice.Slice{Family: sound.Snare, From: 1, To: 2}}}, ClearTarget{"kick"},
		LeaveStroke{"r", "r1", true}, DivideRow{"r", sound.Snare, 2}, NameDrum{"r", sound.Snare, 2, "Stick"},
		TakePattern{Places: map[string]string{"rim": "snare"}}, TakeFeel{}, TakeBoth{}, TakeGroove{Groove: aGroove(), Rows: []GrooveRow{{"x", "Kick", sound.Kick}}, Part: "both", Title: "One"},
		NameGroove{"Lap"}, SetMeter{music.Meter{Beats: 3, Unit: 4}}, SetLane{"kick", 3, 10}, ShiftLane{"kick", 1}, FillLane{Voice: "hat", Every: 2}, SpreadLane{Voice: "hat", Strokes: 3, Steps: 8},
		TimesGroove{2}, RepeatBars{1, 1, 2}, StretchHits{[]HitRef{{"kick", "h1"}, {"kick", "h2"}}, 50}, TouchHits{hit, "ghost"}, SoundHits{Hits: hit, Sound: "snare"}, OpenHits{hit},
		AddVariation{"C"}, UseVariation{"a"}, RenameVariation{"a", "first"}, RemoveVariation{"a"},
		SetTable{"kick", "contour", []float64{0, 2}}, SetDrift{[]float64{9, 0}, []string{"kick"}, true}, SetRamp{[]float64{0, -20}, []string{"kick"}, false}, SwingAlike{}, PullBack{4}, FeelApart{}, FreezeFeel{},
		TakeParts{From: "reference", Parts: []groove.FeelPart{"swing", "lean"}}, PlayIn{Voice: "kick", At: 961.5, Velocity: 99, Straighten: 50, Towards: "feel"}, StraightenHits{hit, 50, "grid"},
		AddEffect{Chain: InRow("kick"), Kind: "compressor", Key: "snare"}, RemoveEffect{InRow("kick"), "equalizer1"}, MoveEffect{Chain: InRow("kick"), Effect: "equalizer1", To: 1}, SwitchEffect{InRow("kick"), "equalizer1", true}, SetSidechain{InRow("kick"), "gate1", "hat"}, SetEffectShape{InRow("bus:drums"), "duck1", ""}, SetEffectRecording{InRow("bus:drums"), "convolution1", &effect.Recording{Blob: strings.Repeat("ab", 32), Name: "hall.wav"}}, SetChain{Row: "snare", Effects: []effect.Effect{effect.New("", effect.KindOf("trim"), nil)}},
		AddBus{Name: "Rooms", Rows: []string{"snare"}}, RemoveBus{"drums"}, RenameBus{"drums", "All"}, MoveBus{"drums", 1}, SetRowTo{"snare", "drums"}, AddSend{Row: "snare", To: "drums"}, RemoveSend{"kick", "room"}, SetShape{effect.Shape{ID: "s", Name: "One", Beats: 2, Points: []float64{0, 1}}}, RemoveShape{"s"}, LinkChain{"snare", "kick"}, SetAutomation{"kick/level_db", []mixer.AutomationPoint{{Bar: 0, Value: -6}, {Bar: 1, Value: -20}}},
		AddRooms{}, AddRumble{"kick"}, Complement{"kick", "808"}, TakeMix{Desk: mixer.Desk{Buses: []mixer.Bus{{ID: "drums", Name: "All", Row: mixer.Row{Chain: []effect.Effect{}, Sends: []mixer.Send{}}}}, Out: mixer.Output{Chain: []effect.Effect{}}, Shapes: []effect.Shape{}, Automation: []mixer.Automation{}}, Rows: map[string]TakenRow{"snare": {Row: mixer.Row{Chain: []effect.Effect{}, To: "drums", Sends: []mixer.Send{}}}}, Title: "Laps"},
		AddSection{Name: "Break", Bars: 3}, SetSection{Section: "s1", Bars: new(7), Meter: new("3/4")}, MoveSection{"s1", 1}, RepeatSection{Section: "s1", Times: 2, Own: true}, SplitSection{"s1", 1}, RemoveSection{"s2"},
		SetSections{Sections: []SectionOf{{Name: "A", Variation: "a", Bars: 4, Out: []RowOut{{"kick", 1, 2}}}, {Name: "B", Variation: "b", Bars: 3}}, Title: "a run"},
		KeepOrder{"Second"}, UseOrder{Order: "order1", Keep: "Third"}, RemoveOrder{"order1"}, AddMarker{"Here", 4000}, RemoveMarker{"m1"}, SetSpeed{Semitones: 3},
		PaintRows{[]string{"snare"}, 0, 960, false}, AddDropout{At: 100, Length: 960, Keeps: []string{}, Hit: "hat", Cuts: true}, SetDropout{Section: "s2", Over: "o1", Keeps: []string{"kick"}}, PlaceFill{At: 3840, Fill: "fill-house-classic-1"},
		PlaceObject{Kind: "riser", Voice: "snare", At: 3840}, PlaceBars{At: 0, Variation: "a", Bars: 1}, OpenBar{Section: "s2", Bar: 1}, MoveOver{Section: "s2", Over: "o1", At: 10}, SetOver{Section: "s2", Over: "o2", Name: "Blow", Beneath: false, Keeps: []string{"kick"}},
		AddBacking{arrange.NewBacking("b9", "Organ", strings.Repeat("b", 64))}, AddStandIn{}, SetBacking{Backing: "b1", Name: new("Song"), DuckBy: new("kick")}, RemoveBacking{"b1"},
		RemoveOver{"s2", "o1"}, Automate{"s1", "kick/level_db", []mixer.AutomationPoint{{Bar: 0, Value: -6}, {Bar: 1, Value: -20}}}, CopyBars{From: "a", Bars: 1, To: "b", ToBar: 2},
		TransposeHits{Hits: hit, Degrees: 1}, FollowLane{Voice: "808", Follows: "kick"}, FollowRoots{Voice: "808", Chords: "Fm | Db"},
	} {
		out[Op(e)] = e
	}
	return out
}

// newHit is a plain hit.
func newHit(voice string, tick, velocity int) NewHit {
	return NewHit{voice, groove.Hit{Tick: tick, Velocity: velocity}}
}

func aCurve(id string) sound.Curve {
	return sound.Curve{ID: id, Name: "Line", Unit: sound.Beats, Round: 0, Lasts: 2, Points: []sound.CurvePoint{{At: 0, Value: 1}, {At: 0.5, Value: 0.25}}}
}

// full is a document that has something of everything.
func full(t *testing.T) *Document {
	d, _, err := withReference(t).Apply(Edits{
		PutHits{Hits: []NewHit{{"kick", groove.Hit{Tick: 0, Velocity: 90, Nudge: 2, Roll: groove.Even{Strokes: 4}}}, newHit("hat", 240, 80), newHit("kick", 5000, 60), newHit("snare", 960, 90), newHit("snare", 2880, 90)}},
		AddVariation{Name: "no kick 4"}, SetNumber{At: "groove/feel/kick/swing_percent", Value: 60},
		SetNumber{At: "groove/feel/kick/lean_ms", Value: 9}, SetScatterKind{Kind: "pink"}, SetNumber{At: "snare/layers/drum/body.decay_ms", Value: 77},
		AddLayer{Voice: "kick", Layer: sound.Recorded("l1", "First", "a")},
		Correct{Reference: "r", Correction: transcribe.Correction{Kind: "tempo", Value: 90}},
		SetTarget{Target: Target{Voice: "kick", Reference: "r", Slice: &slice.Slice{Family: sound.Kick, From: 1, To: 2}}},
		AddBus{Name: "Drums", Rows: []string{"kick"}}, AddBus{Name: "Room"}, AddSend{Row: "kick", To: "room"}, SetShape{effect.Shape{ID: "s", Beats: 1, Points: []float64{0, 1, 1}}},
		AddEffect{Chain: InRow("kick"), Kind: "equalizer"}, AddEffect{Chain: InRow("kick"), Kind: "gate", To: 1}, AddEffect{Chain: InRow("kick"), Kind: "parallel", To: 2}, AddEffect{Chain: InRow("kick"), Kind: "drive", In: "parallel1"}, AddEffect{Chain: InRow("bus:drums"), Kind: "duck"}, AddEffect{Chain: InRow("bus:drums"), Kind: "convolution", To: 1}, SetEffectShape{InRow("bus:drums"), "duck1", "s"},
		AddSection{Name: "Two", Bars: 4}, KeepOrder{"First"}, AddMarker{"Drop", 0}, AddBacking{arrange.NewBacking("b1", "Loop", strings.Repeat("a", 64))}, AddDropout{At: 2 * 3840, Length: 3840, Keeps: []string{}}, PlaceObject{Kind: "impact", Voice: "kick", At: 3 * 3840},
		AddReference{Reference{ID: "habit", Name: "Habit", Kind: "profile", Profile: aHabit(t)}}, ActivateReference{Reference: "r"},
	}, nil)
	require.NoError(t, err)
	return d
}

// A document that was handed out stays as it is, whatever is made from it.
func TestNoEditChangesWhatItWasMadeFrom(t *testing.T) {
	edits := every()
	for _, k := range kinds {
		op := k.Op
		e, ok := edits[op]
		require.True(t, ok, "no example of %s", op)
		d := full(t)
		before, err := json.Marshal(d)
		require.NoError(t, err)
		next, _, err := d.Apply(Edits{e}, fakeEnv{heard()})
		require.NoError(t, err, op)
		after, err := json.Marshal(d)
		require.NoError(t, err)
		assert.Equal(t, string(before), string(after), op)
		changed, err := json.Marshal(next)
		require.NoError(t, err)
		assert.NotEqual(t, string(before), string(changed), "%s does something", op)
		text, err := json.Marshal(Edits{e})
		require.NoError(t, err)
		var back Edits
		require.NoError(t, json.Unmarshal(text, &back), op)
		assert.Equal(t, Edits{e}, back, "%s comes back from its JSON", op)
		name := back.Name(d, next)
		assert.NotEmpty(t, name)
		assert.NotContains(t, name, "%!", op)
		t.Log(name)
	}
}

func TestUntouchedLanesAreShared(t *testing.T) {
	d := full(t)
	next, _, err := d.Apply(Edits{SetHits{Hits: []HitRef{{"kick", "h1"}}, Number: "velocity", Value: 5}}, nil)
	require.NoError(t, err)
	assert.Same(t, &d.Groove.Lane("hat").Hits[0], &next.Groove.Lane("hat").Hits[0])
	assert.NotSame(t, &d.Groove.Lane("kick").Hits[0], &next.Groove.Lane("kick").Hits[0])
}

// aGroove is a groove from elsewhere.
func aGroove() groove.Groove {
	return groove.Groove{Name: "Lap", Bars: 1, Meter: music.Meter{Beats: 4, Unit: 4}, Grid: 4, Feel: groove.Straight(),
		Lanes: []groove.Lane{{Voice: "x", Hits: []groove.Hit{{ID: "h1", Tick: 480, Velocity: 77}}}}}
}

// aHabit is made of two genres.
func aHabit(t *testing.T) *profile.Profile {
	p, err := profile.Combine("Both", profile.Genres()[:2])
	require.NoError(t, err)
	return p
}
