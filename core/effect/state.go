package effect

import (
	"reflect"
	"sync"
	"unsafe"
)

// CopyState makes a rack go on from where another one of its rate is, also where that has
// other effects: fed the same sound, both give the same bits.
//
// A processor is plain data. Its numbers, arrays, and the slices and pointers that it owns
// are copied. A field tagged `state:"shared"` is what nobody writes to, such as a table, and
// is pointed to by both; one tagged `state:"-"` is scratch and is left as it is. Nothing is
// allocated where both have the same effects and lengths.
func (r *Rack) CopyState(of *Rack) { copyState(reflect.ValueOf(r).Elem(), reflect.ValueOf(of).Elem()) }

func copyState(dst, src reflect.Value) {
	if plain(dst.Type()) {
		dst.Set(src)
		return
	}
	switch dst.Kind() {
	case reflect.Struct:
		for i := range dst.NumField() {
			switch dst.Type().Field(i).Tag.Get("state") {
			case "-":
			case "shared":
				open(dst.Field(i)).Set(open(src.Field(i)))
			default:
				copyState(open(dst.Field(i)), open(src.Field(i)))
			}
		}
	case reflect.Array:
		for i := range dst.Len() {
			copyState(dst.Index(i), src.Index(i))
		}
	case reflect.Slice:
		switch {
		case src.Len() == 0:
			dst.Set(src)
			return
		case dst.Len() != src.Len():
			dst.Set(reflect.MakeSlice(dst.Type(), src.Len(), src.Len()))
		}
		if plain(dst.Type().Elem()) {
			reflect.Copy(dst, src)
			return
		}
		for i := range dst.Len() {
			copyState(dst.Index(i), src.Index(i))
		}
	case reflect.Pointer:
		switch {
		case src.IsNil():
			dst.Set(src)
		case dst.IsNil():
			dst.Set(reflect.New(dst.Type().Elem()))
			copyState(dst.Elem(), src.Elem())
		default:
			copyState(dst.Elem(), src.Elem())
		}
	case reflect.Interface:
		if src.IsNil() || src.Elem().Kind() != reflect.Pointer {
			dst.Set(src)
			return
		}
		if dst.IsNil() || dst.Elem().Type() != src.Elem().Type() {
			dst.Set(reflect.New(src.Elem().Type().Elem()))
		}
		copyState(dst.Elem().Elem(), src.Elem().Elem())
	default: // functions, which hold no state
		dst.Set(src)
	}
}

// open is a field that may be set though its name is not exported.
func open(v reflect.Value) reflect.Value {
	return reflect.NewAt(v.Type(), unsafe.Pointer(v.UnsafeAddr())).Elem()
}

// plains remembers which types hold no slice, pointer or the like.
var plains sync.Map

func plain(t reflect.Type) bool {
	if known, ok := plains.Load(t); ok {
		return known.(bool)
	}
	is := true
	switch t.Kind() {
	case reflect.Struct:
		for i := range t.NumField() {
			f := t.Field(i)
			switch f.Tag.Get("state") {
			case "-":
				is = false
			case "":
				is = is && plain(f.Type)
			}
		}
	case reflect.Array:
		is = plain(t.Elem())
	case reflect.Slice, reflect.Pointer, reflect.Interface, reflect.Func, reflect.Map, reflect.Chan:
		is = false
	}
	plains.Store(t, is)
	return is
}
