package compare

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
	"nowthen/core/stats"
)

// Two candidates that differ in copying alone: starts are equal, copying is faster by what the customer does of it.
func TestContrasts(t *testing.T) {
	start, copying := timed("start", 7), timed("copy", 2)
	start.What, copying.Kind, copying.What = "cold-start", job.OnFiles, "copy-own"
	j := build(lineIn{test: start, then: one(20, 20.1, 20.2, 19.9, 20), with: one(20.1, 20, 19.9, 20.2, 20)},
		lineIn{test: copying, then: one(150, 151, 149), with: one(60, 61, 59)})
	j.Setups[0].Role, j.Setups[1].Role = job.Trial, job.Trial
	j.Setups[0].Replaces = "d1"
	list := Contrasts(j.Indexed(), []string{"then", "now"}, DefaultOptions)
	require.Len(t, list, 2)
	starts, files := list[0], list[1]
	assert.Equal(t, []string{"starts", "files"}, []string{starts.Group, files.Group})
	assert.Equal(t, Equal, starts.Verdict)
	assert.False(t, starts.Holds)
	assert.Equal(t, Faster, files.Verdict)
	assert.True(t, files.Holds)
	assert.InDelta(t, 2.5, *files.Factor, 0.01)
	assert.InDelta(t, 2*90, *files.SecondsPerWeek, 1)
	// Turned round it is the same, the other way.
	back := Contrasts(j.Indexed(), []string{"now", "then"}, DefaultOptions)
	assert.Equal(t, Slower, back[1].Verdict)
	assert.InDelta(t, 1 / *files.Factor, *back[1].Factor, 1e-9)
	assert.InDelta(t, *files.P, *back[1].P, 1e-12)
	// The p of a group is that of its mean (Holm works on it), and of one line the line's own.
	l := Compare(j, "then", "now", DefaultOptions)
	assert.Equal(t, *l.Line("copy").P, *files.P)
	assert.Empty(t, Contrasts(j.Indexed(), []string{"then"}, DefaultOptions))
}

// What is far from certain stays so, however many groups are shown.
func TestContrastsHoldAfterAll(t *testing.T) {
	var lines []lineIn
	for _, id := range []string{"a", "b", "c"} {
		test := timed(id, 1)
		test.What = "launch-first"
		lines = append(lines, lineIn{test: test, then: one(10, 10.5), with: one(9.6, 10.2)})
	}
	c := Contrasts(build(lines...).Indexed(), []string{"then", "now"}, DefaultOptions)
	require.Len(t, c, 1)
	assert.Equal(t, 3, c[0].Lines)
	assert.Equal(t, "programs", c[0].Group)
	assert.False(t, c[0].Holds)
	assert.Contains(t, []Verdict{NotCertain, Equal}, c[0].Verdict)
	rejected, _ := stats.Holm([]float64{*c[0].P}, Level)
	assert.False(t, rejected[0])
	assert.False(t, math.IsNaN(*c[0].P))
}
