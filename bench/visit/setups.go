package visit

import (
	"context"
	"maps"
	"slices"
	"strings"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/sim"
)

// Trial is another setup of a job: with a new drive, or with a drive of the job (DriveID) connected in another
// way, such as first by USB and then internally.
type Trial struct {
	Name     string
	Drive    bench.Drive
	DriveID  string
	Relation job.Relation // how it joins the computer, "" if not known
}

// AddTrial adds a setup. It has the same plan by construction.
func (x *Visits) AddTrial(ctx context.Context, ch *bench.Change, jobID string, in Trial) (*bench.View, error) {
	f := bench.Fields{}
	f.Check(in.Relation == "" || slices.Contains(job.Relations, in.Relation), "relation",
		"Choose whether the drive replaces the old one, is added, caches it, goes back in, or is only tried.")
	if in.DriveID == "" {
		f.Input("drive", in.Drive)
	}
	f.Name("name", in.Name)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		then := firstIn(j)
		if then == nil {
			return bench.Refuse(bench.Conflict, "The job has no Then setup to follow.")
		}
		d, err := x.ofTrial(j, then, in)
		if err != nil {
			return err
		}
		if j.Kind() == job.KindComparison {
			compareWith(j, d, strings.TrimSpace(in.Name))
			return nil
		}
		j.Setups = append(j.Setups,
			job.Setup{ID: bench.FreeID("trial", 0, func(id string) bool { return j.Setup(id) != nil }), Role: job.Trial,
				Fitted: fittedSince(j), Also: slices.Clone(then.Also), Name: strings.TrimSpace(in.Name),
				Computer: then.Computer, Drive: d.ID, Attached: attachedAs(d), System: carried(&d, then)})
		join(j, &j.Setups[len(j.Setups)-1], in.Relation)
		return nil
	})
}

// ofTrial returns the drive of a new setup: a new drive, or one of the job.
func (x *Visits) ofTrial(j *job.Job, then *job.Setup, in Trial) (job.Drive, error) {
	if in.DriveID != "" {
		if d := j.Drive(in.DriveID); d != nil {
			return *d, nil
		}
		return job.Drive{}, bench.NoSuch("drive", in.DriveID)
	}
	d := x.priced(in.Drive)
	d.ID = bench.FreeID("d", len(j.Drives), func(id string) bool { return j.Drive(id) != nil })
	if c, ok := sim.Computers[j.Computer(then.Computer).Simulated]; ok { // on a simulated computer every drive is
		d.Simulated = simOf(c, d.Kind)
	}
	j.Drives = append(j.Drives, d)
	return d, nil
}

// simOf is the simulated drive that stands in for one of a kind: the computer's own if it has one of that kind.
func simOf(c sim.Computer, kind job.DriveKind) string {
	names := []string{c.New, c.Old}
	for _, of := range slices.Sorted(maps.Keys(sim.Computers)) {
		names = append(names, sim.Computers[of].New, sim.Computers[of].Old)
	}
	for _, name := range names {
		if simDrive(name).Kind == kind {
			return name
		}
	}
	return c.New
}

// Stay sets the setup whose drive the customer keeps; Then, if the old drive goes back in.
func (x *Visits) Stay(ctx context.Context, ch *bench.Change, jobID, setup string) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		s := j.Setup(setup)
		if s == nil {
			return bench.NoSuch("setup", setup)
		}
		if j.Head.Stays != s.ID {
			j.Head.Stays, j.Head.StaysWhy = s.ID, ""
		}
		return nil
	})
}

// NoteUsed sets how much of a setup's drive is in use, in bytes.
func (x *Visits) NoteUsed(ctx context.Context, ch *bench.Change, jobID, setup string,
	bytes int64) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		s := j.Setup(setup)
		if s == nil {
			return bench.NoSuch("setup", setup)
		}
		d := j.Drive(s.Drive)
		f := bench.Fields{}
		f.Check(bytes >= 0 && bytes <= 1e15, "used_bytes", "No drive holds that much. Check the unit.")
		f.Check(d.CapacityBytes == 0 || bytes <= d.CapacityBytes, "used_bytes",
			"That is more than the drive’s capacity. Check the unit.")
		if err := f.Refusal(); err != nil {
			return err
		}
		s.UsedBytes = bytes
		return nil
	})
}

// carried is how the system came onto a new drive: a simulated computer clones it; for a real one it isn't
// known yet.
func carried(d *job.Drive, then *job.Setup) job.System {
	if d.Simulated == "" {
		return job.System{}
	}
	return job.System{Origin: job.Cloned, Version: then.System.Version}
}
