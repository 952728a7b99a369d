package probes_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/access/slow"
	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/measuring"
	"nowthen/bench/visit"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/order"
	"nowthen/core/plan"
)

func open(t *testing.T, d *desk.Desk) string {
	t.Helper()
	v, err := d.Visits.Open(t.Context(), nil,
		visit.Intake{Customer: bench.Customer{Name: "Ottilie"}, OldDrive: bench.Drive{Kind: job.HDD}})
	require.NoError(t, err)
	return v.ID
}

func hello(machine string) order.Hello {
	return order.Hello{Protocol: order.Protocol, Engine: "5", System: "linux/amd64", Machine: machine,
		Facts: hardware.Facts{Computer: hardware.Computer{Maker: "Larkfield"},
			Drives:  []hardware.Drive{{ID: "sda", SerialDigest: "old"}},
			Volumes: []hardware.Volume{{Mount: "/", Drive: "sda", System: true}}}}
}

// joins lets a probe join a job and returns its id.
func joins(t *testing.T, d *desk.Desk, id, machine string) string {
	t.Helper()
	p, err := d.Probes.Pair(t.Context(), nil, id)
	require.NoError(t, err)
	h := hello(machine)
	h.Code = p.Code
	w, err := d.Probes.Join(t.Context(), h, slow.Client{Key: "x"})
	require.NoError(t, err)
	known, of, err := d.Probes.Known(t.Context(), w.Token)
	require.NoError(t, err)
	assert.Equal(t, []string{w.Probe, id}, []string{known, of})
	return w.Probe
}

// begins starts a round of one test on a probe and returns the order as the probe gets it.
func begins(t *testing.T, d *desk.Desk, id, probe string) *order.Order {
	t.Helper()
	if s, err := d.Jobs.View(t.Context(), id); assert.NoError(t, err) && len(s.Job.Sittings) == 0 {
		_, err := d.Sittings.Sit(t.Context(), nil, id, "then", bench.Conditions{})
		require.NoError(t, err)
	}
	_, err := d.Rounds.Measure(t.Context(), nil, id,
		measuring.MeasureRequest{Sitting: "s1", Probe: probe, Tests: []string{"t-long-read"}, Runs: 2})
	require.NoError(t, err)
	o, err := d.Rounds.Work(t.Context(), probe, "")
	require.NoError(t, err)
	require.Equal(t, order.Measure, o.Kind)
	assert.Equal(t, "/", o.Dir, "where the drive under test is mounted")
	return o
}

func result(o *order.Order, step int) order.Result {
	return order.Result{Order: o.ID, Step: step,
		Run: job.Run{ID: fmt.Sprintf("%s-%d", o.ID, step), Test: "t-long-read", Sitting: o.Sitting, Value: 100,
			Method: job.Automatic}}
}

func TestCodes(t *testing.T) {
	clock := bench.NewClock(0)
	later := time.Duration(0)
	d, _ := desktest.New(t, desk.Options{Clock: clock})
	id := open(t, d)
	for range 50 {
		p, err := d.Probes.Pair(t.Context(), nil, id)
		require.NoError(t, err)
		assert.Regexp(t, `^[A-Z]{4}-[A-Z]{4}$`, p.Code)
		assert.False(t, strings.ContainsAny(p.Code, "ILOQ"), "%s has a look-alike", p.Code)
	}
	first, err := d.Probes.Pair(t.Context(), nil, id)
	require.NoError(t, err)
	second, err := d.Probes.Pair(t.Context(), nil, id)
	require.NoError(t, err)
	join := func(code string) error {
		h := hello("m")
		h.Code = code
		_, err := d.Probes.Join(t.Context(), h, slow.Client{Key: "x"})
		return err
	}
	assert.Contains(t, desktest.Refusal(t, join(first.Code), bench.Conflict).Message, "wrong or already used",
		"an earlier one is worth nothing")
	later += 15*time.Minute + 2*time.Second
	clock.Shift(later)
	assert.Contains(t, desktest.Refusal(t, join(second.Code), bench.Conflict).Message, "15 minutes")
	third, err := d.Probes.Pair(t.Context(), nil, id)
	require.NoError(t, err)
	require.NoError(t, join(" "+strings.ToLower(third.Code)))
	assert.Error(t, join(third.Code), "good once")
	for range 60 {
		err = join("ZZZZ-ZZZZ")
	}
	var tooOften slow.Error
	assert.ErrorAs(t, err, &tooOften)
	fourth, err := d.Probes.Pair(t.Context(), nil, id)
	require.NoError(t, err)
	h := hello("m")
	h.Code = fourth.Code
	_, err = d.Probes.Join(t.Context(), h, slow.Client{Key: "y"})
	require.NoError(t, err, "another client is not held up by it")
	later += 16 * time.Minute
	clock.Shift(later)
	assert.False(t, errors.As(join("ZZZZ-ZZZZ"), &tooOften), "a quarter of an hour later")
	h = hello("m")
	h.Protocol = 9
	_, err = d.Probes.Join(t.Context(), h, slow.Client{Key: "x"})
	assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Do, "Download the probe from this bench again")
}

// The same computer is the same probe, with what it had still to do; another one is another.
func TestAComputerThatJoinsAgain(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := open(t, d)
	probe := joins(t, d, id, "m")
	o := begins(t, d, id, probe)
	require.NoError(t, d.Rounds.Finished(t.Context(), probe, id, result(o, 0)))
	assert.Equal(t, probe, joins(t, d, id, "m"))
	assert.NotEqual(t, probe, joins(t, d, id, "other"))
	assert.NotEqual(t, joins(t, d, id, ""), joins(t, d, id, ""), "what nothing tells apart is not taken for one")
	again, err := d.Rounds.Work(t.Context(), probe, "")
	require.NoError(t, err)
	assert.Equal(t, o.ID, again.ID)
	assert.Equal(t, 1, again.Skip, "what it has finished it does not do again")
}

func TestRunsAreKeptOnce(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := open(t, d)
	probe := joins(t, d, id, "m")
	o := begins(t, d, id, probe)
	var all sync.WaitGroup
	for range 8 { // a repeat can overtake its first
		all.Go(func() { assert.NoError(t, d.Rounds.Finished(context.Background(), probe, id, result(o, 0))) })
	}
	all.Wait()
	v, err := d.Jobs.View(t.Context(), id)
	require.NoError(t, err)
	assert.Len(t, v.Job.Runs, 1)
	m, err := d.Rounds.Measuring(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, 1, m.Kept)

	for name, spoil := range map[string]func(r *order.Result){
		"no id":             func(r *order.Result) { r.Run.ID = "" },
		"an id without end": func(r *order.Result) { r.Run.ID = strings.Repeat("x", 65) },
		"a test of another": func(r *order.Result) { r.Run.Test = "t-moon" },
		"timed by hand":     func(r *order.Result) { r.Run.Method = job.Stopwatch },
		"below nothing":     func(r *order.Result) { r.Run.Value = -1 },
		"an unknown warmth": func(r *order.Result) { r.Run.Warmth = "lukewarm" },
	} {
		t.Run(name, func(t *testing.T) {
			r := result(o, 1)
			spoil(&r)
			assert.Error(t, d.Rounds.Finished(t.Context(), probe, id, r))
		})
	}
	v, err = d.Jobs.View(t.Context(), id)
	require.NoError(t, err)
	assert.Len(t, v.Job.Runs, 1)

	// Late runs, after the round has ended and the computer was handed back, still count as measured.
	require.NoError(t, d.Rounds.Ended(t.Context(), probe,
		order.Ended{Order: o.ID, State: order.Failed, Error: "the cable fell out"}))
	require.NoError(t, d.Rounds.Ended(t.Context(), probe, order.Ended{Order: o.ID, State: order.Done}),
		"what was heard once stands")
	m, err = d.Rounds.Measuring(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, measuring.Failed, m.State)
	assert.Contains(t, m.Refusal.Message, "The cable fell out")
	require.NoError(t, d.Rounds.Finished(t.Context(), probe, id, result(o, 1)))
	v, err = d.Jobs.View(t.Context(), id)
	require.NoError(t, err)
	assert.Len(t, v.Job.Runs, 2)
}

// A computer's clock may be years off: what it measured is dated by the bench's.
func TestAClockThatIsOff(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := open(t, d)
	probe := joins(t, d, id, "m")
	off := -6 * 365 * 24 * time.Hour
	h := hello("m")
	h.Now = time.Now().Add(off)
	_, err := d.Probes.Back(t.Context(), probe, h)
	require.NoError(t, err)
	o := begins(t, d, id, probe)
	r := result(o, 0)
	r.Run.At = time.Now().Add(off - time.Minute)
	require.NoError(t, d.Rounds.Finished(t.Context(), probe, id, r))
	h.Now = time.Now().Add(24 * time.Hour)
	_, err = d.Probes.Back(t.Context(), probe, h)
	require.NoError(t, err)
	r = result(o, 1)
	r.Run.At = time.Now().Add(96 * time.Hour) // it was set once more since
	require.NoError(t, d.Rounds.Finished(t.Context(), probe, id, r))
	v, err := d.Jobs.View(t.Context(), id)
	require.NoError(t, err)
	assert.WithinDuration(t, time.Now().Add(-time.Minute), v.Job.Runs[0].At, 10*time.Second)
	assert.False(t, v.Job.Runs[1].At.After(d.Jobs.Now()), "nothing was measured in the future")
}

// A round is cancelled: by its probe, or at once if the probe is away.
func TestCancel(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := open(t, d)
	probe := joins(t, d, id, "m")
	o := begins(t, d, id, probe)
	_, err := d.Rounds.Measure(t.Context(), nil, id,
		measuring.MeasureRequest{Sitting: "s1", Probe: probe, Tests: []string{"t-long-read"}, Runs: 1})
	desktest.Refusal(t, err, bench.Conflict)
	_, err = d.Probes.Dismiss(t.Context(), nil, id, probe)
	assert.Contains(t, desktest.Refusal(t, err, bench.Conflict).Message, "measuring")
	cancelled := make(chan *measuring.Measuring)
	go func() {
		m, err := d.Rounds.Cancel(context.Background(), nil, id)
		assert.NoError(t, err)
		cancelled <- m
	}()
	stop, err := d.Rounds.Work(t.Context(), probe, o.ID)
	require.NoError(t, err)
	assert.Equal(t, order.Order{ID: o.ID, Kind: order.Stop}, *stop)
	require.NoError(t, d.Rounds.Ended(t.Context(), probe,
		order.Ended{Order: o.ID, State: order.Cancelled, Cleared: "Test files removed."}))
	m := <-cancelled
	assert.Equal(t, []string{measuring.Cancelled, "Test files removed."}, []string{m.State, m.Cleared})
}

// A bench that was restarted knows its rounds on other computers, and lets them continue.
func TestARestartedBench(t *testing.T) {
	d, s := desktest.New(t, desk.Options{})
	id := open(t, d)
	probe := joins(t, d, id, "m")
	o := begins(t, d, id, probe)
	require.NoError(t, d.Rounds.Finished(t.Context(), probe, id, result(o, 0)))
	d = desk.New(s, desk.Options{})
	require.NoError(t, d.Start(t.Context()))
	m, err := d.Rounds.Measuring(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, []any{measuring.Running, 1}, []any{m.State, m.Kept})
	// It hasn't made contact since: a cancelled round ends at once.
	m, err = d.Rounds.Cancel(t.Context(), nil, id)
	require.NoError(t, err)
	assert.Equal(t, measuring.Cancelled, m.State)
	stop, err := d.Rounds.Work(t.Context(), probe, o.ID)
	require.NoError(t, err)
	assert.Equal(t, order.Stop, stop.Kind, "it hears of it when it is back")
	list, err := d.Probes.Dismiss(t.Context(), nil, id, probe)
	require.NoError(t, err)
	assert.True(t, len(list) == 0 || list[0].Leaving)
}

// That a probe was told to leave can be undone, until it has left.
func TestDisconnectingIsTakenBack(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := open(t, d)
	probe := joins(t, d, id, "m")
	waits := func() *order.Order {
		ctx, stop := context.WithTimeout(t.Context(), 10*time.Millisecond)
		defer stop()
		o, err := d.Rounds.Work(ctx, probe, "")
		require.NoError(t, err)
		return o
	}
	require.Nil(t, waits()) // it is here
	list, err := d.Probes.Dismiss(t.Context(), nil, id, probe)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.True(t, list[0].Leaving)
	assert.Nil(t, waits(), "it isn't told yet")
	list, err = d.Probes.Stay(t.Context(), nil, id, probe)
	require.NoError(t, err)
	assert.False(t, list[0].Leaving)
	d.Jobs.Shift(time.Minute)
	assert.Nil(t, waits(), "it stays")

	_, err = d.Probes.Dismiss(t.Context(), nil, id, probe)
	require.NoError(t, err)
	d.Jobs.Shift(time.Minute)
	assert.Equal(t, order.Leave, waits().Kind)
	require.NoError(t, d.Probes.Left(t.Context(), probe))
	_, err = d.Probes.Stay(t.Context(), nil, id, probe)
	assert.Contains(t, desktest.Refusal(t, err, bench.Conflict).Message, "has left")
	_, err = d.Probes.Stay(t.Context(), nil, id, "nobody")
	desktest.Refusal(t, err, bench.Missing)
	_, err = d.Probes.Stay(t.Context(), nil, open(t, d), probe)
	desktest.Refusal(t, err, bench.Missing)
}

// A waiting probe is woken, or answered with nothing after a while.
func TestWorkIsWaitedFor(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := open(t, d)
	probe := joins(t, d, id, "m")
	ctx, stop := context.WithTimeout(t.Context(), 10*time.Millisecond)
	defer stop()
	o, err := d.Rounds.Work(ctx, probe, "")
	require.NoError(t, err)
	assert.Nil(t, o)
	_, err = d.Probes.Conditions(t.Context(), id, "nobody", "")
	desktest.Refusal(t, err, bench.Missing)
	_, err = d.Probes.Do(t.Context(), id, probe, order.Swap)
	assert.Contains(t, desktest.Refusal(t, err, bench.Conflict).Message, "real computer")
}

// Three probes measure at once, of three jobs, and a round on this computer beside them.
func TestRoundsOnSeveralComputers(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	var orders []*order.Order
	var ids, names []string
	for i := range 3 {
		ids = append(ids, open(t, d))
		names = append(names, joins(t, d, ids[i], fmt.Sprint("m", i)))
		orders = append(orders, begins(t, d, ids[i], names[i]))
	}
	assert.Len(t, d.Rounds.Active(), 3)
	other := desktest.Simulated(t, d)
	_, err := d.Sittings.Sit(t.Context(), nil, other, "then", bench.Conditions{})
	require.NoError(t, err)
	_, err = d.Rounds.Measure(t.Context(), nil, other, measuring.MeasureRequest{Sitting: "s1"})
	require.NoError(t, err)
	assert.Equal(t, measuring.Done, desktest.Measured(t, d, other).State)
	for i := range 3 {
		require.NoError(t, d.Rounds.Finished(t.Context(), names[i], ids[i], result(orders[i], 0)))
		require.NoError(t, d.Rounds.Ended(t.Context(), names[i], order.Ended{Order: orders[i].ID, State: order.Done}))
	}
	assert.Empty(t, d.Rounds.Active())
}

// A round measures the drive that holds the chosen folder, the system may have started from another one.
func TestARoundMeasuresTheDriveOfTheFolder(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := open(t, d)
	_, err := d.Jobs.Change(t.Context(), nil, id, func(j *job.Job) error {
		j.Drives = append(j.Drives,
			job.Drive{ID: "d2", DriveLabel: job.DriveLabel{Kind: job.SataSSD, CapacityBytes: 960e9}})
		j.Drives[1].SerialDigest = "new"
		j.Setups = append(j.Setups, job.Setup{ID: "now", Role: job.Now, Computer: j.Setups[0].Computer, Drive: "d2",
			Relation: job.JoinsBeside, Of: j.Setups[0].Drive})
		return nil
	})
	require.NoError(t, err)
	p, err := d.Probes.Pair(t.Context(), nil, id)
	require.NoError(t, err)
	h := hello("m")
	h.Code = p.Code
	h.Facts.Drives = append(h.Facts.Drives, hardware.Drive{ID: "sdb", SerialDigest: "new"})
	h.Facts.Volumes = append(h.Facts.Volumes, hardware.Volume{Mount: "/games", Drive: "sdb"})
	w, err := d.Probes.Join(t.Context(), h, slow.Client{Key: "x"})
	require.NoError(t, err)
	_, err = d.Sittings.Sit(t.Context(), nil, id, "now", bench.Conditions{})
	require.NoError(t, err)

	list, err := d.Probes.Of(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, "then", list[0].Setup, "the system started from the old one")
	assert.Equal(t, map[string]string{"then": "/", "now": "/games"}, list[0].Mounts)

	in := measuring.MeasureRequest{Sitting: "s1", Probe: w.Probe, Tests: []string{"t-long-read"}, Runs: 1, Dir: "/home"}
	_, err = d.Rounds.Measure(t.Context(), nil, id, in)
	desktest.Refusal(t, err, bench.Conflict)
	in.Dir = ""
	_, err = d.Rounds.Measure(t.Context(), nil, id, in)
	require.NoError(t, err)
	o, err := d.Rounds.Work(t.Context(), w.Probe, "")
	require.NoError(t, err)
	assert.Equal(t, "/games", o.Dir)
}

// A drive's health is stored with that day's session, once.
func TestHealthIsNotedWithTheSession(t *testing.T) {
	clock := bench.NewClock(0)
	d, _ := desktest.New(t, desk.Options{Clock: clock})
	id := open(t, d)
	p, err := d.Probes.Pair(t.Context(), nil, id)
	require.NoError(t, err)
	h := hello("m")
	h.Code = p.Code
	count := func(n int64) *hardware.Health { return &hardware.Health{Reallocated: &n} }
	h.Facts.Drives[0].Health = count(3)
	w, err := d.Probes.Join(t.Context(), h, slow.Client{Key: "x"})
	require.NoError(t, err)
	begins(t, d, id, w.Probe)
	sittings := func() []job.Sitting {
		v, err := d.Jobs.View(t.Context(), id)
		require.NoError(t, err)
		return v.Job.Sittings
	}
	require.NotNil(t, sittings()[0].Health, "measured through the probe")
	assert.Equal(t, int64(3), *sittings()[0].Health.Reallocated)

	// Weeks later it comes back with more: that belongs to a session of that day.
	d.Jobs.Shift(30 * 24 * time.Hour)
	h.Facts.Drives[0].Health = count(8)
	_, err = d.Probes.Back(t.Context(), w.Probe, h)
	require.NoError(t, err)
	assert.Equal(t, int64(3), *sittings()[0].Health.Reallocated)
	_, err = d.Sittings.Sit(t.Context(), nil, id, "then", bench.Conditions{})
	require.NoError(t, err)
	_, err = d.Probes.Back(t.Context(), w.Probe, h)
	require.NoError(t, err)
	require.NotNil(t, sittings()[1].Health)
	assert.Equal(t, int64(8), *sittings()[1].Health.Reallocated)
	assert.Nil(t, sittings()[1].Health.Pending, "it said nothing of that")
}

// A drive that is failing gets the gentle plan when it is seen for the first time; after that the
// plan is a person's choice.
func TestAFailingDriveGetsTheGentlePlan(t *testing.T) {
	d, _ := desktest.New(t, desk.Options{})
	id := open(t, d)
	template := func() string {
		v, err := d.Jobs.View(t.Context(), id)
		require.NoError(t, err)
		return v.Job.Plan.Template
	}
	require.Equal(t, plan.DefaultTemplate, template())
	p, err := d.Probes.Pair(t.Context(), nil, id)
	require.NoError(t, err)
	h := hello("m")
	h.Code = p.Code
	pending := int64(7)
	h.Facts.Drives[0].Health = &hardware.Health{Pending: &pending}
	w, err := d.Probes.Join(t.Context(), h, slow.Client{Key: "x"})
	require.NoError(t, err)
	assert.Equal(t, plan.FailingTemplate, template())
	_, err = d.Plans.UseTemplate(t.Context(), nil, id, plan.DefaultTemplate)
	require.NoError(t, err)
	_, err = d.Probes.Back(t.Context(), w.Probe, h)
	require.NoError(t, err)
	assert.Equal(t, plan.DefaultTemplate, template())
}
