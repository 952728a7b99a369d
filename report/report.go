// Package report makes of a comparison what the customer reads: what was done,
// what it means in waiting, the figures, how they were measured, the caveats.
//
// It chooses and words, and computes nothing that the core has not computed.
// How a document looks on paper or on a screen is others' business.
package report

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"nowthen/core/compare"
	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/words"
)

// Document is a report. It holds every word that stands on it, so that an
// issued report stays as it was.
type Document struct {
	Number    string     `json:"number"`
	Issued    *time.Time `json:"issued"` // nil: a draft
	Customer  string     `json:"customer"`
	Computer  string     `json:"computer"`
	Simulated bool       `json:"simulated"`
	Headline  string     `json:"headline"`
	Lead      string     `json:"lead"`
	Week      string     `json:"week"`    // what the customer is spared, "" where nothing is decided
	Share     string     `json:"share"`   // how much of the wait was the drive's, or ""
	Done      []string   `json:"done"`    // what was done, a sentence each
	Waiting   []Figure   `json:"waiting"` // what the customer feels
	Drive     []Figure   `json:"drive"`   // what the drive does
	Other     []Figure   `json:"other"`   // what was read off: noise, temperature, battery
	How       []string   `json:"how"`     // how it was measured
	Caveats   []Caveat   `json:"caveats"`
}

// Figure is one line of the report.
type Figure struct {
	Name    string   `json:"name"`
	Unit    string   `json:"unit"`
	Better  string   `json:"better"` // lower, higher
	Then    *float64 `json:"then"`
	Now     *float64 `json:"now"`
	Words   Words    `json:"words"`
	Verdict string   `json:"verdict"`
	// Single marks a line with only one run on a side.
	Single bool `json:"single"`
	// Notes are the numbers, from 1, of the caveats that touch it.
	Notes []int `json:"notes"`
}

// Words of a figure.
type Words struct {
	Then  string `json:"then"`
	Now   string `json:"now"`
	Main  string `json:"main"`  // "60 % less waiting", "5.1×", "too close to call"
	Extra string `json:"extra"` // "2.5× as fast, saves 54 s each time"
	Range string `json:"range"` // "between 2.3× and 2.7×"
}

// Caveat is what the reader must know beside the figures it touches.
type Caveat struct {
	Title  string   `json:"title"`
	Detail string   `json:"detail"`
	Lines  []string `json:"lines"`
}

// New makes the report of a comparison.
func New(j *job.Job, l *compare.Ledger) *Document {
	d := &Document{Number: j.Head.Number, Customer: j.Head.Customer.Name, Simulated: j.Simulated(),
		Waiting: []Figure{}, Drive: []Figure{}, Other: []Figure{}, Caveats: []Caveat{}}
	then, with := j.Setup(l.Then), j.Setup(l.With)
	c := j.Computer(then.Computer)
	d.Computer = strings.TrimSpace(c.Maker + " " + c.Model)
	d.Done = done(j, then, with)
	notes := d.caveats(j, l)
	for i := range l.Lines {
		ln := &l.Lines[i]
		t := j.Test(ln.Test)
		if ln.Then == nil && ln.With == nil {
			continue
		}
		f := figure(t, ln)
		if ln.Then == nil && t.Kind == job.OnDrive {
			f.Words.Main = against(j, t, with)
		}
		f.Notes = notes[t.ID]
		switch t.Kind {
		case job.OnDrive:
			d.Drive = append(d.Drive, f)
		case job.Timed, job.OnFiles:
			d.Waiting = append(d.Waiting, f)
		case job.Note:
			d.Other = append(d.Other, f)
		}
	}
	d.summary(j, l)
	d.How = how(j, l)
	return d
}

// called are the sides' names on a report.
var called = words.Sides{Then: "the old drive", With: "the new drive"}

// figure says a line. A difference that does not hold once all lines are considered, or
// that rests on a single run, is not claimed.
func figure(t *job.Test, ln *compare.Line) Figure {
	w := words.Line(ln, t, called)
	f := Figure{Name: t.Name, Unit: t.Unit, Better: t.Better, Verdict: string(ln.Verdict), Single: ln.Indicative, Notes: []int{}}
	if ln.Then != nil {
		f.Then = &ln.Then.Centre
	}
	if ln.With != nil {
		f.Now = &ln.With.Centre
	}
	f.Words = Words{Then: forCustomer(w.Then), Now: forCustomer(w.With), Main: w.Factor, Range: w.Range}
	switch {
	case w.Doubt != "":
		f.Words.Main, f.Words.Range = "not certain", ""
	case w.Waiting != "":
		f.Words.Main, f.Words.Extra = w.Waiting, w.Factor+", "+w.Saves
	case ln.Verdict == compare.NotMeasured && ln.Then == nil:
		f.Words.Main = "not measured before"
	case ln.Verdict == compare.NotMeasured:
		f.Words.Main = "not measured after"
	}
	if w.KeepsUp != "" {
		f.Words.Extra = w.KeepsUp
	}
	return f
}

// against says what a drive that stands alone is held against: its rating and its link.
func against(j *job.Job, t *job.Test, s *job.Setup) string {
	var said []string
	if d := j.Drive(s.Drive); d != nil && d.Rated != nil {
		rated := map[string]float64{"long-read": d.Rated.ReadMBs, "long-write": d.Rated.WriteMBs}[t.What]
		if rated > 0 {
			said = append(said, "rated "+words.Figure(rated, "MB/s"))
		}
	}
	if link := s.LinkMBs(); link > 0 && t.Unit == "MB/s" {
		said = append(said, "its link carries "+words.Figure(link, "MB/s"))
	}
	if len(said) == 0 {
		return "not measured before"
	}
	return strings.Join(said, ", ")
}

// forCustomer says a figure without the trade's abbreviations.
func forCustomer(figure string) string {
	return strings.Replace(figure, " IOPS", " a second", 1)
}

// summary writes the head of the report. It speaks of the line that was named before
// anything was measured, never of the one that came out largest.
func (d *Document) summary(j *job.Job, l *compare.Ledger) {
	if !restsOnASingleRun(j, l) {
		d.Week = words.Savings(l.Savings)
	}
	before := slices.ContainsFunc(l.Lines, func(ln compare.Line) bool { return ln.Then != nil })
	switch {
	case l.Headline != nil:
		d.headline(l.Line(*l.Headline), j.Test(*l.Headline))
	case !before:
		d.Headline = "How it is now."
		d.Lead = "The old drive could not be measured, so no improvement can be stated."
	case len(d.Waiting) > 0:
		d.Headline = "The waiting could not be compared."
		d.Lead = "The figures below say why."
	default:
		d.Headline = "The drive was measured."
		d.Lead = "No start or program was timed, so nothing is said about waiting."
	}
}

// restsOnASingleRun tells whether a line that the savings count has a single run on a
// side, so that they are not claimed.
func restsOnASingleRun(j *job.Job, l *compare.Ledger) bool {
	return l.Savings != nil && slices.ContainsFunc(l.Lines, func(ln compare.Line) bool {
		t := j.Test(ln.Test)
		return ln.Indicative && ln.Saves != nil && t.PerWeek > 0 && (t.Kind == job.Timed || t.Kind == job.OnFiles) && !slices.Contains(l.Savings.SameOccasion, ln.Test)
	})
}

func (d *Document) headline(ln *compare.Line, t *job.Test) {
	now, then := words.Figure(ln.With.Centre, t.Unit), words.Figure(ln.Then.Centre, t.Unit)
	if t.Unit == "s" {
		now, then = words.Seconds(ln.With.Centre), words.Seconds(ln.Then.Centre)
	}
	d.Headline = fmt.Sprintf("%s: %s instead of %s.", t.Name, now, then)
	switch {
	case ln.Equal:
		d.Headline = fmt.Sprintf("%s: %s before, %s now.", t.Name, then, now)
		d.Lead = "That is as good as equal."
	case ln.Verdict == compare.TooClose || words.Doubt(ln, t) != "":
		d.Headline = fmt.Sprintf("%s: %s before, %s now.", t.Name, then, now)
		d.Lead = "From these runs it is not certain that there is a difference."
	case ln.Saves == nil:
		d.Lead = fmt.Sprintf("That is %s.", words.FactorWords(*ln.Factor))
	default:
		d.Lead = fmt.Sprintf("That is %s, every time.", words.WaitingWords(ln.Then.Centre, ln.With.Centre))
		if !ln.Felt && t.Kind == job.Timed {
			d.Lead = "The difference is measurable, but hardly felt."
		}
		d.Share = words.Share(ln)
	}
}

// done says what was done with the computer.
func done(j *job.Job, then, with *job.Setup) []string {
	said := []string{fmt.Sprintf("The %s was replaced by a %s.", words.DriveName(j.Drive(then.Drive)), words.DriveName(j.Drive(with.Drive)))}
	switch with.System.Origin {
	case "cloned":
		said = append(said, "The system was carried over as it was, with programs and files.")
	case "fresh":
		said = append(said, "The system was installed afresh.")
	case "restored":
		said = append(said, "The system was restored from a backup.")
	}
	for _, w := range j.Head.Work {
		s := "Also done: " + w.What
		if w.Note != "" {
			s += " (" + w.Note + ")"
		}
		said = append(said, s+".")
	}
	return said
}

// caveats collects what the findings say, and returns by test the numbers of
// the caveats that touch it.
func (d *Document) caveats(j *job.Job, l *compare.Ledger) map[string][]int {
	notes := map[string][]int{}
	// The same doubt about two lines is one caveat with two details.
	add := func(c Caveat, lines []string) {
		n := slices.IndexFunc(d.Caveats, func(o Caveat) bool { return o.Title == c.Title })
		if n < 0 {
			n = len(d.Caveats)
			d.Caveats = append(d.Caveats, c)
		} else {
			d.Caveats[n].Detail += " " + c.Detail
			d.Caveats[n].Lines = append(d.Caveats[n].Lines, c.Lines...)
		}
		for _, id := range lines {
			if !slices.Contains(notes[id], n+1) {
				notes[id] = append(notes[id], n+1)
			}
		}
	}
	for _, f := range l.Findings {
		var of []string
		for _, id := range f.Lines {
			of = append(of, j.Test(id).Name)
		}
		c := Caveat{Title: words.Title(f.Rule) + ".", Lines: of}
		switch {
		case f.Then != "" && f.With != "":
			c.Detail = fmt.Sprintf("Then: %s. Now: %s.", f.Then, f.With)
		case f.Then != "":
			c.Detail = fmt.Sprintf("Then: %s.", f.Then)
		case f.With != "":
			c.Detail = fmt.Sprintf("Now: %s.", f.With)
		}
		switch {
		case f.Rule == "simulated":
			c.Detail, c.Lines = "These figures come from a simulated computer, for demonstration and training.", []string{"everything"}
		case f.Effect == fairness.Blocks:
			c.Detail += " So these figures are not compared."
		}
		add(c, f.Lines)
	}
	var single []string
	for _, ln := range l.Lines {
		if ln.Indicative && j.Test(ln.Test).Kind != job.Note { // a reading is taken once
			single = append(single, ln.Test)
		}
	}
	if len(single) > 0 {
		c := Caveat{Title: "Measured only once on a side.", Detail: "One run cannot show how much such a figure wavers, so no difference is claimed from it."}
		for _, id := range single {
			c.Lines = append(c.Lines, j.Test(id).Name)
		}
		add(c, single)
	}
	for _, gate := range []struct{ name, title string }{
		{job.GateOldDriveOut, "The old drive came out although something was missing."},
		{job.GateMeasured, "Not everything was measured on the new drive."},
	} {
		if g := j.Gate(gate.name); g != nil && g.Why != "" {
			add(Caveat{Title: gate.title, Detail: strings.TrimPrefix(strings.Join(g.Missing, "; ")+". Because: "+g.Why+".", ". "), Lines: []string{}}, nil)
		}
	}
	for _, e := range j.Plan.Excuses {
		if t := j.Test(e.Test); t != nil && (e.Setup == l.Then || e.Setup == l.With) {
			add(Caveat{Title: t.Name + " could not be measured.", Detail: e.Why + ".", Lines: []string{}}, []string{e.Test})
		}
	}
	return notes
}

// methods say for the customer how a figure was had.
var methods = map[string]string{
	job.Automatic:  "by the program itself",
	job.Stopwatch:  "with a stopwatch by hand",
	job.FinishLine: "until a page opened by itself",
	job.Video:      "from a video, frame by frame",
	job.Typed:      "read off and typed in",

	job.RestartWatch: "by watching it restart over the network",
	job.SystemRecord: "from the system's own record",
}

// how says how the figures were measured.
func how(j *job.Job, l *compare.Ledger) []string {
	said := []string{"The same tests were run on both drives, several times each; the figure shown is the middle one (the median)."}
	for _, kind := range []job.Kind{job.Timed, job.OnDrive} {
		var names, by []string
		kept, aside := 0, 0
		for i := range j.Tests {
			t := &j.Tests[i]
			if t.Kind != kind {
				continue
			}
			before := kept
			for _, setup := range []string{l.Then, l.With} {
				for _, r := range j.RunsOf(t.ID, setup) {
					if !r.Kept() {
						aside++
						continue
					}
					kept++
					if m := methods[r.Method]; m != "" && !slices.Contains(by, m) {
						by = append(by, m)
					}
				}
			}
			if kept > before {
				names = append(names, plan.LowerFirst(t.Name))
			}
		}
		if len(names) == 0 {
			continue
		}
		s := fmt.Sprintf("%s: %s, timed %s, %d runs.", heading(kind), strings.Join(names, ", "), strings.Join(by, " and "), kept)
		if kind == job.OnDrive {
			s = fmt.Sprintf("%s: %s, measured %s, past the computer's memory, %d runs.", heading(kind), strings.Join(names, ", "), strings.Join(by, " and "), kept)
		}
		if aside > 0 {
			s += fmt.Sprintf(" %s set aside, with the reason noted.", runs(aside))
		}
		said = append(said, s)
	}
	for _, t := range j.Tests {
		var out []string
		for _, p := range t.Phases {
			if !p.Counted() {
				out = append(out, p.Name)
			}
		}
		if len(out) > 0 {
			said = append(said, fmt.Sprintf("%s: %s is not counted, because no drive has a part in it.", t.Name, strings.Join(out, ", ")))
		}
	}
	return append(said, "A difference is claimed only where it lies outside what repeated runs and sittings differ by anyway (95 %), with all the figures here considered together.")
}

func heading(k job.Kind) string {
	if k == job.OnDrive {
		return "The drive"
	}
	return "Waiting"
}

func runs(n int) string {
	if n == 1 {
		return "One run was"
	}
	return fmt.Sprintf("%d runs were", n)
}
