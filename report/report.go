// Package report makes of a comparison what the customer reads: what was done,
// what it means in waiting, the figures, how they were measured, the caveats.
//
// It chooses and words, and computes nothing that the core has not computed.
// How a document looks on paper or on a screen is others' business.
package report

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/plan"
	"nowthen/core/side"
	"nowthen/core/value"
	"nowthen/core/words"
)

// Document is a report. It contains all its text, which keeps an issued report unchanged.
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

	// Lang is the language of all of it, as in BCP 47; "" of an older one is English.
	Lang string `json:"lang"`
	// Revision counts the reports that were issued of the job, from 1; 0 of a draft.
	Revision int `json:"revision"`
	// Shop is the shop's header.
	Shop Shop `json:"shop"`
	// Parts are what a quote says, each with its title; a report has none.
	Parts []Part `json:"parts,omitempty"`
	// Reasons are why it came in, each with its answer.
	Reasons []string `json:"reasons"`
	// Price says what the drive cost, or "".
	Price string `json:"price"`
	// Runs are all runs of both sides, for the appendix.
	Runs []Run `json:"runs"`
	// Note is what the technician added, or "".
	Note string `json:"note"`
	// Changes are the differences from the previous revision; empty for the first.
	Changes []string `json:"changes"`
	// Photos are of the work, as small as they are printed.
	Photos []Photo `json:"photos,omitempty"`
	// Length is how much of it was chosen to be brought out: one, two or full.
	Length job.Length `json:"length"`
	// Labels are the words that stand around all of it, by what they are for.
	Labels map[string]string `json:"labels"`
	// Beside is the comparison of several drives; nil if there aren't several.
	Beside *Comparison `json:"compared,omitempty"`
	// Sentences are all its statements, each with its sources.
	Sentences []Sentence `json:"sentences"`
}

// Photo is a picture of the work, JPEG; in JSON as base64.
type Photo struct {
	Caption string `json:"caption"`
	Data    []byte `json:"data"`
}

// Shop is the shop's head on a report.
type Shop struct {
	Name    string `json:"name"`
	Address string `json:"address"`
	// Footer is at the foot of each page, Terms once at the end.
	Footer string `json:"footer,omitzero"`
	Terms  string `json:"terms,omitzero"`
	// Colour is that of the head, as "#rrggbb"; one that can be read on white.
	Colour string `json:"colour,omitzero"`
	// Logo is a picture, PNG; in JSON as base64.
	Logo []byte `json:"logo,omitempty"`
}

// Ink is the head's colour as red, green and blue, or what stands in for one that is not set.
func (s Shop) Ink(otherwise [3]int) [3]int {
	var c [3]int
	if n, err := fmt.Sscanf(s.Colour, "#%02x%02x%02x", &c[0], &c[1], &c[2]); n != 3 || err != nil {
		return otherwise
	}
	return c
}

// Moment is the layout of a run's time in a document.
const Moment = "2006-01-02 15:04"

// Run is one run in the appendix.
type Run struct {
	Test  string `json:"test"`
	Side  string `json:"side"`
	At    string `json:"at"` // by [Moment]; "" if not known
	Value string `json:"value"`
	How   string `json:"how"`
	// Aside is why it doesn't count, "" if it does.
	Aside string `json:"aside"`
}

// Options of a report.
type Options struct {
	// Language is what it is written in; nil is English.
	Language *words.Language
	Shop     Shop
	// Now is when it is made: sentences about days ahead depend on it.
	Now time.Time
	// Photos are those that were chosen.
	Photos []Photo
}

// writer builds a report in a language.
type writer struct {
	*words.Language
	*Document
	places *places // in the job that it is of; nil where no job is at hand
	ledger *compare.Ledger
}

// list is a list of sentences of a report.
type list struct {
	writer
	id   string
	said []string
}

// add adds a sentence with its sources; "" adds none.
func (l *list) add(text string, on ...string) {
	if text != "" {
		l.said = append(l.said, text)
		l.rests(fmt.Sprintf("%s.%d", l.id, len(l.said)), text, on...)
	}
}

// Figure is one line of the report.
type Figure struct {
	Name    string        `json:"name"`
	Unit    string        `json:"unit"`
	Better  job.Direction `json:"better"` // lower, higher
	Then    *float64      `json:"then"`
	Now     *float64      `json:"now"`
	Words   Words         `json:"words"`
	Verdict string        `json:"verdict"`
	// Single marks a line with only one run on a side.
	Single bool `json:"single"`
	// Notes are the numbers, from 1, of the caveats that touch it.
	Notes []int `json:"notes"`
}

// Races reports whether both sides are waits that can be watched side by side, as long as they take.
func (f Figure) Races() bool {
	return f.Unit == "s" && f.Then != nil && f.Now != nil && f.Verdict != string(compare.NotComparable)
}

// Words of a figure.
type Words struct {
	Then  string `json:"then"`
	Now   string `json:"now"`
	Main  string `json:"main"`  // "60 % less waiting", "5.1×", "too close to call"
	Extra string `json:"extra"` // "2.5× as fast, saves 54 s each time"
	Range string `json:"range"` // "between 2.3× and 2.7×"
}

// Caveat is what the reader must know about the figures it affects.
type Caveat struct {
	Title  string   `json:"title"`
	Detail string   `json:"detail"`
	Lines  []string `json:"lines"`
}

// New makes the report of a comparison. Without a side before, it states the current figures and claims no
// improvement.
func New(j *job.Job, l *compare.Ledger, o Options) *Document {
	if o.Language == nil {
		o.Language = words.English
	}
	d := writer{o.Language,
		&Document{Number: j.Head.Number, Customer: j.Head.Customer.Name, Simulated: j.Simulated(), Lang: o.Language.Tag,
			Shop:    o.Shop,
			Waiting: []Figure{}, Drive: []Figure{}, Other: []Figure{}, Caveats: []Caveat{}, Reasons: []string{},
			Runs: []Run{}, Changes: []string{}, Length: LengthTwo, Labels: labels(o.Language), Photos: o.Photos,
			Sentences: []Sentence{}}, placesIn(j, l), l}
	then, with := j.Setup(l.Then), j.Setup(l.With)
	if j.Kind() == job.KindCheckUp { // its sides are days
		for label, id := range map[string]string{"then": l.Then, "now": l.With} {
			d.Labels[label] = cmp.Or(d.sideDay(j, id), d.Labels[label])
		}
	}
	c := j.Computer(with.Computer)
	d.Computer = strings.TrimSpace(c.Maker + " " + c.Model)
	d.Done = d.done(j, then, with)
	d.reasons(j)
	if !onlyTried(j) && j.Kind() == job.KindUpgrade { // else nobody keeps what it cost, or what it saves
		costs := list{d, "price", nil}
		for _, s := range append(d.price(j.Drive(with.Drive)), d.Bought(value.Of(j, l, o.Now), j.Head.Bill)...) {
			costs.add(s, d.places.drive(with.Drive)+"/price", "/job/bill")
		}
		d.Price = strings.Join(costs.said, " ")
	}
	notes := d.caveats(j, l)
	chosen := j.Head.Report
	if chosen == nil {
		chosen = &job.ReportDraft{}
	}
	d.Note = strings.TrimSpace(chosen.Note)
	d.rests("note", d.Note, "/job/report/note")
	if chosen.Length != "" {
		d.Length = chosen.Length
	}
	var hidden []string
	for _, ln := range ordered(l.Lines, chosen.First) {
		t := j.Test(ln.Test)
		if ln.Then == nil && ln.With == nil {
			continue
		}
		if slices.Contains(chosen.LeftOut, t.ID) && t.Kind != job.Control {
			hidden = append(hidden, d.name(t))
			continue
		}
		f := d.figure(t, ln)
		if ln.Then == nil && t.Kind == job.OnDrive {
			f.Words.Main = d.against(j, t, with)
		}
		f.Notes = notes[t.ID]
		if chosen.Short {
			f.Words.Extra = ""
		}
		f.Words.Extra = strings.Join(slices.DeleteFunc([]string{f.Words.Extra, d.learned(t, ln.Then, d.called().Then),
			d.learned(t, ln.With, d.called().With)}, func(s string) bool { return s == "" }), "; ")
		switch t.Kind {
		case job.OnDrive:
			d.Drive = append(d.Drive, f)
		case job.Timed, job.OnFiles:
			d.Waiting = append(d.Waiting, f)
		case job.Note:
			d.Other = append(d.Other, f)
		default:
			continue
		}
		d.rests("line."+t.ID,
			strings.Join(slices.DeleteFunc([]string{f.Name, f.Words.Main, f.Words.Extra, f.Words.Range},
				func(s string) bool { return s == "" }), ", "), append(d.places.values(t.ID), d.places.test(t.ID))...)
	}
	d.compared(j)
	d.summary(j, l)
	if chosen.Short {
		d.Document.Share = ""
	}
	d.restsOfSummary(j, l)
	how := list{d, "how", nil}
	d.how(&how, j, l)
	if len(hidden) > 0 {
		how.add(d.say("not-shown", message.Values{"Names": d.List(hidden)}), "/job/report/left_out")
	}
	d.How = how.said
	d.Runs = d.runs(j, l)
	return d.Document
}

// Lengths of a report when it is brought out.
const (
	LengthOne  = "one"  // the first page
	LengthTwo  = "two"  // with what stands behind it
	LengthFull = "full" // with all runs
)

// ordered are the lines with those of first before the others, in its order.
func ordered(lines []compare.Line, first []string) []*compare.Line {
	list := make([]*compare.Line, len(lines))
	for i := range lines {
		list[i] = &lines[i]
	}
	place := func(l *compare.Line) int {
		if at := slices.Index(first, l.Test); at >= 0 {
			return at
		}
		return len(first)
	}
	slices.SortStableFunc(list, func(a, b *compare.Line) int { return place(a) - place(b) })
	return list
}

// Compared notes in a report what is different from the revision before it, for the reader of
// both: figures, lines, the headline, the note.
func (d *Document) Compared(before *Document) {
	in, err := words.In(d.Lang)
	if err != nil {
		in = words.English
	}
	w := writer{in, d, nil, nil}
	if before.Lang != d.Lang {
		d.Changes = []string{w.say("changes.language")}
		return
	}
	figures := func(x *Document) map[string]Figure {
		m := map[string]Figure{}
		for _, list := range [][]Figure{x.Waiting, x.Drive, x.Other} {
			for _, f := range list {
				m[f.Name] = f
			}
		}
		return m
	}
	old, now := figures(before), figures(d)
	said := []string{}
	for _, list := range [][]Figure{d.Waiting, d.Drive, d.Other} {
		for _, f := range list {
			was, ok := old[f.Name]
			switch {
			case !ok:
				said = append(said, w.say("changes.added", message.Values{"Name": f.Name}))
			case was.Words.Then != f.Words.Then || was.Words.Now != f.Words.Now || was.Words.Main != f.Words.Main:
				said = append(said, w.say("changes.figure",
					message.Values{"Name": f.Name, "Before": was.both(before), "After": f.both(d)}))
			}
		}
	}
	for _, list := range [][]Figure{before.Waiting, before.Drive, before.Other} {
		for _, f := range list {
			if _, ok := now[f.Name]; !ok {
				said = append(said, w.say("changes.removed", message.Values{"Name": f.Name}))
			}
		}
	}
	if before.Headline != d.Headline {
		said = append(said, w.say("changes.headline", message.Values{"Before": before.Headline}))
	}
	if before.Note != d.Note {
		said = append(said, w.say("changes.note"))
	}
	if !slices.Equal(before.Reasons, d.Reasons) {
		said = append(said, w.say("changes.reasons"))
	}
	if len(said) == 0 {
		said = append(said, w.say("changes.nothing"))
	}
	d.Changes = said
}

// both is a figure's two sides and the result.
func (f Figure) both(d *Document) string {
	var parts []string
	for _, s := range []struct{ label, words string }{{"then", f.Words.Then}, {"now", f.Words.Now}} {
		if s.words != "" {
			parts = append(parts, d.Label(s.label)+" "+s.words)
		}
	}
	return strings.Join(append(parts, f.Words.Main), ", ")
}

// say returns a message of the report.
func (d writer) say(key string, values ...message.Values) string {
	return d.Say("report."+key, values...)
}

// name is a test's name in the report's language.
//
// A test that has the catalogue's name gets the customer's words for it.
func (d writer) name(t *job.Test) string {
	if key := "report.test." + t.What; d.Has(key) && t.Name == words.English.Say("test."+t.What) {
		return d.Say(key)
	}
	return d.TestName(t.What, t.Name)
}

// inSentence is a test's name within a sentence: German keeps its capitals.
func (d writer) inSentence(t *job.Test) string {
	name := d.name(t)
	if d.Lang != words.English.Tag {
		return name
	}
	if name != t.Name { // the customer's words for it
		return strings.ToLower(name[:1]) + name[1:]
	}
	return catalogue.InSentence(name)
}

// labelNames are the words that stand around a report.
var labelNames = []string{"report", "draft", "computer", "simulated", "waiting", "done", "drive", "drive-note", "test",
	"then", "now", "factor", "other", "caveats", "how", "changes", "race", "photos",
	"appendix", "compared", "run", "value", "side", "at", "kept", "yes", "none"}

// filledLabels are those with something in them, which is in braces until it is known.
var filledLabels = map[string]message.Values{"page": {"Page": "{page}", "Pages": "{pages}"},
	"job": {"Number": "{number}"}, "revision": {"N": "{n}"}, "of": {"Computer": "{computer}", "Customer": "{customer}"},
	"confidence": {"Range": "{range}"}, "see": {"Numbers": "{numbers}"}}

// Label is a word that stands around the report. A report of an earlier version has none of
// its own.
func (d *Document) Label(name string) string {
	if s := d.Labels[name]; s != "" {
		return s
	}
	return labels(words.English)[name]
}

// Complete fills in what a report of an earlier version lacks.
func (d *Document) Complete() {
	if d.Lang == "" {
		d.Lang = words.English.Tag
	}
	if d.Labels == nil {
		d.Labels = labels(words.English)
	}
	for _, list := range []*[]Figure{&d.Waiting, &d.Drive, &d.Other} {
		if *list == nil {
			*list = []Figure{}
		}
	}
	if d.Runs == nil {
		d.Runs = []Run{}
	}
	for _, list := range []*[]string{&d.Done, &d.How, &d.Reasons} {
		if *list == nil {
			*list = []string{}
		}
	}
	if d.Caveats == nil {
		d.Caveats = []Caveat{}
	}
	if d.Changes == nil {
		d.Changes = []string{}
	}
	if d.Sentences == nil {
		d.Sentences = []Sentence{}
	}
	if d.Length == "" {
		d.Length = LengthTwo
	}
}

func labels(in *words.Language) map[string]string {
	all := map[string]string{}
	for _, name := range labelNames {
		all[name] = in.Say("report.label." + name)
	}
	for name, filled := range filledLabels {
		all[name] = in.Say("report.label."+name, filled)
	}
	return all
}

// reasons says why it came in and what happened to that.
func (d writer) reasons(j *job.Job) {
	said := list{d, "reason", nil}
	for i, r := range j.Head.Reasons {
		key := "reason"
		if r.Outcome != "" {
			key = "outcome." + string(r.Outcome)
		}
		s := d.say(key, message.Values{"Reason": message.Capital(d.Reason(r))})
		if r.Remains != "" {
			s += " " + d.say("remains", message.Values{"What": r.Remains})
		}
		of := fmt.Sprintf("/job/reasons/%d/", i)
		said.add(s, of+"what", of+"words", of+"outcome", of+"remains")
	}
	d.Reasons = append(d.Reasons, said.said...)
}

// price is what a drive cost, "" if not known.
func (d writer) price(of *job.Drive) []string {
	if of == nil || of.Price == nil || of.Price.Amount == "" {
		return nil
	}
	return []string{d.say("price",
		message.Values{"Price": d.Language.Number(of.Price.Amount) + " " + of.Price.Currency})}
}

// ofVisit are the runs of a test on a setup, without those after hand-back, which are reported separately.
func ofVisit(j *job.Job, test, setup string) []job.Run {
	return slices.DeleteFunc(j.RunsOf(test, setup), func(r job.Run) bool { return j.Sitting(r.Sitting).FollowUp })
}

// runs are all runs of both sides, in the order of the tests.
func (d writer) runs(j *job.Job, l *compare.Ledger) []Run {
	list := []Run{}
	for i := range j.Tests {
		t := &j.Tests[i]
		for _, side := range []struct{ setup, label string }{{l.Then, "then"}, {l.With, "now"}} {
			for _, r := range ofVisit(j, t.ID, side.setup) {
				a := Run{Test: d.name(t), Side: d.Labels[side.label], Value: d.forCustomer(d.Figure(r.Value, t.Unit)),
					How: d.method(r.Method)}
				if !r.At.IsZero() {
					a.At = r.At.Format(Moment)
				}
				switch {
				case r.Repeat:
					a.Aside = d.say("repeat")
				case r.SetAside != nil:
					a.Aside = r.SetAside.Reason
				}
				list = append(list, a)
			}
		}
	}
	return list
}

// method tells the customer how a figure was measured.
func (d writer) method(m job.Method) string {
	if key := "report.method." + string(m); d.Has(key) {
		return d.Say(key)
	}
	return ""
}

// called are the sides' names on a report.
func (d writer) called() words.Sides {
	if d.places != nil && d.places.Kind() == job.KindCheckUp {
		return words.Sides{Then: d.Labels["then"], With: d.Labels["now"]}
	}
	return words.Sides{Then: d.say("old-drive"), With: d.say("new-drive")}
}

// figure words a line. A difference that doesn't hold once all lines are considered, or that is based on a
// single run, isn't claimed.
func (d writer) figure(t *job.Test, ln *compare.Line) Figure {
	w := d.Line(ln, t, d.called())
	f := Figure{Name: d.name(t), Unit: t.Unit, Better: t.Better, Verdict: string(ln.Verdict), Single: ln.Indicative,
		Notes: []int{}}
	if ln.Then != nil {
		f.Then = &ln.Then.Centre
	}
	if ln.With != nil {
		f.Now = &ln.With.Centre
	}
	f.Words = Words{Then: d.forCustomer(w.Then), Now: d.forCustomer(w.With), Main: w.Factor, Range: w.Range}
	switch {
	case ln.Indicative && ln.Then != nil && ln.With != nil && t.Kind != job.Note && ln.Then.Bound+ln.With.Bound == "":
		// What was seen, without a claim.
		f.Words.Main, f.Words.Range = d.say("once-words", message.Values{"Then": f.Words.Then, "Now": f.Words.Now}), ""
	case w.Doubt != "":
		f.Words.Main, f.Words.Range = d.Say("not-certain"), ""
	case w.Waiting != "":
		f.Words.Main, f.Words.Extra = w.Waiting, w.Factor+", "+w.Saves
	case ln.Verdict == compare.NotMeasured && ln.Then == nil:
		f.Words.Main = d.Say("not-measured-before")
	case ln.Verdict == compare.NotMeasured:
		f.Words.Main = d.Say("not-measured-after")
	}
	if w.KeepsUp != "" {
		f.Words.Extra = w.KeepsUp
	}
	return f
}

// learned states the first value of a settled side beside the settled one, "" if they are the same.
func (d writer) learned(t *job.Test, s *side.Side, name string) string {
	if !s.HasSettled() {
		return ""
	}
	first, settled := d.Figure(*s.First, t.Unit), d.Figure(*s.Settled, t.Unit)
	if first == settled {
		return ""
	}
	return d.say("learned",
		message.Values{"Side": name, "First": d.forCustomer(first), "Settled": d.forCustomer(settled)})
}

// against states what a single drive is compared with: its rating and its link.
func (d writer) against(j *job.Job, t *job.Test, s *job.Setup) string {
	var said []string
	if of := j.Drive(s.Drive); of != nil && of.Rated != nil {
		rated := map[string]float64{catalogue.WhatLongRead: of.Rated.ReadMBs,
			catalogue.WhatLongWrite: of.Rated.WriteMBs}[t.What]
		if rated > 0 {
			said = append(said, d.say("rated", message.Values{"Figure": d.Figure(rated, "MB/s")}))
		}
	}
	if link := s.LinkMBs(); link > 0 && t.Unit == "MB/s" {
		said = append(said, d.say("link-carries", message.Values{"Figure": d.Figure(link, "MB/s")}))
	}
	if len(said) == 0 {
		return d.Say("not-measured-before")
	}
	return strings.Join(said, ", ")
}

// forCustomer formats a figure without technical abbreviations.
func (d writer) forCustomer(figure string) string {
	if bare, ok := strings.CutSuffix(figure, " "+d.Say("unit.IOPS")); ok {
		return d.Say("a-second", message.Values{"Figure": bare})
	}
	return figure
}

// summary writes the head of the report. It is about the line that was named before
// anything was measured, never of the one that came out largest.
func (d writer) summary(j *job.Job, l *compare.Ledger) {
	if !restsOnASingleRun(j, l) {
		d.Week = d.Savings(l.Savings)
		if uses := d.uses(j, l); d.Week != "" && uses != "" {
			d.Week += " " + d.say("week-counts", message.Values{"Uses": uses})
		}
	}
	before := slices.ContainsFunc(l.Lines, func(ln compare.Line) bool { return ln.Then != nil })
	after := slices.ContainsFunc(l.Lines, func(ln compare.Line) bool { return ln.With != nil })
	tried := onlyTried(j)
	if tried {
		d.Week = ""
	}
	switch {
	case j.Kind() == job.KindComparison && d.Document.Beside != nil:
		d.Headline = d.say("compared-head", message.Values{"N": len(d.Document.Beside.Columns)})
		// The table says the rest: two of several drives are no before and after.
		d.Waiting, d.Drive, d.Other, d.Week = []Figure{}, []Figure{}, []Figure{}, ""
	case !before && !after:
		d.Headline, d.Lead = d.say("nothing-head"), d.say("nothing-lead")
	case l.Headline != nil:
		d.headline(j, l, l.Line(*l.Headline), j.Test(*l.Headline), tried)
	case !before:
		d.Headline, d.Lead = d.say("now-head"), d.say("now-lead")
	case !after && j.Kind() == job.KindUpgrade:
		d.Headline, d.Lead = d.say("before-head"), d.say("before-lead")
	case len(d.Waiting) > 0:
		d.Headline, d.Lead = d.say("waiting-head"), d.say("waiting-lead")
	default:
		d.Headline, d.Lead = d.say("drive-head"), d.say("drive-lead")
	}
}

// uses are how often a week each wait comes that the savings count: what the figures of a week rest on, whether the
// customer said it or the plan assumes it.
func (d writer) uses(j *job.Job, l *compare.Ledger) string {
	var list []string
	for _, ln := range l.Lines {
		t := j.Test(ln.Test)
		if t.PerWeek <= 0 || ln.Saves == nil || slices.Contains(l.Savings.SameOccasion, ln.Test) {
			continue
		}
		n := strconv.FormatFloat(math.Round(t.PerWeek*10)/10, 'f', -1, 64)
		list = append(list, d.Language.Number(n)+" × "+d.inSentence(t))
	}
	return strings.Join(list, "; ")
}

// restsOfSummary notes what the head of the report rests on.
func (d writer) restsOfSummary(j *job.Job, l *compare.Ledger) {
	var of, used []string
	for _, ln := range l.Lines {
		if l.Headline == nil || ln.Test == *l.Headline {
			of = append(of, d.places.values(ln.Test)...)
		}
		if t := j.Test(ln.Test); t.PerWeek > 0 && ln.Saves != nil {
			used = append(append(used, d.places.test(ln.Test)+"/per_week"), d.places.values(ln.Test)...)
		}
	}
	if len(of) == 0 {
		of = []string{"/tests"}
	}
	d.rests("headline", d.Headline, of...)
	d.rests("lead", d.Lead, of...)
	d.rests("week", d.Week, used...)
	share := of
	for _, id := range j.References() {
		share = append(share, d.places.values(id)...)
	}
	d.rests("share", d.Document.Share, share...)
}

// onlyTried reports whether the new drive was only a trial, and the customer keeps the old one.
func onlyTried(j *job.Job) bool { return j.PutBack() && j.Staying().Role == job.Then }

// restsOnASingleRun reports whether a line that the savings count has a single run on a
// side, so that they are not claimed.
func restsOnASingleRun(j *job.Job, l *compare.Ledger) bool {
	return l.Savings != nil && slices.ContainsFunc(l.Lines, func(ln compare.Line) bool {
		t := j.Test(ln.Test)
		return ln.Indicative && ln.Saves != nil && t.PerWeek > 0 && (t.Kind == job.Timed || t.Kind == job.OnFiles) &&
			!slices.Contains(l.Savings.SameOccasion, ln.Test)
	})
}

// headline says the line that the report is about first; tried says that its drive now was only tried, and the
// one before stays.
func (d writer) headline(j *job.Job, l *compare.Ledger, ln *compare.Line, t *job.Test, tried bool) {
	now, then := d.forCustomer(d.Figure(ln.With.Centre, t.Unit)), d.forCustomer(d.Figure(ln.Then.Centre, t.Unit))
	if t.Unit == "s" {
		now, then = d.Seconds(ln.With.Centre), d.Seconds(ln.Then.Centre)
	}
	if j.Kind() == job.KindCheckUp {
		d.checkUpHeadline(j, l, ln, t)
		return
	}
	both := message.Values{"Name": d.name(t), "Then": then, "Now": now}
	d.Headline = d.say("instead", both)
	if t.What == catalogue.WhatColdStart && ln.HoldsAfterAll {
		d.Headline = d.readyAfter(ln.Then.Centre, ln.With.Centre)
	}
	if tried {
		d.Headline, d.Lead = d.say("tried-head", both), d.say("put-back-lead")
		return
	}
	switch {
	case ln.Indicative:
		d.Headline, d.Lead = d.say("once-each", both), d.say("single-lead")
	case ln.Equal:
		d.Headline, d.Lead = d.say("before-now", both), d.say("equal-lead")
	case ln.Verdict == compare.TooClose || d.Doubt(ln, t) != "":
		d.Headline, d.Lead = d.say("before-now", both), d.say("uncertain-lead")
	case ln.Saves == nil && ln.Factor == nil: // °C, dB: their ratio says nothing
		d.Lead = d.say("that-is", message.Values{"Words": d.Line(ln, t, d.called()).Factor})
	case ln.Saves == nil:
		d.Lead = d.say("that-is", message.Values{"Words": d.FactorWords(*ln.Factor)})
	default:
		d.Lead = d.say("that-is-every-time", message.Values{"Words": d.WaitingWords(ln.Then.Centre, ln.With.Centre)})
		if !ln.Felt && t.Kind == job.Timed {
			d.Lead = d.say("hardly-felt")
		}
		d.Document.Share = strings.TrimSpace(d.Language.Share(ln) + " " + d.whereItWent(ln, t))
	}
	if ln.Verdict == compare.Slower && d.Doubt(ln, t) == "" {
		d.Lead += " " + d.say("slower-do")
	}
}

// readyAfter says a start in the customer's terms. Of two times in the same unit it is said once.
func (d writer) readyAfter(then, now float64) string {
	before, after := d.SecondsLong(then), d.SecondsLong(now)
	_, unit, _ := strings.Cut(before, " ")
	if bare, ok := strings.CutSuffix(after, " "+unit); ok && !strings.Contains(bare, " ") {
		before = strings.TrimSuffix(before, " "+unit)
	}
	return d.say("instead-start", message.Values{"Then": before, "Now": after})
}

// whereItWent describes how long each part of a wait took before and after; "" where it wasn't split, or its
// difference isn't claimed.
func (d writer) whereItWent(ln *compare.Line, t *job.Test) string {
	if ln.Phases == nil || !ln.HoldsAfterAll {
		return ""
	}
	var counted, out []string
	for _, p := range *ln.Phases {
		at := slices.IndexFunc(t.Phases, func(of job.Phase) bool { return of.ID == p.ID })
		name := d.Term("phase", t.Phases[at].Name, t.Phases[at].Name)
		if !p.Counts {
			out = append(out, name)
			continue
		}
		counted = append(counted, d.say("phase-went",
			message.Values{"Phase": name, "Then": d.Seconds(p.Then), "Now": d.Seconds(p.With)}))
	}
	if len(counted) < 2 {
		return ""
	}
	said := d.say("where-it-went", message.Values{"Phases": strings.Join(counted, "; ")})
	if len(out) > 0 {
		said += " " + d.say("phases-out", message.Values{"Phases": d.List(out)})
	}
	return said
}

// joined reports how the drive of a setup joined the computer, as far as somebody noted it.
func (d writer) joined(l *list, j *job.Job, then, with *job.Setup) {
	name := func(id string) string { return d.DriveNamed(j.Drive(id)) }
	how, of := with.Joins()
	old := of
	if then != nil && old == "" {
		old = then.Drive
	}
	drives := message.Values{"New": name(with.Drive), "Old": name(old)}
	setup := d.places.setup(with.ID)
	add := func(key string, values message.Values) {
		l.add(d.say(key, values), setup+"/relation", setup+"/of", setup+"/replaces", setup+"/adds",
			setup+"/cache_drive",
			setup+"/drive", d.places.drive(old))
	}
	switch {
	case how == job.JoinsReplacing && old != "":
		add("replaced", drives)
	case how == job.JoinsBeside && old != "":
		add("added", drives)
	case how == job.JoinsBeside:
		add("added-alone", drives)
	case how == job.JoinsAsCache && with.CacheDrive != "":
		add("cached", message.Values{"Old": name(with.Drive), "New": name(with.CacheDrive)})
	case how == job.OnlyTried && old != "":
		add("tried", drives)
	case how == job.GoesBack: // what was tried says so itself
	case then == nil:
		add("in-it", drives)
	default:
		add("fitted", drives)
	}
	if s := j.Staying(); j.PutBack() {
		l.add(d.say("put-back", message.Values{"Old": name(s.Drive)}), "/job/stays", d.places.setup(s.ID)+"/relation",
			d.places.setup(s.ID)+"/drive")
	}
	if then != nil && then.StandIn {
		l.add(d.say("stand-in", message.Values{"Old": name(then.Drive)}), d.places.setup(then.ID)+"/stand_in")
	}
}

// fate says what happened to a drive, if known.
func (d writer) fate(l *list, j *job.Job, drive string) {
	if fate := j.FateOf(drive); fate != "" {
		on := d.places.drive(drive) + "/fate"
		if j.Drive(drive).Fate == "" { // said at the last gate
			on = of("job/gates", j.Head.Gates, func(g *job.Gate) bool { return g.OldDrive == fate }) + "/old_drive"
		}
		l.add(d.say("fate."+string(fate)), on)
	}
}

// done says what was done.
func (d writer) done(j *job.Job, then, with *job.Setup) []string {
	said := list{d, "done", nil}
	if j.Kind() == job.KindUpgrade && plan.Of(j).Begun() { // before that, nothing was done
		d.joined(&said, j, then, with)
		if then != nil {
			d.fate(&said, j, then.Drive)
		}
		if key := "origin." + string(with.System.Origin); d.Has("report." + key) {
			said.add(d.say(key), d.places.setup(with.ID)+"/system/origin")
		}
	}
	if j.Kind() == job.KindCheckUp {
		d.checkedUp(&said, j, d.ledger)
	}
	if c := j.Head.Carried; c != nil {
		said.add(d.Carried(c), "/job/carried")
	}
	for i, w := range j.Head.Work {
		of := fmt.Sprintf("/job/work/%d/", i)
		what := string(w.What)
		if key := "term.work." + what; d.Has(key) {
			what = d.Say(key)
		}
		if w.Note != "" {
			said.add(d.say("also-done-note", message.Values{"What": what, "Note": w.Note}), of+"what", of+"note")
		} else {
			said.add(d.say("also-done", message.Values{"What": what}), of+"what")
		}
	}
	return said.said
}

// caveats collects what the findings say, and returns by test the numbers of
// the caveats that touch it.
func (d writer) caveats(j *job.Job, l *compare.Ledger) map[string][]int {
	notes := map[string][]int{}
	rests := map[int][]string{}
	var keys []string
	touched := map[int][]string{} // by caveat, the tests that it names
	// The same doubt about two lines is one caveat with two details, unless only one of them forbids to compare.
	add := func(c Caveat, effect fairness.Effect, lines []string, on ...string) (n int) {
		key := c.Title
		if effect == fairness.Blocks {
			key += d.say("not-compared")
		}
		n = slices.Index(keys, key)
		if n < 0 {
			n = len(d.Caveats)
			d.Caveats, keys = append(d.Caveats, c), append(keys, key)
		} else {
			// Nothing is stated twice.
			if rest := strings.TrimPrefix(c.Detail, d.Caveats[n].Detail); !strings.Contains(d.Caveats[n].Detail,
				strings.TrimSpace(rest)) {
				d.Caveats[n].Detail += " " + strings.TrimSpace(rest)
			}
		}
		rests[n] = append(rests[n], on...)
		for _, id := range lines {
			if !slices.Contains(notes[id], n+1) {
				notes[id] = append(notes[id], n+1)
			}
		}
		return n
	}
	for _, f := range l.Findings {
		c := Caveat{Title: d.Title(f.Rule) + "."}
		values := message.Values{"Then": d.Value(f.Then, j), "Now": d.Value(f.With, j)}
		switch {
		case f.Then != nil && f.With != nil:
			c.Detail = d.say("then-now", values)
		case f.Then != nil:
			c.Detail = d.say("then-only", values)
		case f.With != nil:
			c.Detail = d.say("now-only", values)
		}
		switch {
		case f.Rule == "simulated":
			c.Detail, c.Lines = d.say("simulated-detail"), []string{d.say("everything")}
		case f.Effect == fairness.Blocks:
			c.Detail += d.say("not-compared")
		}
		n := add(c, f.Effect, f.Lines, d.places.finding(&f)...)
		if c.Lines == nil {
			touched[n] = append(touched[n], f.Lines...)
		}
	}
	var single, singles []string
	for _, ln := range l.Lines {
		if ln.Indicative && j.Test(ln.Test).Kind != job.Note { // a reading is taken once
			single = append(single, ln.Test)
			singles = append(singles, d.places.values(ln.Test)...)
		}
	}
	if len(single) > 0 {
		touched[add(Caveat{Title: d.say("once-title"), Detail: d.say("once-detail")}, fairness.Qualifies, single,
			singles...)] = single
	}
	for _, gate := range []job.GateName{job.GateOldDriveOut, job.GateMeasured} {
		if g := j.Gate(gate); g != nil && g.Why != "" {
			// What was missing is kept in a technician's words; the figures themselves show it.
			add(Caveat{Title: d.say("gate." + string(gate)), Detail: d.say("because", message.Values{"Why": g.Why})},
				fairness.Notes, nil,
				of("job/gates", j.Head.Gates, func(o *job.Gate) bool { return o.Name == g.Name }))
		}
	}
	for i, e := range j.Plan.Excuses {
		if t := j.Test(e.Test); t != nil && (e.Setup == l.Then || e.Setup == l.With) {
			add(Caveat{Title: d.say("excused", message.Values{"Name": d.name(t)}), Detail: e.Why + "."},
				fairness.Notes, []string{e.Test}, fmt.Sprintf("/plan/excuses/%d/why", i))
		}
	}
	for i, c := range d.Caveats {
		if c.Lines == nil {
			d.Caveats[i].Lines = d.linesOf(j, l, touched[i])
		}
		d.rests(fmt.Sprintf("caveat.%d", i+1), c.Title+" "+c.Detail, rests[i]...)
	}
	return notes
}

// linesOf names tests; where they are all waits, all tests of the drive, or all there are, it says that.
func (d writer) linesOf(j *job.Job, l *compare.Ledger, ids []string) []string {
	kinds := map[string][2]int{} // by the word for all of a kind: how many there are, and how many of ids
	word := func(t *job.Test) string {
		switch t.Kind {
		case job.Timed, job.OnFiles:
			return "all-waits"
		case job.OnDrive:
			return "all-drive"
		case job.Control, job.Note:
		}
		return ""
	}
	for _, ln := range l.Lines {
		if t := j.Test(ln.Test); ln.Then != nil || ln.With != nil {
			n := kinds[word(t)]
			n[0]++
			if slices.Contains(ids, ln.Test) {
				n[1]++
			}
			kinds[word(t)] = n
		}
	}
	said := []string{}
	for _, id := range ids {
		name, n := d.name(j.Test(id)), kinds[word(j.Test(id))]
		if w := word(j.Test(id)); w != "" && n[0] > 2 && n[0] == n[1] {
			name = d.say(w)
		}
		if !slices.Contains(said, name) {
			said = append(said, name)
		}
	}
	return said
}

// how reports how the figures were measured.
func (d writer) how(said *list, j *job.Job, l *compare.Ledger) {
	if len(j.Runs) == 0 {
		return
	}
	said.add(d.say(common(j, l)), "/runs")
	for _, kind := range []job.Kind{job.Timed, job.OnDrive} {
		said.add(d.howOf(kind, j, l), "/runs")
	}
	for i := range j.Tests {
		t := &j.Tests[i]
		var out []string
		for _, p := range t.Phases {
			if !p.Counted() && leftOut(j, l, t.ID, p.ID) {
				out = append(out, d.Term("phase", p.Name, p.Name))
			}
		}
		if len(out) > 0 {
			said.add(d.say("not-counted", message.Values{"Name": d.name(t), "Phases": strings.Join(out, ", ")}),
				fmt.Sprintf("/tests/%d/phases", i))
		}
	}
	d.rated(said, j, l)
	said.add(d.say("how-claim"), "/runs")
}

// leftOut reports whether a kept run of a test has a phase that doesn't count: only what was timed apart was left out.
func leftOut(j *job.Job, l *compare.Ledger, test, phase string) bool {
	for _, setup := range []string{l.Then, l.With} {
		for _, r := range ofVisit(j, test, setup) {
			if _, ok := r.Phases[phase]; ok && r.Kept() {
				return true
			}
		}
	}
	return false
}

// common is what is said of all figures: that they were measured several times only where
// some were.
func common(j *job.Job, l *compare.Ledger) string {
	before, several, partly := false, false, false
	for _, ln := range l.Lines {
		before = before || ln.Then != nil
		partly = partly || (ln.Then == nil) != (ln.With == nil)
		several = several || ln.Then != nil && ln.With != nil && ln.Then.N > 1 && ln.With.N > 1
	}
	switch {
	case j.Kind() == job.KindComparison && everywhere(j):
		return "how-drives"
	case j.Kind() == job.KindComparison:
		return "how-drives-partly"
	case !before:
		return "how-alone"
	case j.Kind() == job.KindCheckUp && partly:
		return "how-days-partly"
	case j.Kind() == job.KindCheckUp:
		return "how-days"
	case partly:
		return "how-partly"
	case several:
		return "how-several"
	}
	return "how-once"
}

// everywhere reports whether every test that was run was run on every measured drive.
func everywhere(j *job.Job) bool {
	ix := j.Indexed()
	setups := rivals(j)
	for i := range j.Tests {
		on := 0
		for _, s := range setups {
			if len(ix.Side(j.Tests[i].ID, s.ID)) > 0 {
				on++
			}
		}
		if on > 0 && on < len(setups) {
			return false
		}
	}
	return true
}

// howOf reports how the tests of a kind were measured, "" where none was.
func (d writer) howOf(kind job.Kind, j *job.Job, l *compare.Ledger) string {
	var names, by []string
	kept, aside, engine := 0, 0, true
	for i := range j.Tests {
		t := &j.Tests[i]
		if t.Kind != kind {
			continue
		}
		before := kept
		for _, setup := range []string{l.Then, l.With} {
			for _, r := range ofVisit(j, t.ID, setup) {
				switch {
				case r.Repeat: // it is in no side
				case !r.Kept():
					aside++
				default:
					kept++
					engine = engine && r.Method == job.Automatic
					if m := d.method(r.Method); m != "" && !slices.Contains(by, m) {
						by = append(by, m)
					}
				}
			}
		}
		if kept > before {
			names = append(names, d.inSentence(t))
		}
	}
	if len(names) == 0 {
		return ""
	}
	key := "how-" + string(kind)
	if kind == job.OnDrive && !engine {
		key = "how-read" // nobody knows whether another program went past the cache
	}
	s := d.say(key,
		message.Values{"Heading": d.say("heading." + string(kind)), "Names": strings.Join(names, "; "),
			"By": d.List(by), "Count": kept})
	if aside > 0 {
		s += d.say("set-aside", message.Values{"Count": aside})
	}
	return s
}
