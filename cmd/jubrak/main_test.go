package main

import (
	"context"
	"encoding/json"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/core/format"
	"jubrak/core/project"
)

// call runs the command line and returns its exit status and output.
func call(t *testing.T, args ...string) (status int, stdout string) {
	t.Helper()
	old := os.Stdout
	r, w, err := os.Pipe()
	require.NoError(t, err)
	os.Stdout = w
	out := make(chan string)
	go func() {
		data, _ := io.ReadAll(r)
		out <- string(data)
	}()
	status = run(context.Background(), args)
	_ = w.Close()
	os.Stdout = old
	return status, <-out
}

const loop = "../../fixtures/gm/driving-140.flac"

func TestExitStatus(t *testing.T) {
	bad := filepath.Join(t.TempDir(), "bad.wav")
	require.NoError(t, os.WriteFile(bad, []byte("no sound"), 0o644))
	for _, c := range []struct {
		status int
		args   []string
	}{
		{0, []string{"--help"}}, {2, []string{"dance"}}, {2, []string{"analyze"}}, {2, []string{"analyze", loop, "--loud"}},
		{1, []string{"analyze", "missing.wav"}}, {1, []string{"analyze", bad, "--json"}}, {1, []string{"measure", bad}},
		{2, []string{"render", "x", "--format", "ogg"}}, {1, []string{"render", "x", "--data", t.TempDir()}},
		{2, []string{"render", "x", "--bars", "some"}}, {2, []string{"serve", "--addr", "0.0.0.0:80"}}, {2, []string{"serve", "--addr", "nonsense"}},
	} {
		status, _ := call(t, c.args...)
		assert.Equal(t, c.status, status, "%v", c.args)
	}
}

// The fields of the contract.
func TestAnalyzeJSON(t *testing.T) {
	midi := filepath.Join(t.TempDir(), "out.mid")
	status, out := call(t, "analyze", loop, "--json", "--midi", midi)
	require.Zero(t, status)
	var a map[string]any
	require.NoError(t, json.Unmarshal([]byte(out), &a))
	for _, field := range []string{"duration_s", "sample_rate", "tempo_bpm", "tempo_confidence", "meter", "beats_s", "downbeats_s", "cycle_bars", "hits", "feel", "groove", "level", "balance_db",
		"cycles", "by_step", "tempo_curve", "facts", "third_octaves", "left_out"} {
		assert.Contains(t, a, field)
	}
	hit := a["hits"].([]any)[0].(map[string]any)
	for _, field := range []string{"time_s", "family", "velocity", "confidence", "bar", "step", "offset_ms"} {
		assert.Contains(t, hit, field)
	}
	feel := a["feel"].(map[string]any)
	for _, field := range []string{"grid", "anchor", "swing_percent", "swing_stderr", "voices", "drift"} {
		assert.Contains(t, feel, field)
	}
	for _, field := range []string{"lean_ms", "lean_stderr", "scatter_ms", "lag1", "count", "contour_ms", "accent"} {
		assert.Contains(t, feel["voices"].(map[string]any)["kick"], field)
	}
	fact := a["facts"].([]any)[0].(map[string]any)
	assert.Equal(t, "tempo", fact["id"])
	assert.NotEmpty(t, fact["text"])
	assert.Equal(t, 16.0, feel["grid"])
	assert.InDelta(t, 140, a["tempo_bpm"], 1)
	// Its MIDI is a reference in turn, with the same hits.
	status, again := call(t, "analyze", midi, "--json")
	require.Zero(t, status)
	var b map[string]any
	require.NoError(t, json.Unmarshal([]byte(again), &b))
	assert.Len(t, b["hits"], len(a["hits"].([]any)))
	// A stretch of it.
	status, part := call(t, "analyze", loop, "--json", "--from", "2", "--to", "7.5")
	require.Zero(t, status)
	require.NoError(t, json.Unmarshal([]byte(part), &b))
	assert.InDelta(t, 5.5, b["duration_s"], 1e-6)
	assert.Less(t, len(b["hits"].([]any)), len(a["hits"].([]any)))
	status, _ = call(t, "analyze", loop, "--from", "2000")
	assert.Equal(t, 1, status)
	status, text := call(t, "analyze", midi)
	assert.Zero(t, status)
	assert.Regexp(t, regexp.MustCompile(`1(39|40)\.\d\d BPM in 4/4`), text, "in sentences")
	assert.Regexp(t, regexp.MustCompile(`(?m)^kick +\d+ +[+-]\d+\.\d ±\d`), text, "and family by family")
	assert.Less(t, strings.Index(text, "\nkick"), strings.Index(text, "\nhat_closed"), "always in the same order")
}

func TestMeasureAndRender(t *testing.T) {
	dir := t.TempDir()
	d, _, err := project.New("Side step").Apply(project.Edits{project.AddHit{Voice: "kick", Tick: 0}}, nil)
	require.NoError(t, err)
	text, err := json.Marshal(d)
	require.NoError(t, err)
	path := filepath.Join(dir, "p.json")
	require.NoError(t, os.WriteFile(path, text, 0o644))
	status, out := call(t, "render", path, "--out", dir, "--mix", "--stems", "--one-shots", "--midi", "--bars", "1:4")
	require.Zero(t, status)
	for _, name := range []string{"side-step-loop-100bpm.wav", "side-step-stem-01-kick.wav", "side-step-05-808.wav", "side-step.mid"} {
		assert.FileExists(t, filepath.Join(dir, name))
		assert.Contains(t, out, name)
	}
	status, out = call(t, "measure", filepath.Join(dir, "side-step-01-kick.wav"), "--json")
	require.Zero(t, status)
	var m map[string]any
	require.NoError(t, json.Unmarshal([]byte(out), &m))
	for _, field := range []string{"sample_rate", "channels", "duration_ms", "leading_silence_ms", "peak_dbfs", "true_peak_dbtp", "rms_dbfs", "crest_db", "lufs_integrated", "attack_ms", "decay_60db_ms", "decay_range", "fundamental_hz", "note", "cents", "pitch_curve", "spectral_centroid_hz", "flatness", "snap_db", "third_octave_db", "balance_db", "stereo_correlation", "family_guess"} {
		assert.Contains(t, m, field)
	}
	assert.InDelta(t, 49, m["fundamental_hz"], 0.5)
	assert.Equal(t, "G1", m["note"])
	assert.Equal(t, "kick", m["family_guess"])
	status, _ = call(t, "measure", filepath.Join(dir, "side-step-01-kick.wav"))
	assert.Zero(t, status)
}

// A piece whole, a section of it by name, its MIDI, and the loop of another variation.
func TestRenderAPiece(t *testing.T) {
	dir := t.TempDir()
	d, _, err := project.New("Side step").Apply(project.Edits{project.AddHit{Voice: "kick", Tick: 0}, project.SetSection{Section: "s1", Name: new("Doors"), Bars: new(3)},
		project.AddVariation{Name: "busy"}, project.AddHit{Voice: "snare", Tick: 960}, project.AddSection{Name: "Full floor", Bars: 2}}, nil)
	require.NoError(t, err)
	text, err := json.Marshal(d)
	require.NoError(t, err)
	path := filepath.Join(dir, "p.json")
	require.NoError(t, os.WriteFile(path, text, 0o644))
	status, out := call(t, "render", path, "--out", dir, "--arrangement", "--mix", "--stems", "--midi")
	require.Zero(t, status)
	for _, name := range []string{"side-step-piece.wav", "side-step-stem-02-snare.wav", "side-step-piece.mid"} {
		assert.Contains(t, out, name)
	}
	seconds := func(name string) float64 {
		data, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		b, err := format.Decode(data)
		require.NoError(t, err)
		return b.Seconds()
	}
	assert.GreaterOrEqual(t, seconds("side-step-piece.wav"), 5*2.4)
	status, out = call(t, "render", path, "--out", dir, "--section", "full FLOOR")
	require.Zero(t, status)
	assert.Contains(t, out, "side-step-section-02-full-floor.wav")
	assert.InDelta(t, 2*2.4, seconds("side-step-section-02-full-floor.wav"), 2)
	status, _ = call(t, "render", path, "--out", dir, "--variation", "A")
	assert.Zero(t, status)
	for _, wrong := range [][]string{{"--section", "Chorus"}, {"--variation", "Q"}} {
		status, _ = call(t, append([]string{"render", path, "--out", dir}, wrong...)...)
		assert.Equal(t, 1, status, wrong)
	}
	status, _ = call(t, "render", path, "--arrangement", "--bars", "4")
	assert.Equal(t, 2, status)
}

// Ctrl C lets the server close in good order.
func TestServeClosesGracefully(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- serve(ctx, "127.0.0.1:17879", t.TempDir(), false) }()
	require.Eventually(t, func() bool {
		reply, err := http.Get("http://127.0.0.1:17879/api/info")
		if err != nil {
			return false
		}
		_ = reply.Body.Close()
		return reply.StatusCode == 200
	}, 10*time.Second, 20*time.Millisecond)
	assert.ErrorContains(t, serve(ctx, "127.0.0.1:17879", t.TempDir(), false), "taken")
	cancel()
	select {
	case err := <-ended:
		assert.NoError(t, err)
	case <-time.After(10 * time.Second):
		t.Fatal("it did not end")
	}
}
