package measuring_test

import (
	"context"
	"os"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/measuring"
	"nowthen/bench/sittings"
	"nowthen/core/catalogue"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/round"
	"nowthen/store"
)

// clocked is a place whose clock does something once it was asked often enough.
type clocked struct {
	round.Place
	asked *atomic.Int64
	after int64
	do    func()
}

func (c clocked) Now() time.Duration {
	if c.asked.Add(1) == c.after {
		c.do()
	}
	return c.Place.Now()
}

func sit(t *testing.T, d *desk.Desk) string {
	t.Helper()
	id := desktest.Simulated(t, d)
	_, err := d.Sittings.Sit(t.Context(), nil, id, "then", bench.Conditions{})
	require.NoError(t, err)
	return id
}

// A panic in the measuring ends the round, not the program, and frees the bench.
func TestAPanicEndsTheRoundAlone(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := sit(t, d)
	d.Rounds.Around(func(p round.Place) round.Place {
		return clocked{p, &atomic.Int64{}, 3, func() { panic("a fault of ours") }}
	})
	_, err := d.Rounds.Measure(t.Context(), nil, id, measuring.MeasureRequest{Sitting: "s1"})
	require.NoError(t, err)
	m := desktest.Measured(t, d, id)
	assert.Equal(t, measuring.Failed, m.State)
	require.NotNil(t, m.Refusal)
	assert.Contains(t, m.Refusal.Message, "a fault of ours")
	assert.NotEmpty(t, m.Refusal.Kept)

	d.Rounds.Around(nil)
	_, err = d.Rounds.Measure(t.Context(), nil, id, measuring.MeasureRequest{Sitting: "s1"})
	require.NoError(t, err)
	assert.Equal(t, measuring.Done, desktest.Measured(t, d, id).State)
}

// A hanging drive delays neither a cancel nor the end of the program.
func TestADriveThatHangs(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := sit(t, d)
	hangs, hung := make(chan struct{}), make(chan struct{})
	d.Rounds.Around(func(p round.Place) round.Place {
		return clocked{p, &atomic.Int64{}, 3, func() { close(hung); <-hangs }}
	})
	_, err := d.Rounds.Measure(t.Context(), nil, id, measuring.MeasureRequest{Sitting: "s1"})
	require.NoError(t, err)
	<-hung
	ctx, stop := context.WithTimeout(t.Context(), 200*time.Millisecond)
	defer stop()
	_, err = d.Rounds.Cancel(ctx, nil, id)
	assert.Contains(t, desktest.Refusal(t, err, bench.Conflict).Message, "does not answer")
	ctx, stop = context.WithTimeout(t.Context(), 200*time.Millisecond)
	defer stop()
	assert.ErrorContains(t, d.Close(ctx), "does not answer")
	close(hangs)
	assert.Equal(t, measuring.Cancelled, desktest.Measured(t, d, id).State)
}

// A round that ran when the program was ended is on disk, and said to be interrupted
// by the next.
func TestAnInterruptedRound(t *testing.T) {
	d, st := desktest.New(t, desk.Options{})
	id := sit(t, d)
	hangs, hung := make(chan struct{}), make(chan struct{})
	d.Rounds.Around(func(p round.Place) round.Place {
		return clocked{p, &atomic.Int64{}, 3, func() { close(hung); <-hangs }}
	})
	_, err := d.Rounds.Measure(t.Context(), nil, id, measuring.MeasureRequest{Sitting: "s1"})
	require.NoError(t, err)
	<-hung
	next := desk.New(st, desk.Options{}) // as after a kill: nobody told the first
	require.NoError(t, next.Start(t.Context()))
	m, err := next.Rounds.Measuring(t.Context(), id)
	require.NoError(t, err)
	require.NotNil(t, m)
	assert.Equal(t, measuring.Interrupted, m.State)
	close(hangs)
	desktest.Measured(t, d, id)
}

// An event replaces earlier ones of its kind and job; events of other kinds aren't lost.
func TestEventsAreKeptOnceAKindAndJob(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	ctx, stop := context.WithCancel(t.Context())
	defer stop()
	l := d.Jobs.Listen(ctx)
	d.Jobs.Tell(bench.Event{Type: bench.JobEvent, Job: "a"})
	for i := range 1000 {
		d.Jobs.Tell(bench.Event{Type: bench.MeasuringEvent, Job: "a", Data: i})
	}
	d.Jobs.Tell(bench.Event{Type: bench.JobEvent, Job: "b"})
	<-l.Wake()
	told := l.Fetch()
	require.Len(t, told, 3)
	assert.Equal(t, []string{bench.JobEvent, bench.MeasuringEvent, bench.JobEvent},
		[]string{told[0].Type, told[1].Type, told[2].Type})
	assert.Contains(t, string(told[1].JSON), "999", "the latest of them")
	assert.Empty(t, l.Fetch())
}

var _ measuring.Store = (*store.Store)(nil)

// noting is a store that looks at a folder when it is noted.
type noting struct {
	measuring.Store
	noted func(dir string)
}

func (n noting) NoteFolder(ctx context.Context, dir string) error {
	n.noted(dir)
	return n.Store.NoteFolder(ctx, dir)
}

// That a folder may hold a test file is on disk before any file is made in it.
func TestTheFolderIsNotedBeforeTheFileIsMade(t *testing.T) {
	d, st := desktest.New(t, desk.Options{})
	dir := desktest.Here(t)
	id := desktest.Real(t, d, 0.2)
	noted := false
	rounds := measuring.New(d.Jobs, noting{st, func(at string) {
		noted = true
		assert.Equal(t, dir, at)
		there, err := os.ReadDir(dir)
		assert.NoError(t, err)
		assert.Empty(t, there)
	}}, d.Probes, measuring.Options{})
	_, err := rounds.Measure(t.Context(), nil, id, measuring.MeasureRequest{Sitting: "s1", Dir: dir, Runs: 1})
	require.NoError(t, err)
	_, err = rounds.Wait(t.Context(), id)
	require.NoError(t, err)
	assert.True(t, noted)
	left, err := st.Folders(t.Context())
	require.NoError(t, err)
	assert.Empty(t, left, "and forgotten once it is removed")
}

// A battery that empties while it is measured is noted with the sitting, from where it was
// as the first round began.
func TestTheBatteryIsNotedWithTheSitting(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	dir := desktest.Here(t)
	id := desktest.Real(t, d, 0.2)
	pct := 90.0
	d.Rounds.Battery(func() (float64, bool) { pct--; return pct, true })
	for range 2 {
		_, err := d.Rounds.Measure(t.Context(), nil, id,
			measuring.MeasureRequest{Sitting: "s1", Dir: dir, Runs: 1, Tests: []string{"t-long-read"}})
		require.NoError(t, err)
		desktest.Measured(t, d, id)
	}
	v, err := d.Jobs.View(t.Context(), id)
	require.NoError(t, err)
	c := v.Job.Sittings[0].Conditions
	require.NotNil(t, c.BatteryFromPct)
	assert.Equal(t, 89.0, *c.BatteryFromPct, "as the first round began")
	assert.Equal(t, pct, *c.BatteryToPct, "as the last run ended")

	// For a simulated computer, this one's battery is irrelevant.
	sim := desktest.Simulated(t, d)
	_, err = d.Sittings.Sit(t.Context(), nil, sim, "then", bench.Conditions{Power: job.Mains})
	require.NoError(t, err)
	_, err = d.Rounds.Measure(t.Context(), nil, sim, measuring.MeasureRequest{Sitting: "s1", Runs: 1})
	require.NoError(t, err)
	desktest.Measured(t, d, sim)
	v, err = d.Jobs.View(t.Context(), sim)
	require.NoError(t, err)
	assert.Nil(t, v.Job.Sittings[0].Conditions.BatteryFromPct)
}

// A round that others can see already is not written to any more without its lock (the race
// detector tells), and says from the first moment that it is simulated.
func TestARoundIsWholeOnceItIsSeen(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := sit(t, d)
	over, seen := make(chan struct{}), make(chan int, 1)
	go func() {
		n := 0
		for {
			for _, m := range d.Rounds.Active() {
				n++
				assert.True(t, m.Simulated)
			}
			select {
			case <-over:
				seen <- n
				return
			default:
			}
		}
	}()
	for range 5 {
		_, err := d.Rounds.Measure(t.Context(), nil, id, measuring.MeasureRequest{Sitting: "s1", Runs: 1})
		require.NoError(t, err)
		desktest.Measured(t, d, id)
	}
	close(over)
	assert.Positive(t, <-seen)
}

// A round in the workshop's computer is a session of its own where the customer's computer was
// measured before: what was
// timed there stays the customer's.
func TestARoundOnTheBenchIsASessionOfItsOwn(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{Hardware: func(context.Context) *hardware.Facts {
		return &hardware.Facts{Computer: hardware.Computer{Maker: "Larkfield", Model: "Bench 1"}}
	}})
	id := desktest.Real(t, d, 0.2)
	_, err := d.Sittings.TypeIn(t.Context(), nil, id,
		sittings.Typed{Test: catalogue.ColdStart, Sitting: "s1", Text: "92.4"})
	require.NoError(t, err)
	for range 2 { // the second round joins the first one's session
		sitting := "s1"
		if v, err := d.Jobs.View(t.Context(), id); err == nil && len(v.Job.Sittings) > 1 {
			sitting = "s2"
		}
		_, err = d.Rounds.Measure(t.Context(), nil, id,
			measuring.MeasureRequest{Sitting: sitting, Dir: desktest.Here(t),
				Tests: []string{catalogue.LongRead}, Runs: 1})
		require.NoError(t, err)
		assert.Equal(t, measuring.Done, desktest.Measured(t, d, id).State)
	}
	v, err := d.Jobs.View(t.Context(), id)
	require.NoError(t, err)
	require.Len(t, v.Job.Sittings, 2)
	assert.Nil(t, v.Job.Sittings[0].Where)
	require.NotNil(t, v.Job.Sittings[1].Where)
	assert.Equal(t, "bench", v.Job.Sittings[1].Where.Computer)
	assert.Empty(t, v.Job.Sittings[1].Conditions.Power, "the customer's conditions are not this computer's")
	for _, r := range v.Job.Runs {
		want := "s2"
		if r.Test == catalogue.ColdStart {
			want = "s1"
		}
		assert.Equal(t, want, r.Sitting, r.Test)
	}
}
