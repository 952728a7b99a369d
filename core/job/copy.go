package job

import (
	"reflect"
	"time"
)

// copier puts a deep copy of from into to, which holds a flat copy of it already. It is nil
// for types that a flat copy copies wholly.
type copier func(to, from reflect.Value)

// copyHead copies a job but for its runs, so that it shares no memory with the original.
// What a type needs is worked out once, when the program starts.
var copyHead = func() copier {
	t := reflect.TypeFor[Job]()
	runs, _ := t.FieldByName("Runs")
	return copierOf(t, runs.Type)
}()

// copierOf returns the copier of a type; values of the type shared are not copied.
func copierOf(t, shared reflect.Type) copier {
	if t == shared || t == reflect.TypeFor[time.Time]() { // a time is never changed in its place
		return nil
	}
	switch t.Kind() {
	case reflect.Struct:
		return structCopier(t, shared)
	case reflect.Pointer:
		item := copierOf(t.Elem(), shared)
		return func(to, from reflect.Value) {
			if from.IsNil() {
				return
			}
			to.Set(reflect.New(t.Elem()))
			to.Elem().Set(from.Elem())
			if item != nil {
				item(to.Elem(), from.Elem())
			}
		}
	case reflect.Slice:
		item := copierOf(t.Elem(), shared)
		return func(to, from reflect.Value) {
			if from.IsNil() {
				return
			}
			to.Set(reflect.MakeSlice(t, from.Len(), from.Len()))
			reflect.Copy(to, from)
			for i := 0; item != nil && i < from.Len(); i++ {
				item(to.Index(i), from.Index(i))
			}
		}
	case reflect.Map:
		item := copierOf(t.Elem(), shared)
		return func(to, from reflect.Value) {
			if from.IsNil() {
				return
			}
			to.Set(reflect.MakeMapWithSize(t, from.Len()))
			for each := from.MapRange(); each.Next(); {
				v := reflect.New(t.Elem()).Elem()
				v.Set(each.Value())
				if item != nil {
					item(v, each.Value())
				}
				to.SetMapIndex(each.Key(), v)
			}
		}
	case reflect.Array:
		if copierOf(t.Elem(), shared) == nil {
			return nil // it was copied as a value
		}
		panic("job: a " + t.String() + " cannot be copied; teach copierOf")
	case reflect.Interface, reflect.Chan, reflect.Func, reflect.UnsafePointer:
		panic("job: a " + t.String() + " cannot be copied; teach copierOf")
	}
	return nil
}

// structCopier copies the fields of a struct that a flat copy shares.
func structCopier(t, shared reflect.Type) copier {
	fields := map[int]copier{}
	for i := range t.NumField() {
		if c := copierOf(t.Field(i).Type, shared); c != nil {
			fields[i] = c
		}
	}
	if len(fields) == 0 {
		return nil
	}
	return func(to, from reflect.Value) {
		for i, c := range fields {
			c(to.Field(i), from.Field(i))
		}
	}
}
