package store

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
)

var shaPattern = regexp.MustCompile(`^[0-9a-f]{64}$`)

func (s *Store) blobs() string { return filepath.Join(s.dir, "blobs") }

// PutBlob keeps data and returns its SHA-256 in hex.
func (s *Store) PutBlob(data []byte) (string, error) {
	name, _, err := s.PutBlobFrom(bytes.NewReader(data))
	return name, err
}

// BrokenOff is an upload whose sender went away.
type BrokenOff struct{ Err error }

func (b *BrokenOff) Error() string { return "the file broke off on its way: " + b.Err.Error() }
func (b *BrokenOff) Unwrap() error { return b.Err }

// PutBlobFrom keeps what a reader gives, without holding it in memory, and
// returns its SHA-256 in hex and its size. What the reader fails with is
// *BrokenOff. The blob is on the disk when it returns.
func (s *Store) PutBlobFrom(r io.Reader) (name string, size int64, err error) {
	part, err := os.CreateTemp(s.blobs(), "part-*")
	if err != nil {
		return "", 0, told(err)
	}
	defer func() {
		if err != nil {
			_ = part.Close()
			_ = os.Remove(part.Name())
		}
	}()
	hash := sha256.New()
	watched := &watchedReader{r: r}
	size, err = io.Copy(io.MultiWriter(part, hash), watched)
	if watched.err != nil {
		return "", 0, &BrokenOff{watched.err}
	}
	if err == nil {
		err = part.Sync()
	}
	if err = errors.Join(err, part.Close()); err != nil {
		return "", 0, told(err)
	}
	name = hex.EncodeToString(hash.Sum(nil))
	path := filepath.Join(s.blobs(), name)
	if _, missing := os.Stat(path); missing == nil {
		return name, size, told(os.Remove(part.Name()))
	}
	if err = os.Rename(part.Name(), path); err != nil {
		return "", 0, told(err)
	}
	return name, size, told(flush(s.blobs()))
}

// watchedReader tells the reader's errors from the writer's.
type watchedReader struct {
	r   io.Reader
	err error
}

func (w *watchedReader) Read(p []byte) (int, error) {
	n, err := w.r.Read(p)
	if err != nil && err != io.EOF {
		w.err = err
	}
	return n, err
}

// flush makes a folder's entries survive the loss of power.
func flush(dir string) error {
	d, err := os.Open(dir)
	if err != nil {
		return err
	}
	return errors.Join(d.Sync(), d.Close())
}

// DropBlob removes a blob. One that is not there is no error.
func (s *Store) DropBlob(name string) error {
	if !shaPattern.MatchString(name) {
		return ErrNotFound
	}
	err := os.Remove(filepath.Join(s.blobs(), name))
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	return told(err)
}

// Blob reads a blob.
func (s *Store) Blob(name string) ([]byte, error) {
	if !shaPattern.MatchString(name) {
		return nil, ErrNotFound
	}
	data, err := os.ReadFile(filepath.Join(s.blobs(), name))
	if errors.Is(err, os.ErrNotExist) {
		return nil, ErrNotFound
	}
	return data, told(err)
}

// Head reads the first bytes of a blob, at most n.
func (s *Store) Head(name string, n int) ([]byte, error) {
	if !shaPattern.MatchString(name) {
		return nil, ErrNotFound
	}
	f, err := os.Open(filepath.Join(s.blobs(), name))
	if err != nil {
		return nil, told(err)
	}
	defer func() { _ = f.Close() }()
	head := make([]byte, n)
	n, err = io.ReadFull(f, head)
	if errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) {
		err = nil
	}
	return head[:n], told(err)
}

// namesIn lists the blobs that a document names: every field called blob, at
// whatever place. It takes the JSON that this program writes.
func namesIn(document []byte) *string {
	const field = `"blob":"`
	var names []string
	for {
		i := bytes.Index(document, []byte(field))
		if i < 0 {
			break
		}
		document = document[i+len(field):]
		if len(document) >= 64 && shaPattern.Match(document[:64]) {
			names = append(names, string(document[:64]))
		}
	}
	slices.Sort(names)
	list := strings.Join(slices.Compact(names), ",")
	return &list
}

// nameOld fills in the names of revisions that an older version wrote.
func (s *Store) nameOld() error {
	var ids []uint
	if err := s.db.Model(&Revision{}).Where("names is null").Pluck("id", &ids).Error; err != nil {
		return err
	}
	for _, id := range ids {
		var r Revision
		if err := s.db.First(&r, id).Error; err != nil {
			return err
		}
		document, err := unpack(r.Document)
		if err != nil {
			return err
		}
		if err := s.db.Model(&r).Update("names", namesIn(document)).Error; err != nil {
			return told(err)
		}
	}
	return nil
}

// namedBy are the blobs that a project's revisions name, undo and redo
// included; those of all projects and of the library for "".
func (s *Store) namedBy(project string) (map[string]bool, error) {
	query := s.db.Model(&Revision{}).Where("names != ''").Distinct()
	if project != "" {
		query = query.Where("project_id = ?", project)
	}
	var lists []string
	if err := query.Pluck("names", &lists).Error; err != nil {
		return nil, err
	}
	if project == "" {
		var shelf []string
		if err := s.db.Model(&Item{}).Where("names != ''").Distinct().Pluck("names", &shelf).Error; err != nil {
			return nil, err
		}
		lists = append(lists, shelf...)
	}
	out := map[string]bool{}
	for _, l := range lists {
		for _, name := range strings.Split(l, ",") {
			out[name] = true
		}
	}
	return out, nil
}

// Sweep removes the blobs that nothing names any more, with what was heard in
// them: no revision of any project, nothing in the library, no work under way, nothing in keep. Nobody
// may be about to name a new one meanwhile.
func (s *Store) Sweep(keep ...string) (removed int, err error) {
	named, err := s.namedBy("")
	if err != nil {
		return 0, err
	}
	var tasks []string
	if err := s.db.Model(&Task{}).Pluck("blob", &tasks).Error; err != nil {
		return 0, err
	}
	for _, name := range append(keep, tasks...) {
		named[name] = true
	}
	entries, err := os.ReadDir(s.blobs())
	if err != nil {
		return 0, told(err)
	}
	for _, e := range entries {
		if named[e.Name()] || e.IsDir() || strings.HasPrefix(e.Name(), "part-") {
			continue
		}
		if err := os.Remove(filepath.Join(s.blobs(), e.Name())); err != nil {
			return removed, told(err)
		}
		removed++
		if err := s.db.Delete(&Hearing{}, "blob = ?", e.Name()).Error; err != nil {
			return removed, told(err)
		}
	}
	return removed, nil
}

// DropParts removes what uploads left that broke off with the program. None may
// be under way.
func (s *Store) DropParts() error {
	parts, err := filepath.Glob(filepath.Join(s.blobs(), "part-*"))
	for _, p := range parts {
		err = errors.Join(err, os.Remove(p))
	}
	return told(err)
}

// Size is what the data folder takes on the disk, bytes.
func (s *Store) Size() (total int64, err error) {
	err = filepath.WalkDir(s.dir, func(_ string, e os.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		info, err := e.Info()
		if errors.Is(err, os.ErrNotExist) {
			return nil // gone in the meantime
		}
		if err == nil {
			total += info.Size()
		}
		return err
	})
	return total, told(err)
}

// ProjectSize is what a project takes: its history and the blobs that this
// names, whoever else may name them too.
func (s *Store) ProjectSize(id string) (int64, error) {
	var total int64
	if err := s.db.Model(&Revision{}).Where("project_id = ?", id).Select("coalesce(sum(length(document)), 0)").Scan(&total).Error; err != nil {
		return 0, err
	}
	var parts int64
	if err := s.db.Model(&Part{}).Where("project_id = ?", id).Select("coalesce(sum(length(data)), 0)").Scan(&parts).Error; err != nil {
		return 0, err
	}
	total += parts
	named, err := s.namedBy(id)
	if err != nil {
		return 0, err
	}
	for name := range named {
		if info, err := os.Stat(filepath.Join(s.blobs(), name)); err == nil {
			total += info.Size()
		}
	}
	return total, nil
}
