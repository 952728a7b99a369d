package visit

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/words"
	"nowthen/store"
)

// Earlier is an earlier job of the same computer. What was measured at its end can become a job's Then.
type Earlier struct {
	ID     string    `json:"id"`
	Number string    `json:"number"`
	Opened time.Time `json:"opened"`
	Drive  string    `json:"drive"` // the one that stayed
	Runs   int       `json:"runs"`  // kept on it
}

// maxEarlier is the most earlier jobs offered.
const maxEarlier = 10

// Earlier lists the earlier jobs of a job's computer, newest first: with the same customer, maker and model,
// and measurements on the drive that was kept.
func (x *Visits) Earlier(ctx context.Context, jobID string) ([]Earlier, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	list := []Earlier{}
	who := ownerOf(s.Job)
	if who == "" {
		return list, nil // nobody could say that it is the same one
	}
	outlines, err := x.store.Others(ctx,
		store.Search{State: store.AllJobs, Words: strings.Fields(s.Job.Head.Customer.Name), Limit: maxCards}, jobID)
	if err != nil {
		return nil, err
	}
	for _, o := range outlines {
		now := o.Job.AsNow()
		if now == nil || ownerOf(o.Job) != who || !o.Job.Head.Opened.Before(s.Job.Head.Opened) {
			continue
		}
		e := Earlier{ID: o.ID, Number: o.Job.Head.Number, Opened: o.Job.Head.Opened,
			Drive: words.DriveName(o.Job.Drive(now.Drive))}
		for key, n := range o.Counts {
			if t := o.Job.Sitting(key.Sitting); t != nil && t.Setup == now.ID {
				e.Runs += n.Kept
			}
		}
		if e.Runs > 0 {
			list = append(list, e)
		}
	}
	slices.SortFunc(list, func(a, b Earlier) int { return b.Opened.Compare(a.Opened) })
	return list[:min(maxEarlier, len(list))], nil
}

// ownerOf identifies a job's computer by owner and model; "" if they aren't known well enough to tell it from
// others.
func ownerOf(j *job.Job) string {
	who := strings.TrimSpace(j.Head.Customer.Name)
	if who == "" || len(j.Computers) == 0 {
		return ""
	}
	c := j.Computers[0]
	model := strings.TrimSpace(c.Maker + " " + c.Model)
	if model == "" {
		return ""
	}
	return strings.ToLower(who + "\n" + model + "\n" + c.Simulated)
}

// TakeEarlier copies the Now of an earlier job of the same computer into this job's Then, with its sittings,
// runs and tests. The earlier job doesn't change.
func (x *Visits) TakeEarlier(ctx context.Context, ch *bench.Change, jobID, from string) (*bench.View, error) {
	old, err := x.jobs.Load(ctx, from)
	if err != nil {
		return nil, err
	}
	traces, err := x.store.Traces(ctx, from)
	if err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		earlier := old.Job.Clone() // nothing of it may be shared
		then, now := j.SetupAs(job.Then), earlier.AsNow()
		if own := j.AsNow(); then == nil && own != nil && j.Kind() == job.KindCheckUp {
			then = &job.Setup{ID: "then", Role: job.Then, Computer: own.Computer, Drive: own.Drive}
		}
		switch {
		case from == jobID || ownerOf(j) == "" || ownerOf(j) != ownerOf(old.Job):
			return &bench.Refusal{Kind: bench.Conflict,
				Message: "The earlier job may be for another computer or customer.",
				Kept:    "Both jobs are unchanged.",
				Do:      "Enter the customer and the computer's maker and model in both."}
		case then == nil || now == nil:
			return bench.Refuse(bench.Conflict, "The earlier job has no Now setup, or this job has no Then setup.")
		case slices.Contains(j.TakenOver(then.ID), old.Job.Head.Number):
			return bench.Refuse(bench.Conflict, "The runs of job %s are here already.", old.Job.Head.Number)
		}
		a, b := old.Job.Drive(now.Drive), j.Drive(then.Drive)
		if a.Kind != b.Kind || a.CapacityBytes > 0 && b.CapacityBytes > 0 && a.CapacityBytes != b.CapacityBytes {
			return &bench.Refusal{Kind: bench.Conflict,
				Message: fmt.Sprintf("The old drive isn’t the one that stayed last time: %s here, %s in the earlier job.", words.DriveName(b), words.DriveName(a)),
				Kept:    "Both jobs are unchanged.", Do: "Measure Then again, or correct the drive in the docket."}
		}
		for _, r := range j.Runs {
			if s := j.Sitting(r.Sitting); s.Setup == then.ID && j.Test(r.Test).Kind != job.Control {
				return &bench.Refusal{Kind: bench.Conflict, Message: "Then was already measured in this job.",
					Kept: "Its runs are unchanged.",
					Do:   "Keep measuring in this job: new figures are better than an earlier visit’s."}
			}
		}
		if j.Setup(then.ID) == nil {
			j.Setups = append(j.Setups, *then)
			then = j.Setup(then.ID)
		}
		takeOver(j, then, earlier, now, traces)
		return nil
	})
}

// takeOver copies what was measured on a setup of an earlier job into a job's Then.
func takeOver(j *job.Job, then *job.Setup, old *job.Job, now *job.Setup, traces map[string]job.Trace) {
	d, from := j.Drive(then.Drive), old.Drive(now.Drive)
	d.DriveLabel = from.DriveLabel
	d.DriveFound = d.DriveFound.Or(from.DriveFound)
	d.Simulated = cmp.Or(d.Simulated, from.Simulated) // nothing takes the mark off
	brought := map[string]string{now.Drive: then.Drive}
	bring := func(id string) string {
		d := old.Drive(id)
		if own, ok := brought[id]; ok || d == nil {
			return own
		}
		c := *d
		c.ID = bench.FreeID("d", len(j.Drives), func(id string) bool { return j.Drive(id) != nil })
		j.Drives = append(j.Drives, c)
		brought[id] = c.ID
		return c.ID
	}
	then.Attached, then.System, then.Fitted, then.Link, then.UsedBytes = now.Attached, now.System, now.Fitted, now.Link,
		now.UsedBytes
	if now.CacheDrive != "" {
		then.CacheDrive = bring(now.CacheDrive)
	}
	then.Also = nil
	for _, a := range now.Also {
		a.Drive = bring(a.Drive)
		then.Also = append(then.Also, a)
	}
	sittings, tests := map[string]string{}, map[string]string{}
	for _, s := range old.SittingsOn(now.ID) {
		own := bench.FreeID("s", len(j.Sittings), func(id string) bool { return j.Sitting(id) != nil })
		if s.Job == "" {
			s.Job = old.Head.Number
		}
		sittings[s.ID], s.ID, s.Setup = own, own, then.ID
		j.Sittings = append(j.Sittings, s)
	}
	for _, r := range old.Runs {
		sitting, ok := sittings[r.Sitting]
		if !ok {
			continue
		}
		if _, ok := tests[r.Test]; !ok {
			tests[r.Test] = plan.Adopt(j, *old.Test(r.Test))
		}
		r.Join(traces[r.ID])
		r.ID, r.Test, r.Sitting = bench.NewID(), tests[r.Test], sitting
		r.Video = nil // the clip and its stills stay with the earlier job
		if r.On != "" {
			r.On = bring(r.On)
		}
		j.Runs = append(j.Runs, r)
	}
	// Work on the computer after it was measured comes between Then and Now.
	for _, w := range old.Head.Work {
		if last := old.SittingsOn(now.ID); len(last) > 0 && w.At.After(last[0].Started) {
			j.Head.Work = append(j.Head.Work, w)
		}
	}
}
