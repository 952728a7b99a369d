package swap

import (
	"context"
	"slices"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/store"
)

// Bounds of a job's tasks.
const (
	mostTasks     = 50
	mostStretches = 200
	mostBytes     = int64(1e15)
)

// recent is how many of the shop's jobs are used for the usual times.
const recent = 300

// earlier returns the tasks of the shop's newest jobs except one; those on simulated drives are left out.
func (x *Swap) earlier(ctx context.Context, but string) ([]job.Task, error) {
	outlines, err := x.store.Others(ctx, store.Search{State: store.AllJobs, Limit: recent}, but)
	if err != nil {
		return nil, err
	}
	var tasks []job.Task
	for _, o := range outlines {
		if !slices.ContainsFunc(o.Job.Drives, func(d job.Drive) bool { return d.Simulated != "" }) {
			tasks = append(tasks, o.Job.Head.Tasks...)
		}
	}
	return tasks, nil
}

// Tasking is a task in a request.
type Tasking struct {
	What  job.TaskKind   `json:"what"`
	Words string         `json:"words"`
	From  job.TaskSource `json:"from"`
	Bytes int64          `json:"bytes"`
	// Kind starts its clock, hands-on or waiting; "" leaves it stopped.
	Kind job.StretchKind `json:"kind"`
}

func (in *Tasking) check(f bench.Fields) {
	in.Words = strings.TrimSpace(in.Words)
	bench.OneOf(f, "what", in.What, job.Cloning, job.Installing, job.Restoring, job.Copying, job.OtherTask)
	f.Text("words", in.Words)
	f.Check(in.What != job.OtherTask || in.Words != "", "words", "Describe the task.")
	bench.OneOf(f, "from", in.From, "", job.FromOldDrive, job.FromBackup, job.FromInstaller, job.FromNetwork,
		job.FromElsewhere)
	f.Check(in.Bytes >= 0 && in.Bytes <= mostBytes, "bytes", "Enter a whole number from 0.")
	bench.OneOf(f, "kind", in.Kind, "", job.HandsOn, job.Waiting)
}

// Begin adds a task to the visit. Its clock runs if a kind is given.
func (x *Swap) Begin(ctx context.Context, ch *bench.Change, jobID string, in Tasking) (*bench.View, error) {
	f := bench.Fields{}
	in.check(f)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		if len(j.Head.Tasks) >= mostTasks {
			return bench.Refuse(bench.Conflict, "A job has at most %d tasks.", mostTasks)
		}
		t := job.Task{ID: bench.NewID(), What: in.What, Words: in.Words, From: in.From, Bytes: in.Bytes,
			Stretches: []job.Stretch{}}
		if in.Kind != "" {
			t.Stretches = append(t.Stretches, job.Stretch{From: x.jobs.Now(), Kind: in.Kind})
		}
		j.Head.Tasks = append(j.Head.Tasks, t)
		ch.Made("jobs/" + jobID)
		return nil
	})
}

// onTask changes a task of a job.
func (x *Swap) onTask(ctx context.Context, ch *bench.Change, jobID, id string,
	change func(t *job.Task) error) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		t := j.Task(id)
		if t == nil {
			return bench.Refuse(bench.Missing, "There is no such task.")
		}
		return change(t)
	})
}

// Describe changes a task's description. Its clock doesn't change.
func (x *Swap) Describe(ctx context.Context, ch *bench.Change, jobID, id string, in Tasking) (*bench.View, error) {
	f := bench.Fields{}
	in.check(f)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.onTask(ctx, ch, jobID, id, func(t *job.Task) error {
		t.What, t.Words, t.From, t.Bytes = in.What, in.Words, in.From, in.Bytes
		return nil
	})
}

// Clocking is what happens to a task's clock.
type Clocking struct {
	// Kind is what happens from now on, hands-on or waiting; "" stops the clock.
	Kind job.StretchKind `json:"kind"`
	// Broke is why it was interrupted; "" if it wasn't.
	Broke string `json:"broke"`
	// Minutes is how long the ending stretch really took, if the clock was forgotten; 0 if it is right.
	Minutes float64 `json:"minutes"`
}

// Clock ends the running stretch of a task, and begins one if a kind is given. A running stretch of the same
// kind continues.
func (x *Swap) Clock(ctx context.Context, ch *bench.Change, jobID, id string, in Clocking) (*bench.View, error) {
	in.Broke = strings.TrimSpace(in.Broke)
	f := bench.Fields{}
	bench.OneOf(f, "kind", in.Kind, "", job.HandsOn, job.Waiting)
	f.Text("broke", in.Broke)
	f.Check(in.Minutes >= 0 && in.Minutes <= 60*24*365, "minutes", "Enter a whole number from 0.")
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.onTask(ctx, ch, jobID, id, func(t *job.Task) error {
		now := x.jobs.Now()
		if running := t.Running(); running != nil {
			if running.Kind == in.Kind && in.Broke == "" && in.Minutes == 0 {
				return nil // pressed twice
			}
			running.To = now
			if in.Minutes > 0 {
				running.To = running.From.Add(time.Duration(in.Minutes * float64(time.Minute)))
				if running.To.After(now) {
					return bench.Refuse(bench.Invalid, "That is longer than the clock ran.")
				}
			}
			running.Broke = in.Broke
		} else if in.Kind == "" {
			return bench.Refuse(bench.Conflict, "The clock is already stopped.")
		}
		if in.Kind == "" {
			return nil
		}
		if len(t.Stretches) >= mostStretches {
			return bench.Refuse(bench.Conflict, "A task can be timed at most %d times. Add another task.",
				mostStretches)
		}
		t.Stretches = append(t.Stretches, job.Stretch{From: now, Kind: in.Kind})
		return nil
	})
}
