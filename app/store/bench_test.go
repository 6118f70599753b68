package store

import (
	"fmt"
	"testing"

	"gorm.io/driver/sqlite"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// BenchmarkSave is what an acknowledged edit costs the disk: with every commit
// flushed, as the store does, and with the flush left to the system, as it did
// before. The document is that of an ordinary project, 20 kB.
func BenchmarkSave(b *testing.B) {
	document := make([]byte, 0, 20000)
	for i := range 400 {
		document = fmt.Appendf(document, `{"id":"h%d","tick":%d,"velocity":%d,"nudge_ms":0},`, i, i*240, i%127)
	}
	for _, mode := range []string{"FULL", "NORMAL"} {
		b.Run(mode, func(b *testing.B) {
			s, err := Open(b.TempDir())
			if err != nil {
				b.Fatal(err)
			}
			defer func() { _ = s.Close() }()
			if mode != "FULL" {
				dsn := "file:" + s.dir + "/jubrak.db?_journal_mode=WAL&_synchronous=" + mode
				if s.db, err = gorm.Open(sqlite.Open(dsn), &gorm.Config{Logger: logger.Discard}); err != nil {
					b.Fatal(err)
				}
			}
			if err := s.Create("p", "P", document); err != nil {
				b.Fatal(err)
			}
			version := 1
			for b.Loop() {
				c, err := s.Save("p", version, Change{Name: "P", Document: document, Coalesce: "drag"})
				if err != nil {
					b.Fatal(err)
				}
				version = c.Version
			}
		})
	}
}
