package store

import "gorm.io/gorm/clause"

// Distance is how a version of a project compared with one of its references.
type Distance struct {
	ProjectID  string `gorm:"primaryKey"`
	Version    int    `gorm:"primaryKey;autoIncrement:false"`
	Reference  string `gorm:"primaryKey"`
	Outside    int
	Measurable int
	// Parts are counts by group of measures, JSON.
	Parts []byte
}

// mostDistances is how many of a project are kept.
const mostDistances = 300

// PutDistance keeps how a version compared; the oldest are forgotten.
func (s *Store) PutDistance(j *Distance) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if err := userError(s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(j).Error); err != nil {
		return err
	}
	return userError(s.db.Delete(&Distance{}, "project_id = ? AND version <= ?", j.ProjectID, j.Version-mostDistances).Error)
}

// Distances are the newest of each project, by its id.
func (s *Store) Distances() (map[string]Distance, error) {
	var rows []Distance
	err := s.db.Omit("parts").Order("version").Find(&rows).Error
	out := map[string]Distance{}
	for _, r := range rows {
		out[r.ProjectID] = r
	}
	return out, err
}

// DistancesOf are those of a project against a reference, the oldest first.
func (s *Store) DistancesOf(project, reference string) (rows []Distance, err error) {
	return rows, s.db.Order("version").Find(&rows, "project_id = ? AND reference = ?", project, reference).Error
}
