package sittings_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/visit"
	"nowthen/core/catalogue"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/jobfile"
)

// A file of another computer is taken only where somebody is sure, and is another
// computer's in the comparison then.
func TestASittingFileOfAnotherComputer(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "x"},
			Computer: bench.Computer{Maker: "Larkfield", Model: "Hearth 15"}, OldDrive: bench.Drive{Kind: job.HDD}})
	require.NoError(t, err)
	long := *v.Job.Test(catalogue.LongRead)
	f := &jobfile.SittingFile{Tests: []job.Test{long},
		Runs:  []job.Run{{ID: "A", Test: long.ID, Sitting: "s1", Value: 100, Method: job.Automatic}},
		Facts: &hardware.Facts{Computer: hardware.Computer{Maker: "Ostrand", Model: "Arena 7"}}}
	data, err := jobfile.WriteSitting(f)
	require.NoError(t, err)
	_, err = b.Sittings.TakeSitting(ctx, nil, v.ID, "then", "x.json", data, false)
	r := desktest.Refusal(t, err, bench.Doubtful)
	assert.Contains(t, r.Message, "Larkfield Hearth 15")
	assert.Contains(t, r.Message, "Ostrand Arena 7")
	v, err = b.Sittings.TakeSitting(ctx, nil, v.ID, "then", "x.json", data, true)
	require.NoError(t, err)
	assert.Equal(t, "Ostrand", v.Job.Computer(v.Job.SetupAs(job.Then).Computer).Maker)
	assert.Equal(t, "Larkfield", v.Job.Computers[0].Maker)
	assert.Len(t, v.Job.Runs, 1)
}

func TestTakingASittingFile(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "x"}, OldDrive: bench.Drive{Kind: job.HDD}})
	require.NoError(t, err)
	long := *v.Job.Test(catalogue.LongRead)
	other := long
	w := *long.Params
	w.SpanBytes *= 2
	other.ID, other.Params = "t-other", &w
	f := &jobfile.SittingFile{Computer: job.Computer{Maker: "Larkfield"}, Conditions: job.Conditions{Power: "mains"},
		Tests: []job.Test{long, other},
		Runs: []job.Run{{ID: "A", Test: long.ID, Sitting: "s1", Value: 100, Method: job.Automatic,
			At: time.Unix(1000, 0)},
			{ID: "B", Test: "t-other", Sitting: "s1", Value: 90, Method: job.Automatic, Simulated: true,
				SetAside: &job.SetAside{Reason: "the drive's error"}}}}
	data, err := jobfile.WriteSitting(f)
	require.NoError(t, err)
	v, err = b.Sittings.TakeSitting(ctx, nil, v.ID, "then", "x.json", data, false)
	require.NoError(t, err)
	require.Len(t, v.Job.Sittings, 1)
	assert.EqualValues(t, "mains", v.Job.Sittings[0].Conditions.Power)
	assert.Len(t, v.Job.RunsOf(catalogue.LongRead, "then"), 1, "the same measurement is the same test")
	assert.Len(t, v.Job.RunsOf("t-other", "then"), 1, "another one is added")
	assert.Equal(t, "the drive's error", v.Job.Run("B").SetAside.Reason)
	assert.True(t, v.Simulated, "the mark comes along")
	assert.Equal(t, "Larkfield", v.Job.Computers[0].Maker, "what nobody had noted is filled in")
	_, err = b.Sittings.TakeSitting(ctx, nil, v.ID, "then", "x.json", data, false)
	desktest.Refusal(t, err, bench.Conflict)
	_, err = b.Sittings.TakeSitting(ctx, nil, v.ID, "then", "x.json", data[:50], false)
	assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Message, "x.json")
	after, err := b.Jobs.View(ctx, v.ID)
	require.NoError(t, err)
	assert.Len(t, after.Job.Runs, 2)
}
