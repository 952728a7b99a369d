package measuring

import (
	"context"
	"path/filepath"
	"slices"

	"nowthen/bench"
	"nowthen/core/hardware"
	"nowthen/core/job"
)

// noteWhere stores with a sitting that it was measured on the bench's own computer, and on which of its drives:
// either the customer's drive is attached to it, or the wrong one was picked. If the job's computer is this
// one, there is nothing to store.
func (x *Rounds) noteWhere(ctx context.Context, r *running) error {
	if x.hardware == nil || r.state.Simulated || r.state.Dir == "" {
		return nil
	}
	where, here := placeOf(x.hardware(ctx), r.state.Dir)
	_, err := x.jobs.Change(ctx, nil, r.state.Job, func(j *job.Job) error {
		s := j.Sitting(r.state.Sitting)
		if s == nil || s.Where != nil {
			return nil
		}
		if setup := j.Setup(s.Setup); setup == nil || sameComputer(j.Computer(setup.Computer), here) {
			return nil
		}
		if !slices.ContainsFunc(j.Runs, func(run job.Run) bool { return run.Sitting == s.ID }) {
			s.Where = where
			return nil
		}
		// Its earlier runs were measured on the customer's computer, so this round gets a session of its own.
		id := bench.FreeID("s", len(j.Sittings), func(id string) bool { return j.Sitting(id) != nil })
		j.Sittings = append(j.Sittings, job.Sitting{ID: id, Setup: s.Setup, Started: x.jobs.Now(), Where: where})
		r.mu.Lock()
		r.state.Sitting = id
		r.mu.Unlock()
		return nil
	})
	return err
}

// placeOf returns the bench's own computer and its drive that holds a folder.
func placeOf(f *hardware.Facts, dir string) (*job.Where, hardware.Computer) {
	w := &job.Where{Computer: "bench"}
	if real, err := filepath.EvalSymlinks(dir); err == nil {
		dir = real
	}
	if d := f.Drive(f.DriveOf(dir)); d != nil {
		w.DriveDigest, w.CapacityBytes, w.Kind = d.SerialDigest, d.CapacityBytes, d.Kind
		if d.Attached != nil {
			w.Port = d.Attached.Port
		}
	}
	return w, f.Computer
}

// sameComputer reports whether a job's computer is this one, judging by their names.
func sameComputer(c *job.Computer, here hardware.Computer) bool {
	return c != nil && c.Model != "" && c.Maker == here.Maker && c.Model == here.Model && c.Processor == here.Processor
}
