package house

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Every package of the core and the app says what it is for, and every public name of the
// core has a comment that begins with it, as go doc shows it.
func TestPackagesAndPublicNamesAreExplained(t *testing.T) {
	explained := map[string]bool{}
	names := 0
	for _, root := range []string{"../../core", "../../app", "../../internal"} {
		require.NoError(t, filepath.WalkDir(root, func(file string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(file, ".go") || strings.HasSuffix(file, "_test.go") {
				return err
			}
			f, err := parser.ParseFile(token.NewFileSet(), file, nil, parser.ParseComments)
			if err != nil {
				return err
			}
			dir := filepath.Dir(file)
			explained[dir] = explained[dir] || f.Doc != nil || f.Name.Name == "main"
			if root != "../../core" {
				return nil
			}
			for _, decl := range f.Decls {
				names += checkDecl(t, file, decl)
			}
			return nil
		}))
	}
	for dir, is := range explained {
		assert.True(t, is, "%s has no package comment", dir)
	}
	assert.Greater(t, names, 800)
}

// checkDecl checks the public names of a declaration and returns how many there are.
func checkDecl(t *testing.T, file string, decl ast.Decl) (n int) {
	explained := func(name string, docs ...*ast.CommentGroup) {
		n++
		for _, doc := range docs {
			if doc != nil && strings.TrimSpace(doc.Text()) != "" {
				return
			}
		}
		t.Errorf("%s: %s has no comment", file, name)
	}
	switch d := decl.(type) {
	case *ast.FuncDecl:
		if !d.Name.IsExported() || d.Recv != nil && !exportedReceiver(d.Recv.List[0].Type) {
			return 0
		}
		explained(d.Name.Name, d.Doc)
	case *ast.GenDecl:
		for _, spec := range d.Specs {
			switch s := spec.(type) {
			case *ast.TypeSpec:
				if s.Name.IsExported() {
					explained(s.Name.Name, d.Doc, s.Doc)
				}
			case *ast.ValueSpec:
				for _, name := range s.Names {
					if name.IsExported() {
						explained(name.Name, d.Doc, s.Doc, s.Comment)
					}
				}
			}
		}
	}
	return n
}

func exportedReceiver(t ast.Expr) bool {
	if star, ok := t.(*ast.StarExpr); ok {
		t = star.X
	}
	if index, ok := t.(*ast.IndexExpr); ok {
		t = index.X
	}
	id, ok := t.(*ast.Ident)
	return ok && id.IsExported()
}
