package plan

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"nowthen/core/job"
)

// several is a made-up comparison of three drives by one test, measured once on those given.
func several(measured ...string) *job.Job {
	j := &job.Job{Head: job.Head{Kind: job.KindComparison}, Computers: []job.Computer{{ID: "c1"}},
		Tests: []job.Test{{ID: "t", Kind: job.Timed, Name: "Start", Unit: "s", Better: job.Lower, Wanted: 1}}}
	for _, id := range []string{"a", "b", "c"} {
		j.Drives = append(j.Drives, job.Drive{ID: id, DriveLabel: job.DriveLabel{Kind: job.NVMe, CapacityBytes: 1e12}})
		j.Setups = append(j.Setups, job.Setup{ID: id, Role: job.Trial, Name: "Drive " + id, Computer: "c1", Drive: id})
	}
	for _, id := range measured {
		j.Sittings = append(j.Sittings, job.Sitting{ID: "s" + id, Setup: id})
		j.Runs = append(j.Runs, job.Run{ID: "r" + id, Test: "t", Sitting: "s" + id, Value: 20})
	}
	return j
}

// visited is a made-up check-up by one test, measured in so many sessions a month apart; the last one has no run where
// it was only begun.
func visited(sessions int, begun bool) *job.Job {
	j := several()
	j.Head.Kind = job.KindCheckUp
	j.Setups = []job.Setup{{ID: "now", Role: job.Now, Computer: "c1", Drive: "a"}}
	for i := range sessions {
		id := string(rune('1' + i))
		j.Sittings = append(j.Sittings, job.Sitting{ID: "s" + id, Setup: "now",
			Started: time.Date(2031, time.Month(i+1), 1, 9, 0, 0, 0, time.UTC)})
		if !begun || i < sessions-1 {
			j.Runs = append(j.Runs, job.Run{ID: "r" + id, Test: "t", Sitting: "s" + id, Value: 20})
		}
	}
	return j
}

func TestWaysOfComparisonsAndCheckUps(t *testing.T) {
	with := func(j *job.Job, change func(j *job.Job)) *job.Job { change(j); return j }
	gate := func(name string) func(j *job.Job) {
		return func(j *job.Job) { j.Head.Gates = append(j.Head.Gates, job.Gate{Name: job.GateName(name)}) }
	}
	for name, c := range map[string]struct {
		job              *job.Job
		here, page, next string
		again            int
	}{
		"a comparison begins":     {several(), "a", "a", "(Drive a): start", 3},
		"its second drive":        {several("a"), "b", "b", "(Drive b): start", 2},
		"all drives are measured": {several("a", "b", "c"), AtCompare, PageCompare, "Check the result", 0},
		"measuring was closed before": {with(several("a"), gate(string(job.GateMeasured))), AtCompare, PageCompare,
			"Check the result", 2},
		"its report is issued": {with(several("a", "b", "c"), gate(string(job.GateReport))), AtCompare, PageReport,
			"The report", 0},
		"it went back": {with(several("a", "b", "c"), gate(string(job.GateHandedBack))), "", PageReport,
			"Finished.", 0},
		"one drive is no comparison": {with(several("a"), func(j *job.Job) { j.Setups = j.Setups[:1] }), AtIntake,
			PageIntake, "Enter the next drive", 1},
		"a check-up begins":         {visited(0, false), AtNow, PageNow, "(Now): start", 1},
		"its first session":         {visited(1, false), AtNow, PageNow, "This session is measured.", 0},
		"its second session begins": {visited(2, true), AtNow, PageNow, "(Now): start", 1},
		"its second session":        {visited(2, false), AtCompare, PageCompare, "Check the result", 0},
		"the first session, and closed": {with(visited(1, false), gate(string(job.GateMeasured))), AtCompare,
			PageCompare,
			"Check the result", 0},
		"against an earlier job, begins": {with(visited(0, false), earlier), AtNow, PageNow, "(Now): start", 1},
		"against an earlier job, measured": {with(visited(1, false), earlier), AtCompare, PageCompare,
			"Check the result", 0},
	} {
		t.Run(name, func(t *testing.T) {
			st := Of(c.job)
			assert.Equal(t, c.here, st.Here())
			assert.Equal(t, c.page, st.Page())
			assert.Contains(t, st.Next().Words, c.next)
			assert.Len(t, st.BeforeMeasuredAgain(), c.again)
			assert.Empty(t, st.BeforeOldDriveOut(), "no drive is lost to it")
			var here []string
			for _, s := range st.Track() {
				if s.State == "here" {
					here = append(here, s.Name)
				}
			}
			if c.here == "" {
				assert.Empty(t, here)
			} else {
				assert.Equal(t, []string{c.here}, here, "the track shows the one place")
			}
		})
	}
}

// earlier gives a check-up an earlier job's drive to compare with.
func earlier(j *job.Job) {
	j.Setups = append(j.Setups, job.Setup{ID: "then", Role: job.Then, Computer: "c1", Drive: "a"})
	j.Sittings = append(j.Sittings, job.Sitting{ID: "s0", Setup: "then", Job: "2031-0001"})
	j.Runs = append(j.Runs, job.Run{ID: "r0", Test: "t", Sitting: "s0", Value: 20})
}
