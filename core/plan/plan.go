// Package plan derives what a job has to measure, what is done and what comes next: the
// catalogue and the templates, coverage, the budget of time and writing, the gates and the
// track.
//
// It is pure and knows nothing of screens, HTTP, SQL or files.
package plan

import (
	"maps"
	"slices"
	"strings"
	"time"

	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/round"
	"nowthen/core/side"
	"nowthen/core/words"
)

// Standing is a job's progress. The job must not change while it is used, by one goroutine.
type Standing struct {
	*job.Job
	counts job.Counts
	index  *job.Index // nil where the runs themselves were not loaded
	covers map[string][]Cover
	widths map[job.Side]width
	waits  map[string]wait // by test
}

// width is the half-width of the interval of a side of so many kept runs.
type width struct {
	kept int
	half float64
}

// wait is the middle of so many kept runs of a test over all setups.
type wait struct {
	kept   int
	middle float64
}

// Of returns how far a job has come.
func Of(j *job.Job) *Standing { return OfIndexed(j.Indexed()) }

// OfIndexed returns how far a job has come whose index is there already.
func OfIndexed(x *job.Index) *Standing {
	return &Standing{Job: x.Job, counts: x.Counts(), index: x, covers: map[string][]Cover{},
		widths: map[job.Side]width{}, waits: map[string]wait{}}
}

// Since reuses the results of an earlier standing of the job, if runs were only added since.
func (st *Standing) Since(before *Standing) *Standing {
	if before != nil && before.index != nil && job.Continues(before.Runs, st.Runs) {
		st.widths, st.waits = maps.Clone(before.widths), maps.Clone(before.waits)
	}
	return st
}

// halfWidth is that of the interval of a side's centre.
func (st *Standing) halfWidth(t *job.Test, setup string, kept int) float64 {
	key := job.Side{Test: t.ID, Setup: setup}
	if w, ok := st.widths[key]; ok && w.kept == kept {
		return w.half
	}
	h := side.Of(st.index, t, setup).HalfWidth()
	st.widths[key] = width{kept, h}
	return h
}

// Counted returns the progress of a job whose runs were counted but not loaded. Its coverage doesn't say what
// is enough.
func Counted(j *job.Job, counts job.Counts) *Standing {
	return &Standing{Job: j, counts: counts, covers: map[string][]Cover{}}
}

// on counts the runs of a test on a setup. A control that was copied from an earlier
// job is wanted again: it shows whether the computer is still as it was.
func (st *Standing) on(t *job.Test, setup string) (n job.Count) {
	for _, s := range st.Sittings {
		if s.Setup == setup && st.counted(&s) && (t.Kind != job.Control || s.Job == "") {
			c := st.counts[struct{ Test, Sitting string }{t.ID, s.ID}]
			n.Kept += c.Kept
			n.Aside += c.Aside
		}
	}
	return n
}

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

// Cover is the progress of one test on one setup.
type Cover struct {
	Test   string `json:"test"`
	Setup  string `json:"setup"`
	Kept   int    `json:"kept"`
	Aside  int    `json:"aside"`
	Wanted int    `json:"wanted"`
	// Enough: it has the wanted runs, and they lie close enough together. Where both sides
	// are measured, what counts is the ledger's decision.
	Enough bool `json:"enough"`
	// Cannot is why the test can't be done on this setup, or "".
	Cannot string `json:"cannot"`
	// Automatic: the program runs it by itself. One run then takes at most about
	// RunS seconds and writes at most RunWrites bytes beyond the test file.
	// Hint is a warning before it is measured, or "": a wait too short for a stopwatch.
	Hint      string  `json:"hint"`
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

// narrow is the half-width of the 95 % interval of ln centre, as far as further runs of
// the same sitting can narrow it, at which a side of a kind of test has enough. Of other
// kinds the wanted runs are enough.
var narrow = map[job.Kind]float64{job.Timed: 0.10, job.OnDrive: 0.05, job.OnFiles: 0.15}

// Coverage returns how far every test has come on a setup.
func (st *Standing) Coverage(setup string) []Cover {
	if c, ok := st.covers[setup]; ok {
		return c
	}
	covers := make([]Cover, 0, len(st.Tests))
	rate := 0.0
	if s := st.Setup(setup); s != nil {
		rate = writeRate(st.Drive(s.Drive))
	}
	for i := range st.Tests {
		t := &st.Tests[i]
		n := st.on(t, setup)
		c := Cover{Test: t.ID, Setup: setup, Kept: n.Kept, Aside: n.Aside, Wanted: Wanted(t),
			Cannot: st.Excused(t.ID, setup), Automatic: t.Automatic()}
		c.Hint = st.shortForAHand(t)
		if c.Automatic {
			c.RunS, c.RunWrites = round.Seconds(t), round.Writes(t, rate)
		}
		settling := st.settling(t, setup)
		if settling && c.Kept >= c.Wanted && c.Kept < side.MostLearning {
			c.Wanted = c.Kept + 1 // until it has settled
		}
		if learns := settling || st.index != nil && c.Kept > 0 && side.Of(st.index, t, setup).HasSettled(); learns {
			c.Enough = !settling || c.Kept >= side.MostLearning
		} else if c.Kept > 0 && c.Kept >= c.Wanted && st.index != nil {
			most, bounded := narrow[t.Kind]
			c.Enough = !bounded || st.halfWidth(t, setup, c.Kept) <= most // NaN is not
		}
		covers = append(covers, c)
	}
	st.covers[setup] = covers
	return covers
}

// settling reports whether a test's runs on a setup that learns still change.
func (st *Standing) settling(t *job.Test, setup string) bool {
	return st.index != nil && side.Learns(st.Job, setup) && side.Of(st.index, t, setup).IsSettling()
}

// done reports whether every test of a setup has the runs it wants, or an excuse.
func done(covers []Cover) bool {
	for _, c := range covers {
		if c.Missing() > 0 {
			return false
		}
	}
	return len(covers) > 0
}

// Lost is something missing at a gate.
type Lost struct {
	Test string `json:"test"` // "" where it is not about a test
	What string `json:"what"`
}

// missingRuns lists the tests of a setup without runs, or with a single one.
func (st *Standing) missingRuns(setup *job.Setup, side string) []Lost {
	lost := []Lost{}
	for _, c := range st.Coverage(setup.ID) {
		switch {
		case c.Wanted == 0 || c.Cannot != "":
		case c.Kept == 0:
			lost = append(lost, Lost{c.Test,
				say("lost.not-measured-"+side, message.Values{"Test": st.Test(c.Test).Name})})
		case c.Kept == 1 && c.Wanted > 1:
			lost = append(lost, Lost{c.Test, say("lost.one-run-"+side, message.Values{"Test": st.Test(c.Test).Name})})
		case c.Missing() > 0 && st.settling(st.Test(c.Test), setup.ID):
			lost = append(lost, Lost{c.Test, say("lost.settling",
				message.Values{"Name": st.Test(c.Test).Name,
					"Side": map[string]string{"then": "the old drive", "now": "the new drive"}[side]})})
		}
	}
	return lost
}

// missingSittings lists setups that should be measured again in another sitting.
func (st *Standing) missingSittings(setup *job.Setup) []Lost {
	have := 0
	for _, s := range st.Sittings {
		if s.Setup != setup.ID || s.For() != job.ForVisit {
			continue
		}
		for i := range st.Tests {
			if st.counts[struct{ Test, Sitting string }{st.Tests[i].ID, s.ID}].Kept > 0 {
				have++
				break
			}
		}
	}
	if have == 0 || have >= st.Plan.Sittings {
		return nil
	}
	return []Lost{{"", say("lost.second-sitting")}}
}

// BeforeOldDriveOut lists what would be lost permanently if the old drive came
// out now.
func (st *Standing) BeforeOldDriveOut() []Lost {
	then := st.SetupAs(job.Then)
	if then == nil || st.Kind() != job.KindUpgrade {
		return []Lost{}
	}
	lost := append(st.missingRuns(then, "then"), st.missingSittings(then)...)
	for _, d := range st.Doubts(then) {
		lost = append(lost, Lost{"", d.What})
	}
	used := then.UsedBytes > 0
	unknown, on := false, map[string]map[job.Power]bool{} // by test, under which power it was measured
	for _, s := range st.SittingsOn(then.ID) {
		used = used || s.Conditions.FillPct != nil
		unknown = unknown || s.For() == job.ForVisit && s.Where == nil && s.Conditions.Power == ""
		for i := range st.Tests {
			t := &st.Tests[i]
			if t.Kind == job.OnDrive && st.counts[struct{ Test, Sitting string }{t.ID, s.ID}].Kept > 0 {
				if on[t.ID] == nil {
					on[t.ID] = map[job.Power]bool{}
				}
				on[t.ID][s.Conditions.Power] = true
			}
		}
	}
	battery := []string{} // what was measured on battery alone
	for i := range st.Tests {
		if t := &st.Tests[i]; on[t.ID][job.Battery] && !on[t.ID][job.Mains] {
			battery = append(battery, t.Name)
		}
	}
	if unknown {
		lost = append(lost, Lost{"", say("lost.power-unknown")})
	}
	if len(battery) > 0 {
		lost = append(lost, Lost{"", say("lost.on-battery", message.Values{"Tests": strings.Join(battery, ", ")})})
	}
	if now := st.AsNow(); now != nil {
		if how, _ := now.Joins(); how == "" {
			lost = append(lost, Lost{"", say("lost.relation-unknown")})
		}
	}
	if b := st.Step(job.BackupStep); b != nil && b.Done == nil {
		lost = append(lost, Lost{"", say("lost.no-backup")})
	}
	if !used {
		lost = append(lost, Lost{"", say("lost.used-unknown")})
	}
	return lost
}

// BeforeCaseClosed lists what is not ticked off before the case is sealed: a drive is often fitted for a trial first.
func (st *Standing) BeforeCaseClosed() []Lost {
	lost := []Lost{}
	for i := range st.Plan.Steps {
		if s := &st.Plan.Steps[i]; s.When == job.WhenClose && s.Done == nil {
			lost = append(lost, Lost{"", say("lost.not-ticked", message.Values{"Step": s.Text})})
		}
	}
	return lost
}

// BeforeMeasuredAgain lists what is missing on the new drive.
func (st *Standing) BeforeMeasuredAgain() []Lost {
	if st.Kind() == job.KindComparison {
		return st.missingInComparison()
	}
	now := st.AsNow()
	if now == nil {
		return []Lost{{"", say("lost.no-new-drive")}}
	}
	lost := append(st.missingRuns(now, "now"), st.missingSittings(now)...)
	for _, d := range st.Doubts(now) {
		lost = append(lost, Lost{"", d.What})
	}
	return lost
}

// BeforeHandedBack lists what is missing before the computer goes back.
func (st *Standing) BeforeHandedBack() []Lost {
	lost := []Lost{}
	if st.Gate(job.GateReport) == nil {
		lost = append(lost, Lost{"", say("lost.no-report")})
	}
	for _, r := range st.Head.Reasons {
		if r.Outcome == "" {
			lost = append(lost, Lost{"", say("lost.no-answer", message.Values{"Reason": words.Reason(r)})})
		}
	}
	if st.Kind() != job.KindUpgrade {
		return lost
	}
	if st.PutBack() && !st.controlled() {
		lost = append(lost, Lost{"", say("lost.control-run")})
	}
	return append(lost, st.skipped()...)
}

// skipped are the checkpoints of an upgrade that nobody passed: nothing is handed back past one without a reason.
// "Measured again" is passed by measuring too.
func (st *Standing) skipped() []Lost {
	lost := []Lost{}
	if st.SetupAs(job.Then) != nil && st.AsNow() != nil && st.Gate(job.GateOldDriveOut) == nil {
		lost = append(lost, Lost{"", say("lost.skipped-" + string(job.GateOldDriveOut))})
	}
	if st.closes() && st.Gate(job.GateCaseClosed) == nil {
		lost = append(lost, Lost{"", say("lost.skipped-" + string(job.GateCaseClosed))})
	}
	if now := st.AsNow(); now != nil && !st.PutBack() && st.Gate(job.GateMeasured) == nil &&
		!done(st.Coverage(now.ID)) {
		lost = append(lost, Lost{"", say("lost.skipped-" + string(job.GateMeasured))})
	}
	return lost
}

// closes reports whether the plan has steps before the case is closed, and so a checkpoint for them.
func (st *Standing) closes() bool {
	return slices.ContainsFunc(st.Plan.Steps, func(s job.Step) bool { return s.When == job.WhenClose })
}

// open reports whether the case is still to be closed, until something is measured on the new drive.
func (st *Standing) open(now *job.Setup) bool {
	return st.closes() && st.Gate(job.GateCaseClosed) == nil &&
		!slices.ContainsFunc(st.Sittings, func(s job.Sitting) bool { return s.Setup == now.ID })
}

// Begun reports whether the work of an upgrade has begun: its first checkpoint was passed, or something was measured on
// a setup after Then.
func (st *Standing) Begun() bool {
	if st.Kind() != job.KindUpgrade || st.SetupAs(job.Then) == nil || st.Gate(job.GateOldDriveOut) != nil {
		return true
	}
	return slices.ContainsFunc(st.Sittings, func(s job.Sitting) bool {
		on := st.Setup(s.Setup)
		return on != nil && on.Role != job.Then && st.measuredIn(s.ID)
	})
}

// controlled reports whether the drive that was put back was measured again after the trial: only that shows
// that it hasn't changed.
func (st *Standing) controlled() bool {
	stays := st.Staying()
	var back, tried time.Time
	for i := range st.Runs {
		r := &st.Runs[i]
		s := st.Sitting(r.Sitting)
		if !r.Kept() || s.For() == job.ForCheckUp {
			continue
		}
		at := r.At
		if at.IsZero() {
			at = s.Started
		}
		if of := &back; s.Setup == stays.ID && at.After(*of) {
			*of = at
		} else if s.Setup != stays.ID && at.After(tried) {
			tried = at
		}
	}
	return tried.IsZero() || back.After(tried)
}

// Stations of a job's track.
const (
	AtIntake   = "intake"
	AtThen     = "then"
	AtOut      = string(job.GateOldDriveOut)
	AtNow      = "now"
	AtMeasured = string(job.GateMeasured)
	AtCompare  = "compare"
	AtBack     = string(job.GateHandedBack)
)

// Station is one point of a job's track.
type Station struct {
	Name  string `json:"name"`
	State string `json:"state"` // done, here, ahead
	Gate  bool   `json:"gate"`
}

// Track returns the stations of a job and which of them it is at.
func (st *Standing) Track() []Station {
	here := st.Here()
	names := st.way()
	stations := make([]Station, len(names))
	state := "done"
	for i, n := range names {
		s := state
		if n == here {
			s, state = "here", "ahead"
		}
		stations[i] = Station{Name: n, State: s, Gate: n == AtOut || n == AtMeasured || n == AtBack}
	}
	return stations
}

// Here returns the station a job is at: "" when it is finished. The gate
// "measured again" is passed by measuring, or by saying why not.
func (st *Standing) Here() string {
	switch st.State() {
	case job.StateFinished:
		return ""
	case job.StateQuoted:
		return AtIntake
	case job.StateOpen:
	}
	switch st.Kind() {
	case job.KindComparison:
		return st.hereOfComparison()
	case job.KindCheckUp:
		return st.hereOfCheckUp()
	case job.KindUpgrade:
	}
	then, now := st.SetupAs(job.Then), st.AsNow()
	switch {
	case then == nil:
		return AtIntake
	case st.Gate(job.GateOldDriveOut) == nil && !done(st.Coverage(then.ID)):
		return AtThen
	case st.Gate(job.GateOldDriveOut) == nil:
		return AtOut
	case st.Gate(job.GateMeasured) != nil:
		return AtCompare
	case now == nil || !done(st.Coverage(now.ID)):
		return AtNow
	}
	return AtCompare
}

// Pages of a job, each with what is done there.
const (
	PageIntake  = "intake"
	PageThen    = "then"
	PagePrepare = "prepare"
	PageSwap    = "swap"
	PageNow     = "now"
	PageCompare = "compare"
	PageReport  = "report"
)

// Page is the page that a job has reached, on which its next step is done: one of those, or the id of a setup that a
// comparison has to measure next.
func (st *Standing) Page() string {
	now := st.AsNow()
	switch here := st.Here(); here {
	case AtIntake:
		return PageIntake
	case AtThen:
		return PageThen
	case AtOut:
		return PagePrepare
	case AtNow:
		if st.Kind() == job.KindUpgrade && (now == nil || st.swapping(now) != nil || st.open(now)) {
			return PageSwap
		}
		return PageNow
	case AtCompare:
		if st.Gate(job.GateReport) == nil {
			return PageCompare
		}
	default:
		if st.Setup(here) != nil {
			return here
		}
	}
	return PageReport
}

// swapping is the first step of the swap that is not done, until something is measured on
// the new drive; nil where none is.
func (st *Standing) swapping(now *job.Setup) *job.Step {
	for _, s := range st.Sittings {
		if s.Setup == now.ID {
			return nil
		}
	}
	for i := range st.Plan.Steps {
		if s := &st.Plan.Steps[i]; s.When == job.WhenSwap && s.Done == nil && s.Fact == "" {
			return s
		}
	}
	return nil
}

// say returns a message for the technician; see [message.Language.Say].
var say = message.English.Say
