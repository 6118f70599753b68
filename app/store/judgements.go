package store

import "gorm.io/gorm/clause"

// Judgement is how a version of a project compared with one of its references.
type Judgement struct {
	ProjectID string `gorm:"primaryKey"`
	Version   int    `gorm:"primaryKey;autoIncrement:false"`
	Reference string `gorm:"primaryKey"`
	Outside   int
	Told      int
	// Parts are counts by group of measures, JSON.
	Parts []byte
}

// TableName is that of judgements by version; before, only the newest was kept.
func (Judgement) TableName() string { return "distances" }

// mostJudgements is how many of a project are kept.
const mostJudgements = 300

// PutJudgement keeps how a version compared; the oldest are forgotten.
func (s *Store) PutJudgement(j *Judgement) error {
	s.mu.Lock()
	defer s.mu.Unlock()
	if err := told(s.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(j).Error); err != nil {
		return err
	}
	return told(s.db.Delete(&Judgement{}, "project_id = ? AND version <= ?", j.ProjectID, j.Version-mostJudgements).Error)
}

// Judgements are the newest of each project, by its id.
func (s *Store) Judgements() (map[string]Judgement, error) {
	var rows []Judgement
	err := s.db.Omit("parts").Order("version").Find(&rows).Error
	out := map[string]Judgement{}
	for _, r := range rows {
		out[r.ProjectID] = r
	}
	return out, err
}

// JudgementsOf are those of a project against a reference, the oldest first.
func (s *Store) JudgementsOf(project, reference string) (rows []Judgement, err error) {
	return rows, s.db.Order("version").Find(&rows, "project_id = ? AND reference = ?", project, reference).Error
}
