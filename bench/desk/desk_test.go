package desk_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/demo"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/measuring"
	"nowthen/bench/sittings"
	"nowthen/bench/timing"
	"nowthen/bench/transfer"
	"nowthen/bench/visit"
	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/stopwatch"
)

func TestTheWholeJobSimulated(t *testing.T) {
	b, s := desktest.New(t, desk.Options{})
	ctx := t.Context()
	require.NoError(t, demo.Fill(ctx, s, ""))
	require.NoError(t, demo.Fill(ctx, s, ""), "a second time changes nothing")
	cards := desktest.Cards(t, b, "all", "")
	require.Len(t, cards, 8)
	at := map[string]bool{}
	for _, c := range cards {
		at[c.Here] = true
		assert.True(t, c.Simulated)
		assert.False(t, c.Since.After(time.Now()), "the past lies in the past")
	}
	assert.Equal(t, map[string]bool{"": true, plan.AtCompare: true, plan.AtOut: true, plan.AtNow: true,
		plan.AtThen: true}, at)

	finished := desktest.Cards(t, b, "finished", "")
	l, err := b.Reports.Compare(ctx, finished[0].ID, "", "", "")
	require.NoError(t, err)
	for _, row := range l.Rows {
		want := compare.Faster
		if row.Test.Kind == job.Control {
			want = compare.TooClose // a drive must not change it
		}
		if row.Test.Kind != job.Note { // one reading a side decides little
			assert.Equal(t, want, row.Line.Verdict, row.Test.Name)
		}
		assert.Equal(t, plan.Wanted(&row.Test), row.Line.With.N)
		for _, r := range append(row.ThenRuns, row.WithRuns...) {
			assert.True(t, r.Simulated)
		}
	}
	start := l.Rows[0]
	require.Len(t, start.WithRuns, 4)
	require.NotNil(t, start.WithRuns[0].SetAside, "the first start after the swap is set aside by itself")
	assert.Equal(t, bench.FirstStartReason, start.WithRuns[0].SetAside.Reason)

	rep, err := b.Reports.Report(ctx, finished[0].ID, "")
	require.NoError(t, err)
	require.NotNil(t, rep.Issued)
	assert.True(t, rep.Issued.Simulated)
	assert.Contains(t, rep.Issued.Headline, "instead of")
}

func TestAnIssuedReportStaysAsItWas(t *testing.T) {
	b, s := desktest.New(t, desk.Options{})
	ctx := t.Context()
	require.NoError(t, demo.Fill(ctx, s, ""))
	cards := desktest.Cards(t, b, "finished", "")
	before, err := b.Reports.Report(ctx, cards[0].ID, "")
	require.NoError(t, err)
	v, err := b.Jobs.View(ctx, cards[0].ID)
	require.NoError(t, err)
	_, err = b.Sittings.SetAside(ctx, nil, cards[0].ID, v.Job.Runs[0].ID, "someone at the door")
	require.NoError(t, err)
	after, err := b.Reports.Report(ctx, cards[0].ID, "")
	require.NoError(t, err)
	assert.Equal(t, before.Issued, after.Issued)
	assert.NotEqual(t, after.Issued.Waiting, after.Draft.Waiting)
}

func TestOpenRefusesWhatIsWrong(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	good := visit.Intake{Customer: bench.Customer{Name: "Ottilie"}, OldDrive: bench.Drive{Kind: job.HDD}}
	tests := []struct {
		name  string
		spoil func(*visit.Intake)
		field string
	}{
		{"nobody and nothing", func(i *visit.Intake) { i.Customer.Name = " " }, "customer.name"},
		{"no kind of drive", func(i *visit.Intake) { i.OldDrive.Kind = "" }, "old_drive.kind"},
		{"megabytes for gigabytes", func(i *visit.Intake) { i.OldDrive.CapacityBytes = 500 },
			"old_drive.capacity_bytes"},
		{"negative capacity", func(i *visit.Intake) { i.OldDrive.CapacityBytes = -1 }, "old_drive.capacity_bytes"},
		{"a rate in bits", func(i *visit.Intake) { i.OldDrive.Rated = &bench.Rated{ReadMBs: 4.4e6} },
			"old_drive.rated.read_mb_s"},
		{"a negative rate", func(i *visit.Intake) { i.OldDrive.Rated = &bench.Rated{WriteMBs: -5} },
			"old_drive.rated.write_mb_s"},
		{"a price of words", func(i *visit.Intake) {
			i.NewDrive = &bench.Drive{Kind: job.NVMe, Price: &bench.Price{Amount: "cheap", Currency: "EUR"}}
		}, "new_drive.price.amount"},
		{"memory below zero", func(i *visit.Intake) { i.Computer.MemoryBytes = -1 }, "computer.memory_bytes"},
		{"a novel", func(i *visit.Intake) { i.Reason = strings.Repeat("x", 501) }, "reason"},
		{"a tiny test file", func(i *visit.Intake) { i.TestFileBytes = 1 << 20 }, "test_file_bytes"},
		{"an endless test", func(i *visit.Intake) { i.TestSeconds = 1e6 }, "test_seconds"},
	}
	for _, tt := range tests {
		in := good
		tt.spoil(&in)
		_, err := b.Visits.Open(t.Context(), nil, in)
		r := desktest.Refusal(t, err, bench.Invalid)
		assert.Contains(t, r.Fields, tt.field, tt.name)
		assert.NotEmpty(t, r.Kept)
	}
	cards := desktest.Cards(t, b, "all", "")
	assert.Empty(t, cards, "nothing half-open is left")
	_, err := b.Visits.Open(t.Context(), nil, visit.Intake{Simulated: "teapot"})
	desktest.Refusal(t, err, bench.Invalid)
}

func TestTheMarkCannotBePutOnOrTakenOff(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "x"}, OldDrive: bench.Drive{Kind: job.HDD, Simulated: "worn-disk"}})
	require.NoError(t, err)
	assert.False(t, v.Simulated)
	id := desktest.Simulated(t, b)
	v, err = b.Visits.Amend(ctx, nil, id,
		visit.Change{OldDrive: &bench.Drive{Kind: job.HDD}, Computer: &bench.Computer{Maker: "Real"},
			NewDrive: &bench.Drive{Kind: job.NVMe}})
	require.NoError(t, err)
	for _, d := range v.Job.Drives {
		assert.NotEmpty(t, d.Simulated)
	}
	assert.NotEmpty(t, v.Job.Computers[0].Simulated)
	// Timed by hand on a simulated computer is simulated too.
	_, err = b.Sittings.Sit(ctx, nil, id, "then", bench.Conditions{})
	require.NoError(t, err)
	v, err = b.Sittings.TypeIn(ctx, nil, id,
		sittings.Typed{Test: catalogue.ColdStart, Sitting: "s1", Value: new(float64(40)), Unit: "s"})
	require.NoError(t, err)
	assert.True(t, v.Job.Runs[0].Simulated)
}

func TestNumbersGoOn(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	year := time.Now().Format("2006")
	for _, want := range []string{"-0001", "-0002", "-0003"} {
		v, err := b.Jobs.View(t.Context(), desktest.Simulated(t, b))
		require.NoError(t, err)
		assert.Equal(t, year+want, v.Job.Head.Number)
	}
}

func TestGates(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	_, err := b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateOldDriveOut, Why: "  "})
	r := desktest.Refusal(t, err, bench.Lacking)
	assert.Len(t, r.Lost, 6, "four tests, the backup, the used bytes")
	v, err := b.Visits.PassGate(ctx, nil, id,
		visit.Passing{Gate: job.GateOldDriveOut, Why: "the customer is in a hurry"})
	require.NoError(t, err)
	assert.Equal(t, plan.AtNow, v.Here)
	assert.Empty(t, v.Lost)
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateOldDriveOut, Why: "again"})
	desktest.Refusal(t, err, bench.Conflict)
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: "moon"})
	desktest.Refusal(t, err, bench.Missing)
	_, err = b.Visits.PassGate(ctx, nil, "nobody", visit.Passing{Gate: job.GateOldDriveOut})
	desktest.Refusal(t, err, bench.Missing)
}

func TestRunsAreSetAsideAndTakenBack(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	_, err := b.Sittings.Sit(ctx, nil, id, "then", bench.Conditions{})
	require.NoError(t, err)
	for _, wrong := range []sittings.Typed{
		{Test: catalogue.ColdStart, Sitting: "s1", Value: new(float64(40)), Unit: "fortnight"},
		{Test: catalogue.ColdStart, Sitting: "s1", Value: new(float64(-40)), Unit: "s"},
		{Test: catalogue.ColdStart, Sitting: "s1", Value: new(float64(1e7)), Unit: "s"},
		{Test: catalogue.LongRead, Sitting: "s1", Value: new(float64(500)), Unit: "IOPS"},
	} {
		_, err := b.Sittings.TypeIn(ctx, nil, id, wrong)
		r := desktest.Refusal(t, err, bench.Invalid)
		assert.NotEmpty(t, r.Kept)
	}
	_, err = b.Sittings.TypeIn(ctx, nil, id,
		sittings.Typed{Test: "nap", Sitting: "s1", Value: new(float64(1)), Unit: "s"})
	desktest.Refusal(t, err, bench.Missing)
	v, err := b.Sittings.TypeIn(ctx, nil, id,
		sittings.Typed{Test: catalogue.ColdStart, Sitting: "s1", Value: new(float64(40)), Unit: "s", Note: "his watch"})
	require.NoError(t, err)
	run := v.Job.Runs[0].ID
	_, err = b.Sittings.SetAside(ctx, nil, id, run, " ")
	desktest.Refusal(t, err, bench.Invalid)
	v, err = b.Sittings.SetAside(ctx, nil, id, run, "read wrongly")
	require.NoError(t, err)
	assert.Equal(t, 0, v.Coverage[0].Kept)
	assert.Equal(t, 1, v.Coverage[0].Aside)
	v, err = b.Sittings.TakeBack(ctx, nil, id, run)
	require.NoError(t, err)
	assert.Equal(t, 1, v.Coverage[0].Kept)
	_, err = b.Sittings.SetAside(ctx, nil, id, "nobody", "x")
	desktest.Refusal(t, err, bench.Missing)
}

func TestConditionsAreChecked(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	over, below := 140.0, -1.0
	for name, c := range map[string]bench.Conditions{
		"power":           {Power: "steam"},
		"power_mode":      {PowerMode: "turbo"},
		"busy":            {Busy: &[]job.Busy{"juggling"}},
		"fill_pct":        {FillPct: &over},
		"cpu_pct":         {CPUPct: &over},
		"background_mb_s": {BackgroundMBs: &below},
	} {
		_, err := b.Sittings.Sit(ctx, nil, id, "then", c)
		assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Fields, name)
	}
	_, err := b.Sittings.Sit(ctx, nil, id, "nowhere", bench.Conditions{})
	desktest.Refusal(t, err, bench.Missing)
	v, err := b.Sittings.Sit(ctx, nil, id, "now", bench.Conditions{Power: "mains"})
	require.NoError(t, err)
	require.NotNil(t, v.Job.Sittings[0].Conditions.FirstAfterSwap)
	assert.True(t, *v.Job.Sittings[0].Conditions.FirstAfterSwap)
	v, err = b.Sittings.Amend(ctx, nil, id, "s1", bench.Conditions{Power: "battery"})
	require.NoError(t, err)
	assert.EqualValues(t, "battery", v.Job.Sittings[0].Conditions.Power)
	assert.True(t, *v.Job.Sittings[0].Conditions.FirstAfterSwap, "what was not asked stays")
}

func TestMeasuringForReal(t *testing.T) {
	b, s := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id, dir := desktest.Real(t, b, 0.3), desktest.Here(t)
	_, err := b.Rounds.Measure(ctx, nil, id, measuring.MeasureRequest{Sitting: "s1", Dir: dir, Runs: 2})
	require.NoError(t, err)
	m := desktest.Measured(t, b, id)
	require.Equal(t, measuring.Done, m.State, "%+v", m.Refusal)
	assert.Equal(t, 6, m.Kept)
	v, err := b.Jobs.View(ctx, id)
	require.NoError(t, err)
	require.Len(t, v.Job.Runs, 7)
	assert.True(t, v.Job.Runs[6].Repeat, "the first test again, in no side")
	for _, r := range v.Job.Runs {
		require.NotNil(t, r.EngineCPU)
		assert.Less(t, r.EngineCPU.All, 101.0)
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
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id, dir := desktest.Real(t, b, 0.3), desktest.Here(t)
	tests := []struct {
		name string
		in   measuring.MeasureRequest
		kind bench.Kind
		says string
	}{
		{"no such sitting", measuring.MeasureRequest{Sitting: "s9", Dir: dir}, bench.Missing, "no session"},
		{"no such test", measuring.MeasureRequest{Sitting: "s1", Dir: dir, Tests: []string{"nap"}}, bench.Missing,
			"no test"},
		{"a start", measuring.MeasureRequest{Sitting: "s1", Dir: dir, Tests: []string{catalogue.ColdStart}},
			bench.Invalid, "does not run unattended"},
		{"too often", measuring.MeasureRequest{Sitting: "s1", Dir: dir, Runs: 999}, bench.Invalid, "1 to 20"},
		{"no folder", measuring.MeasureRequest{Sitting: "s1"}, bench.Invalid, "whole path"},
		{"a folder that is not there", measuring.MeasureRequest{Sitting: "s1", Dir: dir + "/gone"}, bench.Invalid,
			"no folder"},
		{"memory", measuring.MeasureRequest{Sitting: "s1", Dir: "/dev/shm"}, bench.Invalid, "direct I/O"},
	}
	for _, tt := range tests {
		_, err := b.Rounds.Measure(ctx, nil, id, tt.in)
		r := desktest.Refusal(t, err, tt.kind)
		assert.Contains(t, r.Message, tt.says, tt.name)
	}
	// After all that the bench is free.
	_, err := b.Rounds.Measure(ctx, nil, id,
		measuring.MeasureRequest{Sitting: "s1", Dir: dir, Runs: 1, Tests: []string{catalogue.LongRead}})
	require.NoError(t, err)
	assert.Equal(t, measuring.Done, desktest.Measured(t, b, id).State)
	_, err = b.Visits.Amend(ctx, nil, id, visit.Change{TestSeconds: new(float64)})
	desktest.Refusal(t, err, bench.Conflict)
}

func TestCancelKeepsWhatWasFinished(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id, dir := desktest.Real(t, b, 0.4), desktest.Here(t)
	events := b.Jobs.Listen(ctx)
	_, err := b.Rounds.Measure(ctx, nil, id, measuring.MeasureRequest{Sitting: "s1", Dir: dir, Runs: 20})
	require.NoError(t, err)
	_, err = b.Rounds.Measure(ctx, nil, id, measuring.MeasureRequest{Sitting: "s1", Dir: dir})
	assert.Contains(t, desktest.Refusal(t, err, bench.Conflict).Message, "Two at once")
	heard(t, events, func(m *measuring.Measuring) bool { return m.Kept >= 2 })
	m, err := b.Rounds.Cancel(ctx, nil, id)
	require.NoError(t, err)
	assert.Equal(t, measuring.Cancelled, m.State)
	_, err = b.Rounds.Cancel(ctx, nil, id)
	assert.Contains(t, desktest.Refusal(t, err, bench.Conflict).Kept, "kept")
	v, err := b.Jobs.View(ctx, id)
	require.NoError(t, err)
	assert.Len(t, v.Job.Runs, m.Kept)
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)
}

func TestARunIsOnDiskBeforeItIsTold(t *testing.T) {
	b, s := desktest.New(t, desk.Options{})
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	id := desktest.Simulated(t, b)
	_, err := b.Sittings.Sit(ctx, nil, id, "now", bench.Conditions{})
	require.NoError(t, err)
	events := b.Jobs.Listen(ctx)
	_, err = b.Rounds.Measure(ctx, nil, id,
		measuring.MeasureRequest{Sitting: "s1", Runs: 3, Tests: []string{catalogue.LongRead}})
	require.NoError(t, err)
	told := 0
	for told < 3 {
		heard(t, events, func(m *measuring.Measuring) bool {
			if m.Kept <= told {
				return false
			}
			told = m.Kept
			return true
		})
		j, _, err := s.Job(ctx, id)
		require.NoError(t, err)
		require.GreaterOrEqual(t, len(j.Runs), told)
	}
	assert.Equal(t, measuring.Done, desktest.Measured(t, b, id).State)
}

func TestTheTimer(t *testing.T) {
	b, s := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Real(t, b, 1)
	none, err := b.Timers.Timer(ctx, id)
	require.NoError(t, err)
	assert.Nil(t, none)
	_, err = b.Timers.Press(ctx, nil, id, timing.Press{Key: "a", AtMS: b.Jobs.NowMS()})
	desktest.Refusal(t, err, bench.Conflict)
	_, err = b.Timers.Arm(ctx, nil, id, catalogue.LongRead, "s1", "")
	desktest.Refusal(t, err, bench.Invalid)
	_, err = b.Timers.Arm(ctx, nil, id, catalogue.ColdStart, "s1", "")
	require.NoError(t, err)
	base := b.Jobs.NowMS()
	_, err = b.Timers.Press(ctx, nil, id, timing.Press{Key: "early", AtMS: base - 60_000})
	desktest.Refusal(t, err, bench.Conflict)
	_, err = b.Timers.Press(ctx, nil, id, timing.Press{Key: "late", AtMS: base + 60_000})
	desktest.Refusal(t, err, bench.Conflict)
	_, err = b.Timers.Press(ctx, nil, id, timing.Press{Key: "0", AtMS: base})
	require.NoError(t, err)

	// Another program over the same store: the timer continues.
	again := desk.New(s, desk.Options{})
	for i, at := range []float64{1200, 1500, 2800} {
		v, err := again.Timers.Press(ctx, nil, id, timing.Press{Key: fmt.Sprint("k", i), AtMS: base + at})
		require.NoError(t, err)
		_, err = again.Timers.Press(ctx, nil, id, timing.Press{Key: fmt.Sprint("k", i), AtMS: base + at + 3})
		require.NoError(t, err, "the same press twice is one")
		if i == 2 {
			assert.Equal(t, stopwatch.Stopped, v.State)
			assert.InDelta(t, 2.5, *v.Value, 1e-6)
		}
	}
	_, err = b.Timers.Arm(ctx, nil, id, catalogue.ColdStart, "s1", "")
	require.NoError(t, err, "armed for that already")
	view, err := b.Timers.Keep(ctx, nil, id, timing.Keeping{Again: true})
	require.NoError(t, err)
	require.Len(t, view.Job.Runs, 1)
	run := view.Job.Runs[0]
	assert.Equal(t, job.Stopwatch, run.Method)
	assert.InDelta(t, 0.4, *run.U, 1e-3, "four presses enter it: start, stop and the password between")
	assert.InDelta(t, 2.5, run.Value, 1e-6)
	assert.InDelta(t, 0.3, run.Phases["typing"], 1e-6)
	_, err = b.Timers.Keep(ctx, nil, id, timing.Keeping{})
	desktest.Refusal(t, err, bench.Conflict)
	require.NoError(t, b.Timers.Discard(ctx, nil, id))
	require.NoError(t, b.Timers.Discard(ctx, nil, id), "a second discard changes nothing")
}

func TestExportAndImport(t *testing.T) {
	b, s := desktest.New(t, desk.Options{})
	ctx := t.Context()
	require.NoError(t, demo.Fill(ctx, s, ""))
	cards := desktest.Cards(t, b, "all", "")
	other, _ := desktest.New(t, desk.Options{})
	for _, c := range cards {
		_, file, err := b.Files.Export(ctx, c.ID)
		require.NoError(t, err)
		v, err := other.Files.Import(ctx, nil, "x.nowthen.json", file, transfer.AsNew)
		require.NoError(t, err)
		assert.True(t, v.Simulated, "the mark stays on")
		_, again, err := other.Files.Export(ctx, v.ID)
		require.NoError(t, err)
		assert.Equal(t, string(file), string(again))
	}
	_, file, err := b.Files.Export(ctx, cards[0].ID)
	require.NoError(t, err)
	_, err = b.Files.Import(ctx, nil, "half.json", file[:len(file)/2], "")
	r := desktest.Refusal(t, err, bench.Invalid)
	assert.Contains(t, r.Message, "half.json")
	_, err = b.Files.Import(ctx, nil, "foreign", bytes.Repeat([]byte{0}, 100), "")
	desktest.Refusal(t, err, bench.Invalid)
	assert.Len(t, desktest.Cards(t, other, "all", ""), len(cards))
}

func TestReportNeedsTwoSides(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	id := desktest.Real(t, b, 1)
	_, err := b.Reports.Report(t.Context(), id, "")
	desktest.Refusal(t, err, bench.Conflict)
	_, err = b.Reports.Compare(t.Context(), id, "", "", "")
	desktest.Refusal(t, err, bench.Conflict)
	sim := desktest.Simulated(t, b)
	_, err = b.Reports.Issue(t.Context(), nil, sim, "")
	desktest.Refusal(t, err, bench.Conflict)
}

// heard waits for a measuring event that fulfils a condition.
func heard(t *testing.T, l *bench.Listener, is func(*measuring.Measuring) bool) {
	t.Helper()
	for {
		<-l.Wake()
		for _, e := range l.Fetch() {
			var told struct {
				Type string               `json:"type"`
				Data *measuring.Measuring `json:"data"`
			}
			require.NoError(t, json.Unmarshal(e.JSON, &told))
			if told.Type == bench.MeasuringEvent && is(told.Data) {
				return
			}
		}
	}
}
