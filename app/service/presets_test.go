package service

import (
	"archive/zip"
	"bytes"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/preset"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// A sound with a recording outlives the project that it was saved from.
func TestSavedSoundsKeepTheirRecordings(t *testing.T) {
	w := open(t)
	st := make1(t, w)
	st, err := w.LayerFromFile(st.ID, st.Version, "snare", "stick.wav", wavBytes(t, click(0.2, 1)))
	require.NoError(t, err)
	saved, err := w.SaveSound(st.ID, "snare", " Stick ", []string{"dry"}, nil)
	require.NoError(t, err)
	assert.Equal(t, "Stick", saved.Name)
	assert.NotEmpty(t, saved.Facts.Print)
	kit, err := w.SaveKit(st.ID, "Mine")
	require.NoError(t, err)
	assert.Len(t, kit.Voices, 5)
	blob := saved.Layers[1].Recording.Blob
	require.NoError(t, w.Delete(st.ID))
	_, err = w.Store.Blob(blob)
	require.NoError(t, err, "the library names it")
	library, err := w.Library()
	require.NoError(t, err)
	assert.Equal(t, *saved, library.Sounds[0])
	assert.Len(t, library.Sounds, len(preset.Sounds())+1)
	assert.True(t, library.Kits[0].Own)
	require.NoError(t, w.Store.DeleteItem(saved.ID))
	require.NoError(t, w.Store.DeleteItem(kit.ID))
	require.NoError(t, w.sweep())
	_, err = w.Store.Blob(blob)
	assert.Error(t, err, "nothing names it any more")

	other := make1(t, w)
	for name, err := range map[string]error{
		"no name":     second(w.SaveSound(other.ID, "snare", " ", nil, nil)),
		"no voice":    second(w.SaveSound(other.ID, "none", "x", nil, nil)),
		"bad layers":  second(w.SaveSound(other.ID, "snare", "x", nil, []sound.Layer{{ID: "a"}})),
		"no kit name": second(w.SaveKit(other.ID, "")),
		"bad curve":   second(w.SaveCurve(sound.Curve{})),
	} {
		assert.Error(t, err, name)
	}
}

func second[T any](_ T, err error) error { return err }

// A kit of which a recording is missing still works, and says what it lacks.
func TestAKitThatLacksASample(t *testing.T) {
	w := open(t)
	st := make1(t, w)
	voice := sound.NewVoice("kick", "Kick", sound.Kick)
	voice.Layers = append(voice.Layers, sound.Recorded("gone", "Gone", "0000000000000000000000000000000000000000000000000000000000000000"))
	st, err := w.Edit(st.ID, st.Version, project.Edits{project.SetKit{Voices: []sound.Voice{voice}}}, "")
	require.NoError(t, err)
	drawn, err := w.VoiceSound(st.ID, "kick", 1)
	require.NoError(t, err)
	assert.Len(t, drawn.Layers, 1, "the one that is missing is not drawn, which the screen shows")
	require.NotNil(t, drawn.Measures.Peak, "the rest sounds")
}

func TestVariationsAndTheirNumbers(t *testing.T) {
	w := open(t)
	st := make1(t, w)
	ask := VaryAsk{Layer: "drum", Count: 3, Percent: 20, Groups: preset.Groups, Seed: 4}
	list, err := w.Vary(st.ID, "kick", ask)
	require.NoError(t, err)
	require.Len(t, list, 3)
	for _, v := range list {
		assert.Positive(t, v.Distance)
		assert.NotNil(t, v.Facts.Decay)
	}
	for _, want := range [][]string{{"my-set-001.wav", "my-set-002.wav"}, {"my-set-003.wav", "my-set-004.wav"}} {
		var file bytes.Buffer
		_, _, err := w.WriteNumbered(&file, st.ID, "kick", Numbered{Set: "My set", Layer: "drum", Recipes: []sound.Recipe{list[0].Recipe, list[2].Recipe}})
		require.NoError(t, err)
		z, err := zip.NewReader(bytes.NewReader(file.Bytes()), int64(file.Len()))
		require.NoError(t, err)
		var names []string
		for _, f := range z.File {
			names = append(names, f.Name)
			assert.Greater(t, f.UncompressedSize64, uint64(1000))
		}
		assert.Equal(t, want, names, "numbers go on")
	}
	for _, bad := range []VaryAsk{{Layer: "none", Count: 1}, {Layer: "drum"}, {Layer: "drum", Count: 1e6}, {Layer: "drum", Count: 1, Percent: -1}} {
		_, err := w.Vary(st.ID, "kick", bad)
		assert.Error(t, err)
	}
	near, err := w.Near(t.Context(), st.ID, "kick", preset.Than{}, false)
	require.NoError(t, err)
	assert.Less(t, near["kick-rink-floor"], near["hat_open-wash"])
}

func TestAttempts(t *testing.T) {
	w := open(t)
	st := make1(t, w)
	first, err := w.KeepAttempt(st.ID, "kick", "")
	require.NoError(t, err)
	st, err = w.Edit(st.ID, st.Version, project.Edits{project.SetNumber{At: "kick/layers/drum/level_db", Value: -6}}, "")
	require.NoError(t, err)
	both, err := w.KeepAttempt(st.ID, "kick", "softer")
	require.NoError(t, err)
	require.Len(t, both.Attempts, 2)
	assert.Equal(t, []string{"Attempt 1", "softer"}, []string{both.Attempts[0].Name, both.Attempts[1].Name})
	assert.InDelta(t, 6, first.Now-both.Now, 0.11, "how much softer it is")
	with := []sound.Layer{sound.Synthesized("drum", "Drum", sound.DefaultRecipe(sound.Kick))}
	loud, err := w.LoudnessWith(st.ID, "kick", with)
	require.NoError(t, err)
	assert.InDelta(t, 6, loud.Then-loud.Now, 0.11)
	assert.Error(t, second(w.LoudnessWith(st.ID, "kick", []sound.Layer{{}})))
	require.NoError(t, w.Delete(st.ID))
	left, err := w.Store.Items(attemptsOf(st.ID, "kick"))
	require.NoError(t, err)
	assert.Empty(t, left, "they go with the project")
}

// A recording is trimmed to what sounds, its peak brought to -1 dBFS.
func TestTidy(t *testing.T) {
	w := open(t)
	st := make1(t, w)
	b := audio.New(48000, 1, 48000)
	for i := range 4800 {
		b.Channels[0][9600+i] = float32(0.25 * math.Sin(2*math.Pi*200*float64(i)/48000))
	}
	st, err := w.LayerFromFile(st.ID, st.Version, "snare", "object.wav", wavBytes(t, b))
	require.NoError(t, err)
	id := st.Document.Kit.Voice("snare").Layers[1].ID
	st, err = w.TidyLayer(st.ID, "snare", Tidy{Base: st.Version, Layer: id})
	require.NoError(t, err)
	r := st.Document.Kit.Voice("snare").Layer(id).Recording
	assert.InDelta(t, 198, r.Skip, 1.5)
	assert.InDelta(t, 107, r.Length, 3)
	assert.InDelta(t, 11, r.Gain, 0.2)
	assert.InDelta(t, 200, r.Root, 2)
	assert.Error(t, second(w.TidyLayer(st.ID, "snare", Tidy{Base: st.Version, Layer: "drum"})), "a recipe has nothing to trim")

	st, err = w.BorrowAttack(st.ID, "kick", Borrowed{Base: st.Version, Layer: "drum", From: "snare"})
	require.NoError(t, err)
	attack := st.Document.Kit.Voice("kick").Layers[0].Attack
	require.NotNil(t, attack)
	assert.Contains(t, st.Document.Blobs(), attack.Blob)
	assert.Error(t, second(w.BorrowAttack(st.ID, "kick", Borrowed{Base: st.Version, Layer: "drum", From: "none"})))
}
