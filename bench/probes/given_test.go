package probes_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/core/job"
	"nowthen/core/order"
)

// A run that no order asked for waits apart until a technician decides, whatever it claims.
func TestARunThatNobodyOrdered(t *testing.T) {
	for name, tt := range map[string]struct {
		spoil func(*order.Result)
		why   string
	}{
		"no order":         {func(r *order.Result) { r.Order = "made-up" }, "no order asked for it"},
		"an empty order":   {func(r *order.Result) { r.Order = "" }, "no order asked for it"},
		"another session":  {func(r *order.Result) { r.Run.Sitting = "s2" }, "its order was for another session"},
		"another test":     {func(r *order.Result) { r.Run.Test = "t-start" }, "its order was for other tests"},
		"one run too many": {func(r *order.Result) { r.Step = 99 }, "its order was for other tests"},
		"a negative step":  {func(r *order.Result) { r.Step = -1 }, "its order was for other tests"},
		"a step twice":     {func(r *order.Result) { r.Step = 0 }, "its order has this run already"},
	} {
		t.Run(name, func(t *testing.T) {
			d, _ := desktest.New(t, desk.Options{})
			id := open(t, d)
			probe := joins(t, d, id, "m")
			o := begins(t, d, id, probe)
			require.NoError(t, d.Rounds.Finished(t.Context(), probe, id, result(o, 0)))
			_, err := d.Sittings.Sit(t.Context(), nil, id, "then", bench.Conditions{})
			require.NoError(t, err)
			r := result(o, 1)
			tt.spoil(&r)
			if r.Run.Test != o.Tests[0].ID {
				r.Run.Phases = nil
			}
			for range 2 { // said again, it waits once
				require.NoError(t, d.Rounds.Finished(t.Context(), probe, id, r))
			}
			v, err := d.Jobs.View(t.Context(), id)
			require.NoError(t, err)
			assert.Len(t, v.Job.Runs, 1)
			require.Len(t, v.Job.Head.Waiting, 1)
			w := v.Job.Head.Waiting[0]
			assert.Equal(t, []any{job.FromProbe, probe, tt.why},
				[]any{w.From, w.Of, w.Why})

			v, err = d.Sittings.Discard(t.Context(), nil, id, r.Run.ID)
			require.NoError(t, err)
			assert.NotNil(t, v.Job.Head.Waiting[0].Discarded, "it is kept")
			v, err = d.Sittings.Accept(t.Context(), nil, id, r.Run.ID)
			require.NoError(t, err)
			assert.Empty(t, v.Job.Head.Waiting)
			assert.NotNil(t, v.Job.Run(r.Run.ID))
			_, err = d.Sittings.Accept(t.Context(), nil, id, r.Run.ID)
			desktest.Refusal(t, err, bench.Missing)
			require.NoError(t, d.Rounds.Finished(t.Context(), probe, id, r), "and once more it changes nothing")
			v, err = d.Jobs.View(t.Context(), id)
			require.NoError(t, err)
			assert.Len(t, v.Job.Runs, 2)
			assert.Empty(t, v.Job.Head.Waiting)
		})
	}
}

// After the computer was handed back nothing joins its job that no order asked for; what an order asked
// for still does.
func TestARunAfterTheHandBack(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := open(t, d)
	probe := joins(t, d, id, "m")
	o := begins(t, d, id, probe)
	_, err := d.Jobs.Change(t.Context(), nil, id, func(j *job.Job) error {
		j.Head.Gates = append(j.Head.Gates, job.Gate{Name: job.GateHandedBack, At: d.Jobs.Now()})
		return nil
	})
	require.NoError(t, err)
	require.NoError(t, d.Rounds.Finished(t.Context(), probe, id, result(o, 0)))
	r := result(o, 1)
	r.Order = "made-up"
	require.NoError(t, d.Rounds.Finished(t.Context(), probe, id, r))
	v, err := d.Jobs.View(t.Context(), id)
	require.NoError(t, err)
	assert.Len(t, v.Job.Runs, 1)
	assert.Len(t, v.Job.Head.Waiting, 1)
}

// What waits is bounded; the probe keeps what the bench does not take.
func TestWaitingRunsAreBounded(t *testing.T) {
	j := &job.Job{}
	for i := range job.MaxWaiting {
		require.NoError(t, bench.Wait(j, job.WaitingRun{Run: job.Run{ID: string(rune('a' + i))}}))
	}
	desktest.Refusal(t, bench.Wait(j, job.WaitingRun{Run: job.Run{ID: "one more"}}), bench.Conflict)
	assert.Len(t, j.Head.Waiting, job.MaxWaiting)
}
