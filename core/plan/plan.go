// Package plan says what is to be measured in a job, what of it is done, and
// what comes next: the standard tests, coverage, the gates and the track.
//
// It is pure and knows nothing of screens, HTTP, SQL or files.
package plan

import (
	"fmt"
	"strings"

	"nowthen/core/drivetest"
	"nowthen/core/job"
)

// Ids of the standard tests.
const (
	ColdStart     = "t-start"
	LongWrite     = "t-long-write"
	LongRead      = "t-long-read"
	ScatteredRead = "t-scattered"
)

// DefaultSpan is the size of the test file where the technician names none.
const DefaultSpan = 1 << 30

// WantedRuns is how often a test is run where its plan says nothing.
const WantedRuns = 3

// Standard returns the tests of a usual visit, with drive tests over a file of
// span bytes and of seconds each; zero means the default.
func Standard(span int64, seconds float64) []job.Test {
	if span == 0 {
		span = DefaultSpan
	}
	no := false
	drive := func(id, what, name, unit string, w drivetest.Workload) job.Test {
		w.MaxSeconds = seconds
		if seconds == 0 {
			w.MaxSeconds = drivetest.DefaultSeconds
		}
		return job.Test{ID: id, Kind: job.OnDrive, What: what, Name: name, Unit: unit, Better: job.Higher, Wanted: WantedRuns, Params: &w}
	}
	return []job.Test{
		{ID: ColdStart, Kind: job.Timed, What: "cold-start", Name: "Cold start to desktop", Unit: "s", Better: job.Lower,
			PerWeek: 7, Wanted: WantedRuns, Warmth: "cold", StartKind: "cold",
			Phases: []job.Phase{
				{ID: "login", Name: "to the sign-in"},
				{ID: "typing", Name: "password", Counts: &no},
				{ID: "desktop", Name: "to a usable desktop"},
			}},
		drive(LongWrite, "long-write", "Long write", "MB/s", drivetest.LongWrite(span)),
		drive(LongRead, "long-read", "Long read", "MB/s", drivetest.LongRead(span)),
		drive(ScatteredRead, "scattered-read", "Scattered small reads", "IOPS", drivetest.ScatteredRead(span)),
	}
}

// Wanted is the number of kept runs that a test is meant to have on a setup.
func Wanted(t *job.Test) int {
	if t.Wanted > 0 {
		return t.Wanted
	}
	return WantedRuns
}

// Cover is how far one test has come on one setup.
type Cover struct {
	Test   string `json:"test"`
	Setup  string `json:"setup"`
	Kept   int    `json:"kept"`
	Aside  int    `json:"aside"`
	Wanted int    `json:"wanted"`
}

// Missing is the number of runs still wanted.
func (c Cover) Missing() int { return max(0, c.Wanted-c.Kept) }

// Coverage returns how far every test has come on a setup.
func Coverage(j *job.Job, setup string) []Cover {
	covers := make([]Cover, 0, len(j.Tests))
	for i := range j.Tests {
		t := &j.Tests[i]
		c := Cover{Test: t.ID, Setup: setup, Wanted: Wanted(t)}
		for _, r := range j.RunsOf(t.ID, setup) {
			if r.Kept() {
				c.Kept++
			} else {
				c.Aside++
			}
		}
		covers = append(covers, c)
	}
	return covers
}

// done tells whether every test of a setup has the runs it wants.
func done(covers []Cover) bool {
	for _, c := range covers {
		if c.Missing() > 0 {
			return false
		}
	}
	return len(covers) > 0
}

// Lost is something that can never be made up once the old drive is out.
type Lost struct {
	Test string `json:"test"` // "" where it is not about a test
	What string `json:"what"`
}

// BeforeOldDriveOut lists what would be lost for good if the old drive came
// out now.
func BeforeOldDriveOut(j *job.Job) []Lost {
	lost := []Lost{}
	then := j.SetupAs(job.Then)
	if then == nil {
		return lost
	}
	for _, c := range Coverage(j, then.ID) {
		name := j.Test(c.Test).Name
		switch {
		case c.Kept == 0:
			lost = append(lost, Lost{c.Test, name + " was not measured on the old drive"})
		case c.Kept == 1 && c.Wanted > 1:
			lost = append(lost, Lost{c.Test, name + " has only one run on the old drive"})
		}
	}
	for _, s := range j.SittingsOn(then.ID) {
		if s.Conditions.Power == "" {
			lost = append(lost, Lost{"", "it is not noted whether the computer ran on mains or battery"})
			break
		}
	}
	return lost
}

// Steps of a job's track.
const (
	StepIntake  = "intake"
	StepThen    = "then"
	StepOut     = job.GateOldDriveOut
	StepNow     = "now"
	StepCompare = "compare"
	StepBack    = job.GateHandedBack
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
	names := []string{StepIntake, StepThen, StepOut, StepNow, StepCompare, StepBack}
	steps := make([]Step, len(names))
	state := "done"
	for i, n := range names {
		s := state
		if n == here {
			s, state = "here", "ahead"
		}
		steps[i] = Step{Name: n, State: s, Gate: n == StepOut || n == StepBack}
	}
	return steps
}

// Here returns the station a job stands at: "" when it is finished.
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
	case now == nil || !done(Coverage(j, now.ID)):
		return StepNow
	}
	return StepCompare
}

// Next is the one most useful thing to do in a job now.
type Next struct {
	Do      string  `json:"do"`      // measure, time, take-out, fit, report, hand-back, nothing
	Words   string  `json:"words"`   // for the technician
	Test    string  `json:"test"`    // the test to run, or ""
	Setup   string  `json:"setup"`   // the setup to run it on, or ""
	Minutes float64 `json:"minutes"` // an estimate
	Hands   bool    `json:"hands"`   // needs a person all the while
}

// NextStep returns the one most useful thing to do in a job now.
func NextStep(j *job.Job) Next {
	switch Here(j) {
	case "":
		return Next{Do: "nothing", Words: "Finished."}
	case StepIntake:
		return Next{Do: "fit", Words: "Say which drive is in it.", Minutes: 1, Hands: true}
	case StepThen:
		return nextTest(j, j.SetupAs(job.Then), "Then")
	case StepOut:
		return Next{Do: "take-out", Words: "All measured. The old drive can come out.", Minutes: 20, Hands: true}
	case StepNow:
		now := j.SetupAs(job.Now)
		if now == nil {
			return Next{Do: "fit", Words: "Say which drive goes in.", Minutes: 1, Hands: true}
		}
		return nextTest(j, now, "Now")
	}
	if j.Gate(job.GateReport) != nil {
		return Next{Do: "hand-back", Words: "The report is issued. Hand the computer back.", Minutes: 5, Hands: true}
	}
	return Next{Do: "report", Words: "Both sides are measured. Read the ledger, give the report.", Minutes: 3, Hands: true}
}

// nextTest picks the first test that lacks runs; starts first, while the
// computer is cold, then the drive tests, all at once.
func nextTest(j *job.Job, s *job.Setup, side string) Next {
	var driveTests []string
	minutes := 0.0
	for _, c := range Coverage(j, s.ID) {
		t := j.Test(c.Test)
		switch {
		case c.Missing() == 0:
		case t.Kind == job.Timed:
			return Next{Do: "time", Test: t.ID, Setup: s.ID, Hands: true, Minutes: 3 * float64(c.Missing()),
				Words: fmt.Sprintf("%s: %s, %s.", side, LowerFirst(t.Name), times(c.Missing()))}
		case t.Kind == job.OnDrive:
			driveTests = append(driveTests, LowerFirst(t.Name))
			minutes += Minutes(t, c.Missing())
		}
	}
	if len(driveTests) == 0 {
		return Next{Do: "measure", Setup: s.ID, Words: side + ": tests are missing.", Hands: true}
	}
	return Next{Do: "measure", Setup: s.ID, Minutes: minutes + 0.5,
		Words: fmt.Sprintf("%s: measure the drive (%s).", side, strings.Join(driveTests, ", "))}
}

// Minutes is about how long runs of a drive test wait.
func Minutes(t *job.Test, runs int) float64 {
	if t.Params == nil {
		return 0
	}
	return float64(runs) * t.Params.Seconds() / 60
}

func times(n int) string {
	if n == 1 {
		return "once"
	}
	return fmt.Sprintf("%d times", n)
}

// LowerFirst writes a test's name as it stands within a sentence.
func LowerFirst(s string) string {
	if s == "" {
		return s
	}
	return strings.ToLower(s[:1]) + s[1:]
}
