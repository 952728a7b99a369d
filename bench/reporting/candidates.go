package reporting

import (
	"context"
	"slices"
	"strconv"
	"time"

	"nowthen/bench"
	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/side"
	"nowthen/core/words"
)

// Candidates are the drives measured in a job, each compared with the base and with each other.
type Candidates struct {
	// Base is the setup that the others are compared with: Then, or in a comparison the one that was picked.
	Base string `json:"base"`
	// List has the base first in a comparison; beside Then only the others are in it.
	List []Candidate `json:"list"`
	// Said are sentences comparing each pair, no more than their intervals support.
	Said []string `json:"said"`
	// Groups compare each pair over each group of tests.
	Groups []compare.Contrast `json:"groups"`
	// Table has every test of every drive, including the base.
	Table compare.Table `json:"table"`
	// Tests are those of the table's rows.
	Tests []job.Test `json:"tests"`
}

// Candidate is a drive that may be kept.
type Candidate struct {
	Facet
	Kind job.DriveKind `json:"kind"`
	RPM  int           `json:"rpm"` // of a disk; 0 is not known
	Port job.Port      `json:"port"`
	// Measured are the days on which it was measured, in order.
	Measured []string `json:"measured"`
	// Waiting and DriveGroup compare it with the base; Words is "" if nothing is measured.
	Waiting    GroupView    `json:"waiting"`
	DriveGroup GroupView    `json:"drive_group"`
	Savings    *SavingsView `json:"savings"`
	// SavesAStart is how much faster a start is than with the base, s; nil if no start is clearly faster.
	SavesAStart *float64 `json:"saves_a_start"`
	// Readings are its readings, such as noise and temperature, in words.
	Readings []string `json:"readings"`
}

// Candidates compares every setup that has runs with the base, and with each other. The base is Then, or a
// comparison's first drive, where none is named.
func (x *Reports) Candidates(ctx context.Context, jobID, base string) (*Candidates, error) {
	snap, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	j, err := x.withUsual(ctx, snap.Job)
	if err != nil {
		return nil, err
	}
	o, err := x.options(ctx)
	if err != nil {
		return nil, err
	}
	out := &Candidates{List: []Candidate{}, Said: []string{}, Groups: []compare.Contrast{}, Tests: []job.Test{},
		Table: compare.Table{Columns: []string{}, Rows: []compare.TableRow{}}}
	first := j.SetupAs(job.Then)
	if j.Kind() == job.KindComparison && len(j.Setups) > 0 {
		first = &j.Setups[0]
	}
	if base != "" {
		if first = j.Setup(base); first == nil {
			return nil, bench.NoSuch("setup", base)
		}
	}
	if first == nil {
		return out, nil
	}
	out.Base = first.ID
	ix := j.Indexed()
	ids, of := []string{first.ID}, []*job.Setup{}
	for i := range j.Setups {
		if s := &j.Setups[i]; s.ID != first.ID && measuredOn(ix, s.ID) {
			ids, of = append(ids, s.ID), append(of, s)
		}
	}
	table, ledgers := compare.Tabled(ix, ids, o)
	out.Table = table
	for _, r := range table.Rows {
		out.Tests = append(out.Tests, *ix.Test(r.Test))
	}
	rivals := of
	if j.Kind() == job.KindComparison {
		rivals = append([]*job.Setup{first}, of...)
		out.List = append(out.List, candidate(ix, &compare.Ledger{}, first))
	}
	for i, s := range of {
		out.List = append(out.List, candidate(ix, ledgers[i], s))
	}
	names := make([]string, len(rivals))
	for i, s := range rivals {
		names[i] = s.ID
	}
	out.Groups = compare.Contrasts(ix, names, o)
	for a := range rivals {
		for b := a + 1; b < len(rivals); b++ {
			l := compare.Indexed(ix, rivals[a].ID, rivals[b].ID, o)
			if s := against(l.Groups.Waiting, j, rivals[a], rivals[b]); s != "" {
				out.Said = append(out.Said, s)
			}
		}
	}
	return out, nil
}

func measuredOn(ix *job.Index, setup string) bool {
	for i := range ix.Tests {
		if len(ix.Side(ix.Tests[i].ID, setup)) > 0 {
			return true
		}
	}
	return false
}

// candidate describes a setup's drive; l is its ledger against the base, without lines for the base itself.
func candidate(ix *job.Index, l *compare.Ledger, s *job.Setup) Candidate {
	c := Candidate{Facet: facet(ix.Job, s), Readings: []string{}, Port: s.Attached.Port, Measured: []string{},
		Waiting: GroupView{l.Groups.Waiting, words.Waits(l.Groups.Waiting)}, DriveGroup: GroupView{l.Groups.Drive,
			words.Rates(l.Groups.Drive)}}
	if d := ix.Drive(s.Drive); d != nil {
		c.Kind, c.RPM = d.Kind, d.RPM
	}
	for _, at := range ix.SittingsOn(s.ID) {
		if day := at.Started.Format(time.DateOnly); !at.Started.IsZero() && !slices.Contains(c.Measured, day) {
			c.Measured = append(c.Measured, day)
		}
	}
	for i := range ix.Tests {
		t := &ix.Tests[i]
		of := side.Of(ix, t, s.ID)
		c.Ceiling.measured(t, of)
		if t.Kind == job.Note && of != nil {
			c.Readings = append(c.Readings, t.Name+": "+words.Figure(of.Centre, t.Unit))
		}
	}
	if l.Savings != nil {
		c.Savings = &SavingsView{*l.Savings, words.Savings(l.Savings)}
	}
	for i := range l.Lines {
		ln := &l.Lines[i]
		t := ix.Test(ln.Test)
		if l.Headline != nil && ln.Test == *l.Headline && catalogue.IsStart(t) && ln.Verdict == compare.Faster &&
			ln.HoldsAfterAll {
			c.SavesAStart = ln.Saves
		}
	}
	return c
}

// against says which of two drives is cheaper and which is larger if their waits can't be told apart; "" if
// they can, which the groups say.
func against(g compare.Group, j *job.Job, a, b *job.Setup) string {
	if g.Lines == 0 || g.Low == nil || g.High == nil || *g.Low > 1 || *g.High < 1 {
		return ""
	}
	say := message.English.Say
	said := say("candidates.same", message.Values{"A": called(a), "B": called(b)})
	da, db := j.Drive(a.Drive), j.Drive(b.Drive)
	if da == nil || db == nil {
		return said
	}
	if pa, pb, ok := prices(da, db); ok && pa != pb {
		cheaper := called(a)
		if pb < pa {
			cheaper = called(b)
		}
		said += " " + say("candidates.cheaper", message.Values{"Name": cheaper})
	}
	if da.CapacityBytes > 0 && db.CapacityBytes > 0 && da.CapacityBytes != db.CapacityBytes {
		roomier := called(a)
		if db.CapacityBytes > da.CapacityBytes {
			roomier = called(b)
		}
		said += " " + say("candidates.roomier", message.Values{"Name": roomier})
	}
	return said
}

// prices returns the prices of two drives if both are known in one currency.
func prices(a, b *job.Drive) (pa, pb float64, ok bool) {
	if a.Price == nil || b.Price == nil || a.Price.Currency != b.Price.Currency {
		return 0, 0, false
	}
	pa, errA := strconv.ParseFloat(a.Price.Amount, 64)
	pb, errB := strconv.ParseFloat(b.Price.Amount, 64)
	return pa, pb, errA == nil && errB == nil
}
