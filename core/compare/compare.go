// Package compare computes the ledger of a job: each test as a line between two setups, with
// factors, intervals and verdicts, the groups and the savings.
//
// It is pure: the same runs give the same ledger. It knows nothing of screens, HTTP, SQL or
// files. The JSON names are those of the ledger that "nowthen compare --json" prints.
package compare

import (
	"slices"

	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/side"
)

// Verdict on a line.
type Verdict string

// Verdicts, in the order in which they are decided.
const (
	NotMeasured   Verdict = "not-measured"
	NotComparable Verdict = "not-comparable"
	Faster        Verdict = "faster"
	Slower        Verdict = "slower"
	TooClose      Verdict = "too-close"
)

// Options are the shop's settings, and the question of a comparison.
type Options struct {
	// FeltSeconds and FeltShare: a difference is felt from both on.
	FeltSeconds float64
	FeltShare   float64
	// Intended is the rule whose finding is the question of this comparison; "" is none.
	Intended string
}

// DefaultOptions are half a second and a fifth.
var DefaultOptions = Options{FeltSeconds: 0.5, FeltShare: 0.20}

// Format and Version are at the head of a ledger.
const (
	Format  = "nowthen-ledger"
	Version = 2
)

// Ledger is the comparison of two setups. A figure that does not exist is nil.
type Ledger struct {
	Format  string `json:"format"`
	Version int    `json:"version"`
	Then    string `json:"then"`
	With    string `json:"with"`
	// Headline is the test of a report's headline.
	Headline *string            `json:"headline"`
	Intended string             `json:"intended,omitzero"`
	Lines    []Line             `json:"lines"`
	Groups   Groups             `json:"groups"`
	Savings  *Savings           `json:"savings"`
	Findings []fairness.Finding `json:"-"` // core/words says them
}

// Line is one test compared. A figure that does not exist is nil.
type Line struct {
	Test    string  `json:"test"`
	Verdict Verdict `json:"verdict"`
	// HoldsAfterAll: the difference holds after all lines of the ledger are considered.
	HoldsAfterAll bool `json:"holds_after_all"`
	// Equal: too close to call, and practically the same.
	Equal bool `json:"equal"`
	// Indicative: a side has a single run, which can't show an unusual spread.
	Indicative bool       `json:"indicative"`
	Felt       bool       `json:"felt"`
	Factor     *float64   `json:"factor"`
	Low        *float64   `json:"low"`
	High       *float64   `json:"high"`
	P          *float64   `json:"p"`
	Freedom    *float64   `json:"dof"`
	Then       *side.Side `json:"then"`
	With       *side.Side `json:"with"`
	Saves      *float64   `json:"saves"`

	DriveShare     *float64 `json:"drive_share"`
	DriveShareLow  *float64 `json:"drive_share_low"`
	DriveShareHigh *float64 `json:"drive_share_high"`
	Floor          *float64 `json:"floor"`

	// FurtherRuns on one of the setups would decide the line; nil if runs won't.
	FurtherRuns   *int    `json:"further_runs"`
	FurtherRunsOn *string `json:"further_runs_on"`

	KeepsUp *KeepsUp `json:"keeps_up"`
	// Phases are the parts of a timed test that was split alike on both sides; else nil.
	Phases   *[]Phase `json:"phases"`
	Findings []string `json:"findings"`

	test    *job.Test
	ratio   side.Ratio
	decided bool // it is measured, comparable and has a ratio
	divisor int  // of the level at which it counts among all lines, 0 where it does not
}

// KeepsUp is how each side keeps up with a recording: keeps-up, just, falls-behind, or "" if not known.
type KeepsUp struct {
	Then string `json:"then"`
	With string `json:"with"`
}

// Compare compares every test of the job on one setup with the same test on another. The ids must be those of setups of the job.
func Compare(j *job.Job, then, with string, o Options) *Ledger {
	return Indexed(j.Indexed(), then, with, o)
}

// Indexed is Compare with an existing index.
func Indexed(x *job.Index, then, with string, o Options) *Ledger {
	l := &Ledger{Format: Format, Version: Version, Then: then, With: with, Intended: o.Intended,
		Lines: make([]Line, len(x.Tests))}
	sides := make([]fairness.Sides, len(x.Tests))
	for i := range x.Tests {
		t := &x.Tests[i]
		sides[i] = fairness.Sides{Then: side.Of(x, t, then), With: side.Of(x, t, with)}
	}
	l.Findings = fairness.Check(x, then, with, sides, o.Intended)
	for i := range x.Tests {
		l.Lines[i] = newLine(x, &x.Tests[i], sides[i], l.Findings, o)
	}
	l.afterAll()
	l.Headline = l.headline(x.Job)
	l.shares(x.Job)
	l.Groups = Groups{Drive: l.group(job.OnDrive), Waiting: l.group(job.Timed, job.OnFiles)}
	l.Savings = l.savings(x.Job)
	return l
}

// Line returns the line of a test, or nil.
func (l *Ledger) Line(test string) *Line {
	for i := range l.Lines {
		if l.Lines[i].Test == test {
			return &l.Lines[i]
		}
	}
	return nil
}

// waiting reports whether a test is one of waiting.
func waiting(t *job.Test) bool { return t.Kind == job.Timed || t.Kind == job.OnFiles }

// PlannedHeadline is the test that the plan's headline is about, named before anything
// is measured: the plan's, else its first waiting test; "" where there is none.
func PlannedHeadline(j *job.Job) string {
	if j.Plan.Headline != "" {
		return j.Plan.Headline
	}
	for i := range j.Tests {
		if waiting(&j.Tests[i]) {
			return j.Tests[i].ID
		}
	}
	return ""
}

// headline is the planned one if it can be stated, else the next waiting line in the plan's order that can. It
// is never chosen by its size.
func (l *Ledger) headline(j *job.Job) *string {
	planned := PlannedHeadline(j)
	at := slices.IndexFunc(l.Lines, func(ln Line) bool { return ln.Test == planned })
	if at < 0 {
		return nil
	}
	for k := range l.Lines {
		ln := &l.Lines[(at+k)%len(l.Lines)]
		if ln.decided && (k == 0 || waiting(ln.test)) {
			return &ln.Test
		}
	}
	return nil
}
