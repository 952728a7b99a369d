package machine

import (
	"nowthen/core/hardware/answers"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestCauses(t *testing.T) {
	before := map[int32]usage{1: {"updater", 10, 0}, 2: {"updater", 5, 1e6}, 3: {"editor", 1, 0},
		4: {"scanner", 0, 5e6}, 5: {"gone", 9, 9}, 6: {"old", 1, 9e6}}
	after := map[int32]usage{1: {"updater", 11, 20e6}, 2: {"updater", 5.2, 1e6}, 3: {"editor", 1.001, 1000},
		4: {"scanner", 3, 5e6}, 6: {"new", 30, 9e9}, 7: {"late", 50, 1e9}}
	assert.Equal(t, []Cause{
		{"updater", 30, 10}, // both of its processes
		{"scanner", 75, 0},
	}, causes(before, after, 2*time.Second, 2),
		"one that uses next to nothing, one that began meanwhile and another with an old number are not named")
	assert.Equal(t, []Cause{}, causes(nil, after, time.Second, 1))
	many := map[int32]usage{}
	more := map[int32]usage{}
	for i := range int32(9) {
		name := string(rune('a' + i))
		many[i], more[i] = usage{name, 0, 0}, usage{name, 1, uint64(i) * 1e6}
	}
	list := causes(many, more, time.Second, 1)
	assert.Len(t, list, mostCauses)
	assert.Equal(t, "i", list[0].Program, "the greediest first")
}

// Two seconds at least, and what is found is named.
func TestWatch(t *testing.T) {
	began := time.Now()
	w, err := Watch(t.Context(), "")
	assert.NoError(t, err)
	assert.GreaterOrEqual(t, time.Since(began), 2*time.Second)
	assert.NotNil(t, w.Causes)
	for _, kind := range w.Busy {
		assert.True(t, slices.ContainsFunc(w.Causes,
			func(c Cause) bool { return answers.KindOfWork(c.Program) == kind }), "%s comes from no program", kind)
	}
}
