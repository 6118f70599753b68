package store

import (
	"bytes"
	"io"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Files in blobs/ that have no blob's name are somebody else's, and stay.
func TestForeignFilesStay(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	foreign := filepath.Join(dir, "blobs", "my notes.txt")
	require.NoError(t, os.WriteFile(foreign, []byte("keep me"), 0o600))
	name, err := s.PutBlob([]byte("unnamed"))
	require.NoError(t, err)
	n, err := s.Sweep()
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	assert.FileExists(t, foreign)
	assert.NoFileExists(t, filepath.Join(dir, "blobs", name))
}

// A blob that is damaged is not given out, and is mended by bringing its file again.
func TestADamagedBlobIsMended(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	data := bytes.Repeat([]byte("drum"), 1000)
	name, err := s.PutBlob(data)
	require.NoError(t, err)
	path := filepath.Join(dir, "blobs", name)
	for _, damage := range [][]byte{data[:100], append(bytes.Repeat([]byte("drum"), 999), "trum"...), nil} {
		require.NoError(t, os.WriteFile(path, damage, 0o600))
		_, err = s.Blob(name)
		require.ErrorIs(t, err, ErrDamaged)
		again, err := s.PutBlob(data)
		require.NoError(t, err)
		assert.Equal(t, name, again)
		back, err := s.Blob(name)
		require.NoError(t, err)
		assert.Equal(t, data, back)
	}
}

// While a file is on its way nobody waits: neither for a sweep nor for a save.
func TestAStalledUploadHoldsNothing(t *testing.T) {
	s := open(t, t.TempDir())
	r, w := io.Pipe()
	arrived := make(chan *Incoming)
	go func() {
		in, err := s.Receive(r)
		assert.NoError(t, err)
		arrived <- in
	}()
	_, _ = w.Write([]byte("half of it"))
	require.NoError(t, s.Create("p", "P", []byte("{}")))
	_, err := s.Sweep()
	require.NoError(t, err)
	require.NoError(t, s.Delete("p"))
	_, _ = w.Write([]byte(", and the rest"))
	_ = w.Close()
	in := <-arrived
	require.NoError(t, in.Keep())
	data, err := s.Blob(in.Name)
	require.NoError(t, err)
	assert.Equal(t, "half of it, and the rest", string(data))
}

// Many write at once: nobody is reported that the database is locked.
func TestManyWritersAtOnce(t *testing.T) {
	s := open(t, t.TempDir())
	var wg sync.WaitGroup
	began := time.Now()
	for i := range 8 {
		id := string(rune('a' + i))
		require.NoError(t, s.Create(id, id, []byte("{}")))
		wg.Go(func() {
			for n := 1; n <= 60; n++ {
				_, err := s.Save(id, n, Change{Name: id, Document: []byte(`{"n":1}`), Parts: map[string][]byte{"p": bytes.Repeat([]byte{byte(n)}, 2000)}})
				assert.NoError(t, err)
			}
		})
		wg.Go(func() {
			for range 30 {
				name, err := s.PutBlob([]byte(id + time.Since(began).String()))
				assert.NoError(t, err)
				assert.NoError(t, s.PutHearing(name, 1, []byte("x")))
				_, err = s.Sweep()
				assert.NoError(t, err)
				_, err = s.Projects()
				assert.NoError(t, err)
			}
		})
	}
	wg.Wait()
}

// On a full disk a project can still be deleted, which gives the room of its pages back.
func TestDeletingOnAFullDisk(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	noise := make([]byte, 1<<20)
	_, _ = rand.NewChaCha8([32]byte{1}).Read(noise)
	require.NoError(t, s.Create("big", "Big", noise))
	require.NoError(t, s.Create("small", "Small", []byte("{}")))
	require.NoError(t, s.db.Exec("pragma wal_checkpoint(truncate)").Error)
	size := func() int64 {
		info, err := os.Stat(filepath.Join(dir, databaseFile))
		require.NoError(t, err)
		return info.Size()
	}
	before := size()
	assert.FileExists(t, s.reserve())
	tries := 0
	require.NoError(t, s.withReserve(func() error {
		if tries++; tries == 1 {
			assert.FileExists(t, s.reserve())
			return ErrDiskFull
		}
		assert.NoFileExists(t, s.reserve(), "its room is used")
		return s.delete("big")
	}))
	assert.FileExists(t, s.reserve(), "and kept for the next time")
	assert.Less(t, size(), before-1<<19)
	_, err := s.Load("small")
	require.NoError(t, err)
}

// A folder that was removed or may not be written: a sentence that says so, and no save
// into what nobody will find again.
func TestAFolderThatIsGone(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "data")
	s := open(t, dir)
	require.NoError(t, s.Create("p", "P", []byte("{}")))
	require.NoError(t, os.RemoveAll(dir))
	_, err := s.Save("p", 1, Change{Name: "P", Document: []byte("{}")})
	require.ErrorIs(t, err, ErrNoFolder)
	_, err = s.PutBlob([]byte("x"))
	require.ErrorIs(t, err, ErrNoFolder)
	assert.ErrorIs(t, userError(&os.PathError{Op: "open", Path: dir, Err: os.ErrPermission}), ErrNotAllowed)
	for _, err := range []error{ErrNoFolder, ErrNotAllowed, ErrDamaged} {
		assert.False(t, strings.Contains(err.Error(), dir))
	}
}
