package round_test

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/drivetest"
	"nowthen/core/filetest"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/round"
	"nowthen/sim"
)

// automatic returns the catalogue's tests that need no person, by id.
func automatic() map[string]job.Test {
	tests := map[string]job.Test{}
	for _, e := range catalogue.All() {
		if e.Test.Automatic() {
			tests[e.Test.ID] = catalogue.Bounded(e.Test, 64<<20, 2)
		}
	}
	return tests
}

func TestEveryAutomaticTestRunsOnEveryDrive(t *testing.T) {
	tests := automatic()
	require.Greater(t, len(tests), 15)
	for _, name := range sim.Names() {
		d, err := sim.Open(name, 3)
		require.NoError(t, err)
		var list []job.Test
		for _, test := range tests {
			if name != "board-emmc" || test.Params == nil || !test.Params.Fresh { // which has no room for it
				if test.Params != nil && test.Params.Fresh {
					test = catalogue.Resized(test, 2<<30, 0)
				}
				list = append(list, test)
			}
		}
		r, err := round.Open(t.Context(), d, round.Options{Tests: list, Seed: 3, Folder: "x"})
		require.NoError(t, err)
		for i := range list {
			run, err := r.Run(t.Context(), &list[i], func(drivetest.Progress) {})
			require.NoError(t, err, "%s on %s", list[i].Name, name)
			assert.Positive(t, run.Value, list[i].Name)
			assert.False(t, math.IsInf(run.Value, 0), list[i].Name)
			assert.True(t, run.Simulated, list[i].Name)
			assert.NoError(t, job.CheckRun(&list[i], run), list[i].Name)
		}
		require.NoError(t, r.Close())
	}
}

// A whole default plan stays under twelve minutes on a disk that does 1 MB/s
// scattered and 60 MB/s long, laying out included.
func TestTheDefaultPlanIsBoundedOnAnOldDisk(t *testing.T) {
	for _, tt := range plan.Templates() {
		j := job.Job{Drives: []job.Drive{{ID: "d", Kind: job.HDD, Rated: &job.Rated{WriteMBs: 60}}},
			Setups: []job.Setup{{ID: "then", Role: job.Then, Drive: "d"}}}
		plan.Apply(&j, tt, 0, 0)
		itself := 0.0
		for i := range j.Tests {
			if test := &j.Tests[i]; test.Automatic() {
				itself += float64(plan.Wanted(test)) * round.Seconds(test)
			}
		}
		if span, _ := round.Span(j.Tests); !round.Gentle(j.Tests) {
			itself += float64(span) / 60e6
		}
		assert.Less(t, itself/60, 12.0, tt.Name)
	}
	// And so it does when it is done.
	d, err := sim.Open("worn-disk", 1)
	require.NoError(t, err)
	tests := catalogue.Standard(0, 0)[1:]
	r, err := round.Open(t.Context(), d, round.Options{Tests: tests, Seed: 1})
	require.NoError(t, err)
	for i := range tests {
		for range plan.Wanted(&tests[i]) {
			_, err := r.Run(t.Context(), &tests[i], func(drivetest.Progress) {})
			require.NoError(t, err)
		}
	}
	assert.Less(t, d.Now().Minutes(), 12.0)
	assert.Greater(t, d.Now().Seconds(), 20.0)
}

func TestReadingsBecomeRuns(t *testing.T) {
	tests := automatic()
	one := func(id string) (*job.Test, *job.Run) {
		d, err := sim.Open("fresh-ssd", 3)
		require.NoError(t, err)
		test := tests[id]
		r, err := round.Open(t.Context(), d, round.Options{Tests: []job.Test{test}, Seed: 1, Folder: "x"})
		require.NoError(t, err)
		defer r.Close()
		run, err := r.Run(t.Context(), &test, func(drivetest.Progress) {})
		require.NoError(t, err)
		return &test, run
	}
	_, response := one("t-response")
	require.NotNil(t, response.Latency)
	assert.Equal(t, response.Latency.MedianMS, response.Value)
	assert.True(t, response.Latency.P999MS > response.Latency.P99MS && response.Latency.P99MS > response.Latency.MedianMS)
	sum := int64(0)
	for _, n := range response.Latency.Spread.Counts {
		sum += n
	}
	assert.Equal(t, response.IOs, sum, "the distribution counts every request")
	assert.InDelta(t, math.Log10(response.Latency.MaxMS/response.Latency.Spread.FromMS)*10, len(response.Latency.Spread.Counts), 1)

	_, sustained := one("t-sustained")
	assert.NotNil(t, sustained.PeakTempC)
	cliff := job.CliffOf(sustained, 70)
	require.NotNil(t, cliff)
	assert.InEpsilon(t, 9e9, float64(cliff.AfterBytes), 0.02)
	assert.Equal(t, drivetest.CacheCause, cliff.Cause)

	test, keep := one("t-keep-up")
	assert.Equal(t, keep.Slowest, keep.Value)
	_, verdict := test.Params.Streams.KeepUp(keep.Value)
	assert.Equal(t, drivetest.KeepsUp, verdict)

	_, sweep := one("t-sweep-read")
	assert.Len(t, sweep.Curve, 13)
	assert.Nil(t, sweep.Latency)

	_, small := one("t-copy-small")
	assert.InDelta(t, small.Value, small.Phases[filetest.PhaseMake]+small.Phases[filetest.PhaseCopy], 1e-9)
	assert.Equal(t, int64(3000), small.Files)
	_, folder := one("t-read-folder")
	assert.Nil(t, folder.Phases)
	assert.NotEmpty(t, folder.ContentDigest)
	_, work := one("t-processor")
	assert.InDelta(t, work.Value, work.Phases[job.PhaseOneCore]+work.Phases[job.PhaseAllCores], 1e-9)
}

func TestADriveMustNotChangeTheControl(t *testing.T) {
	test := automatic()["t-processor"]
	value := func(name string) float64 {
		d, err := sim.Open(name, 8)
		require.NoError(t, err)
		r, err := round.Open(t.Context(), d, round.Options{Tests: []job.Test{test}})
		require.NoError(t, err)
		run, err := r.Run(t.Context(), &test, func(drivetest.Progress) {})
		require.NoError(t, err)
		return run.Value
	}
	assert.InEpsilon(t, value("worn-disk"), value("fresh-ssd"), 0.03)
}

func TestCheckAndGentle(t *testing.T) {
	tests := automatic()
	pick := func(ids ...string) (list []job.Test) {
		for _, id := range ids {
			list = append(list, tests[id])
		}
		return list
	}
	assert.ErrorIs(t, round.Check(pick("t-read-folder"), ""), round.ErrNoFolder)
	assert.NoError(t, round.Check(pick("t-read-folder"), "/games"))
	assert.ErrorContains(t, round.Check([]job.Test{{Name: "Start", Kind: job.Timed}}, ""), "needs a person")
	odd := tests[catalogue.LongRead]
	odd.Unit = "furlongs"
	assert.ErrorContains(t, round.Check([]job.Test{odd}, ""), "furlongs")
	assert.True(t, round.Gentle(pick("t-read-folder", "t-long-read-existing", "t-scattered-existing", "t-processor")))
	assert.False(t, round.Gentle(pick(catalogue.LongRead)), "a test file is written for it")
	assert.False(t, round.Gentle(pick("t-copy-small")))
	full, err := sim.Open("board-emmc", 1)
	require.NoError(t, err)
	_, err = round.Open(t.Context(), full, round.Options{Tests: pick("t-sustained")})
	assert.ErrorIs(t, err, drivetest.ErrNoRoom)
}

// The reserve holds for the shared test file and the files of a file test together.
func TestRoomForATestFileAndFilesTogether(t *testing.T) {
	tests := automatic()
	drive := catalogue.Resized(tests["t-long-read"], 1<<30, 0)
	var files job.Test
	for _, test := range tests {
		if test.FileWork != nil && test.FileWork.Writes() > 0 {
			files = test
		}
	}
	require.NotNil(t, files.FileWork)
	span, extra := round.Span([]job.Test{drive, files})
	assert.Equal(t, int64(1<<30), span)
	assert.Equal(t, files.FileWork.Writes(), extra)

	room := drivetest.Facts{TotalBytes: 1 << 40, FreeBytes: 2e9 + span + extra - 1}
	_, err := round.Open(t.Context(), narrow{facts: room}, round.Options{Tests: []job.Test{drive, files}})
	require.ErrorIs(t, err, drivetest.ErrNoRoom, "one byte too few")
}

// narrow is a place with little room on which nothing is ever made.
type narrow struct {
	round.Place
	facts drivetest.Facts
}

func (n narrow) Facts() drivetest.Facts { return n.facts }
