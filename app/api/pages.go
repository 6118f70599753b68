package api

import (
	"encoding/json"
	"fmt"
	"reflect"
	"strings"

	"jubrak/core/mix"
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
		"web/src/api/facts.gen.ts": facts(), "web/src/api/strokes.gen.json": strokes(),
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
	for _, t := range s.types {
		if c := all[typeName(t)]; c != nil {
			out[typeName(t)] = c
		}
	}
	return out, nil
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
		for i := range k.Type.NumField() {
			f := k.Type.Field(i)
			tag, options, _ := strings.Cut(f.Tag.Get("json"), ",")
			star := ""
			if options == "omitempty" {
				star = "\\*"
			}
			fmt.Fprintf(&b, "- `%s`%s %s", tag, star, kindOf(f.Type))
			if doc := about.Fields[f.Name]; doc != "" {
				fmt.Fprintf(&b, ": %s", oneLine(strings.TrimPrefix(doc, f.Name+" "), false))
			}
			b.WriteString("\n")
		}
		b.WriteString("\n")
	}
	tables := reflect.ValueOf(project.AllTables())
	for i := range tables.NumField() {
		fmt.Fprintf(&b, "## Numbers: %s\n\n| id | name | range | default | scale |\n|---|---|---|---|---|\n", strings.ReplaceAll(tables.Type().Field(i).Tag.Get("json"), "_", " "))
		for j := range tables.Field(i).Len() {
			p := tables.Field(i).Index(j)
			field := func(n string) any { return p.FieldByName(n).Interface() }
			fmt.Fprintf(&b, "| `%s` | %s | %g to %g %s | %g | %s |\n", field("ID"), field("Label"), field("Min"), field("Max"), field("Unit"), field("Default"), field("Scale"))
		}
		b.WriteString("\n")
	}
	b.WriteString("# Kinds of step\n\nWhat stands in recipes (where it says so, in rows of the mix alone), with the numbers that each kind has; `chain.add` and `step.add` name a kind.\n\n")
	for _, k := range mix.Kinds {
		fmt.Fprintf(&b, "## Step: `%s`\n\n%s.", k.ID, k.Label)
		if k.Rows {
			b.WriteString(" In rows of the mix alone.")
		}
		if k.Keyed {
			b.WriteString(" Another voice may steer it.")
		}
		if k.Paths > 0 {
			fmt.Fprintf(&b, " It holds chains of its own on %d paths.", k.Paths)
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
