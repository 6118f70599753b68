package service

import (
	"bytes"
	"context"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/jobs"
	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/engine"
	"jubrak/core/export"
	"jubrak/core/format"
	"jubrak/core/project"
)

// organ is a recording of a held chord, s long, as a WAV file.
func organ(t *testing.T, seconds float64) []byte {
	b := audio.New(44100, 2, int(seconds*44100))
	for i := range b.Channels[0] {
		at := float64(i) / 44100
		b.Channels[0][i] = float32(0.2 * math.Sin(2*math.Pi*330*at))
		b.Channels[1][i] = b.Channels[0][i]
	}
	var w bytes.Buffer
	require.NoError(t, format.WriteWAV(&w, b, format.WAV16))
	return w.Bytes()
}

func withPiece(t *testing.T) (w *Service, st *State, dir string) {
	dir = t.TempDir()
	disk, err := store.Open(dir)
	require.NoError(t, err)
	w = New(disk)
	t.Cleanup(func() { w.Close(); _ = disk.Close() })
	st, err = w.Create(project.New("Laps"))
	require.NoError(t, err)
	edits := project.Edits{project.SetSection{Section: "s1", Bars: new(4)}}
	for i := range 8 {
		edits = append(edits, project.AddHit{Voice: "kick", Tick: i * 960, Velocity: 110}, project.AddHit{Voice: "hat", Tick: i*960 + 480, Velocity: 100})
	}
	edits = append(edits, project.AddHit{Voice: "snare", Tick: 960, Velocity: 120})
	_, err = w.Edit(st.ID, st.Version, edits, "")
	require.NoError(t, err)
	st, err = w.Open(st.ID)
	require.NoError(t, err)
	return w, st, dir
}

func backingsReady(t *testing.T, w *Service, id string) []BackingFacts {
	t.Helper()
	var list []BackingFacts
	require.Eventually(t, func() bool {
		var err error
		list, err = w.Backings(id)
		require.NoError(t, err)
		for _, b := range list {
			if !b.Ready && b.Problem == "" {
				return false
			}
		}
		return true
	}, 60*time.Second, 20*time.Millisecond)
	return list
}

func TestARecordingBehindTheDrums(t *testing.T) {
	w, st, _ := withPiece(t)
	job, err := w.AddBacking(st.ID, "Rink organ.wav", 3840, bytes.NewReader(organ(t, 5)))
	require.NoError(t, err)
	done := ended(t, w, job)
	require.Equal(t, jobs.Done, done.Status, done.Error)
	assert.NotEmpty(t, done.Notes, "a chord has no beat, which is said")
	list := backingsReady(t, w, st.ID)
	require.Len(t, list, 1)
	require.True(t, list[0].Ready)
	assert.InDelta(t, 5, list[0].Seconds, 0.01)
	assert.Equal(t, 3840, list[0].From)
	now, err := w.Open(st.ID)
	require.NoError(t, err)
	assert.Equal(t, "Rink organ", now.Document.Arrangement.Backings[0].Name)
	song := w.PieceSong(st.ID, &now.Document)
	l, r := make([]float32, 480), make([]float32, 480)
	song.Piece.Ready[done.Result].Recording.Read(48000, l, r)
	want := 0.2 * math.Sin(2*math.Pi*330*(1+100.0/48000))
	assert.InDelta(t, want, float64(l[100]), 2e-3, "it is read from the disk as it was")
	wave, err := w.BackingWave(st.ID, done.Result, 50)
	require.NoError(t, err)
	require.Len(t, wave.Points, 50)
	assert.InDelta(t, 0.2, wave.Points[20][1], 0.01)
	// It is heard in the file of the piece, where that is asked for.
	var file bytes.Buffer
	f, err := w.Export(context.Background(), st.ID, &now.Document, "piece", export.Options{Format: format.WAV32F, Backings: true})
	require.NoError(t, err)
	require.NoError(t, f.Write(&file))
	with, err := format.Decode(file.Bytes())
	require.NoError(t, err)
	file.Reset()
	f, err = w.Export(context.Background(), st.ID, &now.Document, "piece", export.Options{Format: format.WAV32F})
	require.NoError(t, err)
	require.NoError(t, f.Write(&file))
	without, err := format.Decode(file.Bytes())
	require.NoError(t, err)
	at := int(3.5 * engine.Rate)
	assert.InDelta(t, 0.2, maxApart(with, without, at, at+2000), 0.01)
	assert.Zero(t, maxApart(with, without, 0, int(2.3*engine.Rate)))
}

func maxApart(a, b *audio.Buffer, from, to int) (most float64) {
	for i := from; i < to; i++ {
		most = max(most, math.Abs(float64(a.Channels[0][i])-float64(b.Channels[0][i])))
	}
	return most
}

// A recording that is no sound, that is cut short, or that is gone from the disk: a sentence,
// and the drums play on.
func TestBrokenBackings(t *testing.T) {
	w, st, dir := withPiece(t)
	_, err := w.AddBacking(st.ID, "words.wav", 0, strings.NewReader("these are words and no sound at all, however they are called"))
	assert.ErrorContains(t, err, "not a sound file")
	now, err := w.Open(st.ID)
	require.NoError(t, err)
	assert.Empty(t, now.Document.Arrangement.Backings, "nothing was changed")
	whole := organ(t, 5)
	job, err := w.AddBacking(st.ID, "short.wav", 0, bytes.NewReader(whole[:len(whole)*2/3]))
	require.NoError(t, err)
	ended(t, w, job)
	list := backingsReady(t, w, st.ID)
	assert.True(t, list[0].Ready, "as far as it is whole")
	assert.InDelta(t, 3.3, list[0].Seconds, 0.1)
	now, err = w.Open(st.ID)
	require.NoError(t, err)
	b := now.Document.Arrangement.Backings[0]
	require.NoError(t, os.Remove(filepath.Join(dir, "blobs", b.Blob)))
	_, err = w.Edit(st.ID, now.Version, project.Edits{project.SetNumber{At: "backing/" + b.ID + "/pitch_st", Value: 2}}, "")
	require.NoError(t, err)
	list = backingsReady(t, w, st.ID)
	assert.False(t, list[0].Ready)
	assert.Contains(t, list[0].Problem, "gone from the disk")
	now, err = w.Open(st.ID)
	require.NoError(t, err)
	f, err := w.Export(context.Background(), st.ID, &now.Document, "piece", export.Options{Format: format.WAV32F})
	require.NoError(t, err)
	assert.NoError(t, f.Write(&bytes.Buffer{}))
	_, err = w.Export(context.Background(), st.ID, &now.Document, "piece", export.Options{Format: format.WAV32F, Backings: true})
	assert.ErrorContains(t, err, "bring it again, or remove it")
}

func TestAStretchComesBackIntoTheProject(t *testing.T) {
	w, st, _ := withPiece(t)
	voices := len(st.Document.Kit.Voices)
	bounced := func(as string) *State {
		now, err := w.Open(st.ID)
		require.NoError(t, err)
		out, err := w.BouncePiece(context.Background(), st.ID, PieceBounce{Base: now.Version, From: 0, To: 2 * 3840, As: as})
		require.NoError(t, err, as)
		return out
	}
	sample := bounced("sample")
	require.Len(t, sample.Document.Kit.Voices, voices+1)
	added := sample.Document.Kit.Voices[voices]
	assert.Equal(t, "Bars 1 to 2", added.Name)
	blob := added.Layers[0].Recording.Blob
	data, err := w.Store.Blob(blob)
	require.NoError(t, err)
	b, err := format.Decode(data)
	require.NoError(t, err)
	assert.InDelta(t, 4.8, b.Seconds(), 0.001)
	slices := bounced("slices")
	assert.Greater(t, len(slices.Document.Kit.Voices), voices+2)
	back := bounced("backing")
	assert.Len(t, back.Document.Arrangement.Backings, 1)
	_, err = w.BouncePiece(context.Background(), st.ID, PieceBounce{Base: back.Version, From: 100, To: 100, As: "sample"})
	assert.ErrorContains(t, err, "Choose a stretch")
}

func TestFactsOfAPiece(t *testing.T) {
	w, st, _ := withPiece(t)
	facts, err := w.Piece(st.ID)
	require.NoError(t, err)
	require.Len(t, facts.Bars, 5)
	assert.InDelta(t, 9.6, facts.Seconds, 1e-9)
	var at []string
	assert.Empty(t, facts.Drawn)
	drawable, err := w.Drawable(st.ID)
	require.NoError(t, err)
	for _, d := range drawable {
		at = append(at, d.At)
	}
	for _, want := range []string{"tempo/bpm", "groove/feel/swing_percent", "kick/level_db", "kick/layers/drum/body.decay_ms"} {
		assert.Contains(t, at, want)
	}
	hits, err := w.PieceHits(st.ID, 0, 4*3840)
	require.NoError(t, err)
	assert.False(t, hits.Merged)
	assert.Len(t, hits.Rows[0].Hits, 2*16, "two bars of beats, twice")
	// Of very many those that lie close are reported as one.
	space, err := w.Space(context.Background(), st.ID)
	require.NoError(t, err)
	assert.Len(t, space.Bars, 4)
	assert.NotEmpty(t, space.Says)
	// Of very many those that lie close are reported as one.
	edits := project.Edits{project.FillLane{Voice: "hat", Every: 1}, project.SetSection{Section: "s1", Bars: new(1000)}, project.SetNumber{At: "tempo/bpm", Value: 200}}
	now, err := w.Open(st.ID)
	require.NoError(t, err)
	_, err = w.Edit(st.ID, now.Version, edits, "")
	require.NoError(t, err)
	hits, err = w.PieceHits(st.ID, 0, 1000*3840)
	require.NoError(t, err)
	assert.True(t, hits.Merged)
	assert.Less(t, len(hits.Rows[0].Hits), 2*mostOfAll)
}
