package store

import (
	"time"

	"gorm.io/gorm/clause"
)

// Item is something of the user's own in the library: a sound, a kit or a curve, as
// JSON, with the blobs that it names.
type Item struct {
	ID   string `gorm:"primaryKey"`
	Kind string `gorm:"index"`
	Data []byte
	// Schema is that of the documents that the data follows; 0 is any before 9.
	Schema    int
	Names     *string
	CreatedAt time.Time
}

// PutItem saves an item of a schema, or replaces the one with its id.
func (s *Store) PutItem(id, kind string, schema int, data []byte) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return userError(s.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "id"}}, DoUpdates: clause.AssignmentColumns([]string{"data", "schema", "names"})}).
		Create(&Item{ID: id, Kind: kind, Schema: schema, Data: data, Names: namesIn(data)}).Error)
}

// Items lists the saved items of a kind, the newest first.
func (s *Store) Items(kind string) ([]Item, error) {
	out := []Item{}
	return out, userError(s.db.Order("created_at desc, id").Find(&out, "kind = ?", kind).Error)
}

// DeleteItemsLike removes the items whose kind begins so.
func (s *Store) DeleteItemsLike(kind string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return userError(s.db.Delete(&Item{}, "substr(kind, 1, ?) = ?", len(kind), kind).Error)
}

// DeleteItem removes a saved item.
func (s *Store) DeleteItem(id string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	res := s.db.Delete(&Item{}, "id = ?", id)
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrNotFound
	}
	return userError(res.Error)
}
