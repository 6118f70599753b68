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
	in, err := s.Receive(r)
	if err != nil {
		return "", 0, err
	}
	return in.Name, in.Size, in.Keep()
}

// Incoming is a file that has arrived and is not yet among the blobs.
type Incoming struct {
	// Name is the SHA-256 of its content, in hex.
	Name  string
	Size  int64
	store *Store
	part  string
}

// Receive takes what a reader gives, however long that takes, without holding it in
// memory. What the reader fails with is *BrokenOff. The file is to be kept or dropped.
func (s *Store) Receive(r io.Reader) (*Incoming, error) {
	part, err := os.CreateTemp(s.blobs(), "part-*")
	if err != nil {
		return nil, userError(err)
	}
	in := &Incoming{store: s, part: part.Name()}
	hash := sha256.New()
	watched := &watchedReader{r: r}
	in.Size, err = io.Copy(io.MultiWriter(part, hash), watched)
	if watched.err == nil && err == nil {
		err = part.Sync()
	}
	if err = errors.Join(err, part.Close()); watched.err != nil || err != nil {
		_ = os.Remove(in.part)
		if watched.err != nil {
			return nil, &BrokenOff{watched.err}
		}
		return nil, userError(err)
	}
	in.Name = hex.EncodeToString(hash.Sum(nil))
	return in, nil
}

// Drop removes the file.
func (in *Incoming) Drop() { _ = os.Remove(in.part) }

// Keep puts the file among the blobs. One of its name that is damaged is mended by it.
func (in *Incoming) Keep() error {
	path := filepath.Join(in.store.blobs(), in.Name)
	if there, err := namedFile(path); err == nil && there == in.Name {
		return userError(os.Remove(in.part))
	}
	if err := os.Rename(in.part, path); err != nil {
		in.Drop()
		return userError(err)
	}
	return userError(flush(in.store.blobs()))
}

// named is the name that a blob has by its content.
func named(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:])
}

// namedFile is the name that a file has by its content.
func namedFile(path string) (string, error) {
	f, err := os.Open(path)
	if err != nil {
		return "", err
	}
	defer func() { _ = f.Close() }()
	hash := sha256.New()
	_, err = io.Copy(hash, f)
	return hex.EncodeToString(hash.Sum(nil)), err
}

// watchedReader reports the reader's errors from the writer's.
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
	return userError(err)
}

// Blob reads a blob; one whose content is not what its name says is ErrDamaged.
func (s *Store) Blob(name string) ([]byte, error) {
	if !shaPattern.MatchString(name) {
		return nil, ErrNotFound
	}
	data, err := os.ReadFile(filepath.Join(s.blobs(), name))
	if errors.Is(err, os.ErrNotExist) {
		return nil, ErrNotFound
	}
	if err != nil {
		return nil, userError(err)
	}
	if named(data) != name {
		return nil, ErrDamaged
	}
	return data, nil
}

// Head reads its first bytes, at most n.
func (in *Incoming) Head(n int) ([]byte, error) {
	f, err := os.Open(in.part)
	if err != nil {
		return nil, userError(err)
	}
	defer func() { _ = f.Close() }()
	head := make([]byte, n)
	n, err = io.ReadFull(f, head)
	if errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) {
		err = nil
	}
	return head[:n], userError(err)
}

// Head reads the first bytes of a blob, at most n.
func (s *Store) Head(name string, n int) ([]byte, error) {
	if !shaPattern.MatchString(name) {
		return nil, ErrNotFound
	}
	return (&Incoming{part: filepath.Join(s.blobs(), name)}).Head(n)
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
			return userError(err)
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
		var named []string
		if err := s.db.Model(&Item{}).Where("names != ''").Distinct().Pluck("names", &named).Error; err != nil {
			return nil, err
		}
		lists = append(lists, named...)
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
	keeps, err := s.namedBy("")
	if err != nil {
		return 0, err
	}
	var tasks []string
	if err := s.db.Model(&Task{}).Pluck("blob", &tasks).Error; err != nil {
		return 0, err
	}
	for _, name := range append(keep, tasks...) {
		keeps[name] = true
	}
	entries, err := os.ReadDir(s.blobs())
	if err != nil {
		return 0, userError(err)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	var gone []string
	for _, e := range entries {
		// Only what has a blob's name is ours to remove.
		if keeps[e.Name()] || e.IsDir() || !shaPattern.MatchString(e.Name()) {
			continue
		}
		if err := os.Remove(filepath.Join(s.blobs(), e.Name())); err != nil && !errors.Is(err, os.ErrNotExist) {
			return removed, userError(err)
		}
		removed++
		gone = append(gone, e.Name())
	}
	for from := 0; from < len(gone); from += 500 {
		some := gone[from:min(from+500, len(gone))]
		if err := errors.Join(s.db.Delete(&Hearing{}, "blob in ?", some).Error, s.db.Delete(&Made{}, "blob in ?", some).Error); err != nil {
			return removed, userError(err)
		}
	}
	if removed > 0 {
		return removed, s.withReserve(func() error { return nil })
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
	return userError(err)
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
	return total, userError(err)
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
