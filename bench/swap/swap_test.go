package swap_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/swap"
	"nowthen/bench/visit"
	"nowthen/core/capacity"
	"nowthen/core/checks"
	"nowthen/core/job"
	"nowthen/core/manifest"
)

// opened is a job on a computer of a model, with a new drive.
func opened(t *testing.T, d *desk.Desk) string {
	t.Helper()
	v, err := d.Visits.Open(t.Context(), nil, visit.Intake{Customer: bench.Customer{Name: "Ottilie"},
		Computer: bench.Computer{Maker: "Larkfield", Model: "Hearth 15"}, Relation: job.JoinsReplacing,
		OldDrive: bench.Drive{Kind: job.HDD}, NewDrive: &bench.Drive{Kind: job.SataSSD, CapacityBytes: 960e9}})
	require.NoError(t, err)
	return v.ID
}

// A task's clock is started, switched, corrected and stopped; what runs already continues.
func TestTheClockOfATask(t *testing.T) {
	now := bench.NewClock(-time.Hour)
	d, _ := desktest.New(t, desk.Options{Clock: now})
	id := opened(t, d)
	v, err := d.Swaps.Begin(t.Context(), nil, id,
		swap.Tasking{What: job.Cloning, From: job.FromOldDrive, Kind: job.HandsOn})
	require.NoError(t, err)
	task := v.Job.Head.Tasks[0].ID
	clock := func(after time.Duration, in swap.Clocking) ([]job.Stretch, error) {
		now.Shift(after)
		v, err := d.Swaps.Clock(t.Context(), nil, id, task, in)
		if err != nil {
			return nil, err
		}
		return v.Job.Task(task).Stretches, nil
	}
	list, err := clock(5*time.Minute, swap.Clocking{Kind: job.HandsOn})
	require.NoError(t, err)
	require.Len(t, list, 1, "pressed twice")
	list, err = clock(0, swap.Clocking{Kind: job.Waiting})
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.GreaterOrEqual(t, list[0].To.Sub(list[0].From), 5*time.Minute)
	_, err = clock(10*time.Minute, swap.Clocking{Minutes: 11})
	desktest.Refusal(t, err, bench.Invalid)
	list, err = clock(0, swap.Clocking{Minutes: 4, Broke: " a sector could not be read "})
	require.NoError(t, err)
	assert.Equal(t, 4*time.Minute, list[1].To.Sub(list[1].From), "it ran only so long")
	assert.Equal(t, "a sector could not be read", list[1].Broke)
	_, err = clock(0, swap.Clocking{})
	desktest.Refusal(t, err, bench.Conflict)
	_, err = d.Swaps.Clock(t.Context(), nil, id, "none", swap.Clocking{Kind: job.Waiting})
	desktest.Refusal(t, err, bench.Missing)
}

func TestTasksAreChecked(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := opened(t, d)
	for name, in := range map[string]swap.Tasking{
		"no kind of task":     {What: "knitting"},
		"no such source":      {What: job.Cloning, From: "the sky"},
		"no such clock":       {What: job.Cloning, Kind: "dancing"},
		"fewer than no bytes": {What: job.Cloning, Bytes: -1},
		"other, without what": {What: job.OtherTask},
	} {
		_, err := d.Swaps.Begin(t.Context(), nil, id, in)
		assert.NotEmpty(t, desktest.Refusal(t, err, bench.Invalid).Fields, name)
	}
	for range 101 {
		if _, err := d.Swaps.Begin(t.Context(), nil, id, swap.Tasking{What: job.Copying}); err != nil {
			desktest.Refusal(t, err, bench.Conflict)
			return
		}
	}
	t.Error("a job takes any number of tasks")
}

// How a check was fixed is offered on the next computer of the model, and on no other.
func TestAFixIsKnownOfTheModel(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	first := opened(t, d)
	_, err := d.Swaps.TickCheck(t.Context(), nil, first, "firmware",
		swap.CheckByHand{State: checks.Fine, By: "Runa", Fix: "updated it"})
	require.NoError(t, err)
	earlier := func(id string) []string {
		of, err := d.Swaps.Of(t.Context(), id)
		require.NoError(t, err)
		for _, c := range of.Checks {
			if c.ID == "firmware" {
				return c.Earlier
			}
		}
		return nil
	}
	assert.Equal(t, []string{"updated it"}, earlier(opened(t, d)))
	other, err := d.Visits.Open(t.Context(), nil, visit.Intake{Customer: bench.Customer{Name: "Emeka"},
		Computer: bench.Computer{Maker: "Ostrand", Model: "Desk Tower 4"}, Relation: job.JoinsReplacing,
		OldDrive: bench.Drive{Kind: job.HDD}, NewDrive: &bench.Drive{Kind: job.SataSSD}})
	require.NoError(t, err)
	assert.Empty(t, earlier(other.ID))
	_, err = d.Swaps.TickCheck(t.Context(), nil, first, "weather", swap.CheckByHand{State: checks.Fine})
	desktest.Refusal(t, err, bench.Missing)
	_, err = d.Swaps.TickCheck(t.Context(), nil, first, "firmware", swap.CheckByHand{State: "sunny"})
	desktest.Refusal(t, err, bench.Invalid)
}

// What was found of the new drive is the new drive's alone, and needs one.
func TestWhatWasFoundOfTheNewDrive(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := opened(t, d)
	at := int64(4096)
	v, err := d.Swaps.Hold(t.Context(), nil, id,
		capacity.Result{FileBytes: 1 << 30, Written: 1 << 20, Blocks: 8, Missing: 2, First: &at, Missed: 0.1})
	require.NoError(t, err)
	assert.Nil(t, v.Job.Drive(v.Job.SetupAs(job.Then).Drive).Held)
	held := v.Job.Drive(v.Job.SetupAs(job.Now).Drive).Held
	require.NotNil(t, held)
	assert.Equal(t, []any{8, 2, at}, []any{held.Blocks, held.Wrong, *held.First})
	_, err = d.Swaps.Hold(t.Context(), nil, id, capacity.Result{Blocks: 1, Missing: 2})
	desktest.Refusal(t, err, bench.Invalid)
	wrote := job.Sustained{ID: "a", Parts: []job.SustainedPart{{Seconds: 60, Bytes: 30e9, MBs: 500}}}
	for range 2 { // the same again changes nothing
		v, err = d.Swaps.Sustain(t.Context(), nil, id, wrote)
		require.NoError(t, err)
	}
	assert.Len(t, v.Job.Drive(v.Job.SetupAs(job.Now).Drive).Sustained, 1)
	none, err := d.Visits.Open(t.Context(), nil,
		visit.Intake{Customer: bench.Customer{Name: "x"}, OldDrive: bench.Drive{Kind: job.HDD}})
	require.NoError(t, err)
	_, err = d.Swaps.Sustain(t.Context(), nil, none.ID, wrote)
	desktest.Refusal(t, err, bench.Conflict)
}

// Counts that can't be a manifest's are refused, and what was kept before stays.
func TestWhatCameAcross(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := opened(t, d)
	good := manifest.Difference{Files: 10, Bytes: 1000, Unchanged: 9, Missing: []string{"letter.odt"},
		Counts: manifest.Counts{Missing: 1}}
	v, err := d.Swaps.Carry(t.Context(), nil, id, good)
	require.NoError(t, err)
	assert.Equal(t, 1, v.Job.Head.Carried.Missing)
	for name, in := range map[string]manifest.Difference{
		"more than there were": {Files: 1, Unchanged: 2},
		"fewer than none":      {Files: -1},
		"a list beyond its count": {Files: 10, Unchanged: 9, Missing: []string{"a", "b"},
			Counts: manifest.Counts{Missing: 1}},
	} {
		_, err := d.Swaps.Carry(t.Context(), nil, id, in)
		assert.NotEmpty(t, desktest.Refusal(t, err, bench.Invalid).Fields, name)
	}
	v, err = d.Jobs.View(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, 10, v.Job.Head.Carried.Files)
	of, err := d.Swaps.Of(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, []string{"letter.odt"}, of.Lists.Missing)
}
