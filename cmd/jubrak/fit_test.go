package main

import (
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/audio"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/sound"
)

func written(t *testing.T, path string, b *audio.Buffer) string {
	t.Helper()
	require.NoError(t, writeFile(path, export.WAV(filepath.Base(path), b, format.WAV16)))
	return path
}

// One target with a recipe, many into folders, and what cannot be fitted.
func TestFit(t *testing.T) {
	dir := t.TempDir()
	b := audio.New(44100, 2, 20000)
	for i := range b.Channels[0] {
		at := float64(i) / 44100
		v := float32(0.7 * math.Sin(2*math.Pi*(50*at+2*(1-math.Exp(-at*50)))) * math.Exp(-at/0.06))
		b.Channels[0][i], b.Channels[1][i] = v, v
	}
	kick := written(t, filepath.Join(dir, "old kick.wav"), b)
	out, recipe := filepath.Join(dir, "fit.wav"), filepath.Join(dir, "fit.json")
	status, text := call(t, "fit", kick, "--family", "kick", "--out", out, "--recipe", recipe, "--evaluations", "100", "--seed", "3", "--json")
	require.Zero(t, status)
	var report struct {
		Fits []struct {
			Family   string
			File     string
			Distance float64 `json:"distance_db"`
			Spectral float64 `json:"spectral_db"`
			Recipe   sound.Recipe
			Parts    []struct{ Name string }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(text), &report))
	require.Len(t, report.Fits, 1)
	assert.Less(t, report.Fits[0].Distance, 4.0)
	assert.Positive(t, report.Fits[0].Spectral)
	assert.NotEmpty(t, report.Fits[0].Parts)
	data, err := os.ReadFile(out)
	require.NoError(t, err)
	got, err := format.Decode(data)
	require.NoError(t, err)
	assert.Equal(t, 48000, got.Rate)
	assert.InDelta(t, -3, audio.DB(got.Peak()), 0.2)
	data, err = os.ReadFile(recipe)
	require.NoError(t, err)
	var r sound.Recipe
	require.NoError(t, json.Unmarshal(data, &r))
	require.NoError(t, r.Validate())
	// The recipe is one that the command line strikes.
	status, _ = call(t, "sound", "new", "--family", "kick", "--recipe", filepath.Join(dir, "default.json"), "--out", filepath.Join(dir, "default.wav"))
	require.Zero(t, status)

	other := written(t, filepath.Join(dir, "other.wav"), b)
	status, text = call(t, "fit", kick, other, "--out", filepath.Join(dir, "many"), "--recipe", filepath.Join(dir, "recipes"), "--evaluations", "60")
	require.Zero(t, status)
	assert.Contains(t, text, "old kick.wav as")
	for _, name := range []string{"many/old kick.wav", "many/other.wav", "recipes/old kick.json", "recipes/other.json"} {
		assert.FileExists(t, filepath.Join(dir, name))
	}
	silent := written(t, filepath.Join(dir, "silent.wav"), audio.New(48000, 1, 48000))
	status, _ = call(t, "fit", silent, "--out", out)
	assert.Equal(t, 1, status)
	for _, bad := range [][]string{{"fit"}, {"fit", kick}, {"fit", kick, "--out", out, "--family", "wheel"}, {"fit", kick, "--out", out, "--evaluations", "2"}} {
		status, _ = call(t, bad...)
		assert.Equal(t, 2, status, "%v", bad)
	}
	status, _ = call(t, "fit", kick, "--out", "/dev/full", "--evaluations", "60")
	assert.Equal(t, 1, status, "a full disk")
	info, err := os.Stat("/dev/full")
	require.NoError(t, err, "a device is not removed")
	assert.False(t, info.Mode().IsRegular())
}
