package jobfile

import (
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

// example is the job of the example file, again each time.
func example(t *testing.T) *job.Job {
	t.Helper()
	data, err := os.ReadFile("testdata/visit.nowthen.json")
	require.NoError(t, err)
	j, err := Read("visit", data)
	require.NoError(t, err)
	return j
}

func TestSame(t *testing.T) {
	bare, other, strange := example(t), example(t), example(t)
	bare.Runs = nil
	other.Head.Number = "2026-9999"
	for i := range strange.Runs {
		strange.Runs[i].ID += "x"
	}
	unnumbered := example(t)
	unnumbered.Head.Number = ""
	for name, tt := range map[string]struct {
		a, b *job.Job
		want bool
	}{
		"the same file": {example(t), example(t), true}, "without runs": {example(t), bare,
			true}, "runs came since": {bare, example(t), true},
		"another number": {example(t), other, false}, "another shop's": {example(t), strange,
			false}, "no number": {unnumbered, unnumbered, false},
	} {
		assert.Equal(t, tt.want, Same(tt.a, tt.b), name)
	}
}

func TestMerge(t *testing.T) {
	t.Run("the same again changes nothing", func(t *testing.T) {
		stored := example(t)
		got, m, err := Merge(stored, example(t))
		require.NoError(t, err)
		assert.Empty(t, m.Added)
		assert.Empty(t, m.Differences)
		assert.Equal(t, len(stored.Runs), m.Already)
		want, err := Write(stored)
		require.NoError(t, err)
		text, err := Write(got)
		require.NoError(t, err)
		assert.Equal(t, string(want), string(text))
	})
	t.Run("what is new is added and what differs is named", func(t *testing.T) {
		stored, file := example(t), example(t)
		stored.Head.Customer.Name, file.Head.Customer.Name = "Ottilie", "Otto"
		stored.Computers[0].Graphics, file.Computers[0].Graphics = "", "built in"
		file.Sittings = append(file.Sittings, job.Sitting{ID: "s9", Setup: "then"})
		r := file.Runs[0]
		r.ID, r.Sitting = "new", "s9"
		file.Runs = append(file.Runs, r)
		file.Runs[0].Note = "another note"
		got, m, err := Merge(stored, file)
		require.NoError(t, err)
		assert.Equal(t, map[string]int{"runs": 1, "sittings": 1}, m.Added)
		assert.Equal(t, []Difference{{"/job/customer/name", `"Ottilie"`, `"Otto"`}}, m.Differences,
			"a note where none was stands for none")
		assert.Equal(t, "Ottilie", got.Head.Customer.Name)
		assert.Equal(t, "built in", got.Computers[0].Graphics)
		assert.Empty(t, got.Runs[0].Note, "a stored run is never written again")
		assert.Equal(t, "s9", got.Run("new").Sitting)
		assert.Empty(t, got.Check())
	})
	t.Run("a sitting that shares no more than its id", func(t *testing.T) {
		stored, file := example(t), example(t)
		id := file.Sittings[0].ID
		file.Sittings[0].Started = file.Sittings[0].Started.Add(24 * time.Hour)
		for i := range file.Runs {
			file.Runs[i].ID += "-later"
		}
		got, m, err := Merge(stored, file)
		require.NoError(t, err)
		assert.Equal(t, len(file.Runs), m.Added["runs"])
		assert.Len(t, got.Sittings, len(stored.Sittings)+1)
		for _, r := range got.Runs[len(stored.Runs):] {
			assert.NotEqual(t, id, r.Sitting)
		}
		assert.Empty(t, got.Check())
	})
	t.Run("a test that shares no more than its id", func(t *testing.T) {
		stored, file := example(t), example(t)
		file.Tests[0].What = "restart"
		for i := range file.Runs {
			file.Runs[i].ID += "-other"
		}
		got, _, err := Merge(stored, file)
		require.NoError(t, err)
		assert.Len(t, got.Tests, len(stored.Tests)+1)
		assert.Empty(t, got.Check())
	})
}

// A stored no is a value like any other.
func TestMergeKeepsANo(t *testing.T) {
	stored, file := example(t), example(t)
	no, yes := false, true
	stored.Sittings[0].Conditions.Encrypted, file.Sittings[0].Conditions.Encrypted = &no, &yes
	got, m, err := Merge(stored, file)
	require.NoError(t, err)
	assert.False(t, *got.Sittings[0].Conditions.Encrypted)
	assert.Len(t, m.Differences, 1)
}
