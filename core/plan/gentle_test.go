package plan

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

// A failing drive gets the gentle plan while nothing was measured, and its backup is the first act.
func TestTheGentlePlan(t *testing.T) {
	upgrade := func() *job.Job {
		j := &job.Job{Computers: []job.Computer{{ID: "c1"}}, Drives: []job.Drive{{ID: "d1"}},
			Setups: []job.Setup{{ID: "then", Role: job.Then, Computer: "c1", Drive: "d1"}}}
		Apply(j, Templates()[0], 0, 0)
		return j
	}
	j := upgrade()
	require.True(t, GoGentle(j))
	assert.False(t, GoGentle(j), "it has it already")
	for i := range j.Tests {
		assert.False(t, j.Tests[i].Params != nil && j.Tests[i].Params.Writes(), "%s writes", j.Tests[i].Name)
		assert.Equal(t, 1, j.Tests[i].Wanted, j.Tests[i].Name)
	}
	n := Of(j).Next()
	assert.Equal(t, []string{"step", job.BackupStep}, []string{n.Do, n.Step})
	j.Step(job.BackupStep).Done = &job.Tick{At: time.Unix(1, 0)}
	assert.NotEqual(t, "step", Of(j).Next().Do)

	measured := upgrade()
	measured.Sittings = []job.Sitting{{ID: "s", Setup: "then"}}
	measured.Runs = []job.Run{{ID: "r", Test: measured.Tests[0].ID, Sitting: "s", Value: 90}}
	assert.False(t, GoGentle(measured), "a person decides")
	compared := upgrade()
	compared.Head.Kind = job.KindComparison
	assert.False(t, GoGentle(compared))
}
