package api

import (
	_ "embed"
	"encoding/json"
	"reflect"
	"strings"

	"jubrak/core/project"
	"jubrak/internal/comments"
)

// saidJSON is what the Go types of the API say of themselves. The command gen
// writes it from the source.
//
//go:embed comments.json
var saidJSON []byte

func said() Comments {
	out := Comments{}
	if err := json.Unmarshal(saidJSON, &out); err != nil {
		panic(err) // written by gen
	}
	return out
}

// Comments are what types say of themselves, by import path and name.
type Comments map[string]*comments.Type

// schemas collects the JSON schemas of Go types by name, in the dialect of
// OpenAPI 3.0, and remembers which type has a name, so that two cannot share
// one. Descriptions and enumerations are the Go source's.
type schemas struct {
	byName   map[string]any
	types    map[string]reflect.Type
	embedded map[string]reflect.Type // their fields are those of the types that embed them
	said     Comments
}

func newSchemas(said Comments) schemas {
	return schemas{map[string]any{}, map[string]reflect.Type{}, map[string]reflect.Type{}, said}
}

// saidOf is what a type says of itself, never nil.
func (s schemas) saidOf(t reflect.Type) *comments.Type {
	if c := s.said[typeName(t)]; c != nil {
		return c
	}
	return &comments.Type{}
}

// typeName is a type's import path and name.
func typeName(t reflect.Type) string { return t.PkgPath() + "." + t.Name() }

// of is the schema of a type: structs become components of their own, named
// after the type. Pointers may be null; fields without omitempty or omitzero are always
// there.
func (s schemas) of(t reflect.Type) map[string]any {
	if t == reflect.TypeFor[project.Edits]() {
		return map[string]any{"type": "array", "items": s.edits()}
	}
	switch t.Kind() {
	case reflect.Pointer:
		inner := s.of(t.Elem())
		if ref, ok := inner["$ref"]; ok {
			return map[string]any{"nullable": true, "allOf": []any{map[string]any{"$ref": ref}}}
		}
		inner["nullable"] = true
		return inner
	case reflect.Struct:
		s.component(t)
		return map[string]any{"$ref": "#/components/schemas/" + name(t)}
	case reflect.Slice:
		if t.Elem().Kind() == reflect.Uint8 { // written as Base64
			return map[string]any{"type": "string", "format": "byte"}
		}
		return map[string]any{"type": "array", "items": s.of(t.Elem())}
	case reflect.Array:
		return map[string]any{"type": "array", "items": s.of(t.Elem()), "minItems": t.Len(), "maxItems": t.Len()}
	case reflect.Map:
		return map[string]any{"type": "object", "additionalProperties": s.of(t.Elem())}
	case reflect.Interface: // any value
		return map[string]any{}
	case reflect.String:
		if values := s.saidOf(t).Values; len(values) > 0 {
			return s.enumeration(t, values)
		}
		return map[string]any{"type": "string"}
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Float32, reflect.Float64:
		return map[string]any{"type": "number"}
	}
	return map[string]any{"type": "integer"}
}

// enumeration is a named string whose values are known.
func (s schemas) enumeration(t reflect.Type, values []string) map[string]any {
	s.take(t)
	s.byName[name(t)] = map[string]any{"type": "string", "enum": values, "description": s.saidOf(t).Doc}
	return map[string]any{"$ref": "#/components/schemas/" + name(t)}
}

// edits is one of the kinds of edit, distinguished by op.
func (s schemas) edits() map[string]any {
	const union = "Edit"
	if s.byName[union] == nil {
		s.byName[union] = map[string]any{} // stops recursion
		all, mapping := []any{}, map[string]any{}
		for _, k := range project.Kinds() {
			s.component(k.Type)
			c := s.byName[name(k.Type)].(map[string]any)
			c["properties"].(map[string]any)["op"] = map[string]any{"type": "string", "enum": []string{k.Op}}
			c["required"] = append([]string{"op"}, c["required"].([]string)...)
			ref := "#/components/schemas/" + name(k.Type)
			all = append(all, map[string]any{"$ref": ref})
			mapping[k.Op] = ref
		}
		s.byName[union] = map[string]any{
			"description": "One change of a document, named by its op. Edits of a request are made in order, all or none.",
			"oneOf":       all, "discriminator": map[string]any{"propertyName": "op", "mapping": mapping},
		}
	}
	return map[string]any{"$ref": "#/components/schemas/" + union}
}

// name is the type's own, with its package where two packages share it.
func name(t reflect.Type) string {
	pkg := t.PkgPath()[strings.LastIndex(t.PkgPath(), "/")+1:]
	switch pkg + "." + t.Name() {
	case "transcribe.Hit":
		return "HeardHit"
	case "profile.Voice":
		return "ProfileVoice"
	case "audition.Settings":
		return "AuditionSettings"
	case "export.Level":
		return "FileLevel"
	case "synth.Curve":
		return "ChartLine"
	case "preset.Facts":
		return "SoundFacts"
	case "jobs.Kind":
		return "JobKind"
	case "rebuild.Stage":
		return "RebuildStage"
	case "rebuild.State":
		return "StageState"
	case "compare.Job":
		return "LayerJob"
	case "effect.Kind":
		return "EffectKind"
	case "effect.Recording":
		return "EffectRecording"
	case "effect.Group":
		return "EffectGroup"
	case "effect.Picture":
		return "PictureKind"
	case "mixer.Row":
		return "MixRow"
	case "service.Recording":
		return "OtherRecording"
	case "sound.Noise":
		return "RecipeNoise"
	}
	return t.Name()
}

// take notes that a type has its name, and reports whether it had it already.
func (s schemas) take(t reflect.Type) bool {
	other, done := s.types[name(t)]
	if done && other != t {
		panic("two types are both called " + name(t) + " in the API; give one another name")
	}
	s.types[name(t)] = t
	return done
}

func (s schemas) component(t reflect.Type) {
	if s.take(t) {
		return
	}
	properties, required := map[string]any{}, []string{}
	s.byName[name(t)] = map[string]any{} // stops recursion
	required = s.fields(t, properties, required)
	s.byName[name(t)] = described(map[string]any{"type": "object", "properties": properties, "required": required}, s.saidOf(t).Doc)
}

// fields adds those of a type, and those of what it embeds, as JSON does.
func (s schemas) fields(t reflect.Type, properties map[string]any, required []string) []string {
	about := s.saidOf(t)
	for i := range t.NumField() {
		f := t.Field(i)
		if f.Anonymous && f.Tag.Get("json") == "" {
			s.embedded[typeName(f.Type)] = f.Type
			required = s.fields(f.Type, properties, required)
			continue
		}
		tag, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		if tag == "-" || tag == "" || !f.IsExported() {
			continue
		}
		properties[tag] = described(s.of(f.Type), about.Fields[f.Name])
		if options != "omitempty" && options != "omitzero" {
			required = append(required, tag)
		}
	}
	return required
}

// described adds a description; beside a reference none may stand.
func described(schema map[string]any, text string) map[string]any {
	if text == "" {
		return schema
	}
	if ref, ok := schema["$ref"]; ok {
		return map[string]any{"description": text, "allOf": []any{map[string]any{"$ref": ref}}}
	}
	schema["description"] = text
	return schema
}
