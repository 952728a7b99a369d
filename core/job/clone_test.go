package job

import (
	"reflect"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// fill puts one element into every list and map, and something behind every pointer.
func fill(v reflect.Value) {
	if v.Type() == reflect.TypeFor[time.Time]() {
		return
	}
	switch v.Kind() {
	case reflect.Struct:
		for i := range v.NumField() {
			fill(v.Field(i))
		}
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 1, 1))
		fill(v.Index(0))
	case reflect.Map:
		key, item := reflect.New(v.Type().Key()).Elem(), reflect.New(v.Type().Elem()).Elem()
		fill(item)
		v.Set(reflect.MakeMap(v.Type()))
		v.SetMapIndex(key, item)
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
		fill(v.Elem())
	}
}

// shared are the pointers, maps and lists that two values have in common, by their paths, and how
// many there are at all.
func shared(a, b reflect.Value, path string) (list []string, of int) {
	inner := func(a, b reflect.Value, path string) {
		l, n := shared(a, b, path)
		list, of = append(list, l...), of+n
	}
	switch a.Kind() {
	case reflect.Struct:
		if a.Type() == reflect.TypeFor[time.Time]() {
			return nil, 0
		}
		for i := range a.NumField() {
			inner(a.Field(i), b.Field(i), path+"."+a.Type().Field(i).Name)
		}
	case reflect.Slice, reflect.Pointer, reflect.Map:
		if of++; a.Pointer() == b.Pointer() {
			return []string{path}, of
		}
		switch a.Kind() {
		case reflect.Slice:
			inner(a.Index(0), b.Index(0), path)
		case reflect.Pointer:
			inner(a.Elem(), b.Elem(), path)
		case reflect.Map:
			inner(a.MapIndex(a.MapKeys()[0]), b.MapIndex(b.MapKeys()[0]), path)
		}
	}
	return list, of
}

// A change works on a clone: if it is refused, the original and other jobs must not be affected. Everything is the clone's own but the runs, which [Job.PutAside]
// alone replaces.
func TestACloneSharesNothing(t *testing.T) {
	j := &Job{}
	fill(reflect.ValueOf(j).Elem())
	c := j.Clone()
	assert.Equal(t, j, c)
	common, of := shared(reflect.ValueOf(*j), reflect.ValueOf(*c), "")
	assert.Equal(t, []string{".Runs"}, common)
	assert.Greater(t, of, 80, "what there is to share was looked at")
	assert.Equal(t, &Job{}, (&Job{}).Clone(), "what is absent stays absent")
}

// Running clocks are stopped, ended ones stay unchanged.
func TestStopClocks(t *testing.T) {
	at := time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC)
	j := &Job{Head: Head{Tasks: []Task{{Stretches: []Stretch{{From: at, To: at.Add(time.Minute)},
		{From: at.Add(time.Hour)}}}, {Stretches: []Stretch{{From: at, To: at}}}, {}}}}
	j.StopClocks(at.Add(2 * time.Hour))
	assert.Equal(t, at.Add(time.Minute), j.Head.Tasks[0].Stretches[0].To)
	assert.Equal(t, at.Add(2*time.Hour), j.Head.Tasks[0].Stretches[1].To)
	assert.Equal(t, at, j.Head.Tasks[1].Stretches[0].To)
	for i := range j.Head.Tasks {
		assert.Nil(t, j.Head.Tasks[i].Running())
	}
}
