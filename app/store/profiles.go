package store

import (
	"time"

	"gorm.io/gorm/clause"
)

// Profile is a feel or tone that a user saved: its JSON and when.
type Profile struct {
	ID        string `gorm:"primaryKey"`
	Data      []byte
	CreatedAt time.Time
}

// PutProfile saves a profile, or replaces the one with its id.
func (s *Store) PutProfile(id string, data []byte) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return userError(s.db.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "id"}}, DoUpdates: clause.AssignmentColumns([]string{"data"})}).
		Create(&Profile{ID: id, Data: data}).Error)
}

// Profiles lists the saved profiles, the newest first.
func (s *Store) Profiles() ([]Profile, error) {
	out := []Profile{}
	return out, s.db.Order("created_at desc, id").Find(&out).Error
}

// DeleteProfile removes a saved profile.
func (s *Store) DeleteProfile(id string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	res := s.db.Delete(&Profile{}, "id = ?", id)
	if res.Error == nil && res.RowsAffected == 0 {
		return ErrNotFound
	}
	return res.Error
}
