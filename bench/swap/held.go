package swap

import (
	"context"
	"fmt"

	"nowthen/bench"
	"nowthen/core/capacity"
	"nowthen/core/job"
	"nowthen/core/order"
)

// Hold keeps whether the new drive has the capacity it reports, as somebody imports it. What was kept before is replaced.
func (x *Swap) Hold(ctx context.Context, ch *bench.Change, jobID string, in capacity.Result) (*bench.View, error) {
	return x.hold(ctx, ch, jobID, "", in, false)
}

// Sustain keeps how the new drive held out while it was written to, as somebody imports it. The
// same again changes nothing.
func (x *Swap) Sustain(ctx context.Context, ch *bench.Change, jobID string, in job.Sustained) (*bench.View, error) {
	return x.sustain(ctx, ch, jobID, "", in)
}

// Checked keeps what a probe found of the new drive. The same again changes nothing.
func (x *Swap) Checked(ctx context.Context, probe string, c order.Checked) error {
	f, err := x.probes.Checked(ctx, probe, c)
	if err != nil {
		return err
	}
	if f.Held != nil {
		_, err = x.hold(ctx, nil, f.Job, f.SerialDigest, *f.Held, f.Simulated)
	} else {
		_, err = x.sustain(ctx, nil, f.Job, f.SerialDigest, *f.Sustained)
	}
	if err != nil {
		return fmt.Errorf("keeping what was found of the drive: %w", err)
	}
	return nil
}

func (x *Swap) hold(ctx context.Context, ch *bench.Change, jobID, digest string, in capacity.Result,
	simulated bool) (*bench.View, error) {
	if err := in.Check(); err != nil {
		return nil, bench.Because(bench.Invalid, err)
	}
	return x.found(ctx, ch, jobID, digest, func(d *job.Drive) {
		d.Held = &job.Capacity{At: x.jobs.Now(), FileBytes: in.FileBytes, Written: in.Written, Whole: in.Whole,
			Blocks: in.Blocks, Wrong: in.Missing + in.Overlaid, First: in.First, Missed: in.Missed,
			Simulated: simulated || d.Simulated != ""}
	})
}

// mostSustained is how many looks are kept of a drive; nobody makes more.
const mostSustained = 50

func (x *Swap) sustain(ctx context.Context, ch *bench.Change, jobID, digest string,
	in job.Sustained) (*bench.View, error) {
	if err := in.Check(); err != nil {
		return nil, bench.Because(bench.Invalid, err)
	}
	if now := x.jobs.Now(); in.At.IsZero() || in.At.After(now) {
		in.At = now
	}
	full := false
	v, err := x.found(ctx, ch, jobID, digest, func(d *job.Drive) {
		for i := range d.Sustained {
			if in.ID != "" && d.Sustained[i].ID == in.ID {
				return
			}
		}
		if full = len(d.Sustained) >= mostSustained; !full {
			d.Sustained = append(d.Sustained, in)
		}
	})
	if err == nil && full {
		return nil, bench.Refuse(bench.Conflict, "At most %d of them.", mostSustained)
	}
	return v, err
}

// found notes something of the drive that goes in: the one with a digest where a setup has such a
// one, else the new one of the job, as
// long as that is not known to be another.
func (x *Swap) found(ctx context.Context, ch *bench.Change, jobID, digest string,
	note func(*job.Drive)) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		_, d := into(j)
		if then := j.SetupAs(job.Then); digest != "" {
			for i := range j.Drives {
				if it := &j.Drives[i]; it.SerialDigest == digest && (then == nil || it.ID != then.Drive) {
					note(it)
					return nil
				}
			}
			if d != nil && d.SerialDigest != "" {
				return bench.Refuse(bench.Conflict, "That isn’t this job’s new drive.")
			}
		}
		if d == nil {
			return bench.Refuse(bench.Conflict, "Enter the new drive first.")
		}
		note(d)
		return nil
	})
}
