package store

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"testing/iotest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func open(t *testing.T, dir string) *Store {
	t.Helper()
	s, err := Open(dir)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s
}

func save(t *testing.T, s *Store, base int, doc, coalesce string) *Current {
	t.Helper()
	saved, err := s.Save("p", base, Change{Name: "Name", Document: []byte(doc), Coalesce: coalesce})
	require.NoError(t, err)
	c, err := s.Load("p")
	require.NoError(t, err)
	assert.Equal(t, []any{saved.Version, saved.Position, saved.CanUndo, saved.CanRedo}, []any{c.Version, c.Position, c.CanUndo, c.CanRedo})
	return c
}

func TestHistory(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	require.NoError(t, s.Create("p", "Name", []byte("0")))
	c := save(t, s, 1, "1", "")
	c = save(t, s, c.Version, "2", "")
	assert.True(t, c.CanUndo)
	assert.False(t, c.CanRedo)
	c, err := s.UndoRedo("p", c.Version, -1)
	require.NoError(t, err)
	assert.Equal(t, "1", string(c.Document))
	assert.True(t, c.CanRedo)
	// Everything is there after a restart, the undone edit included.
	require.NoError(t, s.Close())
	s = open(t, dir)
	c, err = s.Load("p")
	require.NoError(t, err)
	assert.Equal(t, "1", string(c.Document))
	c, err = s.UndoRedo("p", c.Version, 1)
	require.NoError(t, err)
	assert.Equal(t, "2", string(c.Document))
	c, err = s.UndoRedo("p", c.Version, 1)
	require.NoError(t, err)
	assert.Equal(t, "2", string(c.Document), "at the end it stays")
	c, _ = s.UndoRedo("p", c.Version, -1)
	c, _ = s.UndoRedo("p", c.Version, -1)
	assert.Equal(t, "0", string(c.Document))
	assert.False(t, c.CanUndo)
	c = save(t, s, c.Version, "new", "")
	assert.False(t, c.CanRedo, "a new edit forgets what was undone")
}

func TestTwoWindowsCannotOverwriteEachOther(t *testing.T) {
	s := open(t, t.TempDir())
	require.NoError(t, s.Create("p", "Name", []byte("0")))
	save(t, s, 1, "mine", "")
	_, err := s.Save("p", 1, Change{Name: "Name", Document: []byte("theirs")})
	assert.ErrorIs(t, err, ErrConflict)
	_, err = s.UndoRedo("p", 1, -1)
	assert.ErrorIs(t, err, ErrConflict)
	c, _ := s.Load("p")
	assert.Equal(t, "mine", string(c.Document))
}

func TestAGestureIsOneChange(t *testing.T) {
	s := open(t, t.TempDir())
	require.NoError(t, s.Create("p", "Name", []byte("0")))
	c := save(t, s, 1, "a1", "drag")
	c = save(t, s, c.Version, "a2", "drag")
	c = save(t, s, c.Version, "a3", "drag")
	c = save(t, s, c.Version, "b", "")
	c, _ = s.UndoRedo("p", c.Version, -1)
	assert.Equal(t, "a3", string(c.Document))
	c, _ = s.UndoRedo("p", c.Version, -1)
	assert.Equal(t, "0", string(c.Document))
	c, _ = s.UndoRedo("p", c.Version, 1)
	c = save(t, s, c.Version, "a4", "drag")
	c, _ = s.UndoRedo("p", c.Version, -1)
	assert.Equal(t, "a3", string(c.Document), "a gesture left by undo is over")
}

func TestHistoryIsBounded(t *testing.T) {
	s := open(t, t.TempDir())
	require.NoError(t, s.Create("p", "Name", []byte("0")))
	version := 1
	for i := range History + 20 {
		version = save(t, s, version, fmt.Sprint(i), "").Version
	}
	var n int64
	require.NoError(t, s.db.Model(&Revision{}).Count(&n).Error)
	assert.LessOrEqual(t, n, int64(History))
	c, _ := s.Load("p")
	assert.True(t, c.CanUndo)
}

func TestBlobsAndHearings(t *testing.T) {
	s := open(t, t.TempDir())
	name, err := s.PutBlob([]byte("sound"))
	require.NoError(t, err)
	again, err := s.PutBlob([]byte("sound"))
	require.NoError(t, err)
	assert.Equal(t, name, again)
	data, err := s.Blob(name)
	require.NoError(t, err)
	assert.Equal(t, "sound", string(data))
	for _, bad := range []string{"", "../jubrak.db", "zz"} {
		_, err = s.Blob(bad)
		assert.ErrorIs(t, err, ErrNotFound, bad)
	}
	require.NoError(t, s.PutHearing(name, 1, []byte("one")))
	require.NoError(t, s.PutHearing(name, 1, []byte("two")))
	text, err := s.Hearing(name, 1)
	require.NoError(t, err)
	assert.Equal(t, "two", string(text))
	_, err = s.Hearing(name, 2)
	assert.ErrorIs(t, err, ErrNotFound)
}

func TestWhatWasMadeOfABlob(t *testing.T) {
	s := open(t, t.TempDir())
	name, err := s.PutBlob([]byte("sound"))
	require.NoError(t, err)
	other, err := s.PutBlob([]byte("another"))
	require.NoError(t, err)
	require.NoError(t, s.PutMade(other, "a", []byte("kept")))
	for _, key := range []string{"a", "b", "c", "d", "e", "f"} {
		require.NoError(t, s.PutMade(name, key, []byte(key)))
	}
	for key, there := range map[string]bool{"a": false, "b": false, "c": true, "f": true} {
		data, err := s.Made(name, key)
		if !there {
			assert.ErrorIs(t, err, ErrNotFound, "%s: only the latest few are kept", key)
			continue
		}
		require.NoError(t, err)
		assert.Equal(t, key, string(data))
	}
	data, err := s.Made(other, "a")
	require.NoError(t, err)
	assert.Equal(t, "kept", string(data), "of each blob")
	_, err = s.Sweep()
	require.NoError(t, err)
	_, err = s.Made(name, "f")
	assert.ErrorIs(t, err, ErrNotFound, "it goes with its blob")
}

func TestDelete(t *testing.T) {
	s := open(t, t.TempDir())
	require.NoError(t, s.Create("p", "Name", []byte("0")))
	require.NoError(t, s.Delete("p"))
	assert.ErrorIs(t, s.Delete("p"), ErrNotFound)
	_, err := s.Load("p")
	assert.ErrorIs(t, err, ErrNotFound)
	_, err = s.Save("p", 1, Change{Name: "n", Document: nil})
	assert.ErrorIs(t, err, ErrNotFound)
}

func TestProfilesAndSettings(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	require.NoError(t, s.PutProfile("a", []byte("1")))
	require.NoError(t, s.PutProfile("a", []byte("2")))
	list, err := s.Profiles()
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "2", string(list[0].Data), "saved again, it is replaced")
	require.NoError(t, s.DeleteProfile("a"))
	assert.ErrorIs(t, s.DeleteProfile("a"), ErrNotFound)
	none, err := s.Setting("mapping")
	require.NoError(t, err)
	assert.Empty(t, none)
	require.NoError(t, s.PutSetting("mapping", []byte("x")))
	require.NoError(t, s.PutSetting("mapping", []byte("y")))
	got, err := open(t, dir).Setting("mapping")
	require.NoError(t, err)
	assert.Equal(t, "y", string(got))
}

func TestSweepKeepsWhatIsNamed(t *testing.T) {
	s := open(t, t.TempDir())
	put := func(text string) string {
		name, err := s.PutBlob([]byte(text))
		require.NoError(t, err)
		return name
	}
	now, undone, other, task, held, nobody := put("now"), put("undone"), put("other"), put("task"), put("held"), put("nobody")
	document := func(names ...string) []byte {
		text := "{"
		for _, n := range names {
			text += `"blob":"` + n + `",`
		}
		return []byte(text + "}")
	}
	require.NoError(t, s.PutHearing(nobody, 1, []byte("x")))
	require.NoError(t, s.Create("p", "P", document(undone)))
	c, err := s.Save("p", 1, Change{Name: "P", Document: document(now)})
	require.NoError(t, err)
	require.NoError(t, s.Create("q", "Q", document(other, now)))
	require.NoError(t, s.PutTask(&Task{ID: "t", Blob: task}))
	n, err := s.Sweep(held)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	for _, name := range []string{now, undone, other, task, held} {
		_, err := s.Blob(name)
		assert.NoError(t, err)
	}
	_, err = s.Blob(nobody)
	assert.ErrorIs(t, err, ErrNotFound)
	_, err = s.Hearing(nobody, 1)
	assert.ErrorIs(t, err, ErrNotFound)
	require.NoError(t, s.Delete("p"))
	require.NoError(t, s.DropTask("t"))
	n, err = s.Sweep()
	require.NoError(t, err)
	assert.Equal(t, 3, n, "undone, task, held")
	_, err = s.Blob(now)
	assert.NoError(t, err, "another project names it")
	assert.Positive(t, c.Version)
	size, err := s.ProjectSize("q")
	require.NoError(t, err)
	assert.Greater(t, size, int64(len("other")+len("now")))
}

// Revisions of an older version do not say what they name: they are read once.
func TestNamesOfOldRevisions(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	name, err := s.PutBlob([]byte("old"))
	require.NoError(t, err)
	require.NoError(t, s.Create("p", "P", []byte(`{"references":[{"blob":"`+name+`"}]}`)))
	require.NoError(t, s.db.Exec("update revisions set names = null").Error)
	require.NoError(t, s.Close())
	s = open(t, dir)
	_, err = s.Sweep()
	require.NoError(t, err)
	_, err = s.Blob(name)
	assert.NoError(t, err)
}

func TestOneWriterAFolder(t *testing.T) {
	dir := t.TempDir()
	unlock, err := Lock(dir)
	require.NoError(t, err)
	_, err = Lock(dir)
	assert.ErrorIs(t, err, ErrInUse)
	unlock()
	unlock, err = Lock(dir)
	require.NoError(t, err)
	unlock()
}

// On a full disk the error names that, and what was there stays. The page limit
// is SQLite's own way to be full.
func TestAFullDisk(t *testing.T) {
	s := open(t, t.TempDir())
	require.NoError(t, s.Create("p", "P", []byte("before")))
	require.NoError(t, s.db.Exec("pragma max_page_count = 1").Error)
	noise := make([]byte, 1<<20)
	for i := range noise {
		noise[i] = byte(i * i >> 7)
	}
	big := append([]byte(nil), noise...)
	for i := range big {
		big[i] ^= byte(uint32(i)*2654435761>>13) ^ byte(uint32(i)*40503>>5)
	}
	_, err := s.Save("p", 1, Change{Name: "P", Document: big})
	assert.ErrorIs(t, err, ErrDiskFull)
	c, err := s.Load("p")
	require.NoError(t, err)
	assert.Equal(t, "before", string(c.Document))
	assert.ErrorIs(t, userError(&os.PathError{Op: "write", Path: "/somewhere", Err: syscall.ENOSPC}), ErrDiskFull)
	assert.NotContains(t, userError(&os.PathError{Op: "write", Path: "/somewhere", Err: syscall.EIO}).Error(), "/somewhere")
}

func TestABlobFromAReaderThatBreaks(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	_, _, err := s.PutBlobFrom(io.MultiReader(strings.NewReader("half"), iotest.ErrReader(io.ErrUnexpectedEOF)))
	var broken *BrokenOff
	assert.ErrorAs(t, err, &broken)
	left, err := os.ReadDir(s.blobs())
	require.NoError(t, err)
	assert.Empty(t, left)
	require.NoError(t, os.WriteFile(filepath.Join(s.blobs(), "part-1"), nil, 0o600))
	require.NoError(t, s.DropParts())
	left, err = os.ReadDir(s.blobs())
	require.NoError(t, err)
	assert.Empty(t, left)
}

// A revision reads its parts as they were, whatever was written after it or
// forgotten before it.
func TestParts(t *testing.T) {
	s := open(t, t.TempDir())
	require.NoError(t, s.Create("p", "P", []byte("whole")))
	version := 1
	put := func(coalesce string, parts map[string]string) {
		t.Helper()
		c := Change{Name: "P", Document: []byte("rest"), Coalesce: coalesce, Parts: map[string][]byte{}}
		for k, v := range parts {
			c.Parts[k] = []byte(v)
		}
		now, err := s.Save("p", version, c)
		require.NoError(t, err)
		version = now.Version
	}
	step := func(by int) {
		t.Helper()
		now, err := s.UndoRedo("p", version, by)
		require.NoError(t, err)
		version = now.Version
	}
	parts := func() map[string]string {
		t.Helper()
		c, err := s.Load("p")
		require.NoError(t, err)
		out := map[string]string{}
		for k, v := range c.Parts {
			out[k] = string(v)
		}
		return out
	}
	put("", map[string]string{"a": "a1", "b": "b1"})
	put("drag", map[string]string{"b": "b2"})
	put("drag", map[string]string{"b": "b3"})
	put("drag", map[string]string{"a": "a2"})
	assert.Equal(t, map[string]string{"a": "a2", "b": "b3"}, parts())
	step(-1)
	assert.Equal(t, map[string]string{"a": "a1", "b": "b1"}, parts(), "before the gesture")
	step(-1)
	assert.Empty(t, parts(), "the first was whole")
	step(1)
	put("", map[string]string{"c": "c1"})
	step(1)
	assert.Equal(t, map[string]string{"a": "a1", "b": "b1", "c": "c1"}, parts(), "what was undone is gone")
	for i := range History + 5 {
		put("", map[string]string{"c": fmt.Sprint("c", i+2)})
	}
	for range History + 5 {
		step(-1)
	}
	assert.Equal(t, map[string]string{"a": "a1", "b": "b1", "c": "c7"}, parts(), "the oldest that is kept")
	var rows int64
	require.NoError(t, s.db.Model(&Part{}).Count(&rows).Error)
	assert.Equal(t, int64(History+2), rows)
	require.NoError(t, s.Delete("p"))
	require.NoError(t, s.db.Model(&Part{}).Count(&rows).Error)
	assert.Zero(t, rows)
}
