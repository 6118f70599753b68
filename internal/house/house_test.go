// Package house checks the shape of the whole: which packages may import which.
package house

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// forbidden lists, by folder, what its code (tests apart) must not import.
var forbidden = map[string][]string{
	"core":      {"jubrak/app", "jubrak/cmd", "jubrak/web", "jubrak/demo", "net/http", "net", "os", "database/sql", "gorm.io", "github.com/gin-gonic", "github.com/coder", "github.com/spf13"},
	"app":       {"jubrak/cmd", "jubrak/web", "jubrak/demo"},
	"app/store": {"jubrak/app/", "jubrak/core", "github.com/gin-gonic"},
	"app/jobs":  {"jubrak/app/", "jubrak/core", "gorm.io"},
	"app/live":  {"jubrak/app/", "gorm.io", "github.com/gin-gonic"},
	"web":       {"jubrak/"},
}

// core's own order: each package may import only those to its left.
var order = []string{"music", "dsp", "audio", "param", "stretch", "state", "effect", "mixer", "sound", "groove", "measure", "format", "arrange", "synth", "engine", "preset", "transcribe/drumnet", "transcribe", "audition", "isolate", "backing", "fit", "profile", "pattern", "slice", "project", "mixreport", "compare", "rebuild", "export"}

// testOnly is core code that only tests use.
const testOnly = "core/internal"

func TestImportsRunOneWay(t *testing.T) {
	root := "../.."
	checked := 0
	err := filepath.WalkDir(root, func(file string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return fs.SkipDir
		}
		rel, _ := filepath.Rel(root, file)
		if !strings.HasSuffix(rel, ".go") || strings.HasSuffix(rel, "_test.go") || strings.HasPrefix(rel, testOnly) {
			return nil
		}
		parsed, err := parser.ParseFile(token.NewFileSet(), file, nil, parser.ImportsOnly)
		require.NoError(t, err)
		for _, spec := range parsed.Imports {
			name, _ := strconv.Unquote(spec.Path.Value)
			for folder, list := range forbidden {
				if strings.HasPrefix(rel, folder+"/") {
					for _, bad := range list {
						assert.False(t, name == bad || strings.HasPrefix(name, strings.TrimSuffix(bad, "/")+"/"), "%s imports %s", rel, name)
					}
				}
			}
			if mine, ok := strings.CutPrefix(rel, "core/"); ok {
				if other, ok := strings.CutPrefix(name, "jubrak/core/"); ok {
					assert.Greater(t, place(t, path.Dir(mine)), place(t, other), "%s imports %s", rel, name)
				}
			}
		}
		checked++
		return nil
	})
	require.NoError(t, err)
	assert.Greater(t, checked, 40, "the walk found the code")
}

func place(t *testing.T, name string) int {
	for i, r := range order {
		if r == name {
			return i
		}
	}
	t.Errorf("core/%s has no place in the order of packages", name)
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

// CONTRIBUTING names every file that a change needs: those, and the tests that it names, are
// there.
func TestContributingNamesWhatIsThere(t *testing.T) {
	text, err := os.ReadFile("../../CONTRIBUTING.md")
	require.NoError(t, err)
	tests := testNames(t)
	paths := 0
	for _, m := range regexp.MustCompile("`([^`\n]+)`").FindAllStringSubmatch(string(text), -1) {
		name := m[1]
		switch {
		case regexp.MustCompile(`^Test\w+$`).MatchString(name):
			assert.True(t, tests[name], "%s is no test", name)
		case regexp.MustCompile(`^[\w.-]+(/[\w.*-]+)+(\.\w+)?$`).MatchString(name) && !strings.Contains(name, "NAME") && regexp.MustCompile(`\.(go|ts|tsx|md|json|mjs)$|^(core|app|web|internal|e2e|docs|fixtures)/`).MatchString(name):
			if strings.HasPrefix(name, "state/") || strings.HasPrefix(name, "keys/") || strings.HasPrefix(name, "parts/") {
				name = "web/src/" + name
			}
			found, err := filepath.Glob("../../" + name)
			require.NoError(t, err)
			assert.NotEmpty(t, found, "%s is not there", name)
			paths++
		}
	}
	assert.Greater(t, paths, 15)
}

// testNames are the names of all Go tests.
func testNames(t *testing.T) map[string]bool {
	out := map[string]bool{}
	require.NoError(t, filepath.WalkDir("../..", func(file string, d fs.DirEntry, err error) error {
		if err == nil && d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return fs.SkipDir
		}
		if err != nil || !strings.HasSuffix(file, "_test.go") {
			return err
		}
		text, err := os.ReadFile(file)
		for _, m := range regexp.MustCompile(`(?m)^func (Test\w+)\(`).FindAllStringSubmatch(string(text), -1) {
			out[m[1]] = true
		}
		return err
	}))
	return out
}

// The front end's own order: a folder of web/src imports from itself and from those to its
// right.
var frontOrder = []string{"test", "views", "parts", "standin", "time", "live", "keys", "state", "api"}

// atTheRoot are the files of web/src itself: they put the whole together.
const atTheRoot = "."

func TestTheFrontEndImportsOneWay(t *testing.T) {
	root := "../../web/src"
	from := regexp.MustCompile(`(?m)(?:from|import\()\s*"(\.[^"]+)"`)
	checked := 0
	require.NoError(t, filepath.WalkDir(root, func(file string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !regexp.MustCompile(`\.tsx?$`).MatchString(file) || strings.Contains(file, ".test.") {
			return err
		}
		rel, _ := filepath.Rel(root, file)
		mine := strings.Split(filepath.ToSlash(filepath.Dir(rel)), "/")
		if mine[0] == atTheRoot {
			return nil
		}
		text, err := os.ReadFile(file)
		if err != nil {
			return err
		}
		for _, m := range from.FindAllStringSubmatch(string(text), -1) {
			to, _ := filepath.Rel(root, filepath.Join(filepath.Dir(file), m[1]))
			other := strings.Split(filepath.ToSlash(filepath.Dir(to)), "/")
			if other[0] == atTheRoot {
				continue
			}
			checked++
			assert.LessOrEqual(t, frontPlace(t, mine[0]), frontPlace(t, other[0]), "web/src/%s imports %s", rel, to)
			if mine[0] == "views" && other[0] == "views" && len(mine) > 1 && len(other) > 1 && mine[1] != other[1] {
				assert.Failf(t, "a view imports another one", "web/src/%s imports %s", rel, to)
			}
		}
		return nil
	}))
	assert.Greater(t, checked, 200, "the walk found the code")
}

func frontPlace(t *testing.T, name string) int {
	if i := slices.Index(frontOrder, name); i >= 0 {
		return i
	}
	t.Errorf("web/src/%s has no place in the order of the front end", name)
	return -1
}

// No file of the front end imports itself by way of others.
func TestNoCirclesInTheFrontEnd(t *testing.T) {
	root := "../../web/src"
	from := regexp.MustCompile(`(?m)^(?:import|export)(?:[^"';]*?from)?\s*"(\.[^"]+)"`)
	imports := map[string][]string{}
	require.NoError(t, filepath.WalkDir(root, func(file string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !regexp.MustCompile(`\.tsx?$`).MatchString(file) || strings.Contains(file, ".test.") {
			return err
		}
		text, err := os.ReadFile(file)
		if err != nil {
			return err
		}
		name := strings.TrimSuffix(strings.TrimSuffix(file, ".tsx"), ".ts")
		for _, m := range from.FindAllStringSubmatch(string(text), -1) {
			imports[name] = append(imports[name], filepath.Join(filepath.Dir(file), m[1]))
		}
		return nil
	}))
	assert.Greater(t, len(imports), 100)
	done := map[string]bool{}
	var path []string
	var visit func(name string)
	visit = func(name string) {
		if i := slices.Index(path, name); i >= 0 {
			t.Errorf("a circle: %s", strings.Join(append(path[i:], name), " → "))
			return
		}
		if done[name] {
			return
		}
		path = append(path, name)
		for _, to := range imports[name] {
			visit(to)
		}
		path = path[:len(path)-1]
		done[name] = true
	}
	for name := range imports {
		visit(name)
	}
}

// Sizes of text are those of the scale in web/src/main.css, never put in place.
func TestSizesOfTextAreOfTheScale(t *testing.T) {
	inPlace := regexp.MustCompile(`\btext-\[[0-9.]+(?:px|rem|em)\]|fontSize: [0-9]`)
	checked := 0
	require.NoError(t, filepath.WalkDir("../../web/src", func(file string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(file, ".tsx") {
			return err
		}
		text, err := os.ReadFile(file)
		assert.Empty(t, inPlace.FindAllString(string(text), -1), file)
		checked++
		return err
	}))
	assert.Greater(t, checked, 100)
}
