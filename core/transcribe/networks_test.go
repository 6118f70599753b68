package transcribe

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// networks.json says which commit, program and seeds made each network that ships. None is
// there without an entry, and each is what it was when it was made.
func TestNetworksAreThoseOfTheManifest(t *testing.T) {
	text, err := os.ReadFile("networks.json")
	require.NoError(t, err)
	var list []struct {
		File, SHA256, Commit, Program, Note string
		Seeds                               []uint64
	}
	require.NoError(t, json.Unmarshal(text, &list))
	var named []string
	for _, n := range list {
		data, err := os.ReadFile(n.File)
		require.NoError(t, err)
		sum := sha256.Sum256(data)
		assert.Equal(t, n.SHA256, hex.EncodeToString(sum[:]), "%s is another one: say in networks.json what made it", n.File)
		assert.Regexp(t, `^[0-9a-f]{7,40}$`, n.Commit, n.File)
		assert.NotEmpty(t, n.Program, n.File)
		assert.True(t, len(n.Seeds) > 0 || n.Note != "", n.File)
		named = append(named, n.File)
	}
	there, err := filepath.Glob("*.gz")
	require.NoError(t, err)
	below, err := filepath.Glob("drumnet/*.gz")
	require.NoError(t, err)
	there = append(there, below...)
	slices.Sort(named)
	slices.Sort(there)
	assert.Equal(t, there, named)
}
