package service

import (
	"bytes"
	"math"
	"os"
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jubrak/app/jobs"
	"jubrak/core/audio"
	"jubrak/core/format"
)

// most is the largest heap, in bytes, while f runs, over what there was before.
func most(f func()) uint64 {
	var m runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&m)
	before := m.HeapAlloc
	stop, done := make(chan struct{}), make(chan uint64)
	go func() {
		var top uint64
		for {
			select {
			case <-stop:
				done <- top
				return
			case <-time.After(2 * time.Millisecond):
				runtime.ReadMemStats(&m)
				top = max(top, m.HeapAlloc)
			}
		}
	}()
	f()
	close(stop)
	return max(<-done, before) - before
}

// What listening needs is little more than the decoded recording: its file stays on the
// disk, and the sound that is listened to takes its place.
func TestListeningNeedsLittleMoreThanTheRecording(t *testing.T) {
	s := open(t)
	id := make1(t, s).ID
	b := audio.New(44100, 2, 60*44100)
	for i := range b.Channels[0] {
		v := float32(math.Exp(-float64(i%22050)/2000) * math.Sin(float64(i)/20))
		b.Channels[0][i], b.Channels[1][i] = v, v/2
	}
	size := uint64(b.Frames() * 2 * 4)
	var wav bytes.Buffer
	require.NoError(t, format.WriteWAV(&wav, b, format.WAV24))
	file := t.TempDir() + "/long.wav"
	require.NoError(t, os.WriteFile(file, wav.Bytes(), 0o600))
	b, wav = nil, bytes.Buffer{}
	got := most(func() {
		f, err := os.Open(file)
		require.NoError(t, err)
		defer func() { _ = f.Close() }()
		job, err := s.Import(id, "long.wav", f)
		require.NoError(t, err)
		require.Eventually(t, func() bool {
			j, _ := s.Jobs.Get(job.ID)
			return j.Status == jobs.Done
		}, 2*time.Minute, 5*time.Millisecond)
	})
	t.Logf("%.2f of the recording", float64(got)/float64(size))
	assert.Less(t, float64(got), 1.6*float64(size), "over a decoded recording of %d MB", size>>20)
}
