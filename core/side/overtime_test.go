package side

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

func TestOverTime(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2031, 3, 1+n, 9, 0, 0, 0, time.UTC) }
	full, warm := 61.0, 44.0
	j := func(last int) *job.Job {
		return &job.Job{
			Setups: []job.Setup{{ID: "then"}, {ID: "now"}},
			Tests:  []job.Test{{ID: "start"}, {ID: "read"}, {ID: "once"}},
			Sittings: []job.Sitting{{ID: "s0", Setup: "then", Started: day(0)},
				{ID: "s3", Setup: "now", Started: day(last),
					Conditions: job.Conditions{FillPct: &full, DriveTempC: &warm}},
				{ID: "s1", Setup: "now", Started: day(1)}, {ID: "s2", Setup: "now", Started: day(2)}},
			Runs: []job.Run{{Test: "start", Sitting: "s0", Value: 90},
				{Test: "start", Sitting: "s1", Value: 36}, {Test: "start", Sitting: "s1", Value: 38}, {Test: "start",
					Sitting: "s1", Value: 99, SetAside: &job.SetAside{Reason: "first after the swap"}},
				{Test: "start", Sitting: "s3", Value: 41}, {Test: "read", Sitting: "s1", Value: 500}, {Test: "read",
					Sitting: "s3", Value: 480}, {Test: "once", Sitting: "s3", Value: 1}},
		}
	}
	list := OverTime(j(15))
	require.Len(t, list, 1, "Then has one sitting")
	c := list[0]
	assert.Equal(t, "now", c.Setup)
	assert.Equal(t, []Sitting{{"s1", day(1), nil, nil}, {"s3", day(15), &full, &warm}}, c.Sittings,
		"in their order, one without runs left out")
	v := func(x float64) *float64 { return &x }
	assert.Equal(t, []Centres{{"start", []*float64{v(37), v(41)}}, {"read", []*float64{v(500), v(480)}}}, c.Tests)
	assert.Empty(t, OverTime(j(14)), "thirteen days say nothing of time")
	assert.Empty(t, OverTime(&job.Job{}))
}
