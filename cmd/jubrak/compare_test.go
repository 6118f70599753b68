package main

import (
	"bytes"
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/format"
	"jubrak/demo/rink"
)

// A recording is rebuilt, compared with itself and with its rebuild; what is there already
// is kept.
func TestRebuildAndCompare(t *testing.T) {
	if testing.Short() {
		t.Skip("rebuilds a take, which the walk of a rebuild does, too")
	}
	dir := t.TempDir()
	take := filepath.Join(dir, "warm-up.wav")
	var file bytes.Buffer
	require.NoError(t, format.WriteWAV(&file, rink.Takes[0].Record(), format.WAV16))
	require.NoError(t, os.WriteFile(take, file.Bytes(), 0o600))
	made := filepath.Join(dir, "made")
	var got struct {
		Rebuilt []rebuiltFile `json:"rebuilt"`
	}
	read := func(into any, args ...string) {
		t.Helper()
		code, out := call(t, args...)
		require.Zero(t, code)
		require.NoError(t, json.Unmarshal([]byte(out), into))
	}
	read(&got, "rebuild", take, "--to", made, "--samples", "--json")
	require.Len(t, got.Rebuilt, 1)
	assert.False(t, got.Rebuilt[0].Skipped)
	assert.GreaterOrEqual(t, got.Rebuilt[0].Inside, got.Rebuilt[0].Measurable*9/10)
	read(&got, "rebuild", take, "--to", made, "--samples", "--json")
	assert.True(t, got.Rebuilt[0].Skipped, "resumed: it is there")

	var c struct {
		Comparisons []compared `json:"comparisons"`
	}
	read(&c, "compare", filepath.Join(made, "warm-up.jubrak"), take, "--json")
	require.Len(t, c.Comparisons, 1)
	assert.LessOrEqual(t, c.Comparisons[0].Outside, c.Comparisons[0].Measurable/10)
	read(&c, "compare", take, take, "--json")
	assert.Zero(t, c.Comparisons[0].Outside, "a recording is like itself")

	for name, args := range map[string][]string{"no target": {"rebuild", take}, "one alone": {"compare", take}, "two in one": {"rebuild", take, take, "--to", "x.jubrak"}} {
		assert.Equal(t, 2, run(context.Background(), args), name)
	}
	silent := filepath.Join(dir, "silent.wav")
	file.Reset()
	b := rink.Takes[0].Record().Slice(0, 100)
	require.NoError(t, format.WriteWAV(&file, b, format.WAV16))
	require.NoError(t, os.WriteFile(silent, file.Bytes(), 0o600))
	assert.Equal(t, 1, run(context.Background(), []string{"rebuild", silent, "--to", made}), "nothing to rebuild")
	_, err := os.Stat(filepath.Join(made, "silent.jubrak"))
	assert.Error(t, err)
}
