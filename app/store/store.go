// Package store keeps projects, their history, audio blobs and what was heard
// in them: SQLite through GORM, blobs as files named by their SHA-256.
package store

import (
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"sync"
	"time"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/logger"
)

// Project is a row for each project. Version counts every change, undo and
// redo included; Position is the present place in its history.
type Project struct {
	ID        string `gorm:"primaryKey"`
	Name      string
	Version   int
	Position  int
	CreatedAt time.Time
	UpdatedAt time.Time
}

// Revision is a document as it was after an edit.
type Revision struct {
	ID        uint   `gorm:"primaryKey"`
	ProjectID string `gorm:"uniqueIndex:place"`
	Position  int    `gorm:"uniqueIndex:place"`
	// Coalesce names a gesture, such as a drag, whose edits are one step.
	Coalesce string
	// Label says what the step did; empty for the first, and in rows of an older
	// version.
	Label    string
	Document []byte // gzip
	// Names are the blobs that the document names, separated by commas; null in
	// rows of an older version.
	Names     *string
	CreatedAt time.Time
}

// Part is a large piece of a document that is kept apart from it, as it was from
// a place in the history on, so that an edit writes only the pieces that it
// changed.
type Part struct {
	ProjectID string `gorm:"primaryKey"`
	Key       string `gorm:"primaryKey"`
	Position  int    `gorm:"primaryKey;autoIncrement:false"`
	Data      []byte // gzip
}

// Hearing is what was heard in a blob, by one version of the listener.
type Hearing struct {
	Blob    string `gorm:"primaryKey"`
	Version int    `gorm:"primaryKey;autoIncrement:false"`
	Data    []byte // gzip
}

// Made is what was worked out of a blob, under a key that says how.
type Made struct {
	Blob string `gorm:"primaryKey"`
	Key  string `gorm:"primaryKey"`
	At   int64  // when it was made, Unix ms
	Data []byte // gzip
}

// databaseFile is the database in the data folder.
const databaseFile = "jubrak.db"

// History is the most revisions kept of a project.
const History = 400

// Store is safe for concurrent use.
type Store struct {
	db  *gorm.DB
	dir string
	mu  sync.Mutex // one writer at a time: SQLite would make them wait anyway
}

// Open opens or makes a data folder. What is written is flushed to the disk
// before it is acknowledged, so that it survives the loss of power (SQLite's
// synchronous FULL).
func Open(dir string) (*Store, error) {
	if err := os.MkdirAll(filepath.Join(dir, "blobs"), 0o755); err != nil {
		return nil, fmt.Errorf("the data folder cannot be made: %w", userError(err))
	}
	dsn := "file:" + filepath.Join(dir, databaseFile) + "?_journal_mode=WAL&_synchronous=FULL&_busy_timeout=15000&_txlock=immediate&_auto_vacuum=incremental"
	db, err := gorm.Open(sqlite.Open(dsn), &gorm.Config{Logger: logger.Discard})
	if err != nil {
		return nil, fmt.Errorf("the data folder's database cannot be opened: %w", err)
	}
	if err := migrate(db); err != nil {
		return nil, fmt.Errorf("the data folder's database cannot be brought up to date: %w", err)
	}
	s := &Store{db: db, dir: dir}
	if err := errors.Join(s.nameOld(), s.givesBack()); err != nil {
		return nil, err
	}
	return s, s.keepReserve()
}

// Close releases the database.
func (s *Store) Close() error {
	db, err := s.db.DB()
	if err != nil {
		return err
	}
	return db.Close()
}

// Projects lists all, the latest changed first.
func (s *Store) Projects() ([]Project, error) {
	out := []Project{}
	return out, s.db.Order("updated_at desc, id").Find(&out).Error
}

// Has reports whether there is a project of an id, readable or not.
func (s *Store) Has(id string) bool {
	var n int64
	return s.db.Model(&Project{}).Where("id = ?", id).Count(&n).Error == nil && n > 0
}

// Create adds a project with its first document.
func (s *Store) Create(id, name string, document []byte) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return userError(s.db.Transaction(func(tx *gorm.DB) error {
		if err := tx.Create(&Project{ID: id, Name: name, Version: 1, Position: 1}).Error; err != nil {
			return err
		}
		return tx.Create(&Revision{ProjectID: id, Position: 1, Document: pack(document), Names: namesIn(document)}).Error
	}))
}

// Delete removes a project and its history. Blobs stay, since others may use
// them; see Sweep.
func (s *Store) Delete(id string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.withReserve(func() error { return s.delete(id) })
}

func (s *Store) delete(id string) error {
	return userError(s.db.Transaction(func(tx *gorm.DB) error {
		res := tx.Delete(&Project{}, "id = ?", id)
		if res.Error == nil && res.RowsAffected == 0 {
			return ErrNotFound
		}
		if res.Error != nil {
			return res.Error
		}
		if err := tx.Delete(&Distance{}, "project_id = ?", id).Error; err != nil {
			return err
		}
		if err := tx.Delete(&Part{}, "project_id = ?", id).Error; err != nil {
			return err
		}
		return tx.Delete(&Revision{}, "project_id = ?", id).Error
	}))
}

// Current is the present state of a project.
type Current struct {
	Project
	Document         []byte
	Parts            map[string][]byte
	CanUndo, CanRedo bool
}

// Load reads the present document of a project. Parts may hold some that the
// document has no more.
func (s *Store) Load(id string) (*Current, error) { return load(s.db, id) }

func load(tx *gorm.DB, id string) (*Current, error) {
	c := Current{Parts: map[string][]byte{}}
	if err := tx.First(&c.Project, "id = ?", id).Error; err != nil {
		return nil, notFound(err)
	}
	if err := c.ends(tx); err != nil {
		return nil, err
	}
	var r Revision
	err := tx.First(&r, "project_id = ? and position = ?", id, c.Position).Error
	if err != nil {
		return nil, notFound(err)
	}
	if c.Document, err = unpack(r.Document); err != nil {
		return nil, err
	}
	var parts []Part
	if err := tx.Where(`project_id = ? and position = (select max(position) from parts p
		where p.project_id = parts.project_id and p.key = parts.key and p.position <= ?)`, id, c.Position).Find(&parts).Error; err != nil {
		return nil, err
	}
	for _, p := range parts {
		if c.Parts[p.Key], err = unpack(p.Data); err != nil {
			return nil, err
		}
	}
	return &c, nil
}

// ends reports whether the history goes on before and behind the present place.
func (c *Current) ends(tx *gorm.DB) error {
	var ends struct{ First, Last int }
	err := tx.Model(&Revision{}).Select("min(position) as first, max(position) as last").Where("project_id = ?", c.ID).Scan(&ends).Error
	c.CanUndo, c.CanRedo = ends.First < c.Position, ends.Last > c.Position
	return err
}

func notFound(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNotFound
	}
	return err
}

// Change is what an edit makes of a document.
type Change struct {
	Name     string
	Document []byte            // without the parts
	Parts    map[string][]byte // those that changed, by key
	// Coalesce names the gesture that the edit belongs to, or is empty.
	Coalesce string
	// Label says what the step did, the whole gesture included.
	Label string
}

// Save adds a document after the present one and forgets what was undone.
// With the same non-empty coalesce name as the present revision it replaces
// that one, so that a gesture is one step of undo. base must be the version
// the change was made from, else ErrConflict. The answer has no document.
func (s *Store) Save(id string, base int, change Change) (*Current, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if err := s.there(); err != nil {
		return nil, err
	}
	c := &Current{}
	err := s.db.Transaction(func(tx *gorm.DB) error {
		p, err := lockProject(tx, id, base)
		if err != nil {
			return err
		}
		if err := tx.Delete(&Revision{}, "project_id = ? and position > ?", id, p.Position).Error; err != nil {
			return err
		}
		if err := tx.Delete(&Part{}, "project_id = ? and position > ?", id, p.Position).Error; err != nil {
			return err
		}
		row := Revision{ProjectID: id, Coalesce: change.Coalesce, Label: change.Label, Document: pack(change.Document), Names: namesIn(change.Document)}
		same := int64(0)
		if change.Coalesce != "" {
			res := tx.Model(&Revision{}).Where("project_id = ? and position = ? and coalesce = ?", id, p.Position, change.Coalesce).
				Updates(Revision{Document: row.Document, Names: row.Names, Label: row.Label})
			if same, err = res.RowsAffected, res.Error; err != nil {
				return err
			}
		}
		if same == 0 {
			p.Position++
			row.Position = p.Position
			if err := tx.Create(&row).Error; err != nil {
				return err
			}
		}
		for key, data := range change.Parts {
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&Part{ProjectID: id, Key: key, Position: p.Position, Data: pack(data)}).Error; err != nil {
				return err
			}
		}
		if err := trim(tx, id, p.Position-History); err != nil {
			return err
		}
		p.Version++
		p.Name = change.Name
		c.Project = *p
		if err := tx.Save(&c.Project).Error; err != nil {
			return err
		}
		return c.ends(tx)
	})
	if err != nil {
		return nil, userError(err)
	}
	return c, nil
}

// trim forgets revisions up to a place, and the parts that none of the later
// ones needs.
func trim(tx *gorm.DB, id string, upTo int) error {
	res := tx.Delete(&Revision{}, "project_id = ? and position <= ?", id, upTo)
	if res.Error != nil || res.RowsAffected == 0 {
		return res.Error
	}
	return tx.Exec(`delete from parts where project_id = ? and position <= ? and exists (
		select 1 from parts later where later.project_id = parts.project_id and later.key = parts.key
		and later.position > parts.position and later.position <= ?)`, id, upTo, upTo+1).Error
}

func lockProject(tx *gorm.DB, id string, base int) (*Project, error) {
	var p Project
	if err := tx.First(&p, "id = ?", id).Error; err != nil {
		return nil, notFound(err)
	}
	if p.Version != base {
		return nil, ErrConflict
	}
	return &p, nil
}

// UndoRedo moves through the history: -1 undoes, +1 redoes, and reads what is there.
// At an end it stays.
func (s *Store) UndoRedo(id string, base, by int) (*Current, error) {
	return s.move(id, base, func(now int) int { return now + by })
}

// Go goes to a place in the history; where there is none, it stays.
func (s *Store) Go(id string, base, position int) (*Current, error) {
	return s.move(id, base, func(int) int { return position })
}

// Place is a step that can be gone back to: the document as it was after it.
type Place struct {
	Position  int
	Label     string
	CreatedAt time.Time
}

// Places lists the history of a project, the oldest first, and the present place
// in it.
func (s *Store) Places(id string) (places []Place, now int, err error) {
	var p Project
	if err := s.db.First(&p, "id = ?", id).Error; err != nil {
		return nil, 0, notFound(err)
	}
	err = s.db.Model(&Revision{}).Where("project_id = ?", id).Order("position").Find(&places).Error
	return places, p.Position, err
}

func (s *Store) move(id string, base int, to func(now int) int) (*Current, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	var c *Current
	err := s.db.Transaction(func(tx *gorm.DB) error {
		p, err := lockProject(tx, id, base)
		if err != nil {
			return err
		}
		var n int64
		position := to(p.Position)
		if err := tx.Model(&Revision{}).Where("project_id = ? and position = ?", id, position).Count(&n).Error; err != nil {
			return err
		}
		if n > 0 {
			p.Position = position
			p.Version++
			if err := tx.Save(p).Error; err != nil {
				return err
			}
			// A gesture that was left by undo is over.
			if err := tx.Model(&Revision{}).Where("project_id = ? and position = ?", id, p.Position).Update("coalesce", "").Error; err != nil {
				return err
			}
		}
		c, err = load(tx, id)
		return err
	})
	return c, userError(err)
}

// PutHearing keeps what a version of the listener heard in a blob.
func (s *Store) PutHearing(blob string, version int, data []byte) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return userError(s.db.Save(&Hearing{Blob: blob, Version: version, Data: pack(data)}).Error)
}

// Hearing reads it back.
func (s *Store) Hearing(blob string, version int) ([]byte, error) {
	var h Hearing
	if err := s.db.First(&h, "blob = ? and version = ?", blob, version).Error; err != nil {
		return nil, notFound(err)
	}
	return unpack(h.Data)
}

// mostMade is how much is kept of a blob: what is oldest goes.
const mostMade = 4

// PutMade keeps what was worked out of a blob.
func (s *Store) PutMade(blob, key string, data []byte) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if err := s.db.Save(&Made{Blob: blob, Key: key, At: time.Now().UnixMilli(), Data: pack(data)}).Error; err != nil {
		return userError(err)
	}
	var keys []string
	if err := s.db.Model(&Made{}).Where("blob = ?", blob).Order("at desc, rowid desc").Offset(mostMade).Limit(1000).Pluck("key", &keys).Error; err != nil {
		return userError(err)
	}
	if len(keys) == 0 {
		return nil
	}
	return userError(s.db.Delete(&Made{}, "blob = ? and key in ?", blob, keys).Error)
}

// Made reads it back.
func (s *Store) Made(blob, key string) ([]byte, error) {
	var m Made
	if err := s.db.First(&m, "blob = ? and key = ?", blob, key).Error; err != nil {
		return nil, notFound(err)
	}
	return unpack(m.Data)
}

// packers are used again: to make one takes longer than to pack a part.
var packers = sync.Pool{New: func() any {
	w, _ := gzip.NewWriterLevel(nil, gzip.BestSpeed) // the level is valid
	return w
}}

func pack(data []byte) []byte {
	var buf bytes.Buffer
	w := packers.Get().(*gzip.Writer)
	defer packers.Put(w)
	w.Reset(&buf)
	_, _ = w.Write(data) // a bytes.Buffer takes everything
	_ = w.Close()
	return buf.Bytes()
}

func unpack(data []byte) ([]byte, error) {
	r, err := gzip.NewReader(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	return io.ReadAll(r)
}
