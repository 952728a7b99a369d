// Package fairness finds what makes a comparison doubtful: conditions that
// differ between two sides, and figures that cannot be what they seem.
//
// It is pure and knows nothing of screens, HTTP, SQL or files.
package fairness

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"nowthen/core/job"
)

// Effect of a finding on the lines it touches.
type Effect string

// Effects, from the hardest to the mildest.
const (
	Blocks    Effect = "blocks"    // the line is not comparable
	Qualifies Effect = "qualifies" // the verdict stands, with the caveat beside it
	Notes     Effect = "notes"
)

// Finding is a difference or doubt that touches lines.
type Finding struct {
	Rule    string   `json:"rule"`
	Effect  Effect   `json:"effect"`
	Then    string   `json:"then"`
	With    string   `json:"with"`
	Lines   []string `json:"lines"`
	Remedy  string   `json:"remedy"`
	Minutes float64  `json:"minutes"`
}

// Rules are the ids of all rules.
var Rules = []string{
	"other-computer", "other-baseline-drive", "other-parameters", "other-app-version", "other-content", "power",
	"busy", "encrypting", "encryption", "memory-changed", "processor-changed", "other-work",
	"control-moved", "system-version", "system-origin", "start-kind", "first-after-swap", "warmth",
	"attachment", "port-limit", "below-rating", "beyond-link", "beyond-mechanics", "heat",
	"fill", "lone-run", "method", "probe-version", "simulated",
}

// rule is one way in which two sides can differ. value gives what a run and
// its sitting say, or "" where they say nothing; a side is the set of what its
// kept runs say.
type rule struct {
	id      string
	touches []job.Kind
	blocks  []job.Kind // kinds of test that are blocked
	effect  Effect     // on the other kinds
	value   func(s *job.Sitting, r *job.Run) string
	// alike tells of two values that are not the same whether they agree all the same.
	alike   func(a, b string) bool
	remedy  string
	minutes float64
}

// Limits of the rules.
const (
	busyMBs    = 2.0  // MB/s of background I/O that count as busy
	busyCPUPct = 15.0 // % of the processor that count as busy
	fillPoints = 20.0 // percentage points of fill level
	loneRatio  = 1.5  // a run this far from its side's median stands alone
)

var (
	all       = []job.Kind{job.OnDrive, job.Timed, job.OnFiles, job.Control, job.Note}
	measured  = []job.Kind{job.OnDrive, job.Timed, job.OnFiles}
	onlyDrive = []job.Kind{job.OnDrive}
	onlyTimed = []job.Kind{job.Timed}
)

var rules = []rule{
	{id: "power", touches: measured, blocks: onlyDrive, effect: Qualifies, value: power, minutes: 6,
		remedy: "Measure again on mains power in the normal power mode."},
	{id: "busy", touches: measured, effect: Qualifies, value: busy, minutes: 6,
		alike:  func(a, b string) bool { return !strings.Contains(a, idle) && !strings.Contains(b, idle) }, // whatever it was
		remedy: "Let the other work end, then measure this side again."},
	{id: "encrypting", touches: measured, blocks: measured, effect: Blocks, value: encrypting, minutes: 30,
		remedy: "Wait until the encryption pass has ended, then measure this side again."},
	{id: "encryption", touches: measured, effect: Qualifies, value: encryption, minutes: 0,
		remedy: "Say so to the customer, or measure with the same encryption on both sides."},
	{id: "start-kind", touches: onlyTimed, blocks: onlyTimed, effect: Blocks, minutes: 4,
		value:  func(_ *job.Sitting, r *job.Run) string { return r.StartKind },
		remedy: "Time a full cold start on both sides: switch the resume-assisted start off first."},
	{id: "warmth", touches: all, blocks: all, effect: Blocks, minutes: 4,
		value:  func(_ *job.Sitting, r *job.Run) string { return r.Warmth },
		remedy: "Restart the computer and take the first run after it, on both sides."},
	{id: "other-parameters", touches: onlyTimed, blocks: onlyTimed, effect: Blocks, minutes: 4, value: nil,
		remedy: "Split the same phases on both sides."},
	{id: "other-app-version", touches: all, effect: Qualifies, minutes: 10,
		value:  func(_ *job.Sitting, r *job.Run) string { return r.AppVersion },
		remedy: "Bring both sides to the same version and measure again."},
	{id: "other-content", touches: all, blocks: all, effect: Blocks, minutes: 5,
		value:  func(_ *job.Sitting, r *job.Run) string { return r.ContentDigest },
		remedy: "Use the same document, save or folder on both sides."},
	{id: "method", touches: measured, effect: Notes, minutes: 0, value: method,
		remedy: "Time both sides in the same way."},
	{id: "probe-version", touches: onlyDrive, effect: Qualifies, minutes: 5,
		value:  func(_ *job.Sitting, r *job.Run) string { return r.Engine },
		remedy: "Measure both sides with the same version of the engine."},
}

func power(s *job.Sitting, _ *job.Run) string {
	c := s.Conditions
	if c.PowerMode == "saving" {
		return strings.TrimPrefix(c.Power+", power saving", ", ")
	}
	return c.Power
}

// idle is what a sitting says during which nothing else ran.
const idle = "nothing else running"

func busy(s *job.Sitting, _ *job.Run) string {
	c := s.Conditions
	what := slices.Clone(c.Busy)
	if v := c.BackgroundMBs; v != nil && *v > busyMBs {
		what = append(what, "background I/O")
	}
	if v := c.CPUPct; v != nil && *v > busyCPUPct {
		what = append(what, "busy processor")
	}
	if len(what) == 0 {
		// Nothing is known to have run where somebody looked, or both loads were measured.
		if c.Busy != nil || c.BackgroundMBs != nil && c.CPUPct != nil {
			return idle
		}
		return ""
	}
	slices.Sort(what)
	return strings.Join(slices.Compact(what), ", ")
}

func encrypting(s *job.Sitting, _ *job.Run) string {
	switch e := s.Conditions.Encrypting; {
	case e == nil:
		return ""
	case *e:
		return "a pass was running"
	}
	return "no pass running"
}

func encryption(s *job.Sitting, _ *job.Run) string {
	switch e := s.Conditions.Encrypted; {
	case e == nil:
		return ""
	case *e:
		return "encrypted"
	}
	return "not encrypted"
}

// phasesOf says which phases that count a run of the test was split into.
func phasesOf(t *job.Test) func(*job.Sitting, *job.Run) string {
	return func(_ *job.Sitting, r *job.Run) string {
		var names []string
		for _, p := range t.Phases {
			if _, ok := r.Phases[p.ID]; ok && p.Counted() {
				names = append(names, p.Name)
			}
		}
		return strings.Join(names, ", ")
	}
}

func method(_ *job.Sitting, r *job.Run) string {
	switch r.Method {
	case job.Automatic:
		return "automatic"
	case job.Stopwatch, job.Typed:
		return "by hand"
	}
	return ""
}

// side says what the kept runs of a test on a setup say under a rule: the
// distinct values, sorted and joined.
func side(j *job.Index, value func(*job.Sitting, *job.Run) string, test, setup string) string {
	var seen []string
	for _, r := range j.Kept(test, setup) {
		if v := value(j.Sitting(r.Sitting), r); v != "" && !slices.Contains(seen, v) {
			seen = append(seen, v)
		}
	}
	slices.Sort(seen)
	return strings.Join(seen, " and ")
}

// Check returns the findings between two setups of a job, in the order of the
// rules, each with the lines it touches.
func Check(j *job.Index, then, with string) []Finding {
	c := &check{j: j, then: then, with: with, found: []Finding{}}
	c.setups()
	for _, r := range rules {
		for _, t := range c.compared(r.touches...) {
			value := r.value
			if value == nil { // the one rule that must know the test
				value = phasesOf(&t)
			}
			a, b := side(j, value, t.ID, then), side(j, value, t.ID, with)
			if a == "" || b == "" || a == b || r.alike != nil && r.alike(a, b) {
				continue
			}
			effect := r.effect
			if slices.Contains(r.blocks, t.Kind) {
				effect = Blocks
			}
			c.add(Finding{Rule: r.id, Effect: effect, Then: a, With: b, Remedy: r.remedy, Minutes: r.minutes}, t.ID)
		}
	}
	c.otherWork()
	c.controls()
	c.firstAfterSwap()
	c.attachment()
	c.plausible()
	c.fill()
	c.loneRuns()
	c.simulated()
	return c.found
}

// check collects the findings of one comparison.
type check struct {
	j          *job.Index
	then, with string
	found      []Finding
}

// add adds a line to the finding that says the same, or begins it.
func (c *check) add(f Finding, lines ...string) {
	for i := range c.found {
		g := &c.found[i]
		if g.Rule == f.Rule && g.Effect == f.Effect && g.Then == f.Then && g.With == f.With {
			g.Lines = append(g.Lines, lines...)
			return
		}
	}
	f.Lines = lines
	c.found = append(c.found, f)
}

// compared returns the tests of those kinds that have kept runs on both sides.
func (c *check) compared(kinds ...job.Kind) []job.Test {
	var tests []job.Test
	for _, t := range c.j.Tests {
		if slices.Contains(kinds, t.Kind) && len(c.j.Kept(t.ID, c.then)) > 0 && len(c.j.Kept(t.ID, c.with)) > 0 {
			tests = append(tests, t)
		}
	}
	return tests
}

func (c *check) addAll(f Finding, kinds ...job.Kind) {
	for _, t := range c.compared(kinds...) {
		c.add(f, t.ID)
	}
}

// setups compares the two setups themselves: computer, memory, processor and
// system.
func (c *check) setups() {
	a, b := c.j.Setup(c.then), c.j.Setup(c.with)
	if a == nil || b == nil {
		return
	}
	if a.Computer != b.Computer {
		c.addAll(Finding{Rule: "other-computer", Effect: Blocks, Then: a.Computer, With: b.Computer,
			Remedy: "Measure both sides on the same computer.", Minutes: 60}, all...)
	}
	ca, cb := c.j.Computer(a.Computer), c.j.Computer(b.Computer)
	if ca != nil && cb != nil {
		if ca.MemoryBytes != cb.MemoryBytes && ca.MemoryBytes > 0 && cb.MemoryBytes > 0 {
			c.addAll(Finding{Rule: "memory-changed", Effect: Qualifies, Then: gib(ca.MemoryBytes), With: gib(cb.MemoryBytes),
				Remedy: "Say so to the customer: more memory shortens waiting as well."}, job.Timed, job.OnFiles)
		}
		if differ(ca.Processor, cb.Processor) || differ(ca.Graphics, cb.Graphics) {
			c.addAll(Finding{Rule: "processor-changed", Effect: Blocks, Then: join(ca.Processor, ca.Graphics), With: join(cb.Processor, cb.Graphics),
				Remedy: "Measure both sides with the same processor and graphics.", Minutes: 60}, job.Timed, job.OnFiles)
		}
	}
	if b.Replaces != "" && b.Replaces != a.Drive {
		f := Finding{Rule: "other-baseline-drive", Then: a.Drive, With: "replaces " + b.Replaces,
			Remedy: "Measure Then on the drive that is replaced.", Minutes: 30}
		f.Effect = Blocks
		c.addAll(f, job.OnDrive)
		f.Effect = Qualifies
		c.addAll(f, job.Timed, job.OnFiles)
	}
	if differ(a.System.Version, b.System.Version) {
		c.addAll(Finding{Rule: "system-version", Effect: Qualifies, Then: a.System.Version, With: b.System.Version,
			Remedy: "Say so to the customer: another system version waits differently."}, job.Timed, job.OnFiles)
	}
	kept := func(o string) bool { return o == "as-arrived" || o == "cloned" }
	if kept(a.System.Origin) && b.System.Origin == "fresh" || a.System.Origin == "fresh" && kept(b.System.Origin) {
		c.addAll(Finding{Rule: "system-origin", Effect: Qualifies, Then: a.System.Origin, With: b.System.Origin,
			Remedy: "Say so to the customer: a fresh system starts faster on any drive."}, job.Timed, job.OnFiles)
	}
}

func differ(a, b string) bool { return a != "" && b != "" && a != b }

func join(a, b string) string { return strings.Trim(a+", "+b, ", ") }

func gib(n int64) string { return fmt.Sprintf("%g GiB", float64(n)/(1<<30)) }

// isStart tells whether a timed test starts the computer. A file that does not
// say what its tests are is taken at its start kind, or at its word.
func isStart(t *job.Test) bool {
	switch t.What {
	case "cold-start", "restart":
		return true
	case "":
		return t.Kind == job.Timed
	}
	return false
}

// firstAfterSwap finds starts that were kept although they were the first
// after a swap.
func (c *check) firstAfterSwap() {
	for _, t := range c.compared(job.Timed) {
		if !isStart(&t) {
			continue
		}
		say := func(setup string) string {
			if c.firstStartKept(t.ID, setup) {
				return "first after a swap"
			}
			return ""
		}
		if a, b := say(c.then), say(c.with); a != "" || b != "" {
			c.add(Finding{Rule: "first-after-swap", Effect: Qualifies, Then: a, With: b, Minutes: 4,
				Remedy: "Set the first run after the swap aside and take another."}, t.ID)
		}
	}
}

// firstStartKept tells whether a run of a test was the first start of a sitting
// that followed a swap, and takes part.
func (c *check) firstStartKept(test, setup string) bool {
	var starts []job.Run
	for i := range c.j.Tests {
		if t := &c.j.Tests[i]; isStart(t) {
			starts = append(starts, c.j.RunsOf(t.ID, setup)...)
		}
	}
	slices.SortStableFunc(starts, func(a, b job.Run) int { return a.At.Compare(b.At) })
	seen := map[string]bool{}
	for _, r := range starts {
		f := c.j.Sitting(r.Sitting).Conditions.FirstAfterSwap
		if f == nil || !*f || seen[r.Sitting] {
			continue
		}
		seen[r.Sitting] = true
		if r.Test == test && r.Kept() {
			return true
		}
	}
	return false
}

// fill finds drives that were much fuller on one side.
func (c *check) fill() {
	for _, t := range c.compared(job.OnDrive) {
		a, b := c.meanFill(t.ID, c.then), c.meanFill(t.ID, c.with)
		if math.Abs(a-b) > fillPoints { // false where either is unknown (NaN)
			c.add(Finding{Rule: "fill", Effect: Notes, Then: fmt.Sprintf("%.0f %% full", a), With: fmt.Sprintf("%.0f %% full", b),
				Remedy: "Mention it: an emptier drive can be quicker by itself."}, t.ID)
		}
	}
}

func (c *check) meanFill(test, setup string) float64 {
	sum, n := 0.0, 0
	for _, r := range c.j.Kept(test, setup) {
		if f := c.j.Sitting(r.Sitting).Conditions.FillPct; f != nil {
			sum += *f
			n++
		}
	}
	return sum / float64(n)
}

// loneRuns finds kept runs far from the median of their side.
func (c *check) loneRuns() {
	for _, t := range c.compared(all...) {
		a, b := c.loneRun(&t, c.then), c.loneRun(&t, c.with)
		if a != "" || b != "" {
			c.add(Finding{Rule: "lone-run", Effect: Qualifies, Then: a, With: b, Minutes: 4,
				Remedy: "Look at the run that stands alone: set it aside with a reason, or take more."}, t.ID)
		}
	}
}

func (c *check) loneRun(t *job.Test, setup string) string {
	var values []float64
	for _, r := range c.j.Kept(t.ID, setup) {
		values = append(values, r.Value)
	}
	slices.Sort(values)
	n := len(values)
	if n < 2 || values[0] <= 0 {
		return ""
	}
	mid := c.median(t.ID, setup)
	for _, v := range []float64{values[0], values[n-1]} {
		if v > mid*loneRatio || v < mid/loneRatio {
			return fmt.Sprintf("one run of %.4g %s against a median of %.4g", v, t.Unit, mid)
		}
	}
	return ""
}

// simulated marks what did not come from a real computer.
func (c *check) simulated() {
	is := func(_ *job.Sitting, r *job.Run) string {
		if r.Simulated {
			return "simulated"
		}
		return ""
	}
	for _, t := range c.j.Tests {
		a, b := side(c.j, is, t.ID, c.then), side(c.j, is, t.ID, c.with)
		if a != "" || b != "" {
			c.add(Finding{Rule: "simulated", Effect: Notes, Then: a, With: b,
				Remedy: "For training and demonstration only; measure a real computer for a customer."}, t.ID)
		}
	}
}
