package fairness

import (
	"fmt"
	"slices"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"

	"nowthen/core/drivetest"
	"nowthen/core/job"
)

// fact is something that a run or its sitting can state, and that has to be the same for
// all kept runs of both sides.
type fact struct {
	// name says what is not recorded where one side alone states it; "" where that is
	// not asked for.
	name string
	// of is what a run states, in words; "" where it says nothing.
	of func(c *check, l *line, r *job.Run) string
	// class is what of it must agree; nil: all of it.
	class func(string) string
}

// facts makes the finder of a rule that compares facts, each apart; what differs on a
// line is one finding.
func facts(list ...fact) func(*check, *rule) {
	return func(c *check, r *rule) {
		for _, l := range c.touched(r) {
			var says [2][]string
			var runs []string
			for i := range list {
				if a, b, odd, differ := c.compare(l, &list[i]); differ {
					says[0], says[1], runs = append(says[0], a), append(says[1], b), append(runs, odd...)
				}
			}
			if len(says[0]) > 0 {
				slices.Sort(runs)
				c.add(r, l, [2]string{strings.Join(says[0], ", "), strings.Join(says[1], ", ")}, slices.Compact(runs)...)
			}
		}
	}
}

// stated is what the runs of one side state: what is said, how often each class is,
// and the class of each run that says something.
type stated struct {
	said    []string
	classes map[string]int
	runs    []*job.Run
	of      []string
}

func (c *check) stated(l *line, side int, f *fact) stated {
	s := stated{classes: map[string]int{}}
	for _, r := range l.runs[side] {
		v := f.of(c, l, r)
		if v == "" {
			continue
		}
		if !slices.Contains(s.said, v) {
			s.said = append(s.said, v)
		}
		if f.class != nil {
			v = f.class(v)
		}
		s.classes[v]++
		s.runs, s.of = append(s.runs, r), append(s.of, v)
	}
	slices.Sort(s.said)
	return s
}

func (s *stated) words() string {
	if len(s.said) == 0 {
		return "not recorded"
	}
	return strings.Join(s.said, " and ")
}

// minority names the runs that disagree with most of their side: by what most of it
// states, then by what most of both states, then by what its first run states.
func (s *stated) minority(other *stated) []string {
	if len(s.classes) < 2 {
		return nil
	}
	most := s.of[0]
	for class, n := range s.classes {
		m := s.classes[most]
		if n > m || n == m && other.classes[class] > other.classes[most] {
			most = class
		}
	}
	var runs []string
	for i, r := range s.runs {
		if s.of[i] != most {
			runs = append(runs, r.ID)
		}
	}
	return runs
}

// compare tells what both sides of a line say of a fact, whether the runs that state it
// disagree, and which disagree with most of their own side. Where one side alone states
// it, that is a finding of its own.
func (c *check) compare(l *line, f *fact) (then, with string, odd []string, differ bool) {
	a, b := c.stated(l, 0, f), c.stated(l, 1, f)
	both := map[string]bool{}
	for _, s := range []stated{a, b} {
		for class := range s.classes {
			both[class] = true
		}
	}
	switch {
	case len(both) > 1:
		return a.words(), b.words(), append(a.minority(&b), b.minority(&a)...), true
	case f.name != "" && (len(a.said) == 0) != (len(b.said) == 0):
		c.notRecorded(l, f.name, [2]string{a.words(), b.words()})
	}
	return "", "", nil, false
}

func (c *check) notRecorded(l *line, name string, says [2]string) {
	c.add(ruleOf(notRecorded), l, [2]string{name + ": " + says[0], name + ": " + says[1]})
}

// setupFact is something that a setup can state.
type setupFact struct {
	name string
	of   func(*job.Setup) string
}

func setupFacts(list ...setupFact) func(*check, *rule) {
	return func(c *check, r *rule) {
		if c.setups[0] == nil || c.setups[1] == nil {
			return
		}
		for _, f := range list {
			says := [2]string{f.of(c.setups[0]), f.of(c.setups[1])}
			for _, l := range c.touched(r) {
				switch {
				case says[0] == says[1]:
				case says[0] != "" && says[1] != "":
					c.add(r, l, says)
				default:
					c.notRecorded(l, f.name, [2]string{or(says[0], "not recorded"), or(says[1], "not recorded")})
				}
			}
		}
	}
}

var systemVersion = setupFact{"system version", func(s *job.Setup) string { return s.System.Version }}

// params says what was measured: a run's own parameters, else its test's.
var params = fact{of: func(_ *check, l *line, r *job.Run) string {
	if r.Params != nil {
		return parameters(r.Params)
	}
	if l.Params != nil && l.params == "" {
		l.params = parameters(l.Params)
	}
	return l.params
}}

func parameters(p *drivetest.Workload) string {
	same := *p
	same.MaxSeconds, same.Unknown = same.Seconds(), nil // nothing said means the usual time
	text, err := json.Marshal(&same, json.Deterministic(true))
	if err != nil {
		return ""
	}
	return plainly(text)
}

// plainly writes a JSON object's members without its signs.
func plainly(text []byte) string {
	var members map[string]jsontext.Value
	if json.Unmarshal(text, &members) != nil {
		return string(text)
	}
	var words []string
	for name, v := range members {
		words = append(words, strings.ReplaceAll(name, "_", " ")+" "+strings.Trim(string(v), `"`))
	}
	slices.Sort(words)
	return strings.Join(words, ", ")
}

// split says into which phases that count a run was split.
var split = fact{of: func(_ *check, l *line, r *job.Run) string {
	if len(l.Phases) == 0 {
		return ""
	}
	if len(r.Phases) == 0 {
		return "not split into its phases"
	}
	var names []string
	for _, p := range l.Phases {
		if _, ok := r.Phases[p.ID]; ok && p.Counted() {
			names = append(names, or(p.Name, p.ID))
		}
	}
	return strings.Join(names, ", ")
}}

var (
	appVersion = fact{name: "application version", of: func(_ *check, _ *line, r *job.Run) string { return r.AppVersion }}
	content    = fact{name: "content", of: func(_ *check, _ *line, r *job.Run) string { return r.ContentDigest }}
	supply     = fact{name: "power supply", of: func(c *check, _ *line, r *job.Run) string { return c.conditions(r).Power }}
	warmth     = fact{name: "cold or warm", of: func(_ *check, l *line, r *job.Run) string { return or(r.Warmth, l.Warmth) }}
	startKind  = fact{name: "kind of start", of: func(_ *check, l *line, r *job.Run) string { return or(r.StartKind, l.StartKind) }}
)

var mode = fact{name: "power mode", of: func(c *check, _ *line, r *job.Run) string {
	switch m := c.conditions(r).PowerMode; m {
	case "":
		return ""
	case job.SavingMode:
		return "power saving"
	default:
		return m + " power mode"
	}
}}

// idle is what a sitting says during which nothing else ran.
const idle = "nothing else running"

// busy is known by its list, or by both loads together; busy is compared with not busy.
var busy = fact{name: "what else was running", of: busyWords, class: func(v string) string {
	if v == idle {
		return idle
	}
	return "busy"
}}

func busyWords(c *check, _ *line, r *job.Run) string {
	k := c.conditions(r)
	what := slices.Clone(k.Busy)
	if v := k.BackgroundMBs; v != nil && *v > busyMBs {
		what = append(what, "background I/O")
	}
	if v := k.CPUPct; v != nil && *v > busyCPUPct {
		what = append(what, "busy processor")
	}
	if len(what) == 0 {
		if k.Busy != nil || k.BackgroundMBs != nil && k.CPUPct != nil {
			return idle
		}
		return ""
	}
	slices.Sort(what)
	return strings.Join(slices.Compact(what), ", ")
}

func yesNo(v *bool, yes, no string) string {
	switch {
	case v == nil:
		return ""
	case *v:
		return yes
	}
	return no
}

var (
	encrypting = fact{name: "whether it was being encrypted", of: func(c *check, _ *line, r *job.Run) string {
		return yesNo(c.conditions(r).Encrypting, "a pass was running", "no pass running")
	}}
	encryption = fact{name: "encryption", of: func(c *check, _ *line, r *job.Run) string {
		return yesNo(c.conditions(r).Encrypted, "encrypted", "not encrypted")
	}}
)

// place says where a run's content lay: on the drive under test, or on another.
var place = fact{of: func(c *check, _ *line, r *job.Run) string {
	if c.elsewhere(r) {
		return "on another drive"
	}
	return "on the drive under test"
}}

// elsewhere tells whether a run's content lay on another drive than the setup's.
func (c *check) elsewhere(r *job.Run) bool {
	s := c.Setup(c.Sitting(r.Sitting).Setup)
	return r.On != "" && s != nil && r.On != s.Drive
}

// listed writes a list that may be empty; "" where nobody looked.
func listed(list []string, none string) string {
	if list == nil {
		return ""
	}
	if len(list) == 0 {
		return none
	}
	return strings.Join(slices.Sorted(slices.Values(list)), ", ")
}

var attached = fact{of: func(c *check, _ *line, r *job.Run) string {
	return listed(c.conditions(r).Attached, "nothing else attached")
}}

// firmwareFact is one of the firmware's settings.
func firmwareFact(of func(*job.Firmware) string) fact {
	return fact{of: func(c *check, _ *line, r *job.Run) string {
		f := c.conditions(r).Firmware
		if f == nil {
			return ""
		}
		return of(f)
	}}
}

var (
	firmware = firmwareFact(func(f *job.Firmware) string {
		if f.Version == "" {
			return ""
		}
		return "firmware " + f.Version
	})
	quickStart  = firmwareFact(func(f *job.Firmware) string { return yesNo(f.QuickStart, "quick start on", "quick start off") })
	storageMode = firmwareFact(func(f *job.Firmware) string {
		if f.StorageMode == "" {
			return ""
		}
		return "storage mode " + f.StorageMode
	})
	switchedOff = firmwareFact(func(f *job.Firmware) string {
		if off := listed(f.Off, "nothing"); off != "" {
			return off + " switched off"
		}
		return ""
	})
)

var method = fact{of: func(_ *check, _ *line, r *job.Run) string {
	switch r.Method {
	case job.Automatic, job.RestartWatch, job.SystemRecord, job.Video:
		return "by itself"
	case job.Stopwatch, job.FinishLine, job.Typed:
		return "by hand"
	}
	return ""
}}

// engine is the version of what measured; what follows a plus changes no result.
var engine = fact{of: func(_ *check, _ *line, r *job.Run) string {
	version, _, _ := strings.Cut(r.Engine, "+")
	return version
}}

func gib(n int64) string { return fmt.Sprintf("%g GiB", float64(n)/(1<<30)) }
