package api

import (
	"reflect"
	"strings"
)

// schemas collects the JSON schemas of Go types by name, in the dialect of
// OpenAPI 3.0, and remembers which type has a name, so that two cannot share
// one.
type schemas struct {
	byName map[string]any
	types  map[string]reflect.Type
}

// of is the schema of a type: structs become components of their own, named
// after the type. Pointers may be null; fields without omitempty are always
// there.
func (s schemas) of(t reflect.Type) map[string]any {
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
		return map[string]any{"type": "string"}
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Float32, reflect.Float64:
		return map[string]any{"type": "number"}
	}
	return map[string]any{"type": "integer"}
}

// name is the type's own, with its package where two packages share it.
func name(t reflect.Type) string {
	pkg := t.PkgPath()[strings.LastIndex(t.PkgPath(), "/")+1:]
	switch pkg + "." + t.Name() {
	case "listen.Hit":
		return "HeardHit"
	case "profile.Voice":
		return "ProfileVoice"
	case "study.Settings":
		return "StudySettings"
	case "deliver.Level":
		return "FileLevel"
	case "sound.Drive":
		return "RecipeDrive"
	case "sound.Noise":
		return "RecipeNoise"
	}
	return t.Name()
}

func (s schemas) component(t reflect.Type) {
	if _, done := s.byName[name(t)]; done {
		if other := s.types[name(t)]; other != t {
			panic("two types are both called " + name(t) + " in the API; give one another name")
		}
		return
	}
	s.types[name(t)] = t
	properties, required := map[string]any{}, []string{}
	s.byName[name(t)] = map[string]any{} // stops recursion
	for i := range t.NumField() {
		f := t.Field(i)
		tag, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		if tag == "-" || tag == "" || !f.IsExported() {
			continue
		}
		properties[tag] = s.of(f.Type)
		if options != "omitempty" {
			required = append(required, tag)
		}
	}
	s.byName[name(t)] = map[string]any{"type": "object", "properties": properties, "required": required}
}
