package sittings_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/planning"
	"nowthen/bench/sittings"
	"nowthen/core/catalogue"
	"nowthen/core/job"
)

func TestAFigureThatLooksWrongIsAskedAbout(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Real(t, b, 1)
	put := func(in sittings.Typed) error {
		in.Sitting = "s1"
		_, err := b.Sittings.TypeIn(ctx, nil, id, in)
		return err
	}
	require.NoError(t, put(sittings.Typed{Test: catalogue.ColdStart, Value: new(float64(92)), Unit: "s"}))
	require.NoError(t, put(sittings.Typed{Test: catalogue.ColdStart, Value: new(float64(1.55)), Unit: "min"}),
		"minutes that are said are converted")
	r := desktest.Refusal(t, put(sittings.Typed{Test: catalogue.ColdStart, Value: new(float64(1.5)), Unit: "s"}),
		bench.Doubtful)
	require.NotNil(t, r.Ask)
	assert.InDelta(t, 90, r.Ask.Value, 1e-9)
	require.NoError(t, put(sittings.Typed{Test: catalogue.ColdStart, Value: new(float64(1.5)), Unit: "s", Sure: true}))
	desktest.Refusal(t, put(sittings.Typed{Test: catalogue.ColdStart, Value: new(float64(90)), Unit: "MB/s"}),
		bench.Invalid)
	v, err := b.Jobs.View(ctx, id)
	require.NoError(t, err)
	assert.InDelta(t, 93, v.Job.Runs[1].Value, 1e-9)
	assert.Len(t, v.Job.Runs, 3)
}

// Typed figures keep the digits and the unit in which they were given.
func TestTypedFiguresKeepTheirDigits(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Real(t, b, 1)
	for in, want := range map[*sittings.Typed]string{
		{Text: "36.0"}:                          "36.0",
		{Text: "0.60", Unit: "min"}:             "0.60 min",
		{Text: "36.0 s", Unit: "min"}:           "36.0 s",
		{Value: new(float64(0.5)), Unit: "min"}: "0.5 min",
	} {
		in.Test, in.Sitting, in.Sure = catalogue.ColdStart, "s1", true
		v, err := b.Sittings.TypeIn(ctx, nil, id, *in)
		require.NoError(t, err)
		assert.Equal(t, want, v.Job.Runs[len(v.Job.Runs)-1].Given)
	}
}

// A typed figure can be a bound or a range, and says where it was read and how much was copied.
func TestATypedFigure(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Real(t, b, 1)
	_, err := b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-noise"})
	require.NoError(t, err)
	v, err := b.Sittings.TypeIn(ctx, nil, id, sittings.Typed{Test: "t-noise", Sitting: "s1", Text: "< 30 dB(A)"})
	require.NoError(t, err)
	run := v.Job.Runs[0]
	assert.Equal(t, job.BoundBelow, run.Bound)
	assert.Equal(t, 30.0, run.Value)
	typed := func(in sittings.Typed) job.Run {
		t.Helper()
		in.Sitting = "s1"
		v, err := b.Sittings.TypeIn(ctx, nil, id, in)
		require.NoError(t, err)
		return v.Job.Runs[len(v.Job.Runs)-1]
	}
	run = typed(sittings.Typed{Test: catalogue.ColdStart, Text: "not finished after 10 min"})
	assert.Equal(t, 600.0, run.Value)
	assert.Equal(t, job.BoundAbove, run.Bound)
	_, err = b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-rate-read"})
	require.NoError(t, err)
	run = typed(sittings.Typed{Test: "t-rate-read", Text: "260-270 MB/s",
		ReadIn: &job.ReadIn{Program: "Millrace", Version: "3", FileBytes: 1 << 30}})
	assert.Equal(t, 265.0, run.Value)
	assert.Equal(t, &[2]float64{260, 270}, run.Range)
	assert.Nil(t, run.U, "nobody stated it: the range is what it is worked out from")
	assert.Equal(t, "Millrace", run.ReadIn.Program)
	_, err = b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-copy-own"})
	require.NoError(t, err)
	run = typed(sittings.Typed{Test: "t-copy-own", Text: "1:32", Bytes: 4e9, Files: 1200})
	assert.Equal(t, []int64{4e9, 1200}, []int64{run.Bytes, run.Files})
	for name, in := range map[string]sittings.Typed{
		"a range backwards":    {Test: catalogue.ColdStart, Text: "40-30"},
		"an amount below zero": {Test: "t-copy-own", Text: "1:32", Bytes: -1},
		"files below zero":     {Test: "t-copy-own", Text: "1:32", Files: -1},
		"a size below zero":    {Test: "t-rate-read", Text: "260", ReadIn: &job.ReadIn{FileBytes: -1}},
		"a long name": {Test: "t-rate-read", Text: "260", ReadIn: &job.ReadIn{
			Program: strings.Repeat("x", 10_000)}},
	} {
		in.Sitting = "s1"
		_, err := b.Sittings.TypeIn(ctx, nil, id, in)
		assert.Equal(t, bench.Invalid, desktest.Refusal(t, err, bench.Invalid).Kind, name)
	}
}

// A first figure that no such drive has, or that can be read in two ways, is asked about; what is confirmed is kept.
func TestAFirstFigureThatCannotBe(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	id := desktest.Real(t, b, 1)
	for name, c := range map[string]struct {
		test, text string
		meant      float64
	}{
		"gigabytes for megabytes":   {catalogue.LongRead, "0.11", 110},
		"a comma, thousands or not": {catalogue.ScatteredRead, "1,950", 1950},
		"milliseconds for seconds":  {catalogue.ColdStart, "92400", 92.4},
	} {
		t.Run(name, func(t *testing.T) {
			in := sittings.Typed{Test: c.test, Sitting: "s1", Text: c.text}
			_, err := b.Sittings.TypeIn(t.Context(), nil, id, in)
			r := desktest.Refusal(t, err, bench.Doubtful)
			require.NotNil(t, r.Ask)
			assert.InDelta(t, c.meant, r.Ask.Value, 1e-9)
			in.Sure = true
			_, err = b.Sittings.TypeIn(t.Context(), nil, id, in)
			require.NoError(t, err)
		})
	}
}

func TestATableOfFigures(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Real(t, b, 1)
	const good = "setup;test;value;unit;at;note\nThen;Cold start to desktop;92,4;s;2026-11-03T09:40:00+01:00;by his " +
		"watch\nthen;t-start;1,52;min;;\nThen;Long read;498;MiB/s;;\n"
	preview, err := b.Sittings.PreviewTable(ctx, id, "x.csv", []byte(good))
	require.NoError(t, err)
	assert.Equal(t, 3, preview.Good)
	assert.Equal(t, "Cold start to desktop on Then: 92.4 s", preview.Rows[0].Becomes)
	assert.Equal(t, "Long read on Then: 522 MB/s", preview.Rows[2].Becomes)
	v, err := b.Jobs.View(ctx, id)
	require.NoError(t, err)
	assert.Empty(t, v.Job.Runs, "a preview takes nothing in")
	taken, err := b.Sittings.TakeTable(ctx, nil, id, "x.csv", []byte(good), false)
	require.NoError(t, err)
	assert.Equal(t, 3, taken.Taken)

	const mixed = "setup,test,value,unit\nThen,Cold start to desktop,91,s\nThen,Cold start to " +
		"desktop,1.5,s\nAttic,Cold start to desktop,91,s\nThen,Nap,91,s\nThen,Cold start to " +
		"desktop,fast,s\nThen,Cold start to desktop,91,furlongs\nThen,Cold start to desktop,-4,s\n"
	preview, err = b.Sittings.PreviewTable(ctx, id, "y.csv", []byte(mixed))
	require.NoError(t, err)
	assert.Equal(t, []int{2, 5, 1}, []int{preview.Good, preview.Bad, preview.Doubted})
	assert.Contains(t, preview.Rows[1].Doubt, "minutes taken for seconds")
	for i, says := range map[int]string{2: "no setup", 3: "no test", 4: "no number", 5: "furlongs", 6: "negative"} {
		assert.Contains(t, preview.Rows[i].Problem, says)
	}
	_, err = b.Sittings.TakeTable(ctx, nil, id, "y.csv", []byte(mixed), false)
	assert.Contains(t, desktest.Refusal(t, err, bench.Conflict).Message, "6 of 7 rows")
	taken, err = b.Sittings.TakeTable(ctx, nil, id, "y.csv", []byte(mixed), true)
	require.NoError(t, err)
	assert.Equal(t, 2, taken.Taken)
	_, err = b.Sittings.TakeTable(ctx, nil, id, "z.csv", []byte("setup,test,value,unit\nAttic,x,1,s\n"), true)
	desktest.Refusal(t, err, bench.Invalid)
	_, err = b.Sittings.PreviewTable(ctx, id, "w.csv", []byte("not a table"))
	assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Message, "w.csv is refused")
	v, err = b.Jobs.View(ctx, id)
	require.NoError(t, err)
	require.Len(t, v.Job.Runs, 5)
	assert.Equal(t, job.Typed, v.Job.Runs[0].Method)
	assert.Equal(t, "by his watch", v.Job.Runs[0].Note)
}

// The same table again adds nothing; a longer one adds what is new.
func TestATableTwice(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Real(t, b, 1)
	timed := "setup,test,value,unit,at\nthen,Cold start to desktop,90,s,2026-11-03T09:40:00+01:00\nthen,Cold start " +
		"to desktop,91,s,2026-11-03T09:50:00+01:00\n"
	bare := "setup,test,value,unit\nthen,Cold start to desktop,92,s\n"
	take := func(text string) *sittings.Table {
		t.Helper()
		table, err := b.Sittings.TakeTable(ctx, nil, id, "x.csv", []byte(text), false)
		require.NoError(t, err)
		return table
	}
	for _, tt := range []struct {
		name, text     string
		added, already int
	}{
		{"for the first time", timed, 2, 0},
		{"again", timed, 0, 2},
		{"in another time zone", strings.ReplaceAll(timed, "T09:40:00+01:00", "T08:40:00Z"), 0, 2},
		{"with a row more", timed + "then,Cold start to desktop,93,s,2026-11-03T10:00:00+01:00\n", 1, 2},
		{"another value at the same time", strings.ReplaceAll(timed, ",90,", ",95,"), 1, 1},
		{"without times", bare, 1, 0},
		{"the same bytes", bare, 0, 1},
		{"a value that is there, in other bytes", bare + "\n", 1, 0},
	} {
		table := take(tt.text)
		assert.Equal(t, []int{tt.added, tt.already}, []int{table.Added, table.Already}, tt.name)
	}
	preview, err := b.Sittings.PreviewTable(ctx, id, "x.csv", []byte(timed))
	require.NoError(t, err)
	assert.True(t, preview.Rows[0].Already)
	v, err := b.Jobs.View(ctx, id)
	require.NoError(t, err)
	assert.Len(t, v.Job.Runs, 6)
}
