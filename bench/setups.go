package bench

import (
	"context"
	"regexp"
	"strings"

	"nowthen/core/job"
	"nowthen/sim"
)

// AddTrial adds a setup with another drive. By construction it has the same plan.
func (b *Bench) AddTrial(ctx context.Context, jobID, name string, d job.Drive) (*View, error) {
	f := fields{}
	checkDrive(f, "drive", d)
	checkText(f, "name", name)
	if err := f.refusal(); err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		then := j.SetupAs(job.Then)
		if then == nil {
			return conflict("The job has no Then setup that a trial could follow.")
		}
		d.ID = freeID("d", len(j.Drives), func(id string) bool { return j.Drive(id) != nil })
		d.Simulated = ""
		if c, ok := sim.Computers[j.Computer(then.Computer).Simulated]; ok { // on a simulated computer every drive is
			d.Simulated = c.New
			if d.Kind == job.HDD {
				d.Simulated = c.Old
			}
		}
		j.Drives = append(j.Drives, d)
		j.Setups = append(j.Setups, job.Setup{ID: freeID("trial", 0, func(id string) bool { return j.Setup(id) != nil }), Role: job.Trial, Name: strings.TrimSpace(name),
			Computer: then.Computer, Drive: d.ID, Replaces: then.Drive, Attached: attachedAs(d), System: job.System{Origin: "cloned", Version: then.System.Version}})
		return nil
	})
}

// Stay names the trial whose drive stays: it becomes Now, and what was Now
// becomes a trial.
func (b *Bench) Stay(ctx context.Context, jobID, setup string) (*View, error) {
	return b.update(ctx, jobID, func(j *job.Job) error {
		s := j.Setup(setup)
		switch {
		case s == nil:
			return missing("There is no setup %q in this job.", setup)
		case s.Role == job.Then:
			return conflict("Then is the computer as it came; it cannot be what stays.")
		}
		if now := j.SetupAs(job.Now); now != nil {
			now.Role = job.Trial
		}
		s.Role = job.Now
		return nil
	})
}

// NoteUsed notes how much of a setup's drive is in use, in bytes.
func (b *Bench) NoteUsed(ctx context.Context, jobID, setup string, bytes int64) (*View, error) {
	return b.update(ctx, jobID, func(j *job.Job) error {
		s := j.Setup(setup)
		if s == nil {
			return missing("There is no setup %q in this job.", setup)
		}
		d := j.Drive(s.Drive)
		f := fields{}
		f.check(bytes >= 0 && bytes <= 1e15, "used_bytes", "That is not an amount that a drive holds; check the unit.")
		f.check(d.CapacityBytes == 0 || bytes <= d.CapacityBytes, "used_bytes", "That is more than the drive holds; check the unit.")
		if err := f.refusal(); err != nil {
			return err
		}
		s.UsedBytes = bytes
		return nil
	})
}

var sittingSetup = regexp.MustCompile(`^(.+)@(.+)$`)

// split returns the job with those sides that name a sitting ("now@s5") on
// setups of their own.
func split(j *job.Job, ids ...string) *job.Job {
	var sittings []string
	for _, id := range ids {
		m := sittingSetup.FindStringSubmatch(id)
		if m != nil && j.Setup(id) == nil && j.Sitting(m[2]) != nil && j.Sitting(m[2]).Setup == m[1] {
			sittings = append(sittings, m[2])
		}
	}
	if len(sittings) == 0 {
		return j
	}
	return j.PerSitting(sittings...)
}
