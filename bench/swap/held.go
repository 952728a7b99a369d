package swap

import (
	"context"

	"nowthen/bench"
	"nowthen/core/capacity"
	"nowthen/core/job"
	"nowthen/core/message"
)

// Hold keeps whether the new drive holds what it says, as the probe found it. What was kept before is replaced.
func (x *Swap) Hold(ctx context.Context, jobID string, in capacity.Result) (*bench.View, error) {
	f := bench.Fields{}
	for name, v := range map[string]int64{"file_bytes": in.FileBytes, "written_bytes": in.Written, "of_bytes": in.Of, "blocks": int64(in.Blocks), "lost": int64(in.Lost), "overlaid": int64(in.Overlaid)} {
		f.Check(v >= 0, name, message.Tell("no-count"))
	}
	f.Check(in.Missed >= 0 && in.Missed <= 1, "missed", message.Tell("is-no-chance"))
	f.Check(in.Lost+in.Overlaid <= in.Blocks && in.Written <= in.FileBytes, "blocks", message.Tell("counts-do-not-add-up"))
	f.Check(in.First == nil || *in.First >= 0 && !in.Holds(), "first", message.Tell("counts-do-not-add-up"))
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, jobID, func(_ context.Context, j *job.Job) error {
		_, d := into(j)
		if d == nil {
			return bench.Refuse(bench.Conflict, "say-first-which-drive")
		}
		d.Held = &job.Held{At: x.jobs.Now(), FileBytes: in.FileBytes, Written: in.Written, Whole: in.Whole, Blocks: in.Blocks, Wrong: in.Lost + in.Overlaid, First: in.First, Missed: in.Missed}
		return nil
	})
}
