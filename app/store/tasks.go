package store

import (
	"time"

	"gorm.io/gorm/clause"
)

// Task is long work that a user asked for and that has not ended: what to
// begin again should the program stop in between. Its blob is kept meanwhile.
type Task struct {
	ID      string `gorm:"primaryKey"`
	Project string
	Kind    string
	Name    string
	Blob    string
	// Data is what else the work needs, JSON.
	Data      []byte
	CreatedAt time.Time
}

// PutTask keeps a task, or replaces the one with its id.
func (s *Store) PutTask(t *Task) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return userError(s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(t).Error)
}

// Tasks lists the tasks that have not ended, the oldest first.
func (s *Store) Tasks() ([]Task, error) {
	out := []Task{}
	return out, s.db.Order("created_at, id").Find(&out).Error
}

// DropTask forgets a task. One that is not there is no error.
func (s *Store) DropTask(id string) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return userError(s.db.Delete(&Task{}, "id = ?", id).Error)
}
