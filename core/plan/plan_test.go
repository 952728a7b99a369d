package plan

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

// visit is a job as it is opened, without runs.
func visit() *job.Job {
	return &job.Job{
		Computers: []job.Computer{{ID: "c"}},
		Drives: []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Kind: job.HDD}},
			{ID: "d2", DriveLabel: job.DriveLabel{Kind: job.SataSSD}}},
		Tests: catalogue.Standard(0, 0),
		Setups: []job.Setup{{ID: "then", Role: job.Then, Computer: "c", Drive: "d1"},
			{ID: "now", Role: job.Now, Computer: "c", Drive: "d2", Replaces: "d1"}},
		Sittings: []job.Sitting{{ID: "s1", Setup: "then",
			Conditions: job.Conditions{Power: "mains", FillPct: new(float64)}},
			{ID: "s2", Setup: "now", Conditions: job.Conditions{Power: "mains"}}},
	}
}

// add adds n runs of a test in a sitting.
func add(j *job.Job, test, sitting string, n int) {
	for range n {
		j.Runs = append(j.Runs, job.Run{ID: fmt.Sprint(len(j.Runs)), Test: test, Sitting: sitting, Value: 5})
	}
}

func addAll(j *job.Job, sitting string) {
	for _, t := range j.Tests {
		add(j, t.ID, sitting, catalogue.WantedRuns)
	}
}

func TestStandardIsAPlanThatCanBeRun(t *testing.T) {
	for _, test := range catalogue.Standard(64<<20, 0.5) {
		assert.Equal(t, catalogue.WantedRuns, Wanted(&test))
		if test.Kind == job.OnDrive {
			assert.NoError(t, test.Params.Check(), test.Name)
			assert.Equal(t, int64(64<<20), test.Params.SpanBytes)
			assert.Equal(t, 0.5, test.Params.Seconds())
		}
	}
}

func TestTheWayOfAJob(t *testing.T) {
	j := visit()
	steps := []struct {
		name   string
		before func()
		here   string
		do     string
		words  string
	}{
		{"opened", func() {}, AtThen, "time", "Time 3 runs (Then): cold start to desktop."},
		{"timed twice", func() { add(j, catalogue.ColdStart, "s1", 2) }, AtThen, "time",
			"Time one run (Then): cold start to desktop."},
		{"timed", func() { add(j, catalogue.ColdStart, "s1", 1) }, AtThen, "measure",
			"Measure the drive (Then): long write, long read, scattered small reads."},
		{"measured", func() {
			add(j, catalogue.LongWrite, "s1", 3)
			add(j, catalogue.LongRead, "s1", 3)
			add(j, catalogue.ScatteredRead, "s1", 3)
		}, AtOut, "take-out", "All measured. The old drive can come out."},
		{"out", func() { j.Head.Gates = append(j.Head.Gates, job.Gate{Name: job.GateOldDriveOut}) }, AtNow, "time",
			"Time 3 runs (Now): cold start to desktop."},
		{"both measured", func() { addAll(j, "s2") }, AtCompare, "report",
			"Check the result and issue the report."},
		{"reported", func() { j.Head.Gates = append(j.Head.Gates, job.Gate{Name: job.GateReport}) }, AtCompare,
			"hand-back", "The report is issued. Hand the computer back."},
		{"back", func() { j.Head.Gates = append(j.Head.Gates, job.Gate{Name: job.GateHandedBack}) }, "", "nothing",
			"Finished."},
	}
	for _, s := range steps {
		s.before()
		next := Of(j).Next()
		assert.Equal(t, s.here, Of(j).Here(), s.name)
		assert.Equal(t, s.do, next.Do, s.name)
		assert.Equal(t, s.words, next.Words, s.name)
	}
	assert.Equal(t, "fit", Of(&job.Job{}).Next().Do)
}

func TestTrackStandsAtOneStation(t *testing.T) {
	j := visit()
	states := func() (s string) {
		for _, step := range Of(j).Track() {
			s += step.State[:1]
		}
		return s
	}
	assert.Equal(t, "dhaaaaa", states())
	addAll(j, "s1")
	assert.Equal(t, "ddhaaaa", states())
	j.Head.Gates = []job.Gate{{Name: job.GateOldDriveOut}, {Name: job.GateHandedBack}}
	assert.Equal(t, "ddddddd", states())
}

func TestBeforeOldDriveOut(t *testing.T) {
	what := func(j *job.Job) (all []string) {
		for _, l := range Of(j).BeforeOldDriveOut() {
			all = append(all, l.What)
		}
		return all
	}
	j := visit()
	assert.Len(t, what(j), 4, "nothing is measured")
	add(j, catalogue.ColdStart, "s1", 1)
	assert.Contains(t, what(j), "Cold start to desktop has only one run on the old drive")
	addAll(j, "s1")
	assert.Empty(t, what(j))
	j.Sittings[0].Conditions.Power = ""
	assert.Contains(t, what(j), "mains or battery is not noted")
	j.Sittings[0].Conditions.Power = "battery"
	assert.Contains(t, what(j), "the drive was measured on battery (Long write, Long read, Scattered small reads)")
	j.Sittings[0].Conditions = job.Conditions{Power: "mains"}
	assert.Equal(t, []string{"the space used on the drive is not noted"}, what(j))
	j.Setups[0].UsedBytes = 1e9
	assert.Empty(t, what(j))
	j.Plan.Steps = []job.Step{{ID: job.BackupStep}}
	assert.Equal(t, []string{"the backup is not ticked off"}, what(j))
	j.Plan.Steps[0].Done = &job.Tick{}
	assert.Empty(t, what(j))
	j.Runs[1].SetAside = &job.SetAside{Reason: "x"}
	assert.NotContains(t, what(j), "Cold start to desktop was not measured on the old drive")
	assert.Empty(t, Of(&job.Job{}).BeforeOldDriveOut())
}

// Whatever order runs and set-asides come in, coverage agrees with the runs.
func TestCoverageAgreesWithTheRuns(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	for range 200 {
		j := visit()
		for range rng.IntN(40) {
			add(j, j.Tests[rng.IntN(len(j.Tests))].ID, j.Sittings[rng.IntN(2)].ID, 1)
			if i := rng.IntN(len(j.Runs)); rng.IntN(3) == 0 {
				j.Runs[i].SetAside = &job.SetAside{Reason: "x"}
			} else if rng.IntN(3) == 0 {
				j.Runs[i].SetAside = nil
			}
		}
		kept, aside := 0, 0
		for _, setup := range []string{"then", "now"} {
			for _, c := range Of(j).Coverage(setup) {
				require.Equal(t, len(j.KeptRuns(c.Test, setup)), c.Kept)
				require.Equal(t, max(0, c.Wanted-c.Kept), c.Missing())
				kept += c.Kept
				aside += c.Aside
			}
		}
		require.Equal(t, len(j.Runs), kept+aside)
	}
}

// A question asked on battery is in nobody's way once the drive was measured on mains; and how the new drive
// joins has to be noted before the old one comes out.
func TestTheCheckpointAsksWhatIsNotNoted(t *testing.T) {
	j := visit()
	addAll(j, "s1")
	words := func() (list []string) {
		for _, l := range Of(j).BeforeOldDriveOut() {
			list = append(list, l.What)
		}
		return list
	}
	assert.Empty(t, words())
	j.Setups[1].Replaces = ""
	assert.Equal(t, []string{"whether the new drive replaces the old one is not noted"}, words())
	for _, how := range job.Relations {
		j.Setups[1].Relation = how
		assert.Empty(t, words(), how)
	}
	j.Sittings = append(j.Sittings, job.Sitting{ID: "q", Setup: "then", Purpose: job.ForQuestion,
		Conditions: job.Conditions{Power: job.Battery}})
	runs := j.Runs
	for _, r := range runs {
		r.ID, r.Sitting = r.ID+"q", "q"
		j.Runs = append(j.Runs, r)
	}
	assert.Empty(t, words(), "it was measured on mains as well")
	before := Of(j).Coverage("then")
	j.Runs = runs
	assert.Equal(t, Of(j).Coverage("then"), before, "runs of a question stand for no test")
}
