// Package house checks the shape of the whole: which rooms may know which.
package house

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// forbidden lists, by room, what its code (tests apart) must not import.
var forbidden = map[string][]string{
	"core":      {"jubrak/app", "jubrak/cmd", "jubrak/web", "jubrak/demo", "net/http", "net", "os", "database/sql", "gorm.io", "github.com/gin-gonic", "github.com/coder", "github.com/spf13"},
	"app":       {"jubrak/cmd", "jubrak/web", "jubrak/demo"},
	"app/store": {"jubrak/app/", "jubrak/core", "github.com/gin-gonic"},
	"app/jobs":  {"jubrak/app/", "jubrak/core", "gorm.io"},
	"app/live":  {"jubrak/app/", "gorm.io", "github.com/gin-gonic"},
	"web":       {"jubrak/"},
}

// core's own order: each room may use only rooms to its left.
var order = []string{"music", "dsp", "audio", "param", "stretch", "mix", "sound", "groove", "tone", "format", "arrange", "synth", "engine", "stock", "ear", "listen", "study", "drums", "backing", "fit", "profile", "pattern", "slice", "project", "balance", "match", "rebuild", "deliver"}

// testOnly is core code that only tests use.
const testOnly = "core/internal"

func TestImportsRunOneWay(t *testing.T) {
	root := "../.."
	checked := 0
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return fs.SkipDir
		}
		rel, _ := filepath.Rel(root, path)
		if !strings.HasSuffix(rel, ".go") || strings.HasSuffix(rel, "_test.go") || strings.HasPrefix(rel, testOnly) {
			return nil
		}
		file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ImportsOnly)
		require.NoError(t, err)
		for _, spec := range file.Imports {
			name, _ := strconv.Unquote(spec.Path.Value)
			for room, list := range forbidden {
				if strings.HasPrefix(rel, room+"/") {
					for _, bad := range list {
						assert.False(t, name == bad || strings.HasPrefix(name, strings.TrimSuffix(bad, "/")+"/"), "%s imports %s", rel, name)
					}
				}
			}
			if mine, ok := strings.CutPrefix(rel, "core/"); ok {
				if other, ok := strings.CutPrefix(name, "jubrak/core/"); ok {
					assert.Greater(t, place(t, strings.Split(mine, "/")[0]), place(t, other), "%s imports %s", rel, name)
				}
			}
		}
		checked++
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, checked, 40, "the walk found the code")
}

func place(t *testing.T, room string) int {
	for i, r := range order {
		if r == room {
			return i
		}
	}
	t.Errorf("core/%s has no place in the order of rooms", room)
	return -1
}

// No host name of a package registry stands anywhere in the tree.
func TestNoRegistryHosts(t *testing.T) {
	for _, name := range []string{"../../web/package-lock.json", "../../e2e/package-lock.json", "../../Makefile", "../../README.md"} {
		text, err := os.ReadFile(name)
		require.NoError(t, err)
		assert.NotContains(t, string(text), `"resolved": "http`, name)
	}
}
