package main

import (
	"context"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/store"
	"jubrak/core/format"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// messages runs the command line and returns what it wrote to standard error.
func messages(t *testing.T, args ...string) (status int, stderr string) {
	t.Helper()
	old := os.Stderr
	r, w, err := os.Pipe()
	require.NoError(t, err)
	os.Stderr = w
	out := make(chan string)
	go func() {
		data, _ := io.ReadAll(r)
		out <- string(data)
	}()
	status, _ = call(t, args...)
	_ = w.Close()
	os.Stderr = old
	return status, <-out
}

// archive writes a project whose kick has a layer, with its sound or without.
func archive(t *testing.T, with bool) string {
	t.Helper()
	var wav strings.Builder
	shot, err := os.ReadFile(loop)
	require.NoError(t, err)
	b, err := format.Decode(shot)
	require.NoError(t, err)
	require.NoError(t, format.WriteWAV(&wav, b.Slice(0, 9000), format.WAV24))
	st, err := store.Open(t.TempDir())
	require.NoError(t, err)
	defer func() { _ = st.Close() }()
	name, err := st.PutBlob([]byte(wav.String()))
	require.NoError(t, err)
	l := sound.Recorded("l", "rink slap", name)
	d, _, err := project.New("Spät, 夜").Apply(project.Edits{project.AddHit{Voice: "kick"}, project.AddLayer{Voice: "kick", Layer: l}, project.SetNumber{At: "kick/level_db", Value: 12}}, nil)
	require.NoError(t, err)
	text, err := json.Marshal(d)
	require.NoError(t, err)
	blobs := map[string][]byte{}
	if with {
		blobs[name] = []byte(wav.String())
	}
	path := filepath.Join(t.TempDir(), "lap.jubrak")
	f, err := os.Create(path)
	require.NoError(t, err)
	require.NoError(t, format.WriteArchive(f, text, blobs))
	require.NoError(t, f.Close())
	return path
}

func TestImport(t *testing.T) {
	data := t.TempDir()
	status, out := call(t, "import", archive(t, true), "--data", data)
	require.Zero(t, status)
	id := strings.TrimSpace(out)
	assert.Regexp(t, "^[0-9a-f]{12}$", id)
	dir := t.TempDir()
	status, _ = call(t, "render", id, "--data", data, "--out", dir)
	require.Zero(t, status)
	assert.FileExists(t, filepath.Join(dir, "spät-夜-loop-100bpm.wav"))
	status, text := messages(t, "import", archive(t, false), "--data", data)
	assert.Zero(t, status)
	assert.Contains(t, text, "Kick: the sound of its layer “rink slap” was not in the archive")
	for _, bad := range [][]string{{"import"}, {"import", "--data"}} {
		status, _ = call(t, bad...)
		assert.Equal(t, 2, status)
	}
	status, text = messages(t, "import", loop, "missing.jubrak", "--data", data)
	assert.Equal(t, 1, status)
	assert.Contains(t, text, "not a project archive")
	assert.Contains(t, text, "missing.jubrak")
	unlock, err := store.Lock(data)
	require.NoError(t, err)
	defer unlock()
	status, text = messages(t, "import", archive(t, true), "--data", data)
	assert.Equal(t, 1, status)
	assert.Contains(t, text, "another Jubrak is running")
	assert.ErrorContains(t, serve(context.Background(), "127.0.0.1:17880", data, false), "another Jubrak is running")
}

// A layer that has lost its sound is named, and nothing is made unless reported so.
func TestRenderNamesLostSounds(t *testing.T) {
	path, dir := archive(t, false), t.TempDir()
	status, text := messages(t, "render", path, "--out", dir)
	assert.Equal(t, 1, status)
	assert.Contains(t, text, `Kick: layer "rink slap"`)
	made, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, made)
	status, text = messages(t, "render", path, "--out", dir, "--skip-missing")
	assert.Zero(t, status)
	assert.Contains(t, text, "rink slap")
	made, err = os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, made, 1)
}

// Files beyond full scale are reported, with what brings them below.
func TestRenderWarnsAboveFullScale(t *testing.T) {
	path, dir := archive(t, true), t.TempDir()
	status, text := messages(t, "render", path, "--out", dir)
	require.Zero(t, status)
	assert.Regexp(t, `\d+\.\d dB above full scale; \d+ samples .* --gain -\d`, text)
	status, text = messages(t, "render", path, "--out", dir, "--gain", "-30")
	assert.Zero(t, status)
	assert.Empty(t, text)
	status, _ = call(t, "render", path, "--gain", "90")
	assert.Equal(t, 2, status)
}
