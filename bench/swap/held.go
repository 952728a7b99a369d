package swap

import (
	"context"
	"fmt"

	"nowthen/bench"
	"nowthen/core/capacity"
	"nowthen/core/job"
	"nowthen/core/order"
)

// Hold stores an imported result of the true capacity check. It replaces an earlier one.
func (x *Swap) Hold(ctx context.Context, ch *bench.Change, jobID string, in capacity.Result) (*bench.View, error) {
	return x.hold(ctx, ch, jobID, "", in, false)
}

// Sustain stores an imported result of the sustained writing check. A repeat changes nothing.
func (x *Swap) Sustain(ctx context.Context, ch *bench.Change, jobID string, in job.Sustained) (*bench.View, error) {
	return x.sustain(ctx, ch, jobID, "", in)
}

// Checked stores a probe's result of a check of the new drive. A repeat changes nothing.
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

// mostSustained is how many sustained writing results are kept of a drive; nobody needs more.
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

// found changes the new drive: the one with the digest if a setup has it, else the job's new drive unless it is
// known to be another one.
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
