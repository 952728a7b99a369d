package forecasting_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/forecasting"
	"nowthen/bench/sittings"
	"nowthen/bench/visit"
	"nowthen/core/job"
)

// finished plays an upgrade of a real computer from a disk to a SATA SSD: starts of 90 s become what is given.
func finished(t *testing.T, b *desk.Desk, n int, after float64, done bool) string {
	t.Helper()
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: fmt.Sprint("Customer ", n)}, Template: "quick",
			OldDrive: bench.Drive{Kind: job.HDD}, NewDrive: &bench.Drive{Kind: job.SataSSD}, Relation: job.JoinsReplacing})
	require.NoError(t, err)
	for setup, value := range map[string]float64{"then": 90, "now": after} {
		s, err := b.Sittings.Sit(ctx, nil, v.ID, setup, bench.Conditions{Power: job.Mains, Busy: &[]job.Busy{}})
		require.NoError(t, err)
		sitting := s.Job.Sittings[len(s.Job.Sittings)-1].ID
		for k := range 3 {
			x := value + 0.1*float64(k)
			_, err = b.Sittings.TypeIn(ctx, nil, v.ID,
				sittings.Typed{Test: "t-start", Sitting: sitting, Value: &x, Unit: "s"})
			require.NoError(t, err)
		}
	}
	if done {
		for _, p := range []visit.Passing{{Gate: job.GateOldDriveOut, Why: "x"},
			{Gate: job.GateHandedBack, OldDrive: job.OldDriveKept, Why: "x"}} {
			_, err = b.Visits.PassGate(ctx, nil, v.ID, p)
			require.NoError(t, err)
		}
	}
	return v.ID
}

func TestForecastsFromFinishedJobs(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	own := finished(t, b, 0, 33, false)
	for n := range 4 {
		finished(t, b, n+1, 14+float64(n), true)
	}
	f, err := b.Forecasts.Of(ctx, own, nil)
	require.NoError(t, err)
	require.Len(t, f.Candidates, 1, "the job's own new drive")
	assert.Empty(t, f.Candidates[0].Waits, "four jobs tell nothing")
	require.NotEmpty(t, f.Refused)
	fifth := finished(t, b, 9, 18, true)
	f, err = b.Forecasts.Of(ctx, own, []string{string(job.SataSSD), string(job.NVMe)})
	require.NoError(t, err)
	require.Len(t, f.Candidates, 2)
	require.Len(t, f.Candidates[0].Waits, 1)
	w := f.Candidates[0].Waits[0]
	assert.Equal(t, 5, w.Jobs)
	assert.Equal(t, "test", w.Class)
	assert.Less(t, w.NowLow, 16.0)
	assert.Greater(t, w.NowHigh, 16.0)
	assert.Empty(t, f.Candidates[1].Waits)
	past, err := b.Forecasts.Past(ctx)
	require.NoError(t, err)
	assert.Empty(t, past, "without one of five there are four")

	_, err = b.Visits.UnpassGate(ctx, nil, fifth, job.GateHandedBack)
	require.NoError(t, err)
	f, err = b.Forecasts.Of(ctx, own, []string{string(job.SataSSD)})
	require.NoError(t, err)
	assert.Empty(t, f.Candidates[0].Waits, "a job that is open again tells nothing")

	sim, err := b.Visits.Open(ctx, nil, visit.Intake{Customer: bench.Customer{Name: "Practice"}, Simulated: "laptop"})
	require.NoError(t, err)
	f, err = b.Forecasts.Of(ctx, sim.ID, []string{string(job.SataSSD)})
	require.NoError(t, err)
	assert.Empty(t, f.Candidates[0].Waits, "real jobs tell nothing of simulated ones")
	_, err = b.Forecasts.Of(ctx, own, []string{"drum"})
	desktest.Refusal(t, err, bench.Invalid)
	check, err := b.Visits.Open(ctx, nil,
		visit.Intake{Kind: job.KindCheckUp, Customer: bench.Customer{Name: "x"}, OldDrive: bench.Drive{Kind: job.HDD}})
	require.NoError(t, err)
	_, err = b.Forecasts.Of(ctx, check.ID, nil)
	desktest.Refusal(t, err, bench.Conflict)
}

func TestPriceList(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	const table = "kind,maker,model,capacity_gb,price,currency,read_mb_s,write_mb_s\r\nnvme,Brightwater,Kestrel " +
		"N1,1000,79.00,EUR,5000,\r\n"
	list, err := b.Forecasts.SetPrices(ctx, nil, []byte("\xef\xbb\xbf"+table))
	require.NoError(t, err)
	assert.Equal(t, []forecasting.Priced{{Kind: "nvme", Maker: "Brightwater", Model: "Kestrel N1", CapacityGB: 1000,
		Price: "79.00", Currency: "EUR", ReadMBs: 5000}}, list)
	back, err := b.Forecasts.PricesCSV(ctx)
	require.NoError(t, err)
	assert.Equal(t, table, string(back))
	_, err = b.Forecasts.SetPrices(ctx, nil, []byte(table+"drum,,x,1,1,EUR,,\r\nnvme,,y,1,cheap,EUR,,\r\n"))
	r := desktest.Refusal(t, err, bench.Invalid)
	assert.Contains(t, fmt.Sprint(r.Message), "Row 3")
	assert.Contains(t, fmt.Sprint(r.Message), "Row 4")
	kept, err := b.Forecasts.Prices(ctx)
	require.NoError(t, err)
	assert.Equal(t, list, kept, "nothing half-read is kept")
	own := finished(t, b, 0, 33, false)
	f, err := b.Forecasts.Of(ctx, own, []string{"kestrel n1"})
	require.NoError(t, err)
	assert.Equal(t, "79.00", f.Candidates[0].Price.Amount)
	assert.InDelta(t, 79, *f.Candidates[0].PricePerTB, 1e-9)
}

func FuzzReadPrices(f *testing.F) {
	f.Add([]byte("kind,maker,model,capacity_gb,price,currency,read_mb_s,write_mb_s\nnvme,a,b,1,2,EUR,,\n"))
	f.Add([]byte("\"\n"))
	f.Fuzz(func(t *testing.T, table []byte) {
		list, faults := forecasting.ReadPrices(table)
		for _, p := range list {
			assert.Contains(t, job.DriveKinds, p.Kind)
			assert.NotEmpty(t, p.Name())
			assert.GreaterOrEqual(t, p.CapacityGB, 0.0)
		}
		if list == nil {
			assert.NotEmpty(t, faults, "what is refused is told why")
		}
	})
}
