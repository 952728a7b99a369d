// Package plan says what is to be measured in a job, what of it is done, and
// what comes next: the catalogue and the templates, coverage, the budget of
// time and writing, the gates and the track.
//
// It is pure and knows nothing of screens, HTTP, SQL or files.
package plan

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/round"
)

// Wanted is the number of kept runs that a test is meant to have on a setup.
func Wanted(t *job.Test) int {
	switch {
	case t.Retired:
		return 0
	case t.Wanted > 0:
		return t.Wanted
	}
	return catalogue.WantedRuns
}

// Cover is how far one test has come on one setup.
type Cover struct {
	Test   string `json:"test"`
	Setup  string `json:"setup"`
	Kept   int    `json:"kept"`
	Aside  int    `json:"aside"`
	Wanted int    `json:"wanted"`
	// Enough: the interval is narrow enough to decide.
	Enough bool `json:"enough"`
	// Cannot says why the test cannot be done on this setup, or "".
	Cannot string `json:"cannot"`
	// Automatic: the program runs it by itself. One run then takes at most about
	// RunS seconds and writes at most RunWrites bytes beyond the test file.
	Automatic bool    `json:"automatic"`
	RunS      float64 `json:"run_s"`
	RunWrites int64   `json:"run_writes"`
}

// Missing is the number of runs still wanted.
func (c Cover) Missing() int {
	if c.Cannot != "" {
		return 0
	}
	return max(0, c.Wanted-c.Kept)
}

// narrow is the relative half-width of the 95 % interval of a side's centre
// from which on further runs would hardly change a verdict.
const narrow = 0.05

// Coverage returns how far every test has come on a setup.
func Coverage(j *job.Job, setup string) []Cover {
	covers := make([]Cover, 0, len(j.Tests))
	rate := 0.0
	if s := j.Setup(setup); s != nil {
		rate = writeRate(j.Drive(s.Drive))
	}
	for i := range j.Tests {
		t := &j.Tests[i]
		c := Cover{Test: t.ID, Setup: setup, Wanted: Wanted(t), Cannot: j.Excused(t.ID, setup), Automatic: t.Automatic()}
		if c.Automatic {
			c.RunS, c.RunWrites = round.Seconds(t), round.Writes(t, rate)
		}
		for _, r := range j.RunsOf(t.ID, setup) {
			if r.Kept() {
				c.Kept++
			} else {
				c.Aside++
			}
		}
		if c.Kept >= 2 {
			side := compare.NewSide(t, j.KeptRuns(t.ID, setup))
			h := side.HalfWidth()
			c.Enough = !math.IsNaN(h) && h <= narrow
		}
		covers = append(covers, c)
	}
	return covers
}

// done tells whether every test of a setup has the runs it wants, or an excuse.
func done(covers []Cover) bool {
	for _, c := range covers {
		if c.Missing() > 0 {
			return false
		}
	}
	return len(covers) > 0
}

// Lost is something that is missing at a gate.
type Lost struct {
	Test string `json:"test"` // "" where it is not about a test
	What string `json:"what"`
}

// missingRuns lists the tests of a setup without runs, or with a single one.
func missingRuns(j *job.Job, setup *job.Setup, where string) []Lost {
	lost := []Lost{}
	for _, c := range Coverage(j, setup.ID) {
		name := j.Test(c.Test).Name
		switch {
		case c.Wanted == 0 || c.Cannot != "":
		case c.Kept == 0:
			lost = append(lost, Lost{c.Test, name + " was not measured on the " + where})
		case c.Kept == 1 && c.Wanted > 1:
			lost = append(lost, Lost{c.Test, name + " has only one run on the " + where})
		}
	}
	return lost
}

// BeforeOldDriveOut lists what would be lost for good if the old drive came
// out now.
func BeforeOldDriveOut(j *job.Job) []Lost {
	then := j.SetupAs(job.Then)
	if then == nil {
		return []Lost{}
	}
	lost := missingRuns(j, then, "old drive")
	used := then.UsedBytes > 0
	unknown, battery := false, []string{}
	for _, s := range j.SittingsOn(then.ID) {
		used = used || s.Conditions.FillPct != nil
		unknown = unknown || s.Conditions.Power == ""
		if s.Conditions.Power != "battery" {
			continue
		}
		for _, r := range j.Runs {
			if t := j.Test(r.Test); r.Sitting == s.ID && r.Kept() && t.Kind == job.OnDrive && !slices.Contains(battery, t.Name) {
				battery = append(battery, t.Name)
			}
		}
	}
	if unknown {
		lost = append(lost, Lost{"", "it is not noted whether the computer ran on mains or battery"})
	}
	if len(battery) > 0 {
		lost = append(lost, Lost{"", "the drive was measured on battery (" + strings.Join(battery, ", ") + ")"})
	}
	if b := j.Step(job.BackupStep); b != nil && b.Done == nil {
		lost = append(lost, Lost{"", "no backup is ticked"})
	}
	if !used {
		lost = append(lost, Lost{"", "it is not noted how much of the drive is in use"})
	}
	return lost
}

// BeforeMeasuredAgain lists what is missing on the new drive.
func BeforeMeasuredAgain(j *job.Job) []Lost {
	now := j.SetupAs(job.Now)
	if now == nil {
		return []Lost{{"", "there is no new drive in this job yet"}}
	}
	return missingRuns(j, now, "new drive")
}

// BeforeHandedBack lists what is missing before the computer goes back.
func BeforeHandedBack(j *job.Job) []Lost {
	lost := []Lost{}
	if j.Gate(job.GateReport) == nil {
		lost = append(lost, Lost{"", "no report is issued"})
	}
	return lost
}

// Steps of a job's track.
const (
	StepIntake   = "intake"
	StepThen     = "then"
	StepOut      = job.GateOldDriveOut
	StepNow      = "now"
	StepMeasured = job.GateMeasured
	StepCompare  = "compare"
	StepBack     = job.GateHandedBack
)

// Step is one station of a job's track.
type Step struct {
	Name  string `json:"name"`
	State string `json:"state"` // done, here, ahead
	Gate  bool   `json:"gate"`
}

// Track returns the stations of a job and which of them it stands at.
func Track(j *job.Job) []Step {
	here := Here(j)
	names := []string{StepIntake, StepThen, StepOut, StepNow, StepMeasured, StepCompare, StepBack}
	steps := make([]Step, len(names))
	state := "done"
	for i, n := range names {
		s := state
		if n == here {
			s, state = "here", "ahead"
		}
		steps[i] = Step{Name: n, State: s, Gate: n == StepOut || n == StepMeasured || n == StepBack}
	}
	return steps
}

// Here returns the station a job stands at: "" when it is finished. The gate
// "measured again" is passed by measuring, or by saying why not.
func Here(j *job.Job) string {
	then, now := j.SetupAs(job.Then), j.SetupAs(job.Now)
	switch {
	case j.Gate(job.GateHandedBack) != nil:
		return ""
	case then == nil:
		return StepIntake
	case j.Gate(job.GateOldDriveOut) == nil && !done(Coverage(j, then.ID)):
		return StepThen
	case j.Gate(job.GateOldDriveOut) == nil:
		return StepOut
	case j.Gate(job.GateMeasured) != nil:
		return StepCompare
	case now == nil || !done(Coverage(j, now.ID)):
		return StepNow
	}
	return StepCompare
}

// LowerFirst writes a test's name as it stands within a sentence.
func LowerFirst(s string) string {
	if s == "" {
		return s
	}
	return strings.ToLower(s[:1]) + s[1:]
}

func times(n int) string {
	if n == 1 {
		return "once"
	}
	return fmt.Sprintf("%d times", n)
}
