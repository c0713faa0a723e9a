package web

import "reflect"

// noNilLists makes every nil list in an answer an empty one, since the
// contract says that lists are never null. v must be settable.
func noNilLists(v reflect.Value) {
	switch v.Kind() {
	case reflect.Pointer, reflect.Interface:
		if !v.IsNil() && v.Kind() == reflect.Pointer {
			noNilLists(v.Elem())
		}
	case reflect.Slice:
		if v.IsNil() && v.CanSet() && v.Type().Elem().Kind() != reflect.Uint8 {
			v.Set(reflect.MakeSlice(v.Type(), 0, 0))
		}
		if holdsNoList(v.Type().Elem()) {
			return // a million heights hold no list
		}
		for i := range v.Len() {
			noNilLists(v.Index(i))
		}
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				noNilLists(v.Field(i))
			}
		}
	}
}

// holdsNoList tells that a kind of value holds no list for sure.
func holdsNoList(t reflect.Type) bool {
	for t.Kind() == reflect.Array {
		t = t.Elem()
	}
	return t.Kind() == reflect.String || t.Kind() <= reflect.Complex128
}
