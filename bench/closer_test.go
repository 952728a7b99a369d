package bench

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/filetest"
	"nowthen/core/job"
)

func TestLookingCloser(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	v, err := b.Open(ctx, Intake{Customer: job.Customer{Name: "Ilse"}, Simulated: "laptop"})
	require.NoError(t, err)
	for _, id := range []string{"t-sustained", "t-keep-up", "t-copy-small", "t-read-folder", "t-response"} {
		v, err = b.AddTest(ctx, v.ID, job.Test{ID: id})
		require.NoError(t, err)
	}
	ch, err := b.ChangeTest(ctx, v.ID, "t-keep-up", TestChange{Streams: &drivetest.Streams{Count: 3, MBs: 40}})
	require.NoError(t, err)
	assert.Equal(t, 3, ch.Job.Test("t-keep-up").Params.Streams.Count)
	_, err = b.ChangeTest(ctx, v.ID, "t-keep-up", TestChange{Streams: &drivetest.Streams{Count: 3}})
	refusal(t, err, Invalid)
	_, err = b.ChangeTest(ctx, v.ID, "t-response", TestChange{Streams: &drivetest.Streams{Count: 3, MBs: 1}})
	refusal(t, err, Invalid)
	v, err = b.Sit(ctx, v.ID, "then", job.Conditions{Power: "mains"})
	require.NoError(t, err)
	_, err = b.Measure(ctx, v.ID, MeasureRequest{Sitting: "s1", Runs: 1})
	require.NoError(t, err)
	m := waitMeasured(t, b, v.ID)
	require.Equal(t, MeasuringDone, m.State, "%v", m.Refusal)

	one := func(test string) CloserRun {
		c, err := b.Closer(ctx, v.ID, test)
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
	_, err = b.Closer(ctx, v.ID, "t-nothing")
	refusal(t, err, Missing)
}

func TestAFolderIsNamedBeforeItIsRead(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id, dir := realJob(t, b, 0.3), here(t)
	_, err := b.AddTest(ctx, id, job.Test{ID: "t-read-folder"})
	require.NoError(t, err)
	_, err = b.Measure(ctx, id, MeasureRequest{Sitting: "s1", Dir: dir, Tests: []string{"t-read-folder"}})
	assert.Contains(t, refusal(t, err, Invalid).Fields, "folder")
	_, err = b.Measure(ctx, id, MeasureRequest{Sitting: "s1", Dir: dir, Folder: dir + "/gone", Tests: []string{"t-read-folder"}})
	require.NoError(t, err, "it is looked at when its turn comes")
	m := waitMeasured(t, b, id)
	assert.Equal(t, MeasuringFailed, m.State)
	assert.Contains(t, m.Refusal.Message, "no folder")
}

func TestOtherFilesAreComparedPerSecond(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	v, err := b.Open(ctx, Intake{Customer: job.Customer{Name: "Ilse"}, Simulated: "games"})
	require.NoError(t, err)
	v, err = b.AddTest(ctx, v.ID, job.Test{ID: "t-read-folder"})
	require.NoError(t, err)
	for _, setup := range []string{"then", "now"} {
		v, err = b.Sit(ctx, v.ID, setup, job.Conditions{Power: "mains"})
		require.NoError(t, err)
		_, err = b.Measure(ctx, v.ID, MeasureRequest{Sitting: v.Job.Sittings[len(v.Job.Sittings)-1].ID, Tests: []string{"t-read-folder"}})
		require.NoError(t, err)
		require.Equal(t, MeasuringDone, waitMeasured(t, b, v.ID).State)
	}
	row := func() Row {
		l, err := b.Compare(ctx, v.ID, "", "")
		require.NoError(t, err)
		for _, r := range l.Rows {
			if r.Test.ID == "t-read-folder" {
				return r
			}
		}
		t.Fatal("no row")
		return Row{}
	}
	assert.NotContains(t, row().Words.Then, "files/s", "the same set is compared as time")
	_, err = b.update(ctx, v.ID, func(j *job.Job) error {
		for i := range j.Runs {
			if j.Sitting(j.Runs[i].Sitting).Setup == "now" {
				j.Runs[i].ContentDigest = "another folder"
			}
		}
		return nil
	})
	require.NoError(t, err)
	assert.Regexp(t, `s \([0-9.]+ files/s\)$`, row().Words.Then)
	assert.Regexp(t, `s \([0-9.]+ files/s\)$`, row().Words.With)
}
