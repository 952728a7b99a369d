package fairness

import (
	"cmp"
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
	// name is what isn't recorded if only one side states it; "" if that doesn't matter.
	name string
	// of is what a run states; nil if nothing.
	of func(c *check, l *line, r *job.Run) Value
	// class is what of it must agree; nil: all of it.
	class func(Value) string
}

// facts returns the finder of a rule that compares facts separately; all differences on a line are one finding.
func facts(list ...fact) func(*check, *rule) {
	return func(c *check, r *rule) {
		for _, l := range c.touched(r) {
			var says [2][]Value
			var runs []string
			for i := range list {
				if a, b, odd, differ := c.compare(l, &list[i]); differ {
					says[0], says[1], runs = append(says[0], a), append(says[1], b), append(runs, odd...)
				}
			}
			if len(says[0]) > 0 {
				slices.Sort(runs)
				c.add(r, l, [2]Value{several(says[0]), several(says[1])}, slices.Compact(runs)...)
			}
		}
	}
}

// stated is what the runs of one side state: what is said, how often each class is,
// and the class of each run that says something.
type stated struct {
	said    []Value
	classes map[string]int
	runs    []*job.Run
	of      []string
}

func (c *check) stated(l *line, side int, f *fact) stated {
	s := stated{classes: map[string]int{}}
	for _, r := range l.runs[side] {
		v := f.of(c, l, r)
		if v == nil {
			continue
		}
		s.said = append(s.said, v)
		class := key(v)
		if f.class != nil {
			class = f.class(v)
		}
		s.classes[class]++
		s.runs, s.of = append(s.runs, r), append(s.of, class)
	}
	s.said = ordered(s.said)
	return s
}

// all is what the runs of a side state together.
func (s *stated) all() Value {
	switch len(s.said) {
	case 0:
		return unknown
	case 1:
		return s.said[0]
	}
	return Mixed(s.said)
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

// compare returns what both sides of a line state of a fact, whether the runs disagree, and which disagree with
// most of their own side. If only one side states it, that is a separate finding.
func (c *check) compare(l *line, f *fact) (then, with Value, odd []string, differ bool) {
	a, b := c.stated(l, 0, f), c.stated(l, 1, f)
	both := map[string]bool{}
	for _, s := range []stated{a, b} {
		for class := range s.classes {
			both[class] = true
		}
	}
	switch {
	case len(both) > 1:
		return a.all(), b.all(), append(a.minority(&b), b.minority(&a)...), true
	case f.name != "" && (len(a.said) == 0) != (len(b.said) == 0):
		c.notRecorded(l, f.name, [2]Value{a.all(), b.all()})
	}
	return nil, nil, nil, false
}

func (c *check) notRecorded(l *line, name string, says [2]Value) {
	say := func(v Value) Value { return Phrase{"of-fact", map[string]Value{"Fact": Term{"fact", name}, "Is": v}} }
	c.add(ruleOf(notRecorded), l, [2]Value{say(says[0]), say(says[1])})
}

// params says what was measured: a run's own parameters, else its test's.
var params = fact{of: func(_ *check, l *line, r *job.Run) Value {
	if r.Params != nil {
		return parameters(r.Params)
	}
	if l.Params != nil && l.params == nil {
		l.params = parameters(l.Params)
	}
	return l.params
}}

// parameters are those of a drive test, one after another. A size is a quantity; what has parts of its own is
// told by its JSON.
func parameters(p *drivetest.Workload) Value {
	same := *p
	same.MaxSeconds, same.Unknown = same.Seconds(), nil // nothing said means the usual time
	text, err := json.Marshal(&same, json.Deterministic(true))
	if err != nil {
		return nil
	}
	var members map[string]jsontext.Value
	if json.Unmarshal(text, &members) != nil {
		return nil
	}
	var list []Value
	for name, v := range members {
		list = append(list, Phrase{"parameter",
			map[string]Value{"Name": Term{"parameter", name}, "Is": parameter(name, v)}})
	}
	return several(ordered(list))
}

// units are those of parameters.
var units = map[string]string{"block_bytes": "B", "span_bytes": "B", "max_bytes": "B", "max_seconds": "s",
	"warm_seconds": "s"}

// parameter is the value of a parameter.
func parameter(name string, v jsontext.Value) Value {
	var n float64
	var word string
	switch {
	case json.Unmarshal(v, &n) == nil:
		return Quantity{n, units[name]}
	case json.Unmarshal(v, &word) == nil:
		return Term{name, word}
	case v.Kind() == 't':
		return Term{"known", "yes"}
	}
	return Text(v)
}

// split says into which phases that count a run was split.
var split = fact{of: func(_ *check, l *line, r *job.Run) Value {
	if len(l.Phases) == 0 {
		return nil
	}
	if len(r.Phases) == 0 {
		return Term{"phases", "none"}
	}
	var names []Value
	for _, p := range l.Phases {
		if _, ok := r.Phases[p.ID]; ok && p.Counted() {
			names = append(names, Text(or(p.Name, p.ID)))
		}
	}
	return several(names)
}}

var (
	appVersion = fact{name: "app-version", of: func(_ *check, _ *line, r *job.Run) Value { return text(r.AppVersion) }}
	supply     = fact{name: "power",
		of: func(c *check, _ *line, r *job.Run) Value { return term("power", c.conditions(r).Power) }}
	mode = fact{name: "power-mode",
		of: func(c *check, _ *line, r *job.Run) Value { return term("power-mode", c.conditions(r).PowerMode) }}
	warmth = fact{name: "warmth",
		of: func(_ *check, l *line, r *job.Run) Value { return term("warmth", cmp.Or(r.Warmth, l.Warmth)) }}
	startKind = fact{name: "start-kind",
		of: func(_ *check, l *line, r *job.Run) Value { return term("start-kind", cmp.Or(r.StartKind, l.StartKind)) }}
)

// content is the document, save or folder that was opened.
var content = fact{name: "content", of: func(_ *check, _ *line, r *job.Run) Value {
	if r.ContentDigest == "" {
		return nil
	}
	return Digest(r.ContentDigest)
}}

// idle is what a sitting says during which nothing else ran.
var idle = Term{"busy", "nothing"}

// busy is known from its list, or from both loads together; busy is compared with idle.
var busy = fact{name: "busy", of: whatElseRan, class: func(v Value) string {
	if same(v, idle) {
		return "idle"
	}
	return "busy"
}}

func whatElseRan(c *check, _ *line, r *job.Run) Value {
	k := c.conditions(r)
	var what []Value
	for _, w := range k.Busy {
		what = append(what, Term{"busy", string(w)})
	}
	if v := k.BackgroundMBs; v != nil && *v > busyMBs {
		what = append(what, Term{"busy", "background"})
	}
	if v := k.CPUPct; v != nil && *v > busyCPUPct {
		what = append(what, Term{"busy", "processor"})
	}
	if len(what) > 0 {
		return several(ordered(what))
	}
	if k.Busy != nil || k.BackgroundMBs != nil && k.CPUPct != nil {
		return idle
	}
	return nil
}

var (
	encrypting = fact{name: "encrypting",
		of: func(c *check, _ *line, r *job.Run) Value { return yesNo("encrypting", c.conditions(r).Encrypting) }}
	encryption = fact{name: "encrypted",
		of: func(c *check, _ *line, r *job.Run) Value { return yesNo("encrypted", c.conditions(r).Encrypted) }}
)

// place says where a run's content lay: on the drive under test, or on another.
var place = fact{of: func(c *check, _ *line, r *job.Run) Value {
	if c.elsewhere(r) {
		return Term{"place", "another-drive"}
	}
	return Term{"place", "under-test"}
}}

// elsewhere reports whether a run's content lay on another drive than the setup's.
func (c *check) elsewhere(r *job.Run) bool {
	s := c.Setup(c.Sitting(r.Sitting).Setup)
	return r.On != "" && s != nil && r.On != s.Drive
}

// listed are typed names; none where the list is empty, nil if not checked.
func listed(list []string, none Value) Value {
	if list == nil {
		return nil
	}
	if len(list) == 0 {
		return none
	}
	var names []Value
	for _, name := range list {
		names = append(names, Text(name))
	}
	return several(ordered(names))
}

var attached = fact{of: func(c *check, _ *line, r *job.Run) Value {
	return listed(c.conditions(r).Attached, Term{"attached", "nothing"})
}}

// firmwareFact is one of the firmware's settings.
func firmwareFact(of func(*job.Firmware) Value) fact {
	return fact{of: func(c *check, _ *line, r *job.Run) Value {
		f := c.conditions(r).Firmware
		if f == nil {
			return nil
		}
		return of(f)
	}}
}

// phrase puts one value into a phrase; nil stays nil.
func phrase(key, part string, v Value) Value {
	if v == nil {
		return nil
	}
	return Phrase{key, map[string]Value{part: v}}
}

var (
	firmware    = firmwareFact(func(f *job.Firmware) Value { return phrase("firmware", "Version", text(f.Version)) })
	quickStart  = firmwareFact(func(f *job.Firmware) Value { return yesNo("quick-start", f.QuickStart) })
	storageMode = firmwareFact(func(f *job.Firmware) Value {
		return phrase("storage-mode", "Mode", text(f.StorageMode))
	})
	switchedOff = firmwareFact(func(f *job.Firmware) Value {
		return phrase("switched-off", "What", listed(f.Off, Term{"attached", "nothing-off"}))
	})
)

var method = fact{of: func(_ *check, _ *line, r *job.Run) Value {
	switch r.Method {
	case job.Automatic, job.RestartWatch, job.SystemRecord, job.Video:
		return Term{"method", "automatic"}
	case job.Stopwatch, job.FinishLine, job.Typed:
		return Term{"method", "by-hand"}
	}
	return nil
}}

// program is what showed the figure: ours, or another that somebody named. A typed rate or file test of which nobody
// noted the program wasn't read in ours.
var program = fact{of: func(_ *check, l *line, r *job.Run) Value {
	p := r.ReadIn
	switch {
	case p != nil:
		said := []Value{text(strings.TrimSpace(or(p.Program, "?") + " " + p.Version))}
		if p.FileBytes > 0 {
			said = append(said, Phrase{"test-file", map[string]Value{"Size": Quantity{float64(p.FileBytes), "B"}}})
		}
		return several(said)
	case r.Method == job.Typed && (l.Kind == job.OnDrive || l.Kind == job.OnFiles):
		return Term{"program", "unnamed"}
	case r.Method == job.Typed:
		return Term{"program", "none"}
	}
	return Term{"program", "ours"}
}, class: func(v Value) string {
	if t, ok := v.(Term); ok && t.Is == "none" {
		return key(Term{"program", "ours"})
	}
	return key(v)
}}

// engine is the version of what measured; what follows a plus changes no result.
var engine = fact{of: func(_ *check, _ *line, r *job.Run) Value {
	version, _, _ := strings.Cut(r.Engine, "+")
	return text(version)
}}

func gib(n int64) Value { return Quantity{float64(n) / (1 << 30), "GiB"} }
