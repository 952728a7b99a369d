package reporting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/measuring"
	"nowthen/bench/planning"
	"nowthen/bench/reporting"
	"nowthen/bench/transfer"
	"nowthen/bench/visit"
	"nowthen/core/drivetest"
	"nowthen/core/filetest"
	"nowthen/core/jobfile"
)

func TestLookingCloser(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil, visit.Intake{Customer: bench.Customer{Name: "Ottilie"}, Simulated: "laptop"})
	require.NoError(t, err)
	for _, id := range []string{"t-sustained", "t-keep-up", "t-copy-small", "t-read-folder", "t-response"} {
		v, err = b.Plans.AddTest(ctx, nil, v.ID, planning.NewTest{ID: id})
		require.NoError(t, err)
	}
	ch, err := b.Plans.ChangeTest(ctx, nil, v.ID, "t-keep-up",
		planning.TestChange{Streams: &drivetest.Streams{Count: 3, MBs: 40}})
	require.NoError(t, err)
	assert.Equal(t, 3, ch.Job.Test("t-keep-up").Params.Streams.Count)
	_, err = b.Plans.ChangeTest(ctx, nil, v.ID, "t-keep-up", planning.TestChange{Streams: &drivetest.Streams{Count: 3}})
	desktest.Refusal(t, err, bench.Invalid)
	_, err = b.Plans.ChangeTest(ctx, nil, v.ID, "t-response",
		planning.TestChange{Streams: &drivetest.Streams{Count: 3, MBs: 1}})
	desktest.Refusal(t, err, bench.Invalid)
	v, err = b.Sittings.Sit(ctx, nil, v.ID, "then", bench.Conditions{Power: "mains"})
	require.NoError(t, err)
	_, err = b.Rounds.Measure(ctx, nil, v.ID, measuring.MeasureRequest{Sitting: "s1", Runs: 1})
	require.NoError(t, err)
	m := desktest.Measured(t, b, v.ID)
	require.Equal(t, measuring.Done, m.State, "%v", m.Refusal)

	one := func(test string) reporting.CloserRun {
		c, err := b.Reports.Closer(ctx, v.ID, test)
		require.NoError(t, err)
		require.Equal(t, "then", c.Sides[0].Setup)
		require.Len(t, c.Sides[0].Runs, 1, test)
		return c.Sides[0].Runs[0]
	}
	keep := one("t-keep-up").KeepUp
	require.NotNil(t, keep)
	assert.Equal(t, 120.0, keep.NeedMBs)
	assert.Equal(t, drivetest.FallsBehind, keep.Verdict, "a worn disk takes no three streams of 40 MB/s")
	assert.Nil(t, one("t-sustained").Cliff, "a disk has no cliff")
	assert.NotNil(t, one("t-sustained").Series.TempC)
	files := one("t-copy-small")
	require.NotNil(t, files.FilesS)
	assert.InEpsilon(t, 3000/files.Value, *files.FilesS, 1e-9)
	assert.Len(t, files.Phases, 2)
	assert.Contains(t, files.Phases, filetest.PhaseCopy)
	assert.NotNil(t, one("t-read-folder").MBs)
	assert.NotNil(t, one("t-response").Latency.Spread)
	_, err = b.Reports.Closer(ctx, v.ID, "t-nothing")
	desktest.Refusal(t, err, bench.Missing)
}

func TestAFolderIsNamedBeforeItIsRead(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id, dir := desktest.Real(t, b, 0.3), desktest.Here(t)
	_, err := b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-read-folder"})
	require.NoError(t, err)
	_, err = b.Rounds.Measure(ctx, nil, id,
		measuring.MeasureRequest{Sitting: "s1", Dir: dir, Tests: []string{"t-read-folder"}})
	assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Fields, "folder")
	_, err = b.Rounds.Measure(ctx, nil, id,
		measuring.MeasureRequest{Sitting: "s1", Dir: dir, Folder: dir + "/gone", Tests: []string{"t-read-folder"}})
	require.NoError(t, err, "it is looked at when its turn comes")
	m := desktest.Measured(t, b, id)
	assert.Equal(t, measuring.Failed, m.State)
	assert.Contains(t, m.Refusal.Message, "no folder")
}

func TestOtherFilesAreComparedPerSecond(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil, visit.Intake{Customer: bench.Customer{Name: "Ottilie"}, Simulated: "games"})
	require.NoError(t, err)
	v, err = b.Plans.AddTest(ctx, nil, v.ID, planning.NewTest{ID: "t-read-folder"})
	require.NoError(t, err)
	for _, setup := range []string{"then", "now"} {
		v, err = b.Sittings.Sit(ctx, nil, v.ID, setup, bench.Conditions{Power: "mains"})
		require.NoError(t, err)
		_, err = b.Rounds.Measure(ctx, nil, v.ID,
			measuring.MeasureRequest{Sitting: v.Job.Sittings[len(v.Job.Sittings)-1].ID,
				Tests: []string{"t-read-folder"}})
		require.NoError(t, err)
		require.Equal(t, measuring.Done, desktest.Measured(t, b, v.ID).State)
	}
	row := func() reporting.Row {
		l, err := b.Reports.Compare(ctx, v.ID, "", "", "")
		require.NoError(t, err)
		for _, r := range l.Rows {
			if r.Test.ID == "t-read-folder" {
				return r
			}
		}
		t.Fatal("no row")
		return reporting.Row{}
	}
	assert.NotContains(t, row().Words.Then, "files/s", "the same set is compared as time")
	// Another shop's file of the same job, in which Now read another folder.
	_, file, err := b.Files.Export(ctx, v.ID)
	require.NoError(t, err)
	j, err := jobfile.Read("x", file)
	require.NoError(t, err)
	for i := range j.Runs {
		if j.Sitting(j.Runs[i].Sitting).Setup == "now" {
			j.Runs[i].ContentDigest = "another folder"
		}
	}
	file, err = jobfile.Write(j)
	require.NoError(t, err)
	v, err = b.Files.Import(ctx, nil, "x", file, transfer.AsCopy)
	require.NoError(t, err)
	assert.Regexp(t, `s \([0-9.,]+ files/s\)$`, row().Words.Then)
	assert.Regexp(t, `s \([0-9.,]+ files/s\)$`, row().Words.With)
}
