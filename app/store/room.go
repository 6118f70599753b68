package store

import (
	"errors"
	"os"
	"path/filepath"
)

// A full disk cannot even take note that something was deleted. A file is kept of which
// nothing is needed but its room: it makes way when a deletion finds none.
const (
	reserveFile = "reserve"
	reserveSize = 4 << 20
)

func (s *Store) reserve() string { return filepath.Join(s.dir, reserveFile) }

// keepReserve makes the reserve where it is missing; without room for it there is none
// until there is.
func (s *Store) keepReserve() error {
	if info, err := os.Stat(s.reserve()); err == nil && info.Size() == reserveSize {
		return nil
	}
	err := userError(os.WriteFile(s.reserve(), make([]byte, reserveSize), 0o644))
	if errors.Is(err, ErrDiskFull) {
		return userError(os.Remove(s.reserve()))
	}
	return err
}

// withReserve does what makes room on the disk, with the room of the reserve where the
// disk is full, and gives pages that the database needs no more back to it. The caller
// holds the lock.
func (s *Store) withReserve(work func() error) error {
	err := work()
	if errors.Is(err, ErrDiskFull) {
		if gone := os.Remove(s.reserve()); gone != nil {
			return err
		}
		err = work()
	}
	if err != nil {
		return err
	}
	// What cannot be given back now is used again by what comes.
	if rows, err := s.db.Raw("pragma incremental_vacuum").Rows(); err == nil {
		for rows.Next() { // each step gives some pages back
			continue
		}
		_ = rows.Close()
	}
	_ = s.db.Exec("pragma wal_checkpoint(truncate)").Error
	_ = s.keepReserve()
	return nil
}

// there reports whether the data folder is still where it was: a database whose file was
// removed takes everything, and keeps nothing.
func (s *Store) there() error {
	_, err := os.Stat(filepath.Join(s.dir, databaseFile))
	return userError(err)
}

// mostRewritten is the largest database that is rewritten when it is opened, bytes.
const mostRewritten = 256 << 20

// givesBack lets the database of an older version give pages that it needs no more back
// to the disk, which takes rewriting it once.
func (s *Store) givesBack() error {
	var mode int
	if err := s.db.Raw("pragma auto_vacuum").Scan(&mode).Error; err != nil || mode != 0 {
		return userError(err)
	}
	if info, err := os.Stat(filepath.Join(s.dir, databaseFile)); err != nil || info.Size() > mostRewritten {
		return userError(err)
	}
	if err := s.db.Exec("pragma auto_vacuum = incremental").Error; err != nil {
		return userError(err)
	}
	err := userError(s.db.Exec("vacuum").Error)
	if errors.Is(err, ErrDiskFull) {
		return nil // at the next start
	}
	return err
}
