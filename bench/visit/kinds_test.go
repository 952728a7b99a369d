package visit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/measuring"
	"nowthen/bench/visit"
	"nowthen/core/compare"
	"nowthen/core/job"
)

// measured measures a setup's drive once through, in a session of its own.
func measured(t *testing.T, b *desk.Desk, id, setup string) {
	t.Helper()
	v, err := b.Sittings.Sit(t.Context(), nil, id, setup, bench.Conditions{Power: job.Mains, Busy: &[]job.Busy{}})
	require.NoError(t, err)
	_, err = b.Rounds.Measure(t.Context(), nil, id,
		measuring.MeasureRequest{Sitting: v.Job.Sittings[len(v.Job.Sittings)-1].ID})
	require.NoError(t, err)
	desktest.Measured(t, b, id)
}

func TestAComparisonOfFourDrives(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil, visit.Intake{Kind: job.KindComparison, Customer: bench.Customer{Name: "Ottilie"},
		Simulated: "laptop"})
	require.NoError(t, err)
	id := v.ID
	for _, kind := range []job.DriveKind{job.NVMe, job.Hybrid} {
		v, err = b.Visits.AddTrial(ctx, nil, id,
			visit.Trial{Drive: bench.Drive{Kind: job.DriveKind(kind), CapacityBytes: 1e12,
				Price: &bench.Price{Amount: "80.00", Currency: "EUR"}}})
		require.NoError(t, err)
	}
	require.Len(t, v.Job.Setups, 4)
	var ids []string
	for _, s := range v.Job.Setups {
		assert.Equal(t, job.Trial, s.Role, "none of them is Then or Now")
		assert.Empty(t, s.Relation, "nothing was replaced")
		ids = append(ids, s.ID)
	}
	assert.Equal(t, "1 TB NVMe SSD", v.Job.Setups[2].Name, "a drive without a name of its own is called by what it is")
	assert.Equal(t, []string{"trial1", "trial2", "trial3", "trial4"}, ids)
	assert.Equal(t, "trial1", v.Page)
	for _, d := range v.Job.Drives {
		assert.NotEmpty(t, d.Simulated, "on a simulated computer every drive is")
	}
	assert.NotNil(t, v.Job.Drive("d3").Price.At, "a price is of a day")
	for _, s := range ids {
		measured(t, b, id, s)
	}
	c, err := b.Reports.Candidates(ctx, id, "trial2")
	require.NoError(t, err)
	assert.Equal(t, []string{"trial2", "trial1", "trial3", "trial4"}, c.Table.Columns)
	require.Len(t, c.List, 4, "the base is one of them")
	require.NotEmpty(t, c.Table.Rows)
	for _, r := range c.Table.Rows {
		for _, cell := range r.Cells {
			assert.NotNil(t, cell.Centre, r.Test)
		}
		assert.Empty(t, r.Cells[0].Verdict)
	}
	assert.Equal(t, compare.Slower, c.Table.Rows[0].Cells[1].Verdict, "a worn disk reads slower than a new drive")
	assert.NotEmpty(t, c.Groups)
	for _, of := range c.List {
		assert.Len(t, of.Measured, 1)
	}
	_, err = b.Reports.Candidates(ctx, id, "trial9")
	desktest.Refusal(t, err, bench.Missing)

	v, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateMeasured, Why: "no starts wanted"})
	require.NoError(t, err)
	assert.Equal(t, "compare", v.Page)
	_, err = b.Reports.Issue(ctx, nil, id, "en")
	require.NoError(t, err)
	v, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateHandedBack})
	require.NoError(t, err, "no old drive to speak of")
	assert.Empty(t, v.Here)
}

func TestACheckUpAgainstAnEarlierJob(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	before, err := b.Visits.Open(ctx, nil, visit.Intake{Customer: bench.Customer{Name: "Ottilie"}, Simulated: "laptop"})
	require.NoError(t, err)
	measured(t, b, before.ID, "then")
	measured(t, b, before.ID, "now")

	_, err = b.Visits.Open(ctx, nil,
		visit.Intake{Kind: "polish", Customer: bench.Customer{Name: "x"}, OldDrive: bench.Drive{Kind: job.HDD}})
	desktest.Refusal(t, err, bench.Invalid)
	_, err = b.Visits.Open(ctx, nil, visit.Intake{Kind: job.KindCheckUp, Customer: bench.Customer{Name: "x"},
		OldDrive: bench.Drive{Kind: job.HDD}, NewDrive: &bench.Drive{Kind: job.NVMe}})
	desktest.Refusal(t, err, bench.Invalid)

	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Kind: job.KindCheckUp, Customer: bench.Customer{Name: "Ottilie"}, Simulated: "laptop"})
	require.NoError(t, err)
	require.Len(t, v.Job.Setups, 1)
	assert.Equal(t, "now", v.Page)
	now := v.Job.Setup("now")
	kept := before.Job.Drive(before.Job.AsNow().Drive)
	_, err = b.Visits.TakeEarlier(ctx, nil, v.ID, before.ID)
	desktest.Refusal(t, err, bench.Conflict) // it came in with another drive: nothing of the job changes
	v, err = b.Jobs.View(ctx, v.ID)
	require.NoError(t, err)
	require.Len(t, v.Job.Setups, 1)
	v, err = b.Visits.Amend(ctx, nil, v.ID,
		visit.Change{OldDrive: &bench.Drive{Kind: kept.Kind, CapacityBytes: kept.CapacityBytes}})
	require.NoError(t, err)
	assert.Equal(t, kept.Kind, v.Job.Drive(now.Drive).Kind)
	v, err = b.Visits.TakeEarlier(ctx, nil, v.ID, before.ID)
	require.NoError(t, err)
	require.Len(t, v.Job.Setups, 2)
	assert.Equal(t, "now", v.Page, "what was taken over is not what is measured")
	measured(t, b, v.ID, "now")
	l, err := b.Reports.Compare(ctx, v.ID, "", "", "")
	require.NoError(t, err)
	assert.Equal(t, "then", l.Then.Setup)
	assert.Equal(t, "now", l.With.Setup)
	assert.NotEmpty(t, l.Rows)
}

func TestACheckUpOfTwoSessions(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Kind: job.KindCheckUp, Customer: bench.Customer{Name: "Ottilie"}, Simulated: "laptop"})
	require.NoError(t, err)
	measured(t, b, v.ID, "now")
	l, err := b.Reports.Compare(ctx, v.ID, "", "", "")
	require.NoError(t, err, "one session stands alone")
	assert.Empty(t, l.Then.Setup)
	measured(t, b, v.ID, "now")
	l, err = b.Reports.Compare(ctx, v.ID, "", "", "")
	require.NoError(t, err)
	assert.Equal(t, [2]string{"s1", "s2"}, [2]string{l.Then.Setup, l.With.Setup})
	measuredRows := 0
	for _, r := range l.Rows {
		if r.Line.Then != nil && r.Line.With != nil {
			measuredRows++
			assert.NotEqual(t, compare.NotComparable, r.Line.Verdict, r.Test.ID)
		}
	}
	assert.Positive(t, measuredRows)
	r, err := b.Reports.Report(ctx, v.ID, "de")
	require.NoError(t, err)
	assert.NotEmpty(t, r.Draft.Headline)
}
