// Package comments reads what Go types say of themselves: doc comments of types
// and fields, and the constants of named strings.
package comments

import (
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"path/filepath"
	"strconv"
	"strings"
)

// Type is what is said of a type.
type Type struct {
	Doc    string            `json:"doc,omitempty"`
	Fields map[string]string `json:"fields,omitempty"`
	// Values are the constants of a named string, in order.
	Values []string `json:"values,omitempty"`
}

// Read reads the exported types of every package under folders of a module, by
// import path and name: "jubrak/core/sound.Voice".
func Read(root, module string, folders ...string) (map[string]*Type, error) {
	out := map[string]*Type{}
	for _, folder := range folders {
		err := filepath.WalkDir(filepath.Join(root, folder), func(path string, d os.DirEntry, err error) error {
			if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.ParseComments)
			if err != nil {
				return err
			}
			rel, err := filepath.Rel(root, filepath.Dir(path))
			if err != nil {
				return err
			}
			readFile(file, module+"/"+filepath.ToSlash(rel)+".", out)
			return nil
		})
		if err != nil {
			return nil, err
		}
	}
	return out, nil
}

func readFile(file *ast.File, prefix string, out map[string]*Type) {
	at := func(name string) *Type {
		if out[prefix+name] == nil {
			out[prefix+name] = &Type{Fields: map[string]string{}}
		}
		return out[prefix+name]
	}
	for _, decl := range file.Decls {
		g, ok := decl.(*ast.GenDecl)
		if !ok {
			continue
		}
		for _, spec := range g.Specs {
			switch s := spec.(type) {
			case *ast.TypeSpec:
				if s.Name.IsExported() {
					t := at(s.Name.Name)
					t.Doc = text(s.Doc, g.Doc)
					if body, ok := s.Type.(*ast.StructType); ok {
						readFields(body, t)
					}
				}
			case *ast.ValueSpec:
				readValue(g, s, at)
			}
		}
	}
}

func readFields(body *ast.StructType, t *Type) {
	for _, f := range body.Fields.List {
		for _, n := range f.Names {
			if doc := text(f.Doc, f.Comment); n.IsExported() && doc != "" {
				t.Fields[n.Name] = doc
			}
		}
	}
}

// readValue takes a string constant of a named type.
func readValue(g *ast.GenDecl, s *ast.ValueSpec, at func(string) *Type) {
	kind, ok := s.Type.(*ast.Ident)
	if g.Tok != token.CONST || !ok || !kind.IsExported() || len(s.Values) != 1 {
		return
	}
	if lit, ok := s.Values[0].(*ast.BasicLit); ok && lit.Kind == token.STRING {
		if v, err := strconv.Unquote(lit.Value); err == nil {
			t := at(kind.Name)
			t.Values = append(t.Values, v)
		}
	}
}

// text is the first comment there is, its lines joined into paragraphs.
func text(groups ...*ast.CommentGroup) string {
	for _, g := range groups {
		if t := strings.TrimSpace(g.Text()); t != "" {
			return t
		}
	}
	return ""
}
