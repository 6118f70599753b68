package store

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"
)

// Sounds that are made of others and read as they are played, such as a backing brought to
// a tempo, lie in files of their own. They can be made again: the oldest go when they take
// more than mostPrepared.

func (s *Store) prepared() string { return filepath.Join(s.dir, "prepared") }

// mostPrepared is how much prepared sounds may take on the disk, bytes.
const mostPrepared = 12 << 30

// PreparedFile opens a prepared sound; ErrNotFound where there is none.
func (s *Store) PreparedFile(name string) (*os.File, error) {
	path := filepath.Join(s.prepared(), filepath.Base(name))
	f, err := os.Open(path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, ErrNotFound
	}
	if err != nil {
		return nil, userError(err)
	}
	now := time.Now()
	_ = os.Chtimes(path, now, now) // it was used
	return f, nil
}

// Prepare makes a prepared sound by write, whole or not at all.
func (s *Store) Prepare(name string, write func(f *os.File) error) error {
	if err := os.MkdirAll(s.prepared(), 0o755); err != nil {
		return userError(err)
	}
	s.dropOldest()
	f, err := os.CreateTemp(s.prepared(), "part-*")
	if err != nil {
		return userError(err)
	}
	err = write(f)
	if err = errors.Join(err, f.Close()); err != nil {
		_ = os.Remove(f.Name())
		if errors.Is(err, syscall.ENOSPC) {
			return ErrDiskFull
		}
		return err
	}
	return userError(os.Rename(f.Name(), filepath.Join(s.prepared(), filepath.Base(name))))
}

// dropOldest makes room: what was used longest ago goes, and what was never finished.
func (s *Store) dropOldest() {
	list, err := os.ReadDir(s.prepared())
	if err != nil {
		return
	}
	type file struct {
		name string
		size int64
		at   time.Time
	}
	var files []file
	total := int64(0)
	for _, e := range list {
		info, err := e.Info()
		if err != nil {
			continue
		}
		if strings.HasPrefix(e.Name(), "part-") && time.Since(info.ModTime()) > 24*time.Hour {
			_ = os.Remove(filepath.Join(s.prepared(), e.Name()))
			continue
		}
		files = append(files, file{e.Name(), info.Size(), info.ModTime()})
		total += info.Size()
	}
	slices.SortFunc(files, func(a, b file) int { return a.at.Compare(b.at) })
	for _, f := range files {
		if total <= mostPrepared {
			return
		}
		if os.Remove(filepath.Join(s.prepared(), f.name)) == nil {
			total -= f.size
		}
	}
}

// BlobFile opens a blob without reading it; ErrNotFound where it is gone.
func (s *Store) BlobFile(name string) (*os.File, error) {
	if !shaPattern.MatchString(name) {
		return nil, ErrNotFound
	}
	f, err := os.Open(filepath.Join(s.blobs(), name))
	if errors.Is(err, fs.ErrNotExist) {
		return nil, ErrNotFound
	}
	return f, userError(err)
}

// Mapped is a file's content as it lies on the disk; the caller unmaps it.
func Mapped(f *os.File) (data []byte, unmap func(), err error) {
	info, err := f.Stat()
	if err != nil {
		return nil, nil, userError(err)
	}
	if info.Size() == 0 {
		return []byte{}, func() {}, nil
	}
	data, err = syscall.Mmap(int(f.Fd()), 0, int(info.Size()), syscall.PROT_READ, syscall.MAP_PRIVATE)
	if err != nil {
		return nil, nil, userError(err)
	}
	return data, func() { _ = syscall.Munmap(data) }, nil
}
