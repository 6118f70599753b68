package project

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/effect"
	"jubrak/core/param"
	"jubrak/core/sound"
)

func apply(t *testing.T, d *Document, edits ...Edit) *Document {
	t.Helper()
	next, _, err := d.Apply(edits, nil)
	require.NoError(t, err)
	return next
}

func idsOf(d *Document) (voices, lanes []string) {
	for _, v := range d.Kit.Voices {
		voices = append(voices, v.ID)
	}
	for _, l := range d.Groove.Lanes {
		lanes = append(lanes, l.Voice)
	}
	return voices, lanes
}

func TestLanesFollowTheVoices(t *testing.T) {
	d := apply(t, New("x"), AddHit{"kick", 480, 90}, SetNumber{"groove/feel/kick/lean_ms", 7}, AddVoice{Family: sound.Clap}, AddVoice{Family: sound.Kick}, AddVoice{Family: sound.Kick})
	voices, lanes := idsOf(d)
	assert.Equal(t, []string{"kick", "snare", "hat", "open", "808", "clap", "kick2", "kick3"}, voices)
	assert.Equal(t, voices, lanes)
	assert.Equal(t, []string{"Kick 2", "Kick 3"}, []string{d.Kit.Voice("kick2").Name, d.Kit.Voice("kick3").Name})

	d = apply(t, d, DuplicateVoice{"kick"})
	voices, lanes = idsOf(d)
	assert.Equal(t, []string{"kick", "kick4", "snare"}, voices[:3], "the copy stands below")
	assert.Equal(t, voices, lanes)
	assert.Equal(t, d.Groove.Lane("kick").Hits, d.Groove.Lane("kick4").Hits)
	assert.Equal(t, 7.0, d.Groove.Feel.Voices["kick4"].Lean)
	changed := apply(t, d, SetNumber{"kick4/layers/drum/body.decay_ms", 99}, SetHits{[]HitRef{{"kick4", "h1"}}, "velocity", 5})
	assert.Equal(t, 420.0, changed.Kit.Voice("kick").Synth().Recipe.Body.Decay, "the copy is its own")
	assert.Equal(t, 90, changed.Groove.Lane("kick").Hits[0].Velocity)

	d = apply(t, d, MoveVoice{"kick", 99}, MoveVoice{"808", -5})
	voices, lanes = idsOf(d)
	assert.Equal(t, []string{"808", "kick4", "snare", "hat", "open", "clap", "kick2", "kick3", "kick"}, voices)
	assert.Equal(t, voices, lanes)

	d = apply(t, d, RemoveVoice{"hat"})
	assert.Empty(t, d.Kit.Voice("open").CutBy, "nothing is cut by what is gone")
	assert.Nil(t, d.Groove.Lane("hat"))
	d = apply(t, d, RenameVoice{"snare", " Slap "}, RefileVoice{"snare", sound.Rim})
	assert.Equal(t, "Slap", d.Kit.Voice("snare").Name)
	assert.Equal(t, sound.Rim, d.Kit.Voice("snare").Family)
	for _, e := range []Edit{RenameVoice{"snare", "  "}, RefileVoice{"snare", "spoon"}, AddVoice{Family: "spoon"}, RemoveVoice{"hat"}, MoveVoice{"hat", 1}, DuplicateVoice{"hat"}, RenameVoice{"hat", "x"}} {
		_, _, err := d.Apply(Edits{e}, nil)
		assert.Error(t, err, "%T", e)
	}
	for len(d.Kit.Voices) < sound.MaxVoices {
		d = apply(t, d, AddVoice{Family: sound.Perc})
	}
	_, _, err := d.Apply(Edits{AddVoice{Family: sound.Perc}}, nil)
	assert.ErrorContains(t, err, "at most 32 voices")
	for _, v := range d.Kit.Voices {
		d = apply(t, d, RemoveVoice{v.ID})
	}
	assert.Empty(t, d.Groove.Lanes)
	assert.Empty(t, d.Groove.Feel.Voices)
	apply(t, d, AddVoice{Family: sound.Snare})
}

func TestLayersOfAVoice(t *testing.T) {
	d := apply(t, New("x"), AddLayer{Voice: "kick"}, AddLayer{Voice: "kick", Layer: sound.Recorded("", "Slap", "b")})
	v := d.Kit.Voice("kick")
	assert.Equal(t, []string{"drum", "l2", "l3"}, []string{v.Layers[0].ID, v.Layers[1].ID, v.Layers[2].ID})
	assert.Equal(t, *v.Layers[0].Recipe, *v.Layers[1].Recipe, "a new layer is the family's default")
	d = apply(t, d, MoveLayer{"kick", "drum", 9}, SetNote{Voice: "kick", Note: "A1"})
	assert.InDelta(t, 55, d.Kit.Voice("kick").Layer("l2").Recipe.Body.End, 1e-9, "the first that is synthesized is tuned")
	d = apply(t, d, SetNumber{"kick/layers/l2/mute", 1}, SetNote{Voice: "kick", Note: "A2"})
	assert.InDelta(t, 110, d.Kit.Voice("kick").Layer("drum").Recipe.Body.End, 1e-9, "and not a muted one")
	for _, e := range []Edit{ResetLayer{"kick", "l3"}, SetNote{"kick", "l3", "A1"}, RemoveLayer{"kick", "l9"}, SetNumber{"kick/layers/l3/body.end_hz", 50}, SetNumber{"kick/layers/drum/recording.skip_ms", 5}, AddLayer{"kick", sound.Recorded("l2", "x", "b")}} {
		_, _, err := d.Apply(Edits{e}, nil)
		assert.Error(t, err, "%T %v", e, e)
	}
	assert.Len(t, apply(t, d, RemoveLayer{"kick", "l2"}).Kit.Voice("kick").Layers, 2)
}

// Every row of every table has an address that reads and sets it.
func TestEveryNumberHasAnAddress(t *testing.T) {
	d := apply(t, New("x"), AddLayer{"kick", sound.Recorded("l2", "Slap", "b")}, AddLayer{"kick", sound.Rumbling("wet", "Wet")}, SetAttack{"kick", "drum", "a"}, SetGate{"kick", "snare"})
	for _, k := range effect.Kinds() {
		if k.Rows {
			continue
		}
		d = apply(t, d, AddEffect{Chain: InRecipe("hat", "drum"), Kind: k.ID, To: 99})
		if len(d.Kit.Voice("hat").Layers[0].Recipe.Effects) == sound.MaxEffects {
			break
		}
	}
	all := AllTables()
	tables := map[string][]param.Param{
		"tempo/": all.Tempo, "groove/feel/": all.Feel, "groove/feel/hat/": all.VoiceFeel, "kick/": all.Voice,
		"snare/layers/drum/": all.Recipe, "kick/layers/drum/": all.Layer, "kick/layers/l2/": all.Recording,
		"kick/layers/wet/": all.Rumble,
	}
	for _, s := range d.Kit.Voice("hat").Layers[0].Recipe.Effects {
		tables["hat/layers/drum/effects/"+s.ID+"/"] = effect.KindOf(s.Kind).Params
	}
	tables["kick/"] = append(slices.Clone(tables["kick/"]), all.Gate...)
	tables["kick/layers/drum/"] = append(slices.Clone(tables["kick/layers/drum/"]), all.Attack...)
	for at, table := range tables {
		require.NotEmpty(t, table)
		for _, p := range table {
			for _, value := range []float64{p.Min, p.Max} {
				next := apply(t, d, SetNumber{at + p.ID, value})
				n, err := next.Number(at + p.ID)
				require.NoError(t, err)
				assert.Equal(t, value, n.Value, at+p.ID)
				assert.Equal(t, p, n.Param)
				beyond := apply(t, next, ChangeNumber{at + p.ID, p.Max - p.Min + 1})
				n, err = beyond.Number(at + p.ID)
				require.NoError(t, err)
				assert.Equal(t, p.Max, n.Value, "%s is held in its range", at+p.ID)
			}
		}
	}
	for _, at := range []string{"", "kick", "kick/", "/level_db", "kick/smell", "none/level_db", "kick/layers/none/level_db", "kick/layers/drum", "groove/feel/none/lean_ms", "tempo/x", "groove/bars"} {
		_, err := d.Number(at)
		assert.Error(t, err, at)
	}
}

func TestNamesOfEdits(t *testing.T) {
	d := full(t)
	for want, e := range map[string]Edit{
		"Kick, Drum, body: decay 420 → 410 ms":   SetNumber{"kick/layers/drum/body.decay_ms", 410},
		"Snare, body: decay 77 → 1234 ms":        SetNumber{"snare/layers/drum/body.decay_ms", 1234},
		"Kick: level −6 → −7.25 dB":              ChangeNumber{"kick/level_db", -1.25},
		"Kick: mute on":                          SetNumber{"kick/mute", 1},
		"Song: tempo 100 → 92.5 BPM":             SetNumber{"tempo/bpm", 92.5},
		"Feel: swing 50 → 58 %":                  SetNumber{"groove/feel/swing_percent", 58},
		"Kick: lean 9 → −12 ms":                  SetNumber{"groove/feel/kick/lean_ms", -12},
		"Kick, bar 1, beat 1: velocity 90 → 101": SetHits{[]HitRef{{"kick", "h1"}}, "velocity", 101},
		"2 hits: nudge":                          ChangeHits{[]HitRef{{"kick", "h1"}, {"hat", "h1"}}, "nudge_ms", 2},
		"Snare: hit at bar 2, beat 2.5":          AddHit{"snare", 3840 + 1440, 90},
		"Clap added":                             AddVoice{Family: sound.Clap},
		"Kick renamed to Boom":                   RenameVoice{"kick", "Boom"},
		"Kick: layer First removed":              RemoveLayer{"kick", "l1"},
		"Length 2 → 1 bar":                       SetBars{1},
		"Pattern and feel taken from Take":       TakeBoth{},
		"Kick: target chosen":                    SetTarget{Target{Voice: "kick", Reference: "r", Slice: d.Targets[0].Slice}},
		"Hat filed as Shaker":                    RefileVoice{"hat", sound.Shaker},
		"Kick: layer First renamed to Skid":      RenameLayer{"kick", "l1", "Skid"},
		"Snare: layer Drum back to its default":  ResetLayer{"snare", "drum"},
	} {
		next, _, err := d.Apply(Edits{e}, fakeEnv{heardOnce})
		require.NoError(t, err, want)
		assert.Equal(t, want, Edits{e}.Name(d, next))
	}
	two := Edits{RenameVoice{"kick", "Boom"}, SetBars{1}}
	assert.Equal(t, "Kick renamed to Boom, and 1 more", two.Name(d, apply(t, d, two...)))
}

func TestEditsAsJSON(t *testing.T) {
	var e Edits
	require.NoError(t, json.Unmarshal([]byte(`[{"op":"hit.add","voice":"kick","tick":240},{"op":"feel.straight"}]`), &e))
	assert.Equal(t, Edits{AddHit{"kick", 240, 0}, Straighten{}}, e)
	text, err := json.Marshal(e)
	require.NoError(t, err)
	assert.JSONEq(t, `[{"op":"hit.add","voice":"kick","tick":240},{"op":"feel.straight"}]`, string(text))
	for text, says := range map[string]string{
		`[{"op":"dance"}]`: `there is no edit called "dance"`, `[{"op":"hit.add","voise":"kick"}]`: `hit.add: unknown field "voise"`,
		`[{"op":"hit.add","tick":"soon"}]`: "hit.add: cannot unmarshal", `[7]`: "an edit is an object",
	} {
		var unknown *UnknownEdit
		err := json.Unmarshal([]byte(text), &e)
		require.ErrorAs(t, err, &unknown, text)
		assert.Contains(t, err.Error(), says)
	}
	assert.Error(t, json.Unmarshal([]byte(`{"op":"hit.add"}`), &e))
}

// A gate goes with the voice that opens it, and follows it where a kit is exchanged.
func TestGatesFollowTheVoiceThatOpensThem(t *testing.T) {
	d := apply(t, New("x"), SetGate{"808", "kick"})
	assert.Equal(t, "kick", d.Kit.Voice("808").Gate.By)
	assert.Nil(t, apply(t, d, RemoveVoice{"kick"}).Kit.Voice("808").Gate)
	boom, low := sound.NewVoice("boom", "Boom", sound.Kick), sound.NewVoice("low", "Low", sound.Bass808)
	low.Gate = &sound.Gate{By: "boom"}
	sound.GateParams.Reset(low.Gate)
	next := apply(t, d, SetKit{Voices: []sound.Voice{low, boom}})
	assert.Equal(t, "kick", next.Kit.Voice("808").Gate.By, "the new kick has the old one's id")
	low.Gate = &sound.Gate{By: "nobody"}
	sound.GateParams.Reset(low.Gate)
	assert.Nil(t, apply(t, d, SetKit{Voices: []sound.Voice{low, boom}}).Kit.Voice("808").Gate)
}
