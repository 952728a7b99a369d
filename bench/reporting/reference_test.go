package reporting_test

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
	"nowthen/core/job"
)

// A drive of an earlier job is beside the lines that both jobs measure in the same way, and beside no other.
func TestAReference(t *testing.T) {
	b, st := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "Ottilie"}, OldDrive: bench.Drive{Kind: job.HDD}})
	require.NoError(t, err)

	other := finished(0, 0, false)
	read, short := *v.Job.Test(catalogue.LongRead), *v.Job.Test(catalogue.ScatteredRead)
	params := *short.Params
	params.SpanBytes /= 2 // measured over another size
	short.Params = &params
	start, own := *v.Job.Test(catalogue.ColdStart),
		job.Test{ID: "own", Kind: job.Timed, Name: "Till", Unit: "s", Better: job.Lower}
	other.Tests = []job.Test{read, short, start, own}
	at := other.Sittings[0].Started
	other.Sittings = append(other.Sittings, job.Sitting{ID: "s2", Setup: "then", Started: at.Add(48 * time.Hour)})
	for i, r := range []job.Run{{Test: read.ID, Value: 100}, {Test: read.ID, Value: 120}, {Test: short.ID, Value: 90},
		{Test: start.ID, Value: 600, Bound: job.BoundAbove}, {Test: own.ID, Value: 9}} {
		r.ID, r.Sitting, r.Method, r.At = string(rune('a'+i)), "s1", job.Typed, at
		other.Runs = append(other.Runs, r)
	}
	other.Computers[0].Maker, other.Computers[0].Model = "Larkfield", "Hearth 15"
	require.NoError(t, st.Add(ctx, "earlier", other))

	r, err := b.Reports.Reference(ctx, v.ID, " 2026-0900 ", "")
	require.NoError(t, err)
	assert.Equal(t, []any{"2026-0900", "Larkfield Hearth 15", "hard disk", "then", false},
		[]any{r.Number, r.Computer, r.Drive, r.Setup, r.Simulated})
	assert.Equal(t, at.Add(48*time.Hour), r.At, "when it was last measured")
	require.Len(t, r.Figures, 2, "not what was measured over another size, nor what this job doesn't measure")
	values := map[string]float64{}
	for _, f := range r.Figures {
		values[f.Test] = f.Value
		assert.Equal(t, f.Test == start.ID, f.Bound != "")
	}
	assert.InDelta(t, 110, values[read.ID], 1, "the centre of its runs")
	assert.InDelta(t, 600, values[start.ID], 1e-9)

	for _, number := range []string{"2026-0901", v.Job.Head.Number, ""} {
		_, err = b.Reports.Reference(ctx, v.ID, number, "")
		desktest.Refusal(t, err, bench.Missing)
	}
	_, err = b.Reports.Reference(ctx, v.ID, "2026-0900", "now")
	desktest.Refusal(t, err, bench.Missing)
	before, err := b.Reports.Compare(ctx, v.ID, "", "", "")
	if err == nil {
		assert.Empty(t, before.Value, "nothing of it is claimed")
	}
}
