package job

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Fault is one thing that is wrong with a job: where, as a JSON pointer into
// the job file, and why.
type Fault struct {
	Place  string
	Reason string
}

func (f Fault) Error() string { return f.Place + ": " + f.Reason }

// Bounds that no honest figure exceeds. They catch a wrong unit or a typing error.
const (
	maxSeconds = 48 * 3600.0 // s: a run of two days is a mistake
	maxRate    = 1e6         // MB/s: no drive of a computer carries a terabyte a second
	maxIOPS    = 1e9         // requests per second
	phaseSlack = 0.01        // s: a value and the sum of its phases agree to this
	maxUnsure  = 100.0       // times the value: an uncertainty beyond says nothing of it
)

// Bounds of what a file may say is usual.
const (
	maxWeight = 1e6
	maxSpread = 10.0
)

// CheckValue reports what is wrong with a value of a test, or nil.
func CheckValue(t *Test, v float64) error {
	switch {
	case math.IsNaN(v) || math.IsInf(v, 0):
		return fmt.Errorf("%s: the value is not a number", t.Name)
	case t.Kind == Note:
		return nil // a temperature may be below zero
	case v < 0:
		return fmt.Errorf("%s: %g %s is negative", t.Name, v, t.Unit)
	case v == 0:
		return fmt.Errorf("%s: the value is zero; nothing takes no time and no drive carries nothing", t.Name)
	case t.Unit == "s" && v > maxSeconds:
		return fmt.Errorf("%s: %g s is more than two days; check the unit", t.Name, v)
	case t.Unit == "MB/s" && v > maxRate:
		return fmt.Errorf("%s: %g MB/s is more than any drive carries; check the unit", t.Name, v)
	case t.Unit == "IOPS" && v > maxIOPS:
		return fmt.Errorf("%s: %g IOPS is more than any drive answers; check the unit", t.Name, v)
	}
	return nil
}

// CheckRun reports what is wrong with a run of a test, or nil: its value, its
// phases against the test's, and their sum.
func CheckRun(t *Test, r *Run) error {
	if err := CheckValue(t, r.Value); err != nil {
		return err
	}
	if r.U != nil && (math.IsNaN(*r.U) || *r.U < 0) {
		return fmt.Errorf("%s: the uncertainty u is %g; it cannot be negative", t.Name, *r.U)
	}
	if most := maxUnsure * math.Max(1, math.Abs(r.Value)); r.U != nil && *r.U > most {
		return fmt.Errorf("%s: the uncertainty u is %g %s, and the value %g; check the unit", t.Name, *r.U, t.Unit,
			r.Value)
	}
	if g := r.Range; g != nil {
		if !(g[0] <= r.Value && r.Value <= g[1]) || math.IsInf(g[0], 0) || math.IsInf(g[1], 0) {
			return fmt.Errorf("%s: the value %g does not lie in its range, %g to %g", t.Name, r.Value, g[0], g[1])
		}
		if r.Bound != "" {
			return fmt.Errorf("%s: a figure is a range or a bound, not both", t.Name)
		}
	}
	if r.Bytes < 0 || r.Files < 0 {
		return fmt.Errorf("%s: bytes and files cannot be negative", t.Name)
	}
	if p := r.HalfWidthPct; p != nil && !(math.Abs(*p) <= 100*maxUnsure) {
		return fmt.Errorf("%s: half_width_pct is %g %%; that is no share of a rate", t.Name, *p)
	}
	if len(r.Phases) == 0 {
		return nil
	}
	sum, known := 0.0, 0
	for _, p := range t.Phases {
		v, ok := r.Phases[p.ID]
		if !ok {
			continue
		}
		known++
		if v < 0 {
			return fmt.Errorf("%s: phase %q lasts %g s; it cannot be negative", t.Name, p.ID, v)
		}
		if p.Counted() {
			sum += v
		}
	}
	if known != len(r.Phases) {
		var strange []string
		for id := range r.Phases {
			if !t.hasPhase(id) {
				strange = append(strange, fmt.Sprintf("%q", id))
			}
		}
		return fmt.Errorf("%s: the test has no phase %s", t.Name, strings.Join(strange, ", "))
	}
	if t.Kind == Timed && math.Abs(sum-r.Value) > phaseSlack+1e-9 {
		return fmt.Errorf("%s: the value is %.6g s, but the phases that count add up to %.6g s", t.Name, r.Value, sum)
	}
	return nil
}

func (t *Test) hasPhase(id string) bool {
	for _, p := range t.Phases {
		if p.ID == id {
			return true
		}
	}
	return false
}

// Check returns every fault of the job: ids that stand twice, references to
// what is not there, and runs that contradict their test. A job without faults
// can be stored and compared.
func (j *Job) Check() []Fault {
	c := checker{}
	c.parts(j)
	c.runs(j, 0)
	return c.faults
}

// CheckAppended is Check where the runs before from were checked before, against
// the same tests and sittings.
func (j *Job) CheckAppended(from int) []Fault {
	c := checker{}
	c.parts(j)
	c.runs(j, from)
	return c.faults
}

// parts checks all that is no run.
func (c *checker) parts(j *Job) {
	c.unique("/computers", len(j.Computers), func(i int) string { return j.Computers[i].ID })
	c.unique("/drives", len(j.Drives), func(i int) string { return j.Drives[i].ID })
	for i := range j.Drives {
		for k := range j.Drives[i].Sustained {
			if err := j.Drives[i].Sustained[k].Check(); err != nil {
				c.add(fmt.Sprintf("/drives/%d/sustained/%d", i, k), "%v", err)
			}
		}
	}
	c.unique("/tests", len(j.Tests), func(i int) string { return j.Tests[i].ID })
	c.unique("/setups", len(j.Setups), func(i int) string { return j.Setups[i].ID })
	c.unique("/sittings", len(j.Sittings), func(i int) string { return j.Sittings[i].ID })

	if ref := j.Plan.Reference; ref != "" {
		if t := j.Test(ref); t == nil {
			c.add("/plan/reference", "no test has the id %q", ref)
		} else if t.Kind != OnDrive {
			c.add("/plan/reference", "test %q is not a drive test", ref)
		}
	}
	if h := j.Plan.Headline; h != "" && j.Test(h) == nil {
		c.add("/plan/headline", "no test has the id %q", h)
	}
	for kind, u := range j.Usual {
		at := "/spread/" + string(kind)
		if !(u.Weight > 4 && u.Weight <= maxWeight) {
			c.add(at+"/weight", "a weight of %g is not above 4 and up to %g", u.Weight, maxWeight)
		}
		if !(u.Within >= 0 && u.Within <= maxSpread && u.Between >= 0 && u.Between <= maxSpread) {
			c.add(at, "spreads of %g and %g are not relative ones between 0 and %g", u.Within, u.Between, maxSpread)
		}
	}
	for i, t := range j.Tests {
		at := fmt.Sprintf("/tests/%d", i)
		c.unique(at+"/phases", len(t.Phases), func(i int) string { return t.Phases[i].ID })
		if t.Kind == Timed && t.Unit != "s" {
			c.add(at+"/unit", "a timed test is in s, not in %q", t.Unit)
		}
	}
	roles := map[Role]int{}
	for i, s := range j.Setups {
		at := fmt.Sprintf("/setups/%d", i)
		if first, ok := roles[s.Role]; ok && s.Role != Trial {
			c.add(at+"/role", "setup %q is %q already; there is one of each job", j.Setups[first].ID, s.Role)
		} else {
			roles[s.Role] = i
		}
		if j.Computer(s.Computer) == nil {
			c.add(at+"/computer", "no computer has the id %q", s.Computer)
		}
		c.refDrive(j, at+"/drive", s.Drive, true)
		c.refDrive(j, at+"/replaces", s.Replaces, false)
		c.refDrive(j, at+"/of", s.Of, false)
		c.refDrive(j, at+"/cache_drive", s.CacheDrive, false)
		for k, d := range s.Also {
			c.refDrive(j, fmt.Sprintf("%s/also/%d/drive", at, k), d.Drive, true)
		}
	}
	setups := map[string]bool{}
	for _, s := range j.Setups {
		setups[s.ID] = true
	}
	if k := j.Head.Kind; k != "" && !slices.Contains(JobKinds, k) {
		c.add("/job/kind", "%q is none of %s", k, Join(JobKinds))
	}
	for i := range j.Tests {
		if t := &j.Tests[i]; t.Follows != "" && !j.CanFollow(t.ID, t.Follows) {
			c.add(fmt.Sprintf("/tests/%d/follows", i), "%q is no other test that comes before it in a start", t.Follows)
		}
	}
	if s := j.Head.Stays; s != "" && !setups[s] {
		c.add("/job/stays", "no setup has the id %q", s)
	}
	for i, s := range j.Sittings {
		if !setups[s.Setup] {
			c.add(fmt.Sprintf("/sittings/%d/setup", i), "no setup has the id %q", s.Setup)
		}
	}
}

// runs checks the runs from an index on. That no id occurs twice is checked where
// all are checked.
func (c *checker) runs(j *Job, from int) {
	if from == 0 {
		c.unique("/runs", len(j.Runs), func(i int) string { return j.Runs[i].ID })
	}
	sittings := make(map[string]bool, len(j.Sittings))
	for i := range j.Sittings {
		sittings[j.Sittings[i].ID] = true
	}
	tests := make(map[string]*Test, len(j.Tests))
	for i := range j.Tests {
		tests[j.Tests[i].ID] = &j.Tests[i]
	}
	for i := from; i < len(j.Runs); i++ {
		r := &j.Runs[i]
		at := fmt.Sprintf("/runs/%d", i)
		if !sittings[r.Sitting] {
			c.add(at+"/sitting", "no sitting has the id %q", r.Sitting)
		}
		t := tests[r.Test]
		if t == nil {
			c.add(at+"/test", "no test has the id %q", r.Test)
		} else if err := CheckRun(t, r); err != nil {
			c.add(at+"/value", "%v", err)
		}
		c.refDrive(j, at+"/on", r.On, false)
		if r.SetAside != nil && strings.TrimSpace(r.SetAside.Reason) == "" {
			c.add(at+"/set_aside", "a run is set aside with a reason; this one has none")
		}
	}
}

// checker collects faults.
type checker struct{ faults []Fault }

func (c *checker) add(place, format string, args ...any) {
	c.faults = append(c.faults, Fault{Place: place, Reason: fmt.Sprintf(format, args...)})
}

func (c *checker) unique(place string, n int, id func(int) string) {
	seen := make(map[string]bool, n)
	for i := range n {
		if v := id(i); seen[v] {
			c.add(fmt.Sprintf("%s/%d/id", place, i), "the id %q stands twice", v)
		} else {
			seen[v] = true
		}
	}
}

func (c *checker) refDrive(j *Job, place, id string, needed bool) {
	if (id != "" || needed) && j.Drive(id) == nil {
		c.add(place, "no drive has the id %q", id)
	}
}
