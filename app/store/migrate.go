package store

import (
	"fmt"

	"gorm.io/gorm"
)

// migrations bring the database up to date, in order. The database holds as its
// user_version how many it has been through. Another table or column is another migration;
// app/service/testdata keeps a database from before each.
var migrations = []func(db *gorm.DB) error{
	// 1: distances call "measurable" what they called "told".
	func(db *gorm.DB) error {
		if m := db.Migrator(); m.HasTable("distances") && m.HasColumn("distances", "told") {
			return m.RenameColumn("distances", "told", "measurable")
		}
		return nil
	},
	// 2: all tables; items of the library have a schema.
	func(db *gorm.DB) error {
		return db.AutoMigrate(&Project{}, &Revision{}, &Part{}, &Hearing{}, &Made{}, &Profile{}, &Setting{}, &Task{}, &Distance{}, &Item{})
	},
}

// migrate runs the migrations that a database has not been through. One of a newer version
// is refused with ErrNewer and left as it is.
func migrate(db *gorm.DB) error {
	var done int
	if err := db.Raw("pragma user_version").Scan(&done).Error; err != nil {
		return err
	}
	if done > len(migrations) {
		return ErrNewer
	}
	for ; done < len(migrations); done++ {
		err := db.Transaction(func(tx *gorm.DB) error {
			if err := migrations[done](tx); err != nil {
				return err
			}
			return tx.Exec(fmt.Sprintf("pragma user_version = %d", done+1)).Error
		})
		if err != nil {
			return fmt.Errorf("migration %d: %w", done+1, err)
		}
	}
	return nil
}
