package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/format"
	"jubrak/core/preset"
	"jubrak/core/sound"
	"jubrak/core/synth"
)

// A sound from a family with values set, measured, varied, listed and found again.
func TestSoundsFromTheCommandLine(t *testing.T) {
	dir := t.TempDir()
	wav, recipe := filepath.Join(dir, "kick.wav"), filepath.Join(dir, "kick.json")
	status, _ := call(t, "sound", "new", "--family", "kick", "--set", "body.end_hz=46", "--set", "effects/drive1/level_db=-1", "--out", wav, "--recipe", recipe)
	require.Zero(t, status)
	status, out := call(t, "measure", wav, "--json")
	require.Zero(t, status)
	var m struct {
		Fundamental float64 `json:"fundamental_hz"`
	}
	require.NoError(t, json.Unmarshal([]byte(out), &m))
	assert.InDelta(t, 46, m.Fundamental, 0.3)
	var r sound.Recipe
	data, err := os.ReadFile(recipe)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(data, &r))
	assert.Equal(t, 46.0, r.Body.End)
	assert.Equal(t, -1.0, r.Effect("drive1").Values["level_db"])

	many := filepath.Join(dir, "many")
	for _, want := range []string{"kick-003.wav", "kick-006.wav"} {
		status, _ = call(t, "sound", "vary", recipe, "--count", "3", "--out", many)
		require.Zero(t, status)
		assert.FileExists(t, filepath.Join(many, want), "numbers go on from the last")
	}
	assert.FileExists(t, filepath.Join(many, "kick-001.json"))

	status, out = call(t, "sound", "list", "--family", "kick", "--json")
	require.Zero(t, status)
	var list struct {
		Sounds []listed `json:"sounds"`
	}
	require.NoError(t, json.Unmarshal([]byte(out), &list))
	assert.GreaterOrEqual(t, len(list.Sounds), 15)

	shipped := filepath.Join(dir, "plate.wav")
	status, _ = call(t, "sound", "new", "--from", "kick-plate-nine", "--out", shipped)
	require.Zero(t, status)
	status, out = call(t, "sound", "find", "--like", shipped, "--json")
	require.Zero(t, status)
	require.NoError(t, json.Unmarshal([]byte(out), &list))
	require.Len(t, list.Sounds, 10)
	assert.Equal(t, "kick-plate-nine", list.Sounds[0].ID)
	assert.Less(t, *list.Sounds[0].Distance, 0.5)
}

func TestWrongUseOfSounds(t *testing.T) {
	bad := filepath.Join(t.TempDir(), "bad.json")
	require.NoError(t, os.WriteFile(bad, []byte(`{"steps":[{"id":"a","kind":"spoon"}]}`), 0o644))
	for _, c := range []struct {
		status int
		args   []string
		says   string
	}{
		{2, []string{"sound", "new", "--family", "spoon"}, "kick, snare"},
		{2, []string{"sound", "new", "--family", "kick", "--set", "body.spoon=3"}, "no number"},
		{2, []string{"sound", "new", "--family", "kick", "--set", "body.end_hz=low"}, "is no number"},
		{1, []string{"sound", "new", "--from", "nothing"}, "no sound"},
		{2, []string{"sound", "vary", bad}, "--out"},
		{1, []string{"sound", "vary", bad, "--out", t.TempDir()}, "outside 20 to 4000 Hz"},
		{1, []string{"sound", "find", "--like", bad}, ""},
		{0, []string{"sound", "new", "--family", "kick", "--set", "body.end_hz=1e9"}, "held to 2000"},
	} {
		status, text := messages(t, c.args...)
		assert.Equal(t, c.status, status, "%v: %s", c.args, text)
		assert.Contains(t, text, c.says)
	}
}

// No file that sound new and vary write is clipped, a shipped sound keeps its level, and
// what the API refuses is refused here.
func TestSoundsAreWrittenAtTheirLevel(t *testing.T) {
	dir := t.TempDir()
	run := func(args ...string) int {
		status, _ := call(t, append([]string{"sound"}, args...)...)
		return status
	}
	peak := func(path string) float64 {
		data, err := os.ReadFile(path)
		require.NoError(t, err)
		b, err := format.Decode(data)
		require.NoError(t, err)
		return b.Peak()
	}
	for i, s := range preset.Sounds() {
		if i%9 != 0 {
			continue
		}
		out := filepath.Join(dir, s.ID+".wav")
		require.Zero(t, run("new", "--from", s.ID, "--out", out))
		assert.Less(t, peak(out), 0.999, s.ID)
		v := s.Voice()
		shot := synth.Shot(&v, nil, 48000, synth.Stroke{Velocity: 127, Seed: 1, BeatMS: 500}, 8000)
		if p := shot.Peak(); p < 0.96 {
			assert.InDelta(t, p, peak(out), 0.01, "%s at its level", s.ID)
		}
	}
	recipe := filepath.Join(dir, "r.json")
	require.Zero(t, run("new", "--from", "kick-dirty-front", "--recipe", recipe))
	require.Zero(t, run("vary", recipe, "--count", "4", "--out", dir, "--level", "-20"))
	assert.Less(t, peak(filepath.Join(dir, "r-001.wav")), 0.5)
	for _, bad := range [][]string{{"--count", "100000"}, {"--count", "0"}, {"--far", "-50"}, {"--far", "900"}, {"--only", "foo"}, {"--only", "pitch,foo"}} {
		assert.Equal(t, 2, run(append([]string{"vary", recipe, "--out", dir}, bad...)...), "%v", bad)
	}
	like := filepath.Join(dir, "like.wav")
	require.Zero(t, run("new", "--from", "kick-dirty-front", "--out", like))
	require.Zero(t, run("find", "--like", like, "--darker", "--shorter", "--family", "kick"))
	assert.Equal(t, 2, run("find", "--like", like, "--count", "-3"))
	assert.Equal(t, 2, run("find", "--like", like, "--family", "gong"))
}
