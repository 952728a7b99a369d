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
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/side"
	"nowthen/core/words"
)

// Comparison is several drives side by side, all in words. It is part of the report of a comparison, and of an
// upgrade in which several drives were tried.
type Comparison struct {
	Columns []string `json:"columns"` // the drives, the base first
	// Rows are the tests, and what is known of the drives beside them.
	Rows []ComparedRow `json:"rows"`
	// Said are sentences, one for each two drives and group of tests, and why one of them stays.
	Said []string `json:"said"`
}

// ComparedRow is one row of a comparison; its cells are in the order of the columns.
type ComparedRow struct {
	Name  string   `json:"name"`
	Cells []string `json:"cells"`
}

// rivals are the setups to compare: all of a comparison; of an upgrade, the measured ones after Then if there
// are several.
func rivals(j *job.Job) []*job.Setup {
	var list []*job.Setup
	for i := range j.Setups {
		s := &j.Setups[i]
		measured := slices.ContainsFunc(j.Runs,
			func(r job.Run) bool { return r.Kept() && j.Sitting(r.Sitting).Setup == s.ID })
		if measured && (s.Role != job.Then || j.Kind() == job.KindComparison) {
			list = append(list, s)
		}
	}
	if len(list) < 2 || j.Kind() == job.KindCheckUp {
		return nil
	}
	return list
}

// compared sets the drives of a job beside each other; it adds nothing where there are not several.
func (d writer) compared(j *job.Job) {
	setups := rivals(j)
	if setups == nil {
		return
	}
	c := &Comparison{Rows: []ComparedRow{}, Said: []string{}}
	ids := make([]string, len(setups))
	for i, s := range setups {
		ids[i] = s.ID
		c.Columns = append(c.Columns, d.calledDrive(j, s))
	}
	ix := j.Indexed()
	table, _ := compare.Tabled(ix, ids, compare.DefaultOptions)
	for _, r := range table.Rows {
		t := ix.Test(r.Test)
		row := ComparedRow{Name: d.name(t)}
		for _, cell := range r.Cells {
			row.Cells = append(row.Cells, d.cell(t, cell))
		}
		c.Rows = append(c.Rows, row)
	}
	d.facts(c, j, setups)
	said := list{d, "compared", nil}
	uses := []string{"/runs"} // and how often the customer does it
	for i := range j.Tests {
		if j.Tests[i].PerWeek > 0 {
			uses = append(uses, fmt.Sprintf("/tests/%d/per_week", i))
		}
	}
	for _, k := range compare.Contrasts(ix, ids, compare.DefaultOptions) {
		said.add(d.contrast(k, func(id string) string { return c.Columns[slices.Index(ids, id)] }), uses...)
	}
	if s := j.Setup(j.Head.Stays); s != nil && j.Head.StaysWhy != "" && slices.Contains(setups, s) {
		said.add(d.say("stays-why",
			message.Values{"Name": d.calledDrive(j, s), "Why": strings.TrimSuffix(j.Head.StaysWhy, ".")}),
			"/job/stays_why", "/job/stays")
	}
	c.Said = append(c.Said, said.said...)
	d.Document.Beside = c
}

// calledDrive is a setup's name among others: its own, else its drive's.
func (d writer) calledDrive(j *job.Job, s *job.Setup) string {
	drive := j.Drive(s.Drive)
	if s.Name != "" && s.Name != words.English.DriveKind(drive) {
		return s.Name
	}
	return d.DriveKind(drive)
}

// cell says a test on a drive: its centre with the interval, and how that is against the base.
func (d writer) cell(t *job.Test, c compare.TableCell) string {
	if c.Centre == nil {
		return d.Say("not-measured")
	}
	s := d.forCustomer(d.Figure(*c.Centre, t.Unit))
	if c.Bound != "" {
		s = d.Say(string(c.Bound), message.Values{"Figure": s})
	}
	if c.Low != nil && c.High != nil {
		low, _, _ := strings.Cut(d.Figure(*c.Low, t.Unit), " ")
		high, _, _ := strings.Cut(d.Figure(*c.High, t.Unit), " ")
		s += " (" + low + "–" + high + ")"
	}
	switch {
	case c.Verdict == compare.NotComparable:
		s += ", " + d.Say("not-comparable")
	case c.Equal:
		s += ", " + d.Say("equal")
	case c.Factor != nil && c.Holds && !c.Single:
		s += ", " + d.FactorWords(*c.Factor)
	case c.Verdict == compare.TooClose:
		s += ", " + d.Say("too-close")
	case c.Factor != nil && (c.Verdict == compare.Faster || c.Verdict == compare.Slower):
		s += ", " + d.Say("not-certain")
	}
	return s
}

// facts adds what is known of the drives beside the tests; a row of which nothing is known is left out.
func (d writer) facts(c *Comparison, j *job.Job, setups []*job.Setup) {
	none := d.Label("none")
	for _, row := range []struct {
		key string
		of  func(s *job.Setup, drive *job.Drive) string
	}{
		{"turning-speed", func(_ *job.Setup, drive *job.Drive) string {
			if drive.RPM == 0 {
				return ""
			}
			return d.say("rpm", message.Values{"RPM": strconv.Itoa(drive.RPM)})
		}},
		{"port", func(s *job.Setup,
			_ *job.Drive) string {
			if key := "term.port." + string(s.Attached.Port); d.Has(key) {
				return d.Say(key)
			}
			return string(s.Attached.Port)
		}},
		{"rated-figures", func(_ *job.Setup, drive *job.Drive) string {
			if drive.Rated == nil || drive.Rated.ReadMBs == 0 && drive.Rated.WriteMBs == 0 {
				return ""
			}
			var both []string
			for _, v := range []float64{drive.Rated.ReadMBs, drive.Rated.WriteMBs} {
				if v > 0 {
					both = append(both, d.Figure(v, "MB/s"))
				}
			}
			return strings.Join(both, " / ")
		}},
		{"costs", func(_ *job.Setup, drive *job.Drive) string {
			if drive.Price == nil {
				return ""
			}
			s := d.Language.Number(drive.Price.Amount) + " " + drive.Price.Currency
			if at := drive.Price.At; !at.IsZero() {
				s += ", " + d.Day(at.Format(time.DateOnly))
			}
			return s
		}},
		{"per-tb", func(_ *job.Setup, drive *job.Drive) string { return d.perTB(drive) }},
	} {
		cells, known := []string{}, false
		for _, s := range setups {
			text := ""
			if drive := j.Drive(s.Drive); drive != nil {
				text = row.of(s, drive)
			}
			known = known || text != ""
			cells = append(cells, cmp.Or(text, none))
		}
		if known {
			c.Rows = append(c.Rows, ComparedRow{d.say("row." + row.key), cells})
		}
	}
}

// perTB is a drive's price for each TB, "" where it is not known.
func (d writer) perTB(drive *job.Drive) string {
	if drive.Price == nil || drive.CapacityBytes == 0 {
		return ""
	}
	amount, err := strconv.ParseFloat(drive.Price.Amount, 64)
	if err != nil || amount <= 0 {
		return ""
	}
	return d.Language.Number(fmt.Sprintf("%.2f", amount/(float64(drive.CapacityBytes)/1e12))) + " " +
		drive.Price.Currency
}

// contrast words the difference between two drives in a group of tests, no more than is certain.
func (d writer) contrast(c compare.Contrast, name func(string) string) string {
	v := message.Values{"Group": d.say("group." + c.Group), "A": name(c.A), "B": name(c.B), "Times": "", "Week": ""}
	switch {
	case c.Verdict == compare.Equal:
		return d.say("contrast.equal", v)
	case !c.Holds || c.Factor == nil:
		return d.say("contrast.open", v)
	case c.Verdict == compare.Slower: // said from the quicker one
		v["A"], v["B"] = v["B"], v["A"]
		v["Times"] = d.FactorWords(1 / *c.Factor)
	default:
		v["Times"] = d.FactorWords(*c.Factor)
	}
	if s := c.SecondsPerWeek; s != nil && math.Abs(*s) >= 30 {
		v["Week"] = d.say("contrast.week", message.Values{"Time": d.Hours(math.Abs(*s) / 3600)})
	}
	return d.say("contrast.faster", v)
}

// checkedUp says of a check-up what was so on either day, beside the figures: how full and how warm the drive was.
func (d writer) checkedUp(l *list, j *job.Job, of *compare.Ledger) {
	first, last := d.sittingOf(j, of.Then), d.sittingOf(j, of.With)
	if first == nil || last == nil || first.ID == last.ID {
		return // it was measured once: nothing is known of what went on since
	}
	l.add(d.say("checked-up"), "/job/kind", d.places.sitting(first.ID)+"/started", d.places.sitting(last.ID)+"/started")
	for _, fact := range []struct {
		key, unit  string
		then, with *float64
		at         string
	}{{"fill-went", "%", first.Conditions.FillPct, last.Conditions.FillPct, "fill_pct"},
		{"temperature-went", "°C", first.Conditions.DriveTempC, last.Conditions.DriveTempC, "drive_temp_c"}} {
		if fact.then != nil && fact.with != nil {
			l.add(d.say(fact.key,
				message.Values{"Then": fmt.Sprintf("%.0f %s", *fact.then, fact.unit),
					"Now": fmt.Sprintf("%.0f %s", *fact.with, fact.unit)}),
				d.places.sitting(first.ID)+"/conditions/"+fact.at, d.places.sitting(last.ID)+"/conditions/"+fact.at)
		}
	}
	d.healthWent(l, first, last)
}

// healthWent is the drive's health on both days, if both are known.
func (d writer) healthWent(l *list, first, last *job.Sitting) {
	if first.Health == nil || last.Health == nil {
		return
	}
	count := func(n *int64) string {
		if n == nil {
			return ""
		}
		return d.Language.Number(strconv.FormatInt(*n, 10))
	}
	share := func(v *float64) string {
		if v == nil {
			return ""
		}
		return d.Language.Number(fmt.Sprintf("%.0f", *v)) + " %"
	}
	for _, fact := range []struct{ key, then, with, at string }{
		{"health.hours", count(first.Health.PowerOnHours), count(last.Health.PowerOnHours), "power_on_hours"},
		{"health.reallocated", count(first.Health.Reallocated), count(last.Health.Reallocated), "reallocated"},
		{"health.pending", count(first.Health.Pending), count(last.Health.Pending), "pending"},
		{"health.wear", share(first.Health.WearPct), share(last.Health.WearPct), "wear_pct"},
	} {
		if fact.then != "" && fact.with != "" {
			l.add(d.say(fact.key, message.Values{"Then": fact.then, "Now": fact.with}),
				d.places.sitting(first.ID)+"/health/"+fact.at, d.places.sitting(last.ID)+"/health/"+fact.at)
		}
	}
}

// rated says of the drives of an upgrade what their makers state beside what was measured, and what a TB costs. Several
// drives have it in their table.
func (d writer) rated(l *list, j *job.Job, of *compare.Ledger) {
	if j.Kind() != job.KindUpgrade || d.Beside != nil {
		return
	}
	for _, setup := range []string{of.Then, of.With} {
		s := j.Setup(setup)
		if s == nil || j.Drive(s.Drive) == nil {
			continue
		}
		drive := j.Drive(s.Drive)
		name := message.Values{"Drive": d.DriveName(drive)}
		for _, fact := range []struct {
			key, what, at string
			rated         float64
		}{{"rated-read", catalogue.WhatLongRead, "read_mb_s", ratedOf(drive).ReadMBs},
			{"rated-write", catalogue.WhatLongWrite, "write_mb_s", ratedOf(drive).WriteMBs}} {
			test, measured := d.measuredAt(j, of, setup, fact.what)
			if fact.rated <= 0 || test == "" {
				continue
			}
			name["Rated"], name["Measured"] = d.Figure(fact.rated, "MB/s"), measured
			l.add(d.say(fact.key, name), append(d.places.values(test), d.places.drive(drive.ID)+"/rated/"+fact.at)...)
		}
		if name["Price"] = d.perTB(drive); name["Price"] != "" {
			l.add(d.say("price-per-tb", name), d.places.drive(drive.ID)+"/price",
				d.places.drive(drive.ID)+"/capacity_bytes")
		}
	}
}

func ratedOf(d *job.Drive) job.Rated {
	if d.Rated == nil {
		return job.Rated{}
	}
	return *d.Rated
}

// measuredAt is a setup's figure of a test that can be compared, in words, and the test; "" where there is none.
func (d writer) measuredAt(j *job.Job, of *compare.Ledger, setup, what string) (test, figure string) {
	for i := range of.Lines {
		ln := &of.Lines[i]
		s := ln.Then
		if setup == of.With {
			s = ln.With
		}
		if t := j.Test(ln.Test); t != nil && t.What == what && s != nil && s.Bound == "" &&
			ln.Verdict != compare.NotComparable {
			return t.ID, d.Figure(s.Centre, t.Unit)
		}
	}
	return "", ""
}

// sittingOf is the sitting that a side of a check-up is: the named one, or of a setup its last.
func (d writer) sittingOf(j *job.Job, id string) *job.Sitting {
	if s := j.Sitting(id); s != nil {
		return s
	}
	if on := j.SittingsOn(id); len(on) > 0 {
		return j.Sitting(on[len(on)-1].ID)
	}
	return nil
}

// sideDay is the day of a side of a check-up, "" where it isn't known.
func (d writer) sideDay(j *job.Job, id string) string {
	if s := d.sittingOf(j, id); s != nil && !s.Started.IsZero() {
		return d.Day(s.Started.Format(time.DateOnly))
	}
	return ""
}

// checkUpHeadline reports whether a computer is as it was.
func (d writer) checkUpHeadline(j *job.Job, l *compare.Ledger, ln *compare.Line, t *job.Test) {
	v := message.Values{"Name": d.name(t), "Then": d.timeOrFigure(ln.Then, t), "Now": d.timeOrFigure(ln.With, t),
		"Day": cmp.Or(d.sideDay(j, l.Then), d.Label("then"))}
	key := "checkup.open"
	switch {
	case ln.Indicative:
	case ln.Equal:
		key = "checkup.same"
	case ln.Verdict == compare.Slower && ln.HoldsAfterAll:
		key = "checkup.slower"
	case ln.Verdict == compare.Faster && ln.HoldsAfterAll:
		key = "checkup.faster"
	}
	d.Headline, d.Lead = d.say(key, v), d.say(key+"-lead")
}

func (d writer) timeOrFigure(s *side.Side, t *job.Test) string {
	if t.Unit == "s" {
		return d.Seconds(s.Centre)
	}
	return d.forCustomer(d.Figure(s.Centre, t.Unit))
}
