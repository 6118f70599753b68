package service

import (
	"bytes"
	"context"
	"errors"
	"math"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/jobs"
	"jubrak/app/store"
	"jubrak/core/audio"
	"jubrak/core/format"
)

func ended(t *testing.T, w *Service, j jobs.Job) jobs.Job {
	t.Helper()
	require.Eventually(t, func() bool {
		j, _ = w.Jobs.Get(j.ID)
		return j.Status.Ended()
	}, 2*time.Minute, 5*time.Millisecond)
	return j
}

// A beat of clicks at 8 kHz, so long that it cannot be read whole; between 100
// and 220 s it is loud.
func TestAStretchOfALongFile(t *testing.T) {
	if testing.Short() {
		t.Skip("writes a large file")
	}
	const rate = 8000
	b := audio.New(rate, 2, 34_000_000)
	quiet, loud := make([]float32, rate/2), make([]float32, rate/2)
	for i := range loud {
		at := float64(i) / rate
		loud[i] = float32(0.7 * math.Sin(2*math.Pi*60*at) * math.Exp(-at/0.05))
		quiet[i] = loud[i] / 35
	}
	for _, ch := range b.Channels {
		for at := 0; at < len(ch); at += len(loud) {
			beat := quiet
			if at >= 100*rate && at < 220*rate {
				beat = loud
			}
			copy(ch[at:], beat)
		}
	}
	w := open(t)
	st := make1(t, w)
	job, err := w.Import(st.ID, "all_night.v2.wav", bytes.NewReader(wavBytes(t, b)))
	require.NoError(t, err)
	j := ended(t, w, job)
	require.Equal(t, jobs.Done, j.Status, j.Error)
	require.Contains(t, j.Result, ChooseStretch)
	id := j.Result[len(ChooseStretch):]
	l, err := w.Long(id)
	require.NoError(t, err)
	assert.InDelta(t, 4250, l.Survey.Seconds, 0.01)
	assert.InDelta(t, 100, l.From, 0.5, "the loud part is proposed")
	assert.InDelta(t, 220, l.To, 0.5)
	assert.InDelta(t, format.MaxSamples/2/48000, l.Longest, 1, "stereo, once it is at 48 kHz")

	for _, bad := range []Stretch{{-1, 5}, {5, 5}, {9000, 9100}, {0, 4249}, {math.NaN(), 3}} {
		_, err := w.ImportStretch(st.ID, id, bad)
		var refusal *Refusal
		assert.ErrorAs(t, err, &refusal, "%v", bad)
	}
	job, err = w.ImportStretch(st.ID, id, Stretch{130, 160})
	require.NoError(t, err)
	j = ended(t, w, job)
	require.Equal(t, jobs.Done, j.Status, j.Error)
	st, err = w.Open(st.ID)
	require.NoError(t, err)
	ref := st.Document.Reference(j.Result)
	require.NotNil(t, ref)
	assert.Equal(t, "all night.v2 from 2:10", ref.Name)
	a, err := w.Analysis(context.Background(), st.ID, ref.ID)
	require.NoError(t, err)
	assert.InDelta(t, 30, a.Duration, 0.001)
	_, err = w.Long(id)
	assert.ErrorIs(t, err, store.ErrNotFound, "it is forgotten")
	assert.Eventually(t, func() bool { // swept when the work has ended, not before it is reported
		_, err := w.Store.Blob(id)
		return errors.Is(err, store.ErrNotFound)
	}, 5*time.Second, 20*time.Millisecond)
	_, err = w.ImportStretch(st.ID, id, Stretch{130, 160})
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, w.DropLong(id), store.ErrNotFound)
}

// Of a file that breaks off all that is there is proposed; a MIDI file that
// does is refused with its own reason.
func TestAFileThatBreaksOff(t *testing.T) {
	w := open(t)
	st := make1(t, w)
	flac, err := os.ReadFile("../../fixtures/gm/lazy-88.flac")
	require.NoError(t, err)
	job, err := w.Import(st.ID, "cut.flac", bytes.NewReader(flac[:len(flac)/3]))
	require.NoError(t, err)
	j := ended(t, w, job)
	require.Equal(t, jobs.Done, j.Status, j.Error)
	require.Contains(t, j.Result, ChooseStretch)
	l, err := w.Long(j.Result[len(ChooseStretch):])
	require.NoError(t, err)
	assert.Contains(t, l.Survey.Damage, "cut short after")
	assert.Zero(t, l.From)
	assert.InDelta(t, l.Survey.Seconds, l.To, 1e-9)
	job, err = w.ImportStretch(st.ID, l.ID, Stretch{l.From, l.To + 0.5})
	require.NoError(t, err)
	j = ended(t, w, job)
	require.Equal(t, jobs.Done, j.Status, j.Error)
	st, err = w.Open(st.ID)
	require.NoError(t, err)
	assert.Equal(t, "cut", st.Document.Reference(j.Result).Name, "it is from the beginning")

	for name, bad := range map[string][]byte{"cut.mid": []byte("MThd\x00\x00\x00\x06\x00\x01\x00\x01\x01\xe0MTrk\x00\x00\x00\x40"), "stub.flac": flac[:9000]} {
		job, err := w.Import(st.ID, name, bytes.NewReader(bad))
		require.NoError(t, err)
		j := ended(t, w, job)
		assert.Equal(t, jobs.Failed, j.Status)
		assert.Contains(t, j.Error, "cut short", name)
	}
}
