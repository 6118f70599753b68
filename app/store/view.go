package store

import (
	"errors"
	"os"
	"path/filepath"
	"syscall"
)

// View is a blob as the disk has it: what was read of it can be let go, so that
// memory does not follow its size. A blob never changes, and one that is removed
// stays readable until the view is closed.
type View struct{ Data []byte }

// View opens a blob; one whose content is not what its name says is ErrDamaged.
func (s *Store) View(name string) (*View, error) {
	if !shaPattern.MatchString(name) {
		return nil, ErrNotFound
	}
	path := filepath.Join(s.blobs(), name)
	switch there, err := namedFile(path); {
	case errors.Is(err, os.ErrNotExist):
		return nil, ErrNotFound
	case err != nil:
		return nil, userError(err)
	case there != name:
		return nil, ErrDamaged
	}
	return view(path)
}

// View opens the file that has arrived.
func (in *Incoming) View() (*View, error) { return view(in.part) }

func view(path string) (*View, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, userError(err)
	}
	defer func() { _ = f.Close() }()
	info, err := f.Stat()
	if err != nil || info.Size() == 0 {
		return &View{}, userError(err)
	}
	data, err := syscall.Mmap(int(f.Fd()), 0, int(info.Size()), syscall.PROT_READ, syscall.MAP_SHARED)
	return &View{data}, userError(err)
}

// Release gives back the memory of what was read so far; it is read from the disk
// again where it is needed.
func (v *View) Release() {
	if len(v.Data) > 0 {
		_ = syscall.Madvise(v.Data, syscall.MADV_DONTNEED) // advice
	}
}

// Close ends the view; its data must not be used any more.
func (v *View) Close() {
	if len(v.Data) > 0 {
		_ = syscall.Munmap(v.Data)
		v.Data = nil
	}
}
