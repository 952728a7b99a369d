package bench

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/stopwatch"
	"nowthen/store"
)

func newBench(t *testing.T, o Options) (*Bench, *store.Store) {
	t.Helper()
	s, err := store.Open(filepath.Join(t.TempDir(), "x.db"))
	require.NoError(t, err)
	b, err := New(t.Context(), s, o)
	require.NoError(t, err)
	t.Cleanup(func() { b.Close(); _ = s.Close() })
	return b, s
}

func refusal(t *testing.T, err error, kind Kind) *Refusal {
	t.Helper()
	var r *Refusal
	require.ErrorAs(t, err, &r)
	assert.Equal(t, kind, r.Kind, r.Message)
	return r
}

func cardsOf(b *Bench, ctx context.Context, state, query string) ([]Card, error) {
	board, err := b.Board(ctx, state, query)
	if err != nil {
		return nil, err
	}
	return board.Cards, nil
}

// waitMeasured waits until the measuring of a job has ended.
func waitMeasured(t *testing.T, b *Bench, id string) *Measuring {
	t.Helper()
	b.mu.Lock()
	r := b.measuring[id]
	b.mu.Unlock()
	require.NotNil(t, r)
	select {
	case <-r.ended:
	case <-time.After(time.Minute):
		t.Fatal("the measuring does not end")
	}
	return r.snapshot()
}

func simulated(t *testing.T, b *Bench) string {
	t.Helper()
	v, err := b.Open(t.Context(), Intake{Customer: job.Customer{Name: "Ilse"}, Simulated: "laptop"})
	require.NoError(t, err)
	return v.ID
}

func TestTheWholeJobSimulated(t *testing.T) {
	b, s := newBench(t, Options{})
	ctx := t.Context()
	require.NoError(t, Demo(ctx, s, ""))
	require.NoError(t, Demo(ctx, s, ""), "a second time changes nothing")
	cards, err := cardsOf(b, ctx, "all", "")
	require.NoError(t, err)
	require.Len(t, cards, 4)
	at := map[string]bool{}
	for _, c := range cards {
		at[c.Here] = true
		assert.True(t, c.Simulated)
		assert.False(t, c.Since.After(time.Now()), "the past lies in the past")
	}
	assert.Equal(t, map[string]bool{"": true, plan.StepCompare: true, plan.StepOut: true, plan.StepThen: true}, at)

	finished, err := cardsOf(b, ctx, "finished", "")
	require.NoError(t, err)
	l, err := b.Compare(ctx, finished[0].ID, "", "")
	require.NoError(t, err)
	for _, row := range l.Rows {
		want := compare.Faster
		if row.Test.Kind == job.Control {
			want = compare.TooClose // a drive must not change it
		}
		assert.Equal(t, want, row.Line.Verdict, row.Test.Name)
		assert.Equal(t, plan.Wanted(&row.Test), row.Line.With.N)
		for _, r := range append(row.ThenRuns, row.WithRuns...) {
			assert.True(t, r.Simulated)
		}
	}
	start := l.Rows[0]
	require.Len(t, start.WithRuns, 4)
	require.NotNil(t, start.WithRuns[0].SetAside, "the first start after the swap is set aside by itself")
	assert.Equal(t, FirstStartReason, start.WithRuns[0].SetAside.Reason)

	rep, err := b.Report(ctx, finished[0].ID)
	require.NoError(t, err)
	require.NotNil(t, rep.Issued)
	assert.True(t, rep.Issued.Simulated)
	assert.Contains(t, rep.Issued.Headline, "instead of")
}

func TestAnIssuedReportStaysAsItWas(t *testing.T) {
	b, s := newBench(t, Options{})
	ctx := t.Context()
	require.NoError(t, Demo(ctx, s, ""))
	cards, err := cardsOf(b, ctx, "finished", "")
	require.NoError(t, err)
	before, err := b.Report(ctx, cards[0].ID)
	require.NoError(t, err)
	v, err := b.Job(ctx, cards[0].ID)
	require.NoError(t, err)
	_, err = b.SetAside(ctx, cards[0].ID, v.Job.Runs[0].ID, "someone at the door")
	require.NoError(t, err)
	after, err := b.Report(ctx, cards[0].ID)
	require.NoError(t, err)
	assert.Equal(t, before.Issued, after.Issued)
	assert.NotEqual(t, after.Issued.Waiting, after.Draft.Waiting)
}

func TestOpenRefusesWhatIsWrong(t *testing.T) {
	b, _ := newBench(t, Options{})
	good := Intake{Customer: job.Customer{Name: "Ilse"}, OldDrive: job.Drive{Kind: job.HDD}}
	tests := []struct {
		name  string
		spoil func(*Intake)
		field string
	}{
		{"nobody and nothing", func(i *Intake) { i.Customer.Name = " " }, "customer.name"},
		{"no kind of drive", func(i *Intake) { i.OldDrive.Kind = "" }, "old_drive.kind"},
		{"megabytes for gigabytes", func(i *Intake) { i.OldDrive.CapacityBytes = 500 }, "old_drive.capacity_bytes"},
		{"negative capacity", func(i *Intake) { i.OldDrive.CapacityBytes = -1 }, "old_drive.capacity_bytes"},
		{"a rate in bits", func(i *Intake) { i.OldDrive.Rated = &job.Rated{ReadMBs: 4.4e6} }, "old_drive.rated"},
		{"a negative rate", func(i *Intake) { i.OldDrive.Rated = &job.Rated{WriteMBs: -5} }, "old_drive.rated"},
		{"a price of words", func(i *Intake) {
			i.NewDrive = &job.Drive{Kind: job.NVMe, Price: &job.Price{Amount: "cheap", Currency: "EUR"}}
		}, "new_drive.price"},
		{"memory below zero", func(i *Intake) { i.Computer.MemoryBytes = -1 }, "computer.memory_bytes"},
		{"a novel", func(i *Intake) { i.Reason = strings.Repeat("x", 501) }, "reason"},
		{"a tiny test file", func(i *Intake) { i.TestFileBytes = 1 << 20 }, "test_file_bytes"},
		{"an endless test", func(i *Intake) { i.TestSeconds = 1e6 }, "test_seconds"},
	}
	for _, tt := range tests {
		in := good
		tt.spoil(&in)
		_, err := b.Open(t.Context(), in)
		r := refusal(t, err, Invalid)
		assert.Contains(t, r.Fields, tt.field, tt.name)
		assert.NotEmpty(t, r.Kept)
	}
	cards, err := cardsOf(b, t.Context(), "all", "")
	require.NoError(t, err)
	assert.Empty(t, cards, "nothing half-open is left")
	_, err = b.Open(t.Context(), Intake{Simulated: "teapot"})
	refusal(t, err, Invalid)
}

func TestTheMarkCannotBePutOnOrTakenOff(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	v, err := b.Open(ctx, Intake{Customer: job.Customer{Name: "x"}, OldDrive: job.Drive{Kind: job.HDD, Simulated: "worn-disk"}})
	require.NoError(t, err)
	assert.False(t, v.Simulated)
	id := simulated(t, b)
	v, err = b.Amend(ctx, id, Change{OldDrive: &job.Drive{Kind: job.HDD}, Computer: &job.Computer{Maker: "Real"}, NewDrive: &job.Drive{Kind: job.NVMe}})
	require.NoError(t, err)
	for _, d := range v.Job.Drives {
		assert.NotEmpty(t, d.Simulated)
	}
	assert.NotEmpty(t, v.Job.Computers[0].Simulated)
	// Timed by hand on a simulated computer is simulated too.
	_, err = b.Sit(ctx, id, "then", job.Conditions{})
	require.NoError(t, err)
	v, err = b.TypeIn(ctx, id, Type{Test: catalogue.ColdStart, Sitting: "s1", Value: 40, Unit: "s"})
	require.NoError(t, err)
	assert.True(t, v.Job.Runs[0].Simulated)
}

func TestNumbersGoOn(t *testing.T) {
	b, _ := newBench(t, Options{})
	year := time.Now().Format("2006")
	for _, want := range []string{"-0001", "-0002", "-0003"} {
		v, err := b.Job(t.Context(), simulated(t, b))
		require.NoError(t, err)
		assert.Equal(t, year+want, v.Job.Head.Number)
	}
}

func TestGates(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id := simulated(t, b)
	_, err := b.PassGate(ctx, id, Passing{Gate: job.GateOldDriveOut, Why: "  "})
	r := refusal(t, err, Conflict)
	assert.Len(t, r.Lost, 6, "four tests, the backup, the used bytes")
	v, err := b.PassGate(ctx, id, Passing{Gate: job.GateOldDriveOut, Why: "the customer is in a hurry"})
	require.NoError(t, err)
	assert.Equal(t, plan.StepNow, v.Here)
	assert.Empty(t, v.Lost)
	_, err = b.PassGate(ctx, id, Passing{Gate: job.GateOldDriveOut, Why: "again"})
	refusal(t, err, Conflict)
	_, err = b.PassGate(ctx, id, Passing{Gate: "moon"})
	refusal(t, err, Missing)
	_, err = b.PassGate(ctx, "nobody", Passing{Gate: job.GateOldDriveOut})
	refusal(t, err, Missing)
}

func TestRunsAreSetAsideAndTakenBack(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id := simulated(t, b)
	_, err := b.Sit(ctx, id, "then", job.Conditions{})
	require.NoError(t, err)
	for _, wrong := range []Type{
		{Test: catalogue.ColdStart, Sitting: "s1", Value: 40, Unit: "h"},
		{Test: catalogue.ColdStart, Sitting: "s1", Value: -40, Unit: "s"},
		{Test: catalogue.ColdStart, Sitting: "s1", Value: 1e7, Unit: "s"},
		{Test: catalogue.LongRead, Sitting: "s1", Value: 500, Unit: "IOPS"},
	} {
		_, err := b.TypeIn(ctx, id, wrong)
		r := refusal(t, err, Invalid)
		assert.NotEmpty(t, r.Kept)
	}
	_, err = b.TypeIn(ctx, id, Type{Test: "nap", Sitting: "s1", Value: 1, Unit: "s"})
	refusal(t, err, Missing)
	v, err := b.TypeIn(ctx, id, Type{Test: catalogue.ColdStart, Sitting: "s1", Value: 40, Unit: "s", Note: "his watch"})
	require.NoError(t, err)
	run := v.Job.Runs[0].ID
	_, err = b.SetAside(ctx, id, run, " ")
	refusal(t, err, Invalid)
	v, err = b.SetAside(ctx, id, run, "read wrongly")
	require.NoError(t, err)
	assert.Equal(t, 0, v.Coverage[0].Kept)
	assert.Equal(t, 1, v.Coverage[0].Aside)
	v, err = b.TakeBack(ctx, id, run)
	require.NoError(t, err)
	assert.Equal(t, 1, v.Coverage[0].Kept)
	_, err = b.SetAside(ctx, id, "nobody", "x")
	refusal(t, err, Missing)
}

func TestConditionsAreChecked(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id := simulated(t, b)
	over, below := 140.0, -1.0
	for name, c := range map[string]job.Conditions{
		"power":           {Power: "steam"},
		"power_mode":      {PowerMode: "turbo"},
		"busy":            {Busy: []string{"juggling"}},
		"fill_pct":        {FillPct: &over},
		"cpu_pct":         {CPUPct: &over},
		"background_mb_s": {BackgroundMBs: &below},
	} {
		_, err := b.Sit(ctx, id, "then", c)
		assert.Contains(t, refusal(t, err, Invalid).Fields, name)
	}
	_, err := b.Sit(ctx, id, "nowhere", job.Conditions{})
	refusal(t, err, Missing)
	v, err := b.Sit(ctx, id, "now", job.Conditions{Power: "mains"})
	require.NoError(t, err)
	require.NotNil(t, v.Job.Sittings[0].Conditions.FirstAfterSwap)
	assert.True(t, *v.Job.Sittings[0].Conditions.FirstAfterSwap)
	v, err = b.AmendSitting(ctx, id, "s1", job.Conditions{Power: "battery"})
	require.NoError(t, err)
	assert.Equal(t, "battery", v.Job.Sittings[0].Conditions.Power)
	assert.True(t, *v.Job.Sittings[0].Conditions.FirstAfterSwap, "what was not asked stays")
}

// realJob is a job on this computer with a small test file.
func realJob(t *testing.T, b *Bench, seconds float64) string {
	t.Helper()
	v, err := b.Open(t.Context(), Intake{Customer: job.Customer{Name: "Real"}, OldDrive: job.Drive{Kind: job.SataSSD}, TestFileBytes: 16 << 20, TestSeconds: seconds})
	require.NoError(t, err)
	_, err = b.Sit(t.Context(), v.ID, "then", job.Conditions{Power: "mains"})
	require.NoError(t, err)
	return v.ID
}

// here is a folder on the drive that this test runs from.
func here(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp(".", "measured-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	dir, err = filepath.Abs(dir)
	require.NoError(t, err)
	return dir
}

func TestMeasuringForReal(t *testing.T) {
	b, s := newBench(t, Options{})
	ctx := t.Context()
	id, dir := realJob(t, b, 0.3), here(t)
	_, err := b.Measure(ctx, id, MeasureRequest{Sitting: "s1", Dir: dir, Runs: 2})
	require.NoError(t, err)
	m := waitMeasured(t, b, id)
	require.Equal(t, MeasuringDone, m.State, "%+v", m.Refusal)
	assert.Equal(t, 6, m.Kept)
	v, err := b.Job(ctx, id)
	require.NoError(t, err)
	require.Len(t, v.Job.Runs, 6)
	for _, r := range v.Job.Runs {
		assert.False(t, r.Simulated)
		assert.Positive(t, r.Value)
		assert.Positive(t, r.IOs)
		require.NotNil(t, r.U)
		require.NotNil(t, r.Latency)
		assert.LessOrEqual(t, r.Latency.MedianMS, r.Latency.MaxMS)
	}
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)
	dirs, err := s.Folders(ctx)
	require.NoError(t, err)
	assert.Empty(t, dirs)
}

func TestMeasuringIsRefused(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id, dir := realJob(t, b, 0.3), here(t)
	tests := []struct {
		name string
		in   MeasureRequest
		kind Kind
		says string
	}{
		{"no such sitting", MeasureRequest{Sitting: "s9", Dir: dir}, Missing, "no sitting"},
		{"no such test", MeasureRequest{Sitting: "s1", Dir: dir, Tests: []string{"nap"}}, Missing, "no test"},
		{"a start", MeasureRequest{Sitting: "s1", Dir: dir, Tests: []string{catalogue.ColdStart}}, Invalid, "run by itself"},
		{"too often", MeasureRequest{Sitting: "s1", Dir: dir, Runs: 999}, Invalid, "between 1 and 20"},
		{"no folder", MeasureRequest{Sitting: "s1"}, Invalid, "whole path"},
		{"a folder that is not there", MeasureRequest{Sitting: "s1", Dir: dir + "/gone"}, Invalid, "no folder"},
		{"memory", MeasureRequest{Sitting: "s1", Dir: "/dev/shm"}, Invalid, "direct I/O"},
	}
	for _, tt := range tests {
		_, err := b.Measure(ctx, id, tt.in)
		r := refusal(t, err, tt.kind)
		assert.Contains(t, r.Message, tt.says, tt.name)
	}
	// After all that the bench is free.
	_, err := b.Measure(ctx, id, MeasureRequest{Sitting: "s1", Dir: dir, Runs: 1, Tests: []string{catalogue.LongRead}})
	require.NoError(t, err)
	assert.Equal(t, MeasuringDone, waitMeasured(t, b, id).State)
	_, err = b.Amend(ctx, id, Change{TestSeconds: new(float64)})
	refusal(t, err, Conflict)
}

func TestCancelKeepsWhatWasFinished(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id, dir := realJob(t, b, 0.4), here(t)
	events := b.Listen(ctx)
	_, err := b.Measure(ctx, id, MeasureRequest{Sitting: "s1", Dir: dir, Runs: 20})
	require.NoError(t, err)
	_, err = b.Measure(ctx, id, MeasureRequest{Sitting: "s1", Dir: dir})
	assert.Contains(t, refusal(t, err, Conflict).Message, "two at once")
	for e := range events {
		if m, ok := e.Data.(*Measuring); ok && m.Kept >= 2 {
			break
		}
	}
	m, err := b.CancelMeasuring(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, MeasuringCancelled, m.State)
	_, err = b.CancelMeasuring(ctx, id)
	assert.Contains(t, refusal(t, err, Conflict).Kept, "kept")
	v, err := b.Job(ctx, id)
	require.NoError(t, err)
	assert.Len(t, v.Job.Runs, m.Kept)
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestARunIsOnDiskBeforeItIsTold(t *testing.T) {
	b, s := newBench(t, Options{})
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	id := simulated(t, b)
	_, err := b.Sit(ctx, id, "now", job.Conditions{})
	require.NoError(t, err)
	events := b.Listen(ctx)
	_, err = b.Measure(ctx, id, MeasureRequest{Sitting: "s1", Runs: 3, Tests: []string{catalogue.LongRead}})
	require.NoError(t, err)
	told := 0
	for told < 3 {
		e := <-events
		if m, ok := e.Data.(*Measuring); ok && m.Kept > told {
			told = m.Kept
			j, err := s.Job(ctx, id)
			require.NoError(t, err)
			require.GreaterOrEqual(t, len(j.Runs), told)
		}
	}
	assert.Equal(t, MeasuringDone, waitMeasured(t, b, id).State)
}

func TestTheTimer(t *testing.T) {
	b, s := newBench(t, Options{})
	ctx := t.Context()
	id := realJob(t, b, 1)
	none, err := b.Timer(ctx, id)
	require.NoError(t, err)
	assert.Nil(t, none)
	_, err = b.PressTimer(ctx, id, Press{Key: "a", AtMS: b.NowMS()})
	refusal(t, err, Conflict)
	_, err = b.ArmTimer(ctx, id, catalogue.LongRead, "s1", "")
	refusal(t, err, Invalid)
	_, err = b.ArmTimer(ctx, id, catalogue.ColdStart, "s1", "")
	require.NoError(t, err)
	base := b.NowMS()
	_, err = b.PressTimer(ctx, id, Press{Key: "early", AtMS: base - 60_000})
	refusal(t, err, Conflict)
	_, err = b.PressTimer(ctx, id, Press{Key: "late", AtMS: base + 60_000})
	refusal(t, err, Conflict)
	_, err = b.PressTimer(ctx, id, Press{Key: "0", AtMS: base})
	require.NoError(t, err)

	// Another program over the same store: the timer goes on.
	again, err := New(ctx, s, Options{})
	require.NoError(t, err)
	for i, at := range []float64{1200, 1500, 2800} {
		v, err := again.PressTimer(ctx, id, Press{Key: fmt.Sprint("k", i), AtMS: base + at})
		require.NoError(t, err)
		_, err = again.PressTimer(ctx, id, Press{Key: fmt.Sprint("k", i), AtMS: base + at + 3})
		require.NoError(t, err, "the same press twice is one")
		if i == 2 {
			assert.Equal(t, stopwatch.Stopped, v.State)
			assert.InDelta(t, 2.5, *v.Value, 1e-6)
		}
	}
	_, err = b.ArmTimer(ctx, id, catalogue.ColdStart, "s1", "")
	require.NoError(t, err, "armed for that already")
	view, err := b.KeepTimer(ctx, id, Keeping{Again: true})
	require.NoError(t, err)
	require.Len(t, view.Job.Runs, 1)
	run := view.Job.Runs[0]
	assert.Equal(t, job.Stopwatch, run.Method)
	assert.InDelta(t, 0.2828, *run.U, 1e-3)
	assert.InDelta(t, 2.5, run.Value, 1e-6)
	assert.InDelta(t, 0.3, run.Phases["typing"], 1e-6)
	_, err = b.KeepTimer(ctx, id, Keeping{})
	refusal(t, err, Conflict)
	require.NoError(t, b.DiscardTimer(ctx, id))
	require.NoError(t, b.DiscardTimer(ctx, id), "a second discard changes nothing")
}

func TestExportAndImport(t *testing.T) {
	b, s := newBench(t, Options{})
	ctx := t.Context()
	require.NoError(t, Demo(ctx, s, ""))
	cards, err := cardsOf(b, ctx, "all", "")
	require.NoError(t, err)
	for _, c := range cards {
		_, file, err := b.Export(ctx, c.ID)
		require.NoError(t, err)
		v, err := b.Import(ctx, "x.nowthen.json", file)
		require.NoError(t, err)
		assert.True(t, v.Simulated, "the mark stays on")
		_, again, err := b.Export(ctx, v.ID)
		require.NoError(t, err)
		assert.Equal(t, string(file), string(again))
	}
	_, file, err := b.Export(ctx, cards[0].ID)
	require.NoError(t, err)
	_, err = b.Import(ctx, "half.json", file[:len(file)/2])
	r := refusal(t, err, Invalid)
	assert.Contains(t, r.Message, "half.json")
	_, err = b.Import(ctx, "foreign", bytes.Repeat([]byte{0}, 100))
	refusal(t, err, Invalid)
	after, err := cardsOf(b, ctx, "all", "")
	require.NoError(t, err)
	assert.Len(t, after, 2*len(cards))
}

func TestReportNeedsTwoSides(t *testing.T) {
	b, _ := newBench(t, Options{})
	id := realJob(t, b, 1)
	_, err := b.Report(t.Context(), id)
	refusal(t, err, Conflict)
	_, err = b.Compare(t.Context(), id, "", "")
	refusal(t, err, Conflict)
	sim := simulated(t, b)
	_, err = b.Issue(t.Context(), sim)
	refusal(t, err, Conflict)
}
