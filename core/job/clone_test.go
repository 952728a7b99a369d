package job

import (
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// fill puts one element into every list, and something behind every pointer, down to a depth.
func fill(v reflect.Value, depth int) {
	if depth > 6 {
		return
	}
	switch v.Kind() {
	case reflect.Struct:
		for i := range v.NumField() {
			if f := v.Field(i); f.CanSet() {
				fill(f, depth+1)
			}
		}
	case reflect.Slice:
		v.Set(reflect.MakeSlice(v.Type(), 1, 1))
		fill(v.Index(0), depth+1)
	case reflect.Pointer:
		v.Set(reflect.New(v.Type().Elem()))
		fill(v.Elem(), depth+1)
	}
}

// shared are the lists that two values have in common, by their paths.
func shared(a, b reflect.Value, path string) (list []string) {
	switch a.Kind() {
	case reflect.Struct:
		for i := range a.NumField() {
			if name := a.Type().Field(i).Name; a.Type().Field(i).IsExported() && name != "Unknown" { // which nobody takes apart
				list = append(list, shared(a.Field(i), b.Field(i), path+"."+name)...)
			}
		}
	case reflect.Slice:
		if a.Len() == 0 {
			return nil
		}
		if a.Pointer() == b.Pointer() {
			return []string{path}
		}
		return shared(a.Index(0), b.Index(0), path)
	}
	return list
}

// A change works on a clone: what it does before it is refused must not be seen in what was there before. Every list of a job is
// its own in the clone, but for those whose elements are replaced as a whole and never changed in their place.
func TestACloneSharesNoList(t *testing.T) {
	j := &Job{}
	fill(reflect.ValueOf(j).Elem(), 0)
	c := j.Clone()
	replaced := []string{
		"Runs",                         // appended to; one that changes is replaced by Replace
		"Head.Gates.Missing",           // passed once
		"Sittings.Conditions.Busy",     // conditions are said anew as a whole
		"Sittings.Conditions.Attached", // so too
	}
	for _, path := range shared(reflect.ValueOf(*j), reflect.ValueOf(*c), "") {
		path = strings.TrimPrefix(path, ".")
		assert.True(t, slices.Contains(replaced, path), "%s is shared between a job and its clone", path)
	}
	assert.NotEmpty(t, j.Head.Tasks)
}

// What runs is stopped, what has ended stays as it is.
func TestStopClocks(t *testing.T) {
	at := time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC)
	j := &Job{Head: Head{Tasks: []Task{{Stretches: []Stretch{{From: at, To: at.Add(time.Minute)}, {From: at.Add(time.Hour)}}}, {Stretches: []Stretch{{From: at, To: at}}}, {}}}}
	j.StopClocks(at.Add(2 * time.Hour))
	assert.Equal(t, at.Add(time.Minute), j.Head.Tasks[0].Stretches[0].To)
	assert.Equal(t, at.Add(2*time.Hour), j.Head.Tasks[0].Stretches[1].To)
	assert.Equal(t, at, j.Head.Tasks[1].Stretches[0].To)
	for i := range j.Head.Tasks {
		assert.Nil(t, j.Head.Tasks[i].Running())
	}
}
