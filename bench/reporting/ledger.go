// Package reporting computes a job's ledger, shows a test's runs in detail, and drafts and
// issues reports.
//
// It must not import HTTP, screens or other use cases.
package reporting

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/plan"
	"nowthen/core/side"
	"nowthen/core/value"
	"nowthen/core/words"
	"nowthen/report"
	"nowthen/store"
)

// Store is the part of the store that reporting uses.
type Store interface {
	Traces(ctx context.Context, jobID string, runs ...string) (map[string]job.Trace, error)
	Reports(ctx context.Context, jobID string) ([]store.Report, error)
	Shares(ctx context.Context, jobID string) ([]store.Share, error)
	OpenShare(ctx context.Context, token string, now time.Time) (*store.Report, error)
	LookShare(ctx context.Context, token string, now time.Time) (*store.Report, error)
	Setting(ctx context.Context, name string) (string, error)
	Photo(ctx context.Context, jobID, id string) (kind string, data []byte, err error)
	ByNumber(ctx context.Context, number string) ([]string, error)
	Search(ctx context.Context, by store.Search) (found []store.Found, total int, next string, err error)
}

// Reports computes comparisons and reports.
type Reports struct {
	jobs  *bench.Jobs
	store Store
}

// New returns the reports of a bench.
func New(jobs *bench.Jobs, s Store) *Reports { return &Reports{jobs: jobs, store: s} }

// Ledger is the comparison of two setups with the page's further data.
type Ledger struct {
	Then      Facet         `json:"then"`
	With      Facet         `json:"with"`
	Rows      []Row         `json:"rows"`
	Drive     GroupView     `json:"drive"`
	Waiting   GroupView     `json:"waiting"`
	Savings   *SavingsView  `json:"savings"`
	Findings  []FindingView `json:"findings"`
	Simulated bool          `json:"simulated"`
	// Headline is the test of the report's headline, or nil.
	Headline *string `json:"headline"`
	// Intended is the rule whose finding this comparison is about, "" for none, and Question is that finding in
	// words.
	Intended string `json:"intended"`
	Question string `json:"question"`
	// Value is the cost of the work and what it brought, nil if no price is known; ValueWords is that in sentences.
	Value      *value.Value `json:"value"`
	ValueWords []string     `json:"value_words"`
	// OverTime is the figures of setups over months; empty within one visit.
	OverTime []side.Course `json:"over_time"`
	// Sharper is the most useful further measurement, nil if everything that can be decided is.
	Sharper *Sharper `json:"sharper"`
}

// Sharper is a further measurement that would make a ledger more certain.
type Sharper struct {
	Words   string  `json:"words"`
	Setup   string  `json:"setup"`
	Test    string  `json:"test"` // "" for a second sitting
	Runs    int     `json:"runs"`
	Minutes float64 `json:"minutes"`
}

// Facet is one side of a ledger.
type Facet struct {
	Setup string   `json:"setup"`
	Role  job.Role `json:"role"`
	Name  string   `json:"name"` // of a trial
	Drive string   `json:"drive"`
	// Ceiling is what limits the side's drive.
	Ceiling Ceiling `json:"ceiling"`
	// Price is the drive's price as entered; nil if not known.
	Price *job.Price `json:"price"`
	// CapacityBytes is the drive's capacity, 0 if not known.
	CapacityBytes int64 `json:"capacity_bytes"`
}

// Ceiling is a drive's rating, its link's rate, and what drive and port support, MB/s, beside the measured
// rate; nil if not known.
type Ceiling struct {
	RatedRead     *float64 `json:"rated_read"`
	RatedWrite    *float64 `json:"rated_write"`
	Link          *float64 `json:"link"`
	Capable       *float64 `json:"capable"`
	MeasuredRead  *float64 `json:"measured_read"`
	MeasuredWrite *float64 `json:"measured_write"`
}

// Row is a line with its test, its words and all runs of both sides, including those set aside.
type Row struct {
	Test  job.Test          `json:"test"`
	Line  compare.Line      `json:"line"`
	Words words.LineInWords `json:"words"`
	Group string            `json:"group"` // the catalogue's
	// ThenUncertainty and WithUncertainty are the sources of each side's uncertainty.
	ThenUncertainty string    `json:"then_uncertainty"`
	WithUncertainty string    `json:"with_uncertainty"`
	ThenRuns        []job.Run `json:"then_runs"`
	WithRuns        []job.Run `json:"with_runs"`
}

// GroupView is a group with its words.
type GroupView struct {
	compare.Group
	Words string `json:"words"`
}

// SavingsView is the savings with their words.
type SavingsView struct {
	compare.Savings
	Words string `json:"words"`
}

// FindingView is a finding with its title.
type FindingView struct {
	words.Finding
	Title string `json:"title"`
}

// sides returns the setups of a comparison, named or default, and a job that contains both. If the first side
// doesn't exist, the job gets an empty one without an id.
func sides(j *job.Job, then, with string) (of *job.Job, a, b *job.Setup, err error) {
	left, right := j.DefaultSides()
	alone := then == "" && left == "" && right != ""
	left, right = cmp.Or(then, left), cmp.Or(with, right)
	of = j.Named(left, right)
	pick := func(id string, role job.Role) (*job.Setup, error) {
		if s := of.Setup(id); s != nil {
			return s, nil
		}
		if id != "" {
			return nil, bench.NoSuch("setup", id)
		}
		r := bench.Refuse(bench.Conflict, "This job has no %s setup yet.", role)
		r.Do = "Enter the new drive first."
		return nil, r
	}
	if b, err = pick(right, job.Now); err != nil {
		return nil, nil, nil, err
	}
	if alone {
		return of, &job.Setup{Role: job.Then}, b, nil
	}
	if a, err = pick(left, job.Then); err != nil {
		return nil, nil, nil, err
	}
	return of, a, b, nil
}

// Compare returns the ledger of two setups of a job; empty ids mean Then and Now. intended is the rule of the
// difference that the comparison is about.
func (x *Reports) Compare(ctx context.Context, jobID, then, with, intended string) (*Ledger, error) {
	if intended != "" && !fairness.Known(intended) {
		return nil, bench.Refuse(bench.Missing, "There is no rule %q.", intended)
	}
	snap, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	j, left, right, err := sides(snap.Job, then, with)
	if err != nil {
		return nil, err
	}
	if j, err = x.withUsual(ctx, j); err != nil {
		return nil, err
	}
	o, err := x.options(ctx)
	if err != nil {
		return nil, err
	}
	o.Intended = intended
	ix := j.Indexed()
	l := compare.Indexed(ix, left.ID, right.ID, o)
	v := &Ledger{Then: facet(j, left), With: facet(j, right), Simulated: j.Simulated(), Rows: []Row{},
		Findings: []FindingView{},
		Headline: l.Headline, Intended: intended,
		Drive:   GroupView{l.Groups.Drive, words.Rates(l.Groups.Drive)},
		Waiting: GroupView{l.Groups.Waiting, words.Waits(l.Groups.Waiting)},
	}
	v.OverTime = side.OverTime(j)
	v.Value = value.Of(j, l, x.jobs.Now())
	v.ValueWords = append([]string{}, words.English.Bought(v.Value, j.Head.Bill)...)
	if l.Savings != nil { // without a line that counts there are none
		v.Savings = &SavingsView{*l.Savings, words.Savings(l.Savings)}
	}
	names := words.Sides{Then: called(left), With: called(right)}
	for i := range l.Lines {
		ln := &l.Lines[i]
		t := ix.Test(ln.Test)
		v.Then.Ceiling.measured(t, ln.Then)
		v.With.Ceiling.measured(t, ln.With)
		v.Rows = append(v.Rows, Row{Test: *t, Line: *ln, Words: rowWords(t, ln, names), Group: catalogue.GroupOf(t),
			ThenUncertainty: words.Uncertainty(ln.Then), WithUncertainty: words.Uncertainty(ln.With),
			ThenRuns: runs(ix, t.ID, left.ID), WithRuns: runs(ix, t.ID, right.ID)})
	}
	for _, f := range words.Findings(l.Findings, j) {
		v.Findings = append(v.Findings, FindingView{f, words.Title(f.Rule)})
		if f.Rule == intended {
			v.Question = f.Then + " against " + f.With
		}
	}
	v.Sharper = sharper(j, l, left, right, names)
	return v, nil
}

// facet describes a setup as a side of a comparison.
func facet(j *job.Job, s *job.Setup) Facet {
	f := Facet{Setup: s.ID, Role: s.Role, Name: s.Name, Drive: words.DriveName(j.Drive(s.Drive)),
		Ceiling: ceiling(j, s)}
	if d := j.Drive(s.Drive); d != nil {
		f.Price, f.CapacityBytes = d.Price, d.CapacityBytes
	}
	return f
}

// known returns a figure, or nil if it is 0, which means not known.
func known(v float64) *float64 {
	if v <= 0 {
		return nil
	}
	return &v
}

// ceiling returns the limits of a setup's drive, without measured rates.
func ceiling(j *job.Job, s *job.Setup) Ceiling {
	c := Ceiling{Link: known(s.LinkMBs()), Capable: known(s.CapableMBs())}
	if d := j.Drive(s.Drive); d != nil && d.Rated != nil {
		c.RatedRead, c.RatedWrite = known(d.Rated.ReadMBs), known(d.Rated.WriteMBs)
	}
	return c
}

// measured sets the measured rate of a side of a sequential test.
func (c *Ceiling) measured(t *job.Test, s *side.Side) {
	if s == nil || t.Unit != "MB/s" {
		return
	}
	switch t.What {
	case catalogue.WhatLongRead:
		c.MeasuredRead = known(s.Centre)
	case catalogue.WhatLongWrite:
		c.MeasuredWrite = known(s.Centre)
	}
}

// sharper returns the most useful further measurement: for the headline's line first, then the others in the
// plan's order. It is the missing runs if they can still be measured, else a second sitting.
func sharper(j *job.Job, l *compare.Ledger, left, right *job.Setup, names words.Sides) *Sharper {
	out := j.Kind() == job.KindCheckUp // what was measured earlier is past, and a drive that came out is gone
	for _, g := range j.Head.Gates {
		out = out || g.Name == job.GateOldDriveOut && left.Role == job.Then
	}
	lines := slices.Clone(l.Lines)
	slices.SortStableFunc(lines, func(a, b compare.Line) int {
		rank := func(x compare.Line) int {
			if l.Headline != nil && x.Test == *l.Headline {
				return 0
			}
			return 1
		}
		return rank(a) - rank(b)
	})
	undecided := 0
	for i := range lines {
		ln := &lines[i]
		t := j.Test(ln.Test)
		switch {
		case ln.Factor == nil || t.Kind == job.Control || t.Kind == job.Note || t.Retired:
		case ln.FurtherRuns == nil:
			undecided++
		case *ln.FurtherRuns > 0:
			on, name := left, names.Then
			if ln.FurtherRunsOn != nil && *ln.FurtherRunsOn == compare.OnWith {
				on, name = right, names.With
			}
			if on == left && out {
				continue
			}
			return &Sharper{Setup: on.ID, Test: t.ID, Runs: *ln.FurtherRuns,
				Minutes: plan.Minutes(t, j.Drive(on.Drive), *ln.FurtherRuns),
				Words: message.English.Say("sharper.runs",
					message.Values{"Count": *ln.FurtherRuns, "Test": catalogue.InSentence(t.Name), "On": name})}
		}
	}
	if undecided == 0 {
		return nil
	}
	return &Sharper{Setup: right.ID,
		Words: message.English.Say("sharper.sitting", message.Values{"Count": undecided, "On": names.With})}
}

// runs returns the runs of a side, never nil.
func runs(ix *job.Index, test, setup string) []job.Run {
	return append([]job.Run{}, ix.RunsOf(test, setup)...)
}

// called is the name of a setup in a sentence.
func called(s *job.Setup) string {
	switch {
	case s.Role == job.Then:
		return "Then"
	case s.Role == job.Now:
		return "Now"
	case s.Name != "":
		return s.Name
	}
	return "the trial"
}

// rowWords are a line's words; if the sides moved different sets of files, with each side's rate.
func rowWords(t *job.Test, ln *compare.Line, names words.Sides) words.LineInWords {
	w := words.Line(ln, t, names)
	if slices.Contains(ln.Findings, "other-content") || slices.Contains(ln.Findings, "unequal-amounts") {
		for said, s := range map[*string]*side.Side{&w.Then: ln.Then, &w.With: ln.With} {
			if s != nil && s.Rates != nil {
				*said += " (" + words.FileRates(s.Rates) + ")"
			}
		}
	}
	return w
}

// Report is a job's report: the current draft, and the last issued one, or nil.
type Report struct {
	Draft  *report.Document `json:"draft"`
	Issued *report.Document `json:"issued"`
}

// Report returns a job's report, the draft in a language.
func (x *Reports) Report(ctx context.Context, jobID, lang string) (*Report, error) {
	in, err := language(lang)
	if err != nil {
		return nil, err
	}
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	r := &Report{}
	if r.Draft, err = x.draft(ctx, jobID, s.Job, in); err != nil {
		return nil, err
	}
	list, err := x.store.Reports(ctx, jobID)
	if err != nil {
		return nil, err
	}
	if n := holding(s.Job, list); n > 0 {
		r.Issued, err = opened(list[n-1].Body)
	}
	return r, err
}

// language returns the language with a tag; "" is English.
func language(tag string) (*words.Language, error) {
	if tag == "" {
		return words.English, nil
	}
	in, err := words.In(tag)
	if err != nil {
		return nil, bench.Because(bench.Invalid, err)
	}
	return in, nil
}

func (x *Reports) draft(ctx context.Context, jobID string, j *job.Job, in *words.Language) (*report.Document, error) {
	j, then, with, err := sides(j, "", "")
	if err != nil {
		return nil, err
	}
	if j, err = x.withUsual(ctx, j); err != nil {
		return nil, err
	}
	o, err := x.options(ctx)
	if err != nil {
		return nil, err
	}
	shop, err := x.Shop(ctx)
	if err != nil {
		return nil, err
	}
	photos, err := x.photos(ctx, jobID, j)
	if err != nil {
		return nil, err
	}
	return report.New(j, compare.Compare(j, then.ID, with.ID, o),
		report.Options{Language: in, Shop: head(shop), Photos: photos, Now: x.jobs.Now()}), nil
}

// head is the shop's header of a report.
func head(s bench.Shop) report.Shop {
	return report.Shop{Name: s.Name, Address: s.Address, Footer: s.Footer, Terms: s.Terms, Colour: s.Colour,
		Logo: s.Logo}
}

// Issue freezes a job's current report. The report and its gate are one change.
func (x *Reports) Issue(ctx context.Context, ch *bench.Change, jobID, lang string) (*Report, error) {
	in, err := language(lang)
	if err != nil {
		return nil, err
	}
	_, err = x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		doc, err := x.draft(ctx, jobID, j, in)
		if err != nil {
			return err
		}
		if len(doc.Waiting)+len(doc.Drive)+len(doc.Other) == 0 && doc.Beside == nil {
			c := bench.Refuse(bench.Conflict, "Nothing is measured yet.")
			c.Do = "Measure at least one test on Then and one on Now."
			return c
		}
		if !plan.Of(j).Begun() {
			return &bench.Refusal{Kind: bench.Conflict,
				Message: "The work has not begun: the old drive is still in, and nothing was measured on the new one.",
				Kept:    "The draft is kept.", Do: "Pass the checkpoint, or measure the new drive, then issue the " +
					"report."}
		}
		before, err := ch.Tx.Reports(ctx, jobID)
		if err != nil {
			return err
		}
		now := x.jobs.Now()
		doc.Issued, doc.Revision = &now, len(before)+1
		if n := len(before); n > 0 {
			last, err := opened(before[n-1].Body)
			if err != nil {
				return fmt.Errorf("revision %d of the report of job %s: %w", n, jobID, err)
			}
			doc.Compared(last)
		}
		body, err := json.Marshal(doc)
		if err != nil {
			return err
		}
		j.Head.Gates = append(j.Head.Gates, job.Gate{Name: job.GateReport, At: now})
		ch.Made("jobs/" + jobID + "/report")
		return ch.Tx.AddReport(ctx, store.Report{ID: bench.NewID(), JobID: jobID, Issued: now, Body: body})
	})
	if err != nil {
		return nil, err
	}
	return x.Report(ctx, jobID, lang)
}
