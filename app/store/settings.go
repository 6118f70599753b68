package store

import "gorm.io/gorm/clause"

// Setting is something that a user chose for all projects.
type Setting struct {
	Name string `gorm:"primaryKey"`
	Data []byte
}

// PutSetting saves a setting.
func (s *Store) PutSetting(name string, data []byte) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	return userError(s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&Setting{name, data}).Error)
}

// Setting reads a setting; empty where none was saved.
func (s *Store) Setting(name string) ([]byte, error) {
	var rows []Setting
	err := s.db.Find(&rows, "name = ?", name).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	return rows[0].Data, nil
}
