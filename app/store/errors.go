package store

import (
	"errors"
	"fmt"
	"io/fs"
	"path/filepath"
	"syscall"

	"github.com/gofrs/flock"
	"github.com/mattn/go-sqlite3"
)

// Errors of the store.
var (
	ErrNotFound = errors.New("not found")
	// ErrConflict means that the project has changed since the caller read it.
	ErrConflict = errors.New("the project was changed in another window")
	// ErrDiskFull means that nothing was written.
	ErrDiskFull = errors.New("the disk is full, so this could not be saved; everything that was saved before is kept. Make room on the disk and do it again")
	// ErrNoFolder means that the data folder, or what is in it, is no longer there.
	ErrNoFolder = errors.New("the data folder is no longer there, so nothing can be saved. Put it back where it was, or start Jubrak again with another one (--data)")
	// ErrNotAllowed means that the data folder may not be written.
	ErrNotAllowed = errors.New("the data folder may not be written, so this could not be saved; everything that was saved before is kept. Allow Jubrak to write there, then do it again")
	// ErrDamaged means that a sound is not what it was when it was kept.
	ErrDamaged = errors.New("a sound in the data folder is damaged. Bring its file again: that mends it everywhere")
	// ErrNewer means that a later version of Jubrak wrote the data folder.
	ErrNewer = errors.New("a newer version of Jubrak wrote this data folder. Nothing was changed; use that version, or another folder")
	// ErrInUse means that another program writes to the data folder.
	ErrInUse = errors.New("another Jubrak is running on this data folder")
)

// userError turns errors of the disk and the database into those that a user is
// reported: a full disk by name, others without the paths of this machine.
func userError(err error) error {
	var base sqlite3.Error
	var path *fs.PathError
	switch {
	case err == nil:
		return nil
	case errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT):
		return ErrDiskFull
	case errors.As(err, &base) && (base.Code == sqlite3.ErrFull || base.Code == sqlite3.ErrIoErr && base.SystemErrno == syscall.ENOSPC):
		return ErrDiskFull
	case errors.As(err, &base) && base.Code == sqlite3.ErrCantOpen, errors.Is(err, fs.ErrNotExist):
		return ErrNoFolder
	case errors.As(err, &base) && (base.Code == sqlite3.ErrReadonly || base.Code == sqlite3.ErrPerm), errors.Is(err, fs.ErrPermission):
		return ErrNotAllowed
	case errors.As(err, &path):
		return fmt.Errorf("the data folder cannot be used: %w", path.Err)
	}
	return err
}

// Lock keeps others from writing to a data folder until unlock is called or
// the program ends; ErrInUse if one does already.
func Lock(dir string) (unlock func(), err error) {
	l := flock.New(filepath.Join(dir, "lock"))
	ok, err := l.TryLock()
	if err != nil {
		return nil, userError(err)
	}
	if !ok {
		return nil, ErrInUse
	}
	return func() { _ = l.Unlock() }, nil
}
