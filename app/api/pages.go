package api

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"

	"jubrak/core/effect"
	"jubrak/core/project"
	"jubrak/internal/comments"
)

// Generated are the files that are made from the source, whose root is given, by
// their paths: what the types of the API say of themselves, the OpenAPI document,
// and the list of edits for people.
func Generated(root string) (map[string][]byte, error) {
	said, err := readComments(root)
	if err != nil {
		return nil, err
	}
	text, err := json.MarshalIndent(said, "", " ")
	if err != nil {
		return nil, err
	}
	return map[string][]byte{
		"app/api/comments.json": append(text, '\n'), "web/openapi.json": openAPI(said), "docs/edits.md": editsPage(said),
		"web/src/api/facts.gen.ts": facts(), "web/src/api/strokes.gen.json": strokes(), "web/src/api/blocks.gen.json": blocks(),
		"web/src/test/info.gen.json": infoFile(),
	}, nil
}

func readComments(root string) (Comments, error) {
	all, err := comments.Read(root, "jubrak", "core", "app")
	if err != nil {
		return nil, err
	}
	s := newSchemas(all)
	s.document()
	out := Comments{}
	for _, list := range []map[string]reflect.Type{s.types, s.embedded} {
		for _, t := range list {
			if c := all[typeName(t)]; c != nil {
				out[typeName(t)] = c
			}
		}
	}
	return out, nil
}

// listFields lists the fields of an edit, those of embedded types included, as Markdown.
func (s schemas) listFields(b *strings.Builder, t reflect.Type) {
	about := s.saidOf(t)
	for i := range t.NumField() {
		f := t.Field(i)
		if f.Anonymous {
			s.listFields(b, f.Type)
			continue
		}
		tag, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		star := ""
		if options == "omitempty" {
			star = "\\*"
		}
		fmt.Fprintf(b, "- `%s`%s %s", tag, star, kindOf(f.Type))
		if doc := about.Fields[f.Name]; doc != "" {
			fmt.Fprintf(b, ": %s", oneLine(strings.TrimPrefix(doc, f.Name+" "), false))
		}
		b.WriteString("\n")
	}
}

// editsPage lists every kind of edit, as Markdown.
func editsPage(said Comments) []byte {
	s := newSchemas(said)
	var b strings.Builder
	b.WriteString("# Edits\n\nMade from the source by `make generate`; do not edit this page.\n\n" +
		"A project changes through edits, `POST /api/projects/{id}/edits`. Each is an object with `op` and the fields below it; a field with a star may be left out. " +
		"Every number has an address (see [formats.md](formats.md)); the tables at the end say which there are.\n\n")
	for _, k := range project.Kinds() {
		about := s.saidOf(k.Type)
		fmt.Fprintf(&b, "## `%s`\n\n%s\n\n", k.Op, oneLine(strings.TrimPrefix(about.Doc, k.Type.Name()+" "), true))
		s.listFields(&b, k.Type)
		b.WriteString("\n")
	}
	tables := reflect.ValueOf(project.AllTables())
	for i := range tables.NumField() {
		fmt.Fprintf(&b, "## Parameters: %s\n\n| id | name | range | default | scale |\n|---|---|---|---|---|\n", strings.ReplaceAll(tables.Type().Field(i).Tag.Get("json"), "_", " "))
		for j := range tables.Field(i).Len() {
			p := tables.Field(i).Index(j)
			field := func(n string) any { return p.FieldByName(n).Interface() }
			fmt.Fprintf(&b, "| `%s` | %s | %g to %g %s | %g | %s |\n", field("ID"), field("Label"), field("Min"), field("Max"), field("Unit"), field("Default"), field("Scale"))
		}
		b.WriteString("\n")
	}
	b.WriteString("# Kinds of effect\n\nThey stand in recipes and in chains of rows (some in rows alone), with these parameters; `effect.add` names a kind.\n\n")
	for _, k := range effect.Kinds() {
		fmt.Fprintf(&b, "## Effect: `%s`\n\n%s (%s): %s.", k.ID, k.Label, k.Group, strings.ToLower(k.Hint[:1])+k.Hint[1:])
		if k.Rows {
			b.WriteString(" In rows of the mix alone.")
		}
		if k.Keyed {
			b.WriteString(" Another voice may be its sidechain.")
		}
		if len(k.Paths) > 0 {
			fmt.Fprintf(&b, " It holds chains of its own: %s.", strings.ToLower(strings.Join(k.Paths, ", ")))
		}
		b.WriteString("\n\n| id | name | range | default | scale |\n|---|---|---|---|---|\n")
		for _, p := range k.Params {
			unit, values := p.Unit, fmt.Sprintf("%g to %g", p.Min, p.Max)
			for i, name := range p.Names {
				values += fmt.Sprintf("%s%g %s", map[bool]string{true: ": ", false: ", "}[i == 0], p.Min+float64(i), name)
			}
			fmt.Fprintf(&b, "| `%s` | %s | %s | %g | %s |\n", p.ID, p.Label, strings.TrimSpace(values+" "+unit), p.Default, p.Scale)
		}
		b.WriteString("\n")
	}
	return []byte(strings.TrimRight(b.String(), "\n") + "\n")
}

func oneLine(text string, sentence bool) string {
	text = strings.Join(strings.Fields(text), " ")
	if sentence && text != "" {
		text = strings.ToUpper(text[:1]) + text[1:]
	}
	return text
}

func kindOf(t reflect.Type) string {
	switch t.Kind() {
	case reflect.Slice:
		return "list of " + kindOf(t.Elem())
	case reflect.Struct:
		return name(t)
	case reflect.Pointer:
		return kindOf(t.Elem())
	case reflect.Map:
		return kindOf(t.Elem()) + " by name"
	case reflect.Bool:
		return "true or false"
	case reflect.String:
		return "text"
	case reflect.Int, reflect.Int64:
		return "whole number"
	}
	return "number"
}
