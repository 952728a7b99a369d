// Package compare makes the ledger of a job: each test as a line between two
// setups, with medians, factors, intervals and verdicts, the groups and the
// savings.
//
// It is pure: the same runs give the same ledger. It knows nothing of screens,
// HTTP, SQL or files. The JSON names are those of the ledger that
// "nowthen compare --json" prints.
package compare

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"gonum.org/v1/gonum/stat"

	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/stats"
	"nowthen/core/stopwatch"
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

// Options are what a shop may set.
type Options struct {
	// FeltSeconds and FeltShare: a difference is felt from both on.
	FeltSeconds float64
	FeltShare   float64
}

// DefaultOptions are half a second and a fifth.
var DefaultOptions = Options{FeltSeconds: 0.5, FeltShare: 0.20}

// Ledger is the comparison of two setups.
type Ledger struct {
	Format   string             `json:"format"`
	Version  int                `json:"version"`
	Then     string             `json:"then"`
	With     string             `json:"with"`
	Lines    []Line             `json:"lines"`
	Groups   Groups             `json:"groups"`
	Savings  Savings            `json:"savings"`
	Findings []fairness.Finding `json:"findings"`
}

// Line is one test compared. A figure that does not exist is nil.
type Line struct {
	Test       string   `json:"test"`
	Verdict    Verdict  `json:"verdict"`
	Indicative bool     `json:"indicative"`
	Felt       bool     `json:"felt"`
	Factor     *float64 `json:"factor"`
	Low        *float64 `json:"low"`
	High       *float64 `json:"high"`
	Then       *Side    `json:"then"`
	With       *Side    `json:"with"`
	Saves      *float64 `json:"saves"`
	DriveShare *float64 `json:"drive_share"`
	Floor      *float64 `json:"floor"`
	Findings   []string `json:"findings"`

	variance float64 // vT + vN, for the group
}

// Side is one side of a line, in the test's unit.
type Side struct {
	N      int     `json:"n"`
	Centre float64 `json:"centre"`
	Min    float64 `json:"min"`
	Max    float64 `json:"max"`

	typeA, typeB float64 // variances of ln centre
}

func (s *Side) variance() float64 { return s.typeA + s.typeB }

// HalfWidth is the relative half-width of the 95 % interval of the side's
// centre, on the scale of logarithms; NaN where it has none.
func (s *Side) HalfWidth() float64 {
	if s == nil || s.Min <= 0 {
		return math.NaN()
	}
	nu := math.Inf(1)
	if s.N >= 2 && s.typeA > 0 {
		nu = s.variance() * s.variance() / (s.typeA * s.typeA) * float64(s.N-1)
	}
	return stats.Student(0.975, nu) * math.Sqrt(s.variance())
}

// Groups holds the two group factors, which are never mixed.
type Groups struct {
	Drive   Group `json:"drive"`
	Waiting Group `json:"waiting"`
}

// Group is the geometric mean of the factors of its lines.
type Group struct {
	Factor *float64 `json:"factor"`
	Low    *float64 `json:"low"`
	High   *float64 `json:"high"`
	Lines  int      `json:"lines"`
}

// Savings is the waiting that the customer is spared.
type Savings struct {
	SecondsPerWeek float64  `json:"seconds_per_week"`
	Low            float64  `json:"low"`
	High           float64  `json:"high"`
	HoursPerYear   float64  `json:"hours_per_year"`
	LeftOut        []string `json:"left_out"`
}

// assumed is the relative spread of a side with a single run.
func assumed(k job.Kind) float64 {
	switch k {
	case job.Timed:
		return 0.05
	case job.OnFiles:
		return 0.10
	}
	return 0.03
}

// NewSide works out one side of a line from its kept runs; nil where there is
// none. The variances are those of ln centre (JCGM 100): type A c·s²/n with the
// asymptotic variance of a median, c = π/2 from three runs on; type B the
// median of the relative instrument uncertainties, squared.
func NewSide(t *job.Test, runs []*job.Run) *Side {
	if len(runs) == 0 {
		return nil
	}
	values := make([]float64, len(runs))
	logs := make([]float64, len(runs))
	us := make([]float64, len(runs))
	positive := true
	for i, r := range runs {
		values[i] = r.Value
		positive = positive && r.Value > 0
		logs[i] = math.Log(r.Value)
		us[i] = instrument(t, r) / r.Value
	}
	slices.Sort(values)
	n := len(values)
	s := &Side{N: n, Centre: stats.Median(values), Min: values[0], Max: values[n-1]}
	if !positive {
		return s // a note below zero has no logarithm and no factor
	}
	u := stats.Median(us)
	s.typeB = u * u
	spread, c := assumed(t.Kind), 1.0
	if n >= 2 {
		spread = stat.StdDev(logs, nil)
	}
	if n >= 3 {
		c = math.Pi / 2
	}
	s.typeA = c * spread * spread / float64(n)
	return s
}

// instrument is the run's own standard uncertainty, or where it states none
// that of its method.
func instrument(t *job.Test, r *job.Run) float64 {
	if r.U != nil {
		return *r.U
	}
	switch r.Method {
	case job.Stopwatch:
		return stopwatch.ByHand(0)
	case job.FinishLine:
		return stopwatch.ByFinishLine(0, 0)
	case job.Video:
		return stopwatch.ByVideo(1.0/30, 1.0/30)
	case job.Typed:
		return stopwatch.ByTyping(lastDigit(r.Value), t.Unit == "s")
	}
	return 0
}

// lastDigit is the worth of the last decimal digit that v is written with.
func lastDigit(v float64) float64 {
	_, frac, found := strings.Cut(strconv.FormatFloat(v, 'f', -1, 64), ".")
	if !found {
		return 1
	}
	return math.Pow(10, -float64(len(frac)))
}

// interval returns the 95 % interval of a factor between two sides, with
// Welch–Satterthwaite degrees of freedom (JCGM 100, G.4.1). Type B and
// single-run parts count as known.
func interval(factor float64, a, b *Side) (low, high float64) {
	v := a.variance() + b.variance()
	sum := 0.0
	for _, s := range []*Side{a, b} {
		if s.N >= 2 {
			sum += s.typeA * s.typeA / float64(s.N-1)
		}
	}
	nu := math.Inf(1)
	if sum > 0 {
		nu = v * v / sum
	}
	h := stats.Student(0.975, nu) * math.Sqrt(v)
	return factor * math.Exp(-h), factor * math.Exp(h)
}

// Compare sets every test of the job on one setup against the same test on
// another. The ids must be those of setups of the job.
func Compare(j *job.Job, then, with string, o Options) *Ledger {
	l := &Ledger{Format: "nowthen-ledger", Version: 1, Then: then, With: with, Lines: []Line{}}
	x := j.Indexed()
	l.Findings = fairness.Check(x, then, with)
	for i := range j.Tests {
		l.Lines = append(l.Lines, line(x, &j.Tests[i], then, with, l.Findings, o))
	}
	l.shares(j)
	l.Groups = Groups{
		Drive:   l.group(j, job.OnDrive),
		Waiting: l.group(j, job.Timed, job.OnFiles),
	}
	l.Savings = l.savings(j)
	return l
}

func line(x *job.Index, t *job.Test, then, with string, findings []fairness.Finding, o Options) Line {
	ln := Line{Test: t.ID, Findings: []string{},
		Then: NewSide(t, x.Kept(t.ID, then)),
		With: NewSide(t, x.Kept(t.ID, with)),
	}
	blocked := false
	for _, f := range findings {
		if slices.Contains(f.Lines, t.ID) {
			if !slices.Contains(ln.Findings, f.Rule) { // one rule can find something on each side
				ln.Findings = append(ln.Findings, f.Rule)
			}
			blocked = blocked || f.Effect == fairness.Blocks
		}
	}
	if ln.Then == nil || ln.With == nil {
		ln.Verdict = NotMeasured
		return ln
	}
	ln.Indicative = ln.Then.N == 1 || ln.With.N == 1
	if blocked {
		ln.Verdict = NotComparable
		return ln
	}
	a, b := ln.Then.Centre, ln.With.Centre
	if ln.Then.Min <= 0 || ln.With.Min <= 0 {
		ln.Verdict = TooClose
		return ln
	}
	factor := a / b
	if t.Better == job.Higher {
		factor = b / a
	}
	low, high := interval(factor, ln.Then, ln.With)
	ln.Factor, ln.Low, ln.High = &factor, &low, &high
	ln.variance = ln.Then.variance() + ln.With.variance()
	switch {
	case low > 1:
		ln.Verdict = Faster
	case high < 1:
		ln.Verdict = Slower
	default:
		ln.Verdict = TooClose
	}
	if t.Unit == "s" && t.Better == job.Lower {
		saves := a - b
		ln.Saves = &saves
	}
	decided := ln.Verdict == Faster || ln.Verdict == Slower
	ln.Felt = t.Kind == job.Timed && decided &&
		math.Abs(a-b) >= o.FeltSeconds && math.Abs(a-b)/a >= o.FeltShare
	return ln
}

// reference returns the id of the drive test that shares of waiting are worked
// out from, or "".
func reference(j *job.Job) string {
	if j.Plan.Reference != "" {
		return j.Plan.Reference
	}
	for i := range j.Tests {
		if t := &j.Tests[i]; t.Kind == job.OnDrive && t.ScatteredRead() {
			return t.ID
		}
	}
	return ""
}

// shares works out, for every timed line that got faster, how much of the wait
// was the drive's (Amdahl's law, 1967): with S the line's factor and R the
// reference drive test's, share = (1 − 1/S) ÷ (1 − 1/R), and the floor that no
// drive could beat.
func (l *Ledger) shares(j *job.Job) {
	ref := l.Line(reference(j))
	if ref == nil || ref.Verdict != Faster || *ref.Factor < 1.25 {
		return
	}
	for i := range l.Lines {
		ln := &l.Lines[i]
		if t := j.Test(ln.Test); t.Kind != job.Timed || ln.Verdict != Faster || *ln.Factor <= 1 {
			continue
		}
		share := (1 - 1 / *ln.Factor) / (1 - 1 / *ref.Factor)
		share = math.Min(1, math.Max(0, share))
		floor := ln.Then.Centre * (1 - share)
		ln.DriveShare, ln.Floor = &share, &floor
	}
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

// group is the geometric mean of the factors of the comparable, measured lines
// of those kinds: exp( mean ln F ± 1.960·√Σ(vT + vN) ÷ m ).
func (l *Ledger) group(j *job.Job, kinds ...job.Kind) Group {
	var g Group
	sum, v := 0.0, 0.0
	for _, ln := range l.Lines {
		if ln.Factor == nil || !slices.Contains(kinds, j.Test(ln.Test).Kind) {
			continue
		}
		g.Lines++
		sum += math.Log(*ln.Factor)
		v += ln.variance
	}
	if g.Lines == 0 {
		return g
	}
	m := float64(g.Lines)
	h := 1.960 * math.Sqrt(v) / m
	factor, low, high := math.Exp(sum/m), math.Exp(sum/m-h), math.Exp(sum/m+h)
	g.Factor, g.Low, g.High = &factor, &low, &high
	return g
}

// savings adds up uses per week × seconds saved over the waiting lines that
// are faster or slower. The ends of the sum come from the ends of the
// intervals: at factor f a wait of Then seconds saves Then × (1 − 1/f).
func (l *Ledger) savings(j *job.Job) Savings {
	s := Savings{LeftOut: []string{}}
	for _, ln := range l.Lines {
		t := j.Test(ln.Test)
		if (t.Kind != job.Timed && t.Kind != job.OnFiles) || t.Unit != "s" {
			continue
		}
		switch ln.Verdict {
		case Faster, Slower:
			s.SecondsPerWeek += t.PerWeek * (ln.Then.Centre - ln.With.Centre)
			s.Low += t.PerWeek * ln.Then.Centre * (1 - 1 / *ln.Low)
			s.High += t.PerWeek * ln.Then.Centre * (1 - 1 / *ln.High)
		case TooClose, NotComparable:
			s.LeftOut = append(s.LeftOut, t.ID)
		}
	}
	s.HoursPerYear = s.SecondsPerWeek * 52 / 3600
	return s
}
