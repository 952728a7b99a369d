// Package fairness finds what makes a comparison doubtful: conditions that differ between two
// sides, and implausible values.
//
// It compares the kept runs of both sides. Comparing two setups gives the same findings
// whichever is called Then. An unknown value is never taken for "no". All rules are in one
// table, in rules.go.
//
// It is pure and knows nothing of screens, HTTP, SQL or files.
package fairness

import (
	"cmp"
	"slices"

	"nowthen/core/job"
	"nowthen/core/side"
)

// Effect of a finding on the lines it touches.
type Effect string

// Effects, from the hardest to the mildest.
const (
	Blocks    Effect = "blocks"    // the line is not comparable
	Qualifies Effect = "qualifies" // the verdict stands, with the caveat beside it
	Notes     Effect = "notes"
)

// Finding is a difference or doubt that affects lines. Then and With are the values on each side; Runs are
// those that disagree with the others of their own side, to be set aside. core/words turns it into text.
type Finding struct {
	Rule    string
	Effect  Effect
	Then    Value
	With    Value
	Lines   []string
	Runs    []string
	Remedy  string // which, mostly the rule's own
	Minutes float64
}

// Rules returns the ids of all rules, in the order of the table.
func Rules() []string {
	ids := make([]string, len(rules))
	for i := range rules {
		ids[i] = rules[i].id
	}
	return ids
}

// Known reports whether there is a rule of that id.
func Known(id string) bool { return slices.Contains(Rules(), id) }

// Sides are the two sides of a line, either of them nil where it has no kept run.
type Sides struct{ Then, With *side.Side }

// Check returns the findings between two setups of a job, in the order of the rules,
// each with the lines it touches. sides are those of the job's tests, in their order. A
// difference that is intended, the rule of which is named, is a note; "" is none.
func Check(x *job.Index, then, with string, sides []Sides, intended string) []Finding {
	c := newCheck(x, then, with, sides)
	c.intended = intended
	// Rules about intervals first need to know which lines can be compared.
	for _, late := range []bool{false, true} {
		for i := range rules {
			if r := &rules[i]; r.find != nil && r.late == late {
				r.find(c, r)
			}
		}
	}
	order := Rules()
	slices.SortStableFunc(c.found, func(a, b Finding) int {
		return slices.Index(order, a.Rule) - slices.Index(order, b.Rule)
	})
	return c.found
}

// check collects the findings of one comparison.
type check struct {
	*job.Index
	ids      [2]string // of the setups
	setups   [2]*job.Setup
	lines    []line
	intended string
	found    []Finding
}

// line is a test with the kept runs of both sides.
type line struct {
	*job.Test
	runs   [2][]*job.Run
	sides  [2]*side.Side
	params Value // its test's parameters, once they were asked for
}

func (l *line) compared() bool { return len(l.runs[0]) > 0 && len(l.runs[1]) > 0 }

func newCheck(x *job.Index, then, with string, sides []Sides) *check {
	c := &check{Index: x, ids: [2]string{then, with}, setups: [2]*job.Setup{x.Setup(then), x.Setup(with)},
		lines: make([]line, len(x.Tests)), found: []Finding{}}
	for i := range x.Tests {
		t := &x.Tests[i]
		l := line{Test: t, runs: [2][]*job.Run{x.Side(t.ID, then), x.Side(t.ID, with)},
			sides: [2]*side.Side{sides[i].Then, sides[i].With}}
		for k, s := range l.sides {
			if s != nil { // where it has settled, its block alone
				l.runs[k] = s.Runs()
			}
		}
		c.lines[i] = l
	}
	return c
}

// add adds a line and runs to the finding with the same values, or begins one. says are the values on each
// side.
func (c *check) add(r *rule, l *line, says [2]Value, runs ...string) {
	effect := r.effect
	if r.blocks != nil && r.blocks(l.Test) {
		effect = Blocks
	}
	if r.qualifies != nil && r.qualifies(l.Test) {
		effect = Qualifies
	}
	c.put(Finding{Rule: r.id, Effect: effect, Then: says[0], With: says[1], Remedy: r.id, Minutes: r.minutes}, l.ID,
		runs)
}

func (c *check) put(f Finding, line string, runs []string) {
	if f.Rule == c.intended {
		f.Effect = Notes
	}
	for i := range c.found {
		g := &c.found[i]
		if g.Rule == f.Rule && g.Effect == f.Effect && same(g.Then, f.Then) && same(g.With, f.With) {
			if !slices.Contains(g.Lines, line) {
				g.Lines = append(g.Lines, line)
			}
			g.Runs = append(g.Runs, runs...)
			return
		}
	}
	f.Lines, f.Runs = []string{line}, append([]string{}, runs...)
	c.found = append(c.found, f)
}

// touched returns the lines that a rule touches and both sides of which were measured.
func (c *check) touched(r *rule) []*line {
	var lines []*line
	for i := range c.lines {
		if l := &c.lines[i]; l.compared() && r.touches(l.Test) {
			lines = append(lines, l)
		}
	}
	return lines
}

// blocked reports whether a line is not comparable, as far as the rules have been gone
// through.
func (c *check) blocked(test string) bool {
	return slices.ContainsFunc(c.found,
		func(f Finding) bool { return f.Effect == Blocks && slices.Contains(f.Lines, test) })
}

// ratio is that of a line that is measured and comparable.
func (c *check) ratio(l *line) (side.Ratio, bool) {
	if !l.compared() || c.blocked(l.ID) {
		return side.Ratio{}, false
	}
	return side.RatioOf(l.Test, l.sides[0], l.sides[1])
}

// conditions are those of a run: its own, else its sitting's.
func (c *check) conditions(r *job.Run) *job.Conditions {
	of := &c.Sitting(r.Sitting).Conditions
	o := r.Conditions
	if o == nil {
		return of
	}
	s := *of
	s.Power, s.PowerMode = cmp.Or(o.Power, s.Power), cmp.Or(o.PowerMode, s.PowerMode)
	if o.Busy != nil {
		s.Busy = o.Busy
	}
	s.MemoryPct = orPointer(o.MemoryPct, s.MemoryPct)
	s.BackgroundMBs, s.CPUPct = orPointer(o.BackgroundMBs, s.BackgroundMBs), orPointer(o.CPUPct, s.CPUPct)
	s.Encrypted, s.Encrypting = orPointer(o.Encrypted, s.Encrypted), orPointer(o.Encrypting, s.Encrypting)
	s.Pass = orPointer(o.Pass, s.Pass)
	s.FillPct, s.DriveTempC = orPointer(o.FillPct, s.FillPct), orPointer(o.DriveTempC, s.DriveTempC)
	s.BatteryFromPct, s.BatteryToPct = orPointer(o.BatteryFromPct, s.BatteryFromPct),
		orPointer(o.BatteryToPct, s.BatteryToPct)
	if o.Attached != nil {
		s.Attached = o.Attached
	}
	s.Firmware = orPointer(o.Firmware, s.Firmware)
	return &s
}

func or(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

func orPointer[T any](a, b *T) *T {
	if a != nil {
		return a
	}
	return b
}
