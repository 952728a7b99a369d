package reporting_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/visit"
	"nowthen/core/job"
	"nowthen/core/side"
)

// finished is a past job of so many timed tests, three runs each.
func finished(tests int, spread float64, simulated bool) *job.Job {
	rng := rand.New(rand.NewPCG(1, 2))
	at := time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)
	j := &job.Job{Head: job.Head{Number: "2026-0900", Opened: at, Reason: "slow",
		Gates: []job.Gate{{Name: job.GateHandedBack, At: at, OldDrive: job.OldDriveKept}}},
		Computers: []job.Computer{{ID: "c1"}}, Drives: []job.Drive{{ID: "d1",
			DriveLabel: job.DriveLabel{Kind: job.HDD}}},
		Setups:   []job.Setup{{ID: "then", Role: job.Then, Computer: "c1", Drive: "d1"}},
		Sittings: []job.Sitting{{ID: "s1", Setup: "then", Started: at}}}
	for i := range tests {
		j.Tests = append(j.Tests,
			job.Test{ID: fmt.Sprint("t", i), Kind: job.Timed, Name: fmt.Sprint("Wait ", i), Unit: "s",
				Better: job.Lower})
		for k := range 3 {
			j.Runs = append(j.Runs,
				job.Run{ID: fmt.Sprint("r", i, "-", k), Test: fmt.Sprint("t", i), Sitting: "s1", At: at,
					Method: job.Automatic, Simulated: simulated,
					Value: 20 * math.Exp(spread*rng.NormFloat64())})
		}
	}
	return j
}

// A shop's own finished jobs say what is usual, real ones alone, and ledgers go by it.
func TestTheShopLearnsWhatIsUsual(t *testing.T) {
	b, st := desktest.New(t, desk.Options{})
	ctx := t.Context()
	u, err := b.Reports.Usual(ctx)
	require.NoError(t, err)
	assert.Nil(t, u.At)
	assert.False(t, u.Kinds[0].Own)

	require.NoError(t, st.Add(ctx, "old-simulated", finished(30, 0.3, true)))
	u, err = b.Reports.Learn(ctx, nil)
	require.NoError(t, err)
	assert.False(t, u.Kinds[0].Own, "simulated runs teach nothing")
	assert.Zero(t, u.Kinds[0].Sides)

	v, err := b.Visits.Open(ctx, nil, visit.Intake{Customer: bench.Customer{Name: "Ottilie"}, Simulated: "laptop"})
	require.NoError(t, err)
	v, err = b.Sittings.Sit(ctx, nil, v.ID, "then", bench.Conditions{Power: "mains"})
	require.NoError(t, err)
	_, err = b.Rounds.Perform(ctx, nil, v.ID, "t-start", "s1")
	require.NoError(t, err)
	within := func() float64 {
		l, err := b.Reports.Compare(ctx, v.ID, "", "", "")
		require.NoError(t, err)
		return l.Rows[0].Line.Then.Within
	}
	assert.InEpsilon(t, 0.04*0.04, within(), 1e-9, "the table")

	require.NoError(t, st.Add(ctx, "old", finished(side.LeastSides, 0.2, false)))
	u, err = b.Reports.Learn(ctx, nil)
	require.NoError(t, err)
	assert.Equal(t, 2, u.Jobs)
	require.True(t, u.Kinds[0].Own)
	assert.InEpsilon(t, 0.2, u.Kinds[0].Usual.Within, 0.4)
	assert.InEpsilon(t, u.Kinds[0].Usual.Within*u.Kinds[0].Usual.Within, within(), 1e-9, "the shop's own")
	again, err := b.Reports.Usual(ctx)
	require.NoError(t, err)
	assert.Equal(t, u.Kinds, again.Kinds, "it is kept")
}
