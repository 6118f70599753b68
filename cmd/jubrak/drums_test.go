package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/format"
)

// A file for each row, as 48 kHz float, and the report's fields.
func TestDrums(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "drums")
	status, out := call(t, "drums", loop, "--out", dir, "--json")
	require.Zero(t, status)
	var report struct {
		Drums []struct {
			File    string
			Family  string
			Strokes []struct{ Used bool }
			Known   struct {
				Edges []float64   `json:"edges_hz"`
				Error [][]float64 `json:"error_db"`
			}
			Words []string
		}
	}
	require.NoError(t, json.Unmarshal([]byte(out), &report))
	require.GreaterOrEqual(t, len(report.Drums), 3)
	assert.Equal(t, "kick.wav", report.Drums[0].File)
	for _, d := range report.Drums {
		data, err := os.ReadFile(filepath.Join(dir, d.File))
		require.NoError(t, err, d.File)
		b, err := format.Decode(data)
		require.NoError(t, err)
		assert.Equal(t, 48000, b.Rate)
		assert.Greater(t, b.Peak(), 0.001, d.File)
		assert.NotEmpty(t, d.Words)
		assert.Len(t, d.Known.Error[0], len(d.Known.Edges)-1)
	}
	midi := filepath.Join(t.TempDir(), "heard.mid")
	status, _ = call(t, "analyze", loop, "--json", "--midi", midi)
	require.Zero(t, status)
	status, _ = call(t, "drums", midi, "--out", dir)
	assert.Equal(t, 1, status, "a MIDI file has no sound")
	status, _ = call(t, "drums", loop)
	assert.Equal(t, 2, status, "where to?")
}
