package fairness

import (
	"math"
	"slices"
	"strings"
	"time"

	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/core/stats"
)

// touchAll adds a finding to all lines that a rule affects.
func (c *check) touchAll(r *rule, says [2]Value) {
	for _, l := range c.touched(r) {
		c.add(r, l, says)
	}
}

func (c *check) otherComputer(r *rule) {
	if a, b := c.setups[0], c.setups[1]; a != nil && b != nil && a.Computer != b.Computer {
		c.touchAll(r, [2]Value{Computer(a.Computer), Computer(b.Computer)})
	}
}

// otherBaseline finds a drive that replaces another one than the one it is compared
// with, or than the one that the other replaces.
func (c *check) otherBaseline(r *rule) {
	a, b := c.setups[0], c.setups[1]
	if a == nil || b == nil {
		return
	}
	says := func(s *job.Setup) Value {
		if s.Role == job.Then {
			return Drive(s.Drive)
		}
		return Phrase{"replaces", map[string]Value{"Drive": Drive(s.Replaced())}}
	}
	replaced := func(s *job.Setup) string {
		if s.Role == job.Then {
			return s.Drive
		}
		return s.Replaced()
	}
	if p, q := replaced(a), replaced(b); p != "" && q != "" && p != q {
		c.touchAll(r, [2]Value{says(a), says(b)})
		return
	}
	if a.StandIn || b.StandIn {
		standIn := func(s *job.Setup) Value {
			if s.StandIn {
				return Phrase{"stand-in", map[string]Value{"Drive": Drive(s.Drive)}}
			}
			return Drive(s.Drive)
		}
		c.touchAll(r, [2]Value{standIn(a), standIn(b)})
		return
	}
	if p, q := c.takenOver(a), c.takenOver(b); p != nil || q != nil {
		c.touchAll(r, [2]Value{p, q})
	}
}

// takenOver finds a setup that was measured in an earlier job, whose computer may have changed since. It hasn't
// if there is a control measured then and since, and all of them agree.
func (c *check) takenOver(s *job.Setup) Value {
	from := strings.Join(c.TakenOver(s.ID), ", ")
	if from == "" {
		return nil
	}
	// The same computer earlier and since, as if they were two setups.
	const since = "since"
	apart := &job.Job{Usual: c.Usual, Setups: []job.Setup{*s, {ID: since, Drive: s.Drive}}, Drives: c.Drives,
		Sittings: slices.Clone(c.Sittings)}
	for i := range apart.Sittings {
		if t := &apart.Sittings[i]; t.Setup == s.ID && t.Job == "" {
			t.Setup = since
		}
	}
	controls := false
	for i := range c.lines {
		if t := c.lines[i].Test; t.Kind == job.Control {
			apart.Tests, apart.Runs = append(apart.Tests, *t), append(apart.Runs, c.RunsOf(t.ID, s.ID)...)
		}
	}
	x := apart.Indexed()
	for i := range x.Tests {
		t := &x.Tests[i]
		earlier, later := side.Of(x, t, s.ID), side.Of(x, t, since)
		if earlier == nil || later == nil {
			continue
		}
		f, ok := side.RatioOf(t, earlier, later)
		if !ok || f.Low < 1/movedControl || f.High > movedControl {
			return Phrase{"control-since", map[string]Value{"Job": Text(from), "Test": Test(t.ID),
				"Then": Quantity{earlier.Centre, t.Unit}, "Since": Quantity{later.Centre, t.Unit}}}
		}
		controls = true
	}
	if !controls {
		return Phrase{"no-control-since", map[string]Value{"Job": Text(from)}}
	}
	return nil
}

// sameDrive finds sides of different drives whose sittings measured one and the same.
func (c *check) sameDrive(r *rule) {
	a, b := c.setups[0], c.setups[1]
	if a == nil || b == nil || a.Drive == b.Drive {
		return
	}
	for _, l := range c.touched(r) {
		if d := c.drivesMeasured(l.runs[0]); len(d) > 0 && slices.ContainsFunc(c.drivesMeasured(l.runs[1]),
			func(digest string) bool { return slices.Contains(d, digest) }) {
			says := Value(Digest(d[0]))
			c.add(r, l, [2]Value{says, says})
		}
	}
}

// drivesMeasured are the digests of the drives that the sittings of runs say they measured.
func (c *check) drivesMeasured(runs []*job.Run) (digests []string) {
	for _, run := range runs {
		if w := c.Sitting(run.Sitting).Where; w != nil && w.DriveDigest != "" &&
			!slices.Contains(digests, w.DriveDigest) {
			digests = append(digests, w.DriveDigest)
		}
	}
	return digests
}

// measuredElsewhere finds runs that were made in another computer than the customer's, for one of the two or for both.
func (c *check) measuredElsewhere(r *rule) {
	at := func(run *job.Run) string {
		sitting := c.Sitting(run.Sitting)
		if s := c.Setup(sitting.Setup); sitting.Where != nil && s != nil && sitting.Where.Computer != s.Computer {
			return sitting.Where.Computer
		}
		return "" // the customer's
	}
	for _, l := range c.touched(r) {
		var says [2]Value
		places := map[string]bool{}
		for i, runs := range l.runs {
			var list []Value
			for _, run := range runs {
				places[at(run)] = true
				list = append(list, placeOf(at(run)))
			}
			if list = ordered(list); len(list) > 1 {
				says[i] = Mixed(list)
			} else {
				says[i] = list[0]
			}
		}
		switch {
		case len(places) > 1:
			c.add(r, l, says)
		case !places[""]:
			c.put(Finding{Rule: r.id, Effect: Notes, Then: says[0], With: says[1], Remedy: r.id, Minutes: r.minutes},
				l.ID, nil)
		}
	}
}

// placeOf is a computer in which something was measured.
func placeOf(computer string) Value {
	switch computer {
	case "":
		return Term{"where", "customer"}
	case "bench":
		return Term{"where", "bench"}
	}
	return Computer(computer)
}

// systemVersion finds two versions of the system. One that somebody typed isn't compared with one that the probe read:
// they are written differently.
func (c *check) systemVersion(r *rule) {
	a, b := c.setups[0], c.setups[1]
	if a == nil || b == nil {
		return
	}
	says := [2]Value{text(a.System.Version), text(b.System.Version)}
	if same(says[0], says[1]) {
		return
	}
	for _, l := range c.touched(r) {
		switch {
		case says[0] == nil || says[1] == nil:
			c.notRecorded(l, "system-version", [2]Value{known(says[0]), known(says[1])})
		case a.System.Source == b.System.Source || a.System.Source == "" || b.System.Source == "":
			c.add(r, l, says)
		}
	}
}

// systemBeside finds another system, or the like, that is installed beside only one of the two.
func (c *check) systemBeside(r *rule) {
	if a, b := c.setups[0], c.setups[1]; a != nil && b != nil {
		p, q := a.System.AlsoInstalled, b.System.AlsoInstalled
		if p != "" && q != "" && p != q {
			c.touchAll(r, [2]Value{Text(p), Text(q)})
		}
	}
}

// fitted is what was in the computer of a setup.
func (c *check) fitted(s *job.Setup) job.Fitted {
	var f job.Fitted
	if k := c.Computer(s.Computer); k != nil {
		f = job.Fitted{MemoryBytes: k.MemoryBytes, Processor: k.Processor, Graphics: k.Graphics}
	}
	if o := s.Fitted; o != nil {
		if o.MemoryBytes > 0 {
			f.MemoryBytes = o.MemoryBytes
		}
		f.Processor, f.Graphics = or(o.Processor, f.Processor), or(o.Graphics, f.Graphics)
	}
	return f
}

func (c *check) memoryChanged(r *rule) {
	if c.setups[0] == nil || c.setups[1] == nil {
		return
	}
	a, b := c.fitted(c.setups[0]).MemoryBytes, c.fitted(c.setups[1]).MemoryBytes
	if a > 0 && b > 0 && a != b {
		c.touchAll(r, [2]Value{gib(a), gib(b)})
		return
	}
	c.workBetween(r, job.WorkMemory)
}

func (c *check) processorChanged(r *rule) {
	if c.setups[0] == nil || c.setups[1] == nil {
		return
	}
	a, b := c.fitted(c.setups[0]), c.fitted(c.setups[1])
	for _, pair := range [][2]string{{a.Processor, b.Processor}, {a.Graphics, b.Graphics}} {
		if pair[0] != "" && pair[1] != "" && pair[0] != pair[1] {
			c.touchAll(r, [2]Value{Text(pair[0]), Text(pair[1])})
		}
	}
}

func (c *check) otherWork(r *rule) {
	c.workBetween(r, job.WorkCleaning, job.WorkCooling, job.WorkFirmware, job.WorkDrivers, job.WorkTidying,
		job.WorkOther)
}

// workBetween finds work of some kinds that was done between the kept runs of a line:
// some were made before it and others after, or may have been.
func (c *check) workBetween(r *rule, kinds ...job.WorkKind) {
	for _, l := range c.touched(r) {
		var says [2][]Value
		for _, w := range c.Head.Work {
			if !slices.Contains(kinds, w.What) || !w.TouchesMeasuring() {
				continue
			}
			a, b := c.around(l.runs[0], w), c.around(l.runs[1], w)
			if a != b || a == aroundIt {
				for i, when := range []string{a, b} {
					said := Phrase{when, map[string]Value{"Work": Term{"work", string(w.What)}}}
					if !slices.ContainsFunc(says[i], func(v Value) bool { return same(v, said) }) {
						says[i] = append(says[i], said)
					}
				}
			}
		}
		if len(says[0]) > 0 {
			c.add(r, l, [2]Value{several(says[0]), several(says[1])})
		}
	}
}

// Keys of when runs were made, seen from some work.
const (
	beforeIt    = "before-work"
	afterIt     = "after-work"
	aroundIt    = "around-work"
	nobodyNoted = "somewhen-around-work"
)

// around reports whether runs were made before or after some work.
func (c *check) around(runs []*job.Run, w job.Work) string {
	before, after := false, false
	for _, r := range runs {
		at := c.at(r)
		if at.IsZero() {
			return nobodyNoted
		}
		before, after = before || !at.After(w.At), after || at.After(w.At)
	}
	switch {
	case before && after:
		return aroundIt
	case before:
		return beforeIt
	}
	return afterIt
}

// at is when a run was made, as far as is known.
func (c *check) at(r *job.Run) time.Time {
	if r.At.IsZero() {
		return c.Sitting(r.Sitting).Started
	}
	return r.At
}

// systemOrigin finds a system that was freshly installed for only one of the setups.
func (c *check) systemOrigin(r *rule) {
	a, b := c.setups[0], c.setups[1]
	if a == nil || b == nil {
		return
	}
	kept := func(o job.Origin) bool { return o == job.AsArrived || o == job.Cloned }
	p, q := a.System.Origin, b.System.Origin
	if kept(p) && q == job.Fresh || p == job.Fresh && kept(q) {
		c.touchAll(r, [2]Value{Term{"origin", string(p)}, Term{"origin", string(q)}})
	}
}

// attachment finds an internal drive that was connected by USB in only one of the setups.
func (c *check) attachment(r *rule) {
	how := func(s *job.Setup) Value {
		if s == nil || s.Attached.Port == "" && s.Link == nil {
			return nil
		}
		d := c.Drive(s.Drive)
		if s.OverUSB() && (d == nil || d.Kind != job.USBFlash) {
			return overUSB
		}
		port := s.Attached.Port
		if port == "" {
			port = s.Link.Kind
		}
		return Phrase{"inside", map[string]Value{"Port": Term{"port", string(port)}}}
	}
	a, b := how(c.setups[0]), how(c.setups[1])
	if a != nil && b != nil && same(a, overUSB) != same(b, overUSB) {
		c.touchAll(r, [2]Value{a, b})
	}
}

var overUSB = Term{"attachment", "usb"}

// otherContent finds another document, save or folder; samples of the customer's files are compared
// by the bytes that they have in common.
func (c *check) otherContent(r *rule) {
	for _, l := range c.touched(r) {
		a, b := sampleOf(l.runs[0]), sampleOf(l.runs[1])
		if a == nil || b == nil {
			if says, with, odd, differ := c.compare(l, &content); differ {
				c.add(r, l, [2]Value{says, with}, odd...)
			}
			continue
		}
		common := inCommon(a, b)
		says := Phrase{"in-common", map[string]Value{"Share": Quantity{common * 100, "%"}}}
		switch {
		case common < shareOther:
			c.add(r, l, [2]Value{says, says})
		case common < shareSame:
			c.put(Finding{Rule: r.id, Effect: Qualifies, Then: says, With: says, Remedy: r.id, Minutes: r.minutes},
				l.ID, nil)
		}
	}
}

// unequalAmounts finds copies that were timed by hand and didn't copy as much.
func (c *check) unequalAmounts(r *rule) {
	for _, l := range c.touched(r) {
		low, high := int64(math.MaxInt64), int64(0)
		var says [2]Value
		for i, runs := range l.runs {
			var list []Value
			for _, run := range runs {
				if run.ByHand() && run.Bytes > 0 {
					low, high = min(low, run.Bytes), max(high, run.Bytes)
					list = append(list, Quantity{float64(run.Bytes), "B"})
				}
			}
			if list = ordered(list); len(list) > 1 {
				says[i] = Mixed(list)
			} else {
				says[i] = several(list)
			}
		}
		if says[0] != nil && says[1] != nil && float64(high) > sameAmount*float64(low) {
			c.add(r, l, says)
		}
	}
}

// sampleOf is the first sample of existing files that runs state.
func sampleOf(runs []*job.Run) []job.SampleFile {
	for _, r := range runs {
		if len(r.Sample) > 0 {
			return r.Sample
		}
	}
	return nil
}

// inCommon is the share of the bytes of two samples that lies in files of the same path
// and size.
func inCommon(a, b []job.SampleFile) float64 {
	sizes := make(map[string]int64, len(a))
	whole, common := int64(0), int64(0)
	for _, f := range a {
		sizes[f.Path] = f.Bytes
		whole += f.Bytes
	}
	other := int64(0)
	for _, f := range b {
		other += f.Bytes
		if n, ok := sizes[f.Path]; ok && n == f.Bytes {
			common += n
		}
	}
	return float64(common) / float64(max(1, whole, other))
}

// contentElsewhere finds content that lay on a drive that was not changed, on both
// sides.
func (c *check) contentElsewhere(r *rule) {
	for _, l := range c.touched(r) {
		on := map[string]bool{}
		elsewhere := true
		for _, runs := range l.runs {
			for _, run := range runs {
				on[run.On] = true
				elsewhere = elsewhere && c.elsewhere(run)
			}
		}
		if elsewhere && len(on) == 1 {
			says := Phrase{"on-drive", map[string]Value{"Drive": Drive(l.runs[0][0].On)}}
			c.add(r, l, [2]Value{says, says})
		}
	}
}

// fill finds drives of which one was much fuller.
func (c *check) fill(r *rule) {
	for _, l := range c.touched(r) {
		low, high := math.Inf(1), math.Inf(-1)
		var says [2]Value
		for i, runs := range l.runs {
			from, to := math.Inf(1), math.Inf(-1)
			for _, run := range runs {
				if f := c.conditions(run).FillPct; f != nil {
					from, to = min(from, *f), max(to, *f)
				}
			}
			low, high = min(low, from), max(high, to)
			switch {
			case from > to:
			case to-from < 1:
				says[i] = Phrase{"full", map[string]Value{"Fill": Quantity{math.Round(to), "%"}}}
			default:
				says[i] = Phrase{"full-between",
					map[string]Value{"From": Quantity{math.Round(from), ""}, "To": Quantity{math.Round(to), "%"}}}
			}
		}
		switch {
		case high-low > fillPoints:
			c.add(r, l, [2]Value{known(says[0]), known(says[1])})
		case (says[0] == nil) != (says[1] == nil):
			c.notRecorded(l, "fill", [2]Value{known(says[0]), known(says[1])})
		}
	}
}

// placement finds test files that lay far from each other on turning disks.
func (c *check) placement(r *rule) {
	for _, s := range c.setups {
		if s == nil || c.Drive(s.Drive) == nil || c.Drive(s.Drive).Kind != job.HDD {
			return
		}
	}
	for _, l := range c.touched(r) {
		var middle [2]float64
		for i, runs := range l.runs {
			var at []float64
			for _, run := range runs {
				if p := run.Placement; p != nil {
					at = append(at, (p.FromPct+p.ToPct)/2)
				}
			}
			middle[i] = stats.Median(at) // NaN if not known
		}
		if math.Abs(middle[0]-middle[1]) > placePoints {
			say := func(v float64) Value {
				return Phrase{"at-place", map[string]Value{"Place": Quantity{math.Round(v), "%"}}}
			}
			c.add(r, l, [2]Value{say(middle[0]), say(middle[1])})
		}
	}
}

// controlMoved finds a control that moved: something else than the drive changed.
func (c *check) controlMoved(r *rule) {
	for i := range c.lines {
		l := &c.lines[i]
		if l.Kind != job.Control {
			continue
		}
		f, ok := c.ratio(l)
		if ok && (f.Low > movedControl || f.High < 1/movedControl) {
			say := func(s *side.Side) Value {
				return Phrase{"test-at", map[string]Value{"Test": Test(l.ID), "Figure": Quantity{s.Centre, l.Unit}}}
			}
			c.touchAll(r, [2]Value{say(l.sides[0]), say(l.sides[1])})
		}
	}
}

// moreThanTheDrive finds lines whose speed-up exceeds the reference drive test's, in the direction in which
// they are faster (calculations, section 5).
func (c *check) moreThanTheDrive(r *rule) {
	drive, ok := c.reference()
	if !ok {
		return
	}
	for _, l := range c.touched(r) {
		f, ok := c.ratio(l)
		if !ok {
			continue
		}
		say := func(factor, drive float64) Value {
			return Phrase{"faster-than-drive",
				map[string]Value{"Factor": Quantity{factor, "×"}, "Drive": Quantity{drive, "×"}}}
		}
		var says [2]Value
		switch {
		case f.Low > 1 && f.Low > drive.High:
			says[1] = say(f.Factor, drive.Factor)
		case f.High < 1 && f.High < drive.Low:
			says[0] = say(1/f.Factor, 1/drive.Factor)
		default:
			continue
		}
		c.add(r, l, says)
	}
}

// reference is the ratio of the plan's reference drive test, where it is comparable.
func (c *check) reference() (side.Ratio, bool) {
	for _, id := range c.References() {
		for i := range c.lines {
			if l := &c.lines[i]; l.ID == id {
				if f, ok := c.ratio(l); ok {
					return f, true
				}
			}
		}
	}
	return side.Ratio{}, false
}
