package house

import (
	"errors"
	"go/ast"
	"go/parser"
	"go/token"
	"go/types"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// transcribeParts are the parts of core/transcribe, by what the names of their files begin
// with, each with those whose names it may use.
var transcribeParts = map[string][]string{
	"analysis": {},
	"beat":     {"analysis"},
	"hits":     {"analysis", "beat"},
	"mix":      {"analysis", "hits"},
	"report":   {"analysis", "beat"},
	"outline":  {"analysis"},
	"midi":     {"analysis"},
	"analyze":  {"analysis", "beat", "hits", "mix"},
}

// nowhere is where packages are imported from that are of no concern here.
type nowhere struct{}

func (nowhere) Import(string) (*types.Package, error) { return nil, errors.New("not looked at") }

func TestPartsOfTranscribeUseEachOtherOneWay(t *testing.T) {
	files, err := filepath.Glob("../../core/transcribe/*.go")
	require.NoError(t, err)
	set := token.NewFileSet()
	var parsed []*ast.File
	for _, file := range files {
		if strings.HasSuffix(file, "_test.go") || filepath.Base(file) == "doc.go" {
			continue
		}
		f, err := parser.ParseFile(set, file, nil, 0)
		require.NoError(t, err)
		parsed = append(parsed, f)
	}
	info := &types.Info{Uses: map[*ast.Ident]types.Object{}}
	config := types.Config{Importer: nowhere{}, Error: func(error) {}}
	pkg, _ := config.Check("transcribe", set, parsed, info) // what it imports is missing
	partOf := func(at token.Pos) string {
		name := strings.TrimSuffix(filepath.Base(set.Position(at).Filename), ".go")
		part, _, _ := strings.Cut(name, "_")
		return part
	}
	checked := 0
	for name, used := range info.Uses {
		if used.Pkg() != pkg || used.Parent() != pkg.Scope() {
			continue
		}
		mine, other := partOf(name.Pos()), partOf(used.Pos())
		may, known := transcribeParts[mine]
		require.True(t, known, "core/transcribe/%s*.go is of no part that is known here", mine)
		if mine != other {
			checked++
			assert.True(t, slices.Contains(may, other), "%s uses %s of %s", set.Position(name.Pos()), used.Name(), other)
		}
	}
	assert.Greater(t, checked, 100)
}
