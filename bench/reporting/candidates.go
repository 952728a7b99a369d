package reporting

import (
	"context"
	"strconv"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/words"
)

// Candidates are the drives that were measured in a job beside Then's, each against Then, and
// what can be said of them against each other.
type Candidates struct {
	List []Candidate `json:"list"`
	// Said are sentences on each two of them, no more than their intervals carry.
	Said []string `json:"said"`
	// Groups are each two of them over each group of tests.
	Groups []compare.Contrast `json:"groups"`
}

// Candidate is one drive that may stay.
type Candidate struct {
	Facet
	// Waiting and DriveGroup are what it comes to against Then; Words "" where nothing is measured.
	Waiting    GroupView    `json:"waiting"`
	DriveGroup GroupView    `json:"drive_group"`
	Savings    *SavingsView `json:"savings"`
	// SavesAStart is what a start saves, s, nil where no start is clearly quicker.
	SavesAStart *float64 `json:"saves_a_start"`
	// Readings are what was read off on it, such as noise and temperature, in words.
	Readings []string `json:"readings"`
}

// Candidates compares every setup that has runs, Then aside, with Then, and with each other.
func (x *Reports) Candidates(ctx context.Context, jobID string) (*Candidates, error) {
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
	out := &Candidates{List: []Candidate{}, Said: []string{}, Groups: []compare.Contrast{}}
	then := j.SetupAs(job.Then)
	if then == nil {
		return out, nil
	}
	ix := j.Indexed()
	var of []*job.Setup
	for i := range j.Setups {
		s := &j.Setups[i]
		if s.ID == then.ID || !measuredOn(ix, s.ID) {
			continue
		}
		of = append(of, s)
		out.List = append(out.List, candidate(ix, then, s, o))
	}
	ids := make([]string, len(of))
	for i, s := range of {
		ids[i] = s.ID
	}
	out.Groups = compare.Contrasts(ix, ids, o)
	for a := range of {
		for b := a + 1; b < len(of); b++ {
			l := compare.Indexed(ix, of[a].ID, of[b].ID, o)
			if s := against(l.Groups.Waiting, j, of[a], of[b]); s != "" {
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

func candidate(ix *job.Index, then, s *job.Setup, o compare.Options) Candidate {
	l := compare.Indexed(ix, then.ID, s.ID, o)
	c := Candidate{Facet: facet(ix.Job, s), Readings: []string{},
		Waiting: GroupView{l.Groups.Waiting, words.Waits(l.Groups.Waiting)}, DriveGroup: GroupView{l.Groups.Drive,
			words.Rates(l.Groups.Drive)}}
	if l.Savings != nil {
		c.Savings = &SavingsView{*l.Savings, words.Savings(l.Savings)}
	}
	for i := range l.Lines {
		ln := &l.Lines[i]
		t := ix.Test(ln.Test)
		c.Ceiling.measured(t, ln.With)
		if l.Headline != nil && ln.Test == *l.Headline && catalogue.IsStart(t) && ln.Verdict == compare.Faster &&
			ln.HoldsAfterAll {
			c.SavesAStart = ln.Saves
		}
		if t.Kind == job.Note && ln.With != nil {
			c.Readings = append(c.Readings, t.Name+": "+words.Figure(ln.With.Centre, t.Unit))
		}
	}
	return c
}

// against says of two candidates what their waits carry; where those cannot be told apart, which
// one is cheaper and which has more room. b is compared with a, whose waits are the first ones.
func against(g compare.Group, j *job.Job, a, b *job.Setup) string {
	if g.Lines == 0 || g.Low == nil || g.High == nil {
		return ""
	}
	say := message.English.Say
	switch {
	case *g.Low > 1:
		return say("candidates.shorter", message.Values{"A": called(b), "B": called(a), "Words": words.Waits(g)})
	case *g.High < 1:
		return say("candidates.longer", message.Values{"A": called(b), "B": called(a), "Words": words.Waits(g)})
	}
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

// prices are those of two drives where both are known in one currency.
func prices(a, b *job.Drive) (pa, pb float64, ok bool) {
	if a.Price == nil || b.Price == nil || a.Price.Currency != b.Price.Currency {
		return 0, 0, false
	}
	pa, errA := strconv.ParseFloat(a.Price.Amount, 64)
	pb, errB := strconv.ParseFloat(b.Price.Amount, 64)
	return pa, pb, errA == nil && errB == nil
}
