package service

import (
	"compress/gzip"
	"context"
	"io"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"gorm.io/driver/sqlite"
	"gorm.io/gorm"

	"jubrak/app/store"
	"jubrak/core/project"
	"jubrak/core/sound"
)

// keptFolder is a data folder as an older version left it.
func keptFolder(t *testing.T, name string) string {
	dir := t.TempDir()
	packed, err := os.Open(filepath.Join("testdata", name))
	require.NoError(t, err)
	defer packed.Close()
	r, err := gzip.NewReader(packed)
	require.NoError(t, err)
	f, err := os.Create(filepath.Join(dir, "jubrak.db"))
	require.NoError(t, err)
	_, err = io.Copy(f, r)
	require.NoError(t, err)
	require.NoError(t, f.Close())
	return dir
}

// A data folder of schema 8 opens: its project, each version of its history, and all that
// was saved in the library, with effects, modulations and automation by their present names.
func TestDataFolderOfSchema8(t *testing.T) {
	s, err := store.Open(keptFolder(t, "schema8.db.gz"))
	require.NoError(t, err)
	defer func() { require.NoError(t, s.Close()) }()
	w := New(s)
	defer w.Close()
	list, err := w.Projects()
	require.NoError(t, err)
	require.Len(t, list, 1)
	id := list[0].ID
	st, err := w.Open(id)
	require.NoError(t, err)
	d := &st.Document
	assert.Equal(t, project.Schema, d.Schema)
	kick := d.Kit.Voice("kick")
	recipe := kick.Layers[0].Recipe
	require.NotEmpty(t, recipe.Effects)
	assert.Equal(t, "drive", recipe.Effects[0].Kind)
	require.NotEmpty(t, recipe.Modulations)
	assert.True(t, slices.ContainsFunc(recipe.Modulations, func(m sound.Modulation) bool { return m.At == "effects/drive1/amount_percent" }))
	require.Len(t, d.Mix.Automation, 1)
	assert.Equal(t, "kick/level_db", d.Mix.Automation[0].At)
	assert.Equal(t, "compressor", kick.Chain[0].Kind)

	h, err := w.History(id)
	require.NoError(t, err)
	require.Len(t, h.Changes, 5)
	for at := range h.Changes {
		changed, err := w.Go(id, st.Version, h.Changes[at].Position)
		require.NoError(t, err)
		st.Version = changed.Version
	}

	library, err := w.Library()
	require.NoError(t, err)
	assert.True(t, library.Sounds[0].Own)
	assert.Equal(t, "My kick", library.Sounds[0].Name)
	assert.NotEmpty(t, library.Sounds[0].Layers[0].Recipe.Effects)
	assert.Equal(t, "My kit", library.Kits[0].Name)
	assert.NotEmpty(t, library.Kits[0].Voices[0].Chain)
	assert.Equal(t, "My curve", library.Curves[0].Curve.Name)
	chains, err := w.Chains()
	require.NoError(t, err)
	assert.Equal(t, "My chain", chains[0].Name)
	require.Len(t, chains[0].Effects, 1)
	attempts, err := w.Attempts(id, "kick")
	require.NoError(t, err)
	require.Len(t, attempts.Attempts, 1)
	assert.NotEmpty(t, attempts.Attempts[0].Layers[0].Recipe.Modulations)

	judged, err := s.DistancesOf(id, "r")
	require.NoError(t, err)
	require.Len(t, judged, 1)
	assert.Equal(t, 25, judged[0].Measurable)
}

// A project file of schema 8 opens.
func TestArchiveOfSchema8(t *testing.T) {
	w := open(t)
	data, err := os.ReadFile("testdata/schema8.jubrak")
	require.NoError(t, err)
	id, notes, err := w.OpenArchive(context.Background(), data, func(string, float64) {})
	require.NoError(t, err)
	assert.Len(t, notes, 1, "what came in, and nothing that was left out")
	st, err := w.Open(id)
	require.NoError(t, err)
	assert.Equal(t, "compressor", st.Document.Kit.Voice("kick").Chain[0].Kind)
	assert.Len(t, st.Document.Mix.Automation, 1)
}

// A data folder of a newer version is refused with a sentence, and left as it is.
func TestDataFolderOfANewerVersion(t *testing.T) {
	dir := keptFolder(t, "schema8.db.gz")
	db, err := gorm.Open(sqlite.Open(filepath.Join(dir, "jubrak.db")))
	require.NoError(t, err)
	require.NoError(t, db.Exec("pragma user_version = 99").Error)
	raw, err := db.DB()
	require.NoError(t, err)
	require.NoError(t, raw.Close())
	_, err = store.Open(dir)
	require.ErrorIs(t, err, store.ErrNewer)
	db, err = gorm.Open(sqlite.Open(filepath.Join(dir, "jubrak.db")))
	require.NoError(t, err)
	var known int
	require.NoError(t, db.Raw("select told from distances").Scan(&known).Error)
	assert.Equal(t, 25, known)
	raw, err = db.DB()
	require.NoError(t, err)
	require.NoError(t, raw.Close())
}
