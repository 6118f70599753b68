package state

import (
	"reflect"
	"sync"
	"unsafe"
)

// open is a field that may be set though its name is not exported.
func open(v reflect.Value) reflect.Value {
	return reflect.NewAt(v.Type(), unsafe.Pointer(v.UnsafeAddr())).Elem()
}

// plains remembers which types lead nowhere.
var plains sync.Map

// plain reports whether a type holds nothing that leads to memory to be kept.
func plain(t reflect.Type) bool {
	if known, ok := plains.Load(t); ok {
		return known.(bool)
	}
	is := true
	switch t.Kind() {
	case reflect.Struct:
		for i := range t.NumField() {
			if f := t.Field(i); f.Tag.Get("state") == "" {
				is = is && plain(f.Type)
			}
		}
	case reflect.Array:
		is = plain(t.Elem())
	case reflect.Slice, reflect.Pointer, reflect.Interface, reflect.Map:
		is = false
	}
	plains.Store(t, is)
	return is
}
