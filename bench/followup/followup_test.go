package followup_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/followup"
	"nowthen/core/job"
	"nowthen/core/side"
)

// Answers of the same days join one sitting; what comes months later shows another time, and both are in how it went.
func TestAnswersOfTheSameDaysJoin(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, d)
	promised := func(due string) string {
		v, err := d.Later.Promise(ctx, nil, id, followup.Promising{What: job.PromisedTest, Test: "t-start", Due: due})
		require.NoError(t, err)
		for _, p := range v.Job.Head.Promises {
			if p.Answered.IsZero() {
				return p.ID
			}
		}
		t.Fatal("nothing is due")
		return ""
	}
	answer := func(text string) *bench.View {
		v, err := d.Later.Answer(ctx, nil, id, promised("2027-01-01"), followup.Answering{Text: text})
		require.NoError(t, err)
		return v
	}
	answer("36.4")
	d.Jobs.Shift(13 * 24 * time.Hour)
	v := answer("37 s")
	require.Len(t, v.Job.Sittings, 1)
	d.Jobs.Shift(30 * 24 * time.Hour)
	v = answer("0:41")
	require.Len(t, v.Job.Sittings, 2)
	for _, s := range v.Job.Sittings {
		assert.True(t, s.FollowUp)
		assert.Equal(t, job.Now, v.Job.Setup(s.Setup).Role)
		assert.Nil(t, bench.LastSitting(v.Job, s.Setup), "no run of the shop's goes there")
	}
	assert.Empty(t, v.Job.KeptRuns("t-start", "now"))
	ledger, err := d.Reports.Compare(ctx, id, v.Job.Sittings[0].Setup+"@"+v.Job.Sittings[0].ID,
		v.Job.Sittings[1].Setup+"@"+v.Job.Sittings[1].ID, "")
	require.NoError(t, err)
	require.NotNil(t, ledger.Rows[0].Line.Then, "one sitting of after it went back can be set against another")
	assert.InDelta(t, 36.7, ledger.Rows[0].Line.Then.Centre, 1e-9)
	assert.InDelta(t, 41, ledger.Rows[0].Line.With.Centre, 1e-9)
	assert.Empty(t, v.Job.KeptRuns("t-start", "now"), "and they are set aside as before")
	course := side.OverTime(v.Job)
	require.Len(t, course, 1)
	assert.InDelta(t, 36.7, *course[0].Tests[0].Centres[0], 1e-9)
	assert.InDelta(t, 41, *course[0].Tests[0].Centres[1], 1e-9)

	_, err = d.Later.HomeCheck(ctx, "no token")
	assert.Error(t, err)
	_, err = d.Later.Promise(ctx, nil, "nobody", followup.Promising{What: job.PromisedFill, Due: "2027-01-01"})
	desktest.Refusal(t, err, bench.Missing)
	for range 60 {
		_, err = d.Later.Promise(ctx, nil, id, followup.Promising{What: job.PromisedFill, Due: "2027-01-01"})
	}
	desktest.Refusal(t, err, bench.Invalid)
}
