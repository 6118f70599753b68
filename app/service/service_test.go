package service

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"math"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/jobs"
	"jubrak/app/live"
	"jubrak/app/store"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/groove"
	"jubrak/core/project"
	"jubrak/core/transcribe"
)

func open(t *testing.T) *Service {
	t.Helper()
	st, err := store.Open(t.TempDir())
	require.NoError(t, err)
	w := New(st)
	t.Cleanup(func() { w.Close(); _ = st.Close() })
	return w
}

func make1(t *testing.T, w *Service, edits ...project.Edit) *State {
	t.Helper()
	d, _, err := project.New("Slow skate").Apply(edits, nil)
	require.NoError(t, err)
	st, err := w.Create(d)
	require.NoError(t, err)
	return st
}

func recording(t *testing.T) []byte {
	t.Helper()
	data, err := os.ReadFile("../../fixtures/gm/driving-140.flac")
	require.NoError(t, err)
	return data
}

func none(string, float64) {}

func TestFileNames(t *testing.T) {
	for file, want := range map[string]string{
		"rink_take.flac": "rink take", ".wav": "Reference", "a/b/c.mid": "c", strings.Repeat("x", 100) + ".wav": strings.Repeat("x", 60),
	} {
		assert.Equal(t, want, displayName(file), file)
	}
}

func TestSentences(t *testing.T) {
	assert.Equal(t, "Swing is too large.", Sentence(errors.New("swing is too large")))
	assert.Equal(t, "Done.", Sentence(errors.New("Done.")))
}

func TestAFileIsHeardOnce(t *testing.T) {
	w := open(t)
	st := make1(t, w)
	id, err := w.AddReference(context.Background(), st.ID, "take.flac", recording(t), none)
	require.NoError(t, err)
	st, err = w.Open(st.ID)
	require.NoError(t, err)
	ref := st.Document.Reference(id)
	require.NotNil(t, ref)
	listened := false
	count := func(string, float64) { listened = true }
	_, err = w.Heard(context.Background(), ref, count)
	require.NoError(t, err)
	// A new workshop on the same store reads what was kept.
	other := New(w.Store)
	defer other.Close()
	first, err := other.Heard(context.Background(), ref, count)
	require.NoError(t, err)
	assert.False(t, listened)
	assert.NotEmpty(t, first.Hits)
	// Without it, the recording is heard anew, with the same result.
	require.NoError(t, w.Store.PutHearing(ref.Blob, transcribe.RawVersion, []byte("damaged")))
	third := New(w.Store)
	defer third.Close()
	again, err := third.Heard(context.Background(), ref, count)
	require.NoError(t, err)
	assert.True(t, listened)
	assert.Equal(t, first.Hits, again.Hits)
}

func TestImportWhileEditing(t *testing.T) {
	w := open(t)
	st := make1(t, w)
	job, err := w.Import(st.ID, "take.flac", bytes.NewReader(recording(t)))
	require.NoError(t, err)
	version := st.Version
	for i := range 5 {
		next, err := w.Edit(st.ID, version, project.Edits{project.SetNumber{At: "tempo/bpm", Value: float64(90 + i)}}, "")
		if errors.Is(err, store.ErrConflict) {
			break // the import came first
		}
		require.NoError(t, err)
		version = next.Version
	}
	require.Eventually(t, func() bool {
		job, _ = w.Jobs.Get(job.ID)
		return job.Status.Ended()
	}, 30*time.Second, 5*time.Millisecond)
	assert.Equal(t, jobs.Done, job.Status, job.Error)
	after, err := w.Open(st.ID)
	require.NoError(t, err)
	assert.Len(t, after.Document.References, 1)
	assert.GreaterOrEqual(t, after.Document.Tempo[0].BPM, 90.0, "the edits are there as well")
	_, err = w.Import("none", "x", bytes.NewReader(nil))
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestTrackForTheMonitor(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to recordings")
	}
	w := open(t)
	st := make1(t, w, project.AddHit{Voice: "kick", Tick: 0})
	track, gain, err := w.Track(context.Background(), st)
	require.NoError(t, err)
	assert.Nil(t, track)
	assert.Equal(t, 1.0, gain)
	_, err = w.AddReference(context.Background(), st.ID, "take.flac", recording(t), none)
	require.NoError(t, err)
	st, err = w.Open(st.ID)
	require.NoError(t, err)
	track, gain, err = w.Track(context.Background(), st)
	require.NoError(t, err)
	require.NotNil(t, track)
	assert.Equal(t, 48000, track.Audio.Rate)
	assert.Zero(t, track.To%4, "whole bars")
	assert.InDelta(t, 32, track.To, 4)
	assert.Positive(t, gain)
	// An open monitor is given the track after an edit.
	session := live.NewSession(st.Document.Song(nil), st.Version, nil)
	leave := w.Hub.Join(st.ID, "", session)
	defer leave()
	w.retrackAll(st.ID)
	w.retrackAll("none")
	assert.Empty(t, w.stale)
}

func TestWave(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to recordings")
	}
	w := open(t)
	st := make1(t, w)
	id, err := w.AddReference(context.Background(), st.ID, "take.flac", recording(t), none)
	require.NoError(t, err)
	p, err := w.Wave(st.ID, id, 0, 40, 100)
	require.NoError(t, err)
	require.Len(t, p.Points, 100)
	loud := 0
	for _, x := range p.Points {
		assert.LessOrEqual(t, x[0], x[1])
		if x[1]-x[0] > 0.3 {
			loud++
		}
	}
	assert.Greater(t, loud, 20)
	assert.Equal(t, [2]float64{}, p.Points[99], "silence beyond the end")
	_, err = w.Wave(st.ID, "none", 0, 1, 5)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestStemsAndOneShots(t *testing.T) {
	d, _, err := project.New("x").Apply(project.Edits{project.AddHit{Voice: "kick", Tick: 0}, project.SetNumber{At: "hat/mute", Value: 1}, project.SetNumber{At: "kick/level_db", Value: -20}}, nil)
	require.NoError(t, err)
	stems, err := export.Stems(context.Background(), d, nil, export.Options{})
	require.NoError(t, err)
	assert.Len(t, stems, 4, "a muted voice has no stem")
	shots, err := export.OneShots(context.Background(), d, nil, export.Options{})
	require.NoError(t, err)
	require.Len(t, shots, 5)
	assert.InDelta(t, -20, 20*math.Log10(shots[0].B.Peak()/export.Shot(&d.Kit.Voices[0], nil, d.Stroke()).Peak()), 0.01, "at its level in the mix")
	assert.Less(t, shots[0].B.Seconds(), 2.0, "trimmed")
}

func TestArchiveOpensAgain(t *testing.T) {
	if testing.Short() {
		t.Skip("listens to recordings")
	}
	w := open(t)
	st := make1(t, w, project.SetNumber{At: "groove/feel/swing_percent", Value: 61})
	_, err := w.AddReference(context.Background(), st.ID, "take.flac", recording(t), none)
	require.NoError(t, err)
	st, err = w.Open(st.ID)
	require.NoError(t, err)
	f, err := w.Export(context.Background(), st.ID, &st.Document, "project", export.Options{})
	require.NoError(t, err)
	assert.Equal(t, "slow-skate.jubrak", f.Name)
	var buf bytes.Buffer
	require.NoError(t, f.Write(&buf))
	opened, err := format.OpenArchive(buf.Bytes())
	require.NoError(t, err)
	text, err := opened.Document()
	require.NoError(t, err)
	d, err := project.Read(text)
	require.NoError(t, err)
	assert.Equal(t, &st.Document, d)
	z, err := zip.NewReader(bytes.NewReader(buf.Bytes()), int64(buf.Len()))
	require.NoError(t, err)
	assert.Equal(t, "blobs/"+d.References[0].Blob, z.File[1].Name)
	_, err = w.Export(context.Background(), "", d, "tape", export.Options{})
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestFallsTellWhereHitsFall(t *testing.T) {
	w := open(t)
	st := make1(t, w, project.AddHit{Voice: "hat", Tick: 240}, project.SetNumber{At: "groove/feel/swing_percent", Value: 60}, project.SetNumber{At: "groove/feel/hat/lean_ms", Value: 5})
	hat := slices.IndexFunc(st.Document.Groove.Lanes, func(l groove.Lane) bool { return l.Voice == "hat" })
	require.Len(t, st.Falls, len(st.Document.Groove.Lanes))
	require.Len(t, st.Falls[hat], 1)
	// 10 % of a 300 ms pair at 100 BPM, and the lean.
	assert.InDelta(t, 35, st.Falls[hat][0].Offset, 1e-6)
	short := st.Document
	short.Groove.Lanes = append([]groove.Lane(nil), short.Groove.Lanes...)
	for i := range short.Groove.Lanes {
		if short.Groove.Lanes[i].Voice == "hat" {
			short.Groove.Lanes[i].Steps = 4 // eight passes in two bars
		}
	}
	again, err := w.Create(&short)
	require.NoError(t, err)
	assert.Len(t, again.Falls[hat], 1, "the first pass alone is drawn")
}

// A project that a newer version wrote is named in the list and says what it is;
// the others are there as ever.
func TestAProjectOfANewerVersion(t *testing.T) {
	w := open(t)
	plain := make1(t, w)
	require.NoError(t, w.Store.Create("newer", "Late lap", []byte(`{"schema":99}`)))
	list, err := w.Projects()
	require.NoError(t, err)
	require.Len(t, list, 2)
	for _, p := range list {
		if p.ID == plain.ID {
			assert.Empty(t, p.Problem)
			continue
		}
		assert.Equal(t, "Late lap", p.Name)
		assert.Contains(t, p.Problem, "newer version of Jubrak")
	}
	var refusal *Refusal
	_, err = w.Open("newer")
	require.ErrorAs(t, err, &refusal)
	assert.Contains(t, refusal.Message, "newer version")
	_, err = w.Edit("newer", 1, project.Edits{project.SetBars{Bars: 1}}, "")
	assert.ErrorAs(t, err, &refusal)
}
