package plan

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/job"
)

// Before the case is sealed, what belongs to that and is not ticked is missing, and nothing else.
func TestBeforeCaseClosed(t *testing.T) {
	j := &job.Job{}
	j.Plan.Steps = []job.Step{{ID: "screws", When: job.WhenSwap, Text: "Screws sorted"},
		{ID: "fans", When: job.WhenClose, Text: "Fans turn"},
		{ID: "inside", When: job.WhenClose, Text: "Nothing left inside", Done: &job.Tick{}}}
	assert.Equal(t, []Lost{{"", "not ticked: Fans turn"}}, Of(j).BeforeCaseClosed())
	j.Plan.Steps[1].Done = &job.Tick{}
	assert.Equal(t, []Lost{}, Of(j).BeforeCaseClosed())
}
