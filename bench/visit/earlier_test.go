package visit_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/measuring"
	"nowthen/bench/visit"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/words"
)

// came opens a job on the simulated laptop of a customer, with a new drive of its own.
func came(t *testing.T, b *desk.Desk, who string, old bench.Drive) *bench.View {
	t.Helper()
	v, err := b.Visits.Open(t.Context(), nil,
		visit.Intake{Customer: bench.Customer{Name: who},
			Computer: bench.Computer{Maker: "Quern", Model: "Fieldbook 4"}, OldDrive: old,
			NewDrive: &bench.Drive{Kind: job.NVMe, CapacityBytes: 1e12}, TestFileBytes: 16 << 20, TestSeconds: 0.3})
	require.NoError(t, err)
	return v
}

func TestAnEarlierJobBecomesThen(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	_, err := b.Sittings.Sit(ctx, nil, id, "now", bench.Conditions{Power: job.Mains})
	require.NoError(t, err)
	first, err := b.Jobs.Load(ctx, id)
	require.NoError(t, err)
	_, err = b.Rounds.Measure(ctx, nil, id, measuring.MeasureRequest{Sitting: first.Job.Sittings[0].ID, Runs: 2})
	require.NoError(t, err)
	desktest.Measured(t, b, id)
	first, err = b.Jobs.Load(ctx, id)
	require.NoError(t, err)
	c, now := first.Job.Computers[0], first.Job.SetupAs(job.Now)
	require.NotEmpty(t, first.Job.Runs)

	// It comes in again a while later.
	b.Jobs.Shift(400 * 24 * time.Hour)
	v, err := b.Visits.Open(ctx, nil, visit.Intake{Customer: bench.Customer{Name: "ottilie "}, Simulated: c.Simulated})
	require.NoError(t, err)
	list, err := b.Visits.Earlier(ctx, v.ID)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.WithinDuration(t, first.Job.Head.Opened, list[0].Opened, 0)
	assert.Equal(t, visit.Earlier{ID: id, Number: first.Job.Head.Number, Opened: list[0].Opened,
		Drive: words.DriveName(first.Job.Drive(now.Drive)), Runs: kept(first.Job, "now")}, list[0],
		"a repeat is no kept run")

	// The drive that came is noted as another one.
	_, err = b.Visits.TakeEarlier(ctx, nil, v.ID, id)
	desktest.Refusal(t, err, bench.Conflict)
	_, err = b.Visits.Amend(ctx, nil, v.ID, visit.Change{OldDrive: &bench.Drive{Kind: first.Job.Drive(now.Drive).Kind}})
	require.NoError(t, err)
	v, err = b.Visits.TakeEarlier(ctx, nil, v.ID, id)
	require.NoError(t, err)

	then := v.Job.SetupAs(job.Then)
	assert.Equal(t, first.Job.Drive(now.Drive).Model, v.Job.Drive(then.Drive).Model)
	assert.Equal(t, []string{first.Job.Head.Number}, v.Job.TakenOver(then.ID))
	for _, r := range first.Job.Runs {
		same := v.Job.RunsOf(r.Test, then.ID)
		require.NotEmpty(t, same, r.Test)
		assert.NotEqual(t, r.ID, same[0].ID)
		assert.True(t, same[0].Simulated)
	}
	assert.Len(t, v.Job.Runs, len(first.Job.Runs))
	assert.Nil(t, bench.LastSitting(v.Job, then.ID), "what is measured now is a sitting of its own")
	for _, cover := range v.Coverage {
		if cover.Setup == then.ID && v.Job.Test(cover.Test).Kind == job.Control {
			assert.Zero(t, cover.Kept, "the control is wanted again")
		}
	}
	_, err = b.Visits.TakeEarlier(ctx, nil, v.ID, id)
	desktest.Refusal(t, err, bench.Conflict)
	l := compare.Compare(v.Job, then.ID, v.Job.SetupAs(job.Now).ID, compare.DefaultOptions)
	require.NotNil(t, l)

	// Nobody else's is offered, and none whose computer nobody noted.
	other := came(t, b, "Ottilie", bench.Drive{Kind: job.NVMe})
	list, err = b.Visits.Earlier(ctx, other.ID)
	require.NoError(t, err)
	assert.Empty(t, list)
	_, err = b.Visits.TakeEarlier(ctx, nil, other.ID, id)
	desktest.Refusal(t, err, bench.Conflict)
}

// kept counts the kept runs on a setup.
func kept(j *job.Job, setup string) (n int) {
	for i := range j.Tests {
		n += len(j.KeptRuns(j.Tests[i].ID, setup))
	}
	return n
}

func TestOtherDrives(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v := came(t, b, "Runa", bench.Drive{Kind: job.HDD})
	v, err := b.Visits.AddOther(ctx, nil, v.ID, bench.Drive{Kind: job.HDD, CapacityBytes: 1e12}, " games ")
	require.NoError(t, err)
	also := job.Also{Drive: "d3", Holds: "games"}
	for _, s := range v.Job.Setups {
		assert.Equal(t, []job.Also{also}, s.Also)
	}
	v, err = b.Visits.AddTrial(ctx, nil, v.ID, visit.Trial{Name: "quiet", Drive: bench.Drive{Kind: job.SataSSD}})
	require.NoError(t, err)
	assert.Equal(t, []job.Also{also}, v.Job.Setups[2].Also, "a trial has the other drives too")

	v, err = b.Sittings.Sit(ctx, nil, v.ID, "then",
		bench.Conditions{Power: job.Mains, Attached: &[]string{}, Firmware: &bench.Firmware{Version: " 1.7 "}})
	require.NoError(t, err)
	assert.Equal(t, []string{}, v.Job.Sittings[0].Conditions.Attached, "looked at, and nothing found")
	assert.Equal(t, "1.7", v.Job.Sittings[0].Conditions.Firmware.Version)
	assert.Nil(t, v.Job.Sittings[0].Conditions.Firmware.Off)
	take := func(on string) error {
		_, err := b.Jobs.Change(ctx, nil, v.ID, func(j *job.Job) error {
			return bench.AddRun(j,
				job.Run{Test: "t-start", Sitting: v.Job.Sittings[0].ID, Value: 60, Method: job.Typed,
					On: on}, b.Jobs.Now())
		})
		return err
	}
	desktest.Refusal(t, take("d9"), bench.Invalid)
	require.NoError(t, take("d1"))
	require.NoError(t, take("d3"))
	v, err = b.Jobs.View(ctx, v.ID)
	require.NoError(t, err)
	assert.Empty(t, v.Job.Runs[0].On, "it is the setup's own")
	assert.Equal(t, "d3", v.Job.Runs[1].On)
	_, err = b.Visits.DropOther(ctx, nil, v.ID, "d3")
	desktest.Refusal(t, err, bench.Conflict)
	v, err = b.Visits.AddOther(ctx, nil, v.ID, bench.Drive{Kind: job.USBFlash}, "")
	require.NoError(t, err)
	v, err = b.Visits.DropOther(ctx, nil, v.ID, v.Job.Setups[0].Also[1].Drive)
	require.NoError(t, err)
	assert.Len(t, v.Job.Drives, 4)
	assert.Len(t, v.Job.Setups[2].Also, 1)
}
