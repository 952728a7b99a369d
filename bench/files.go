package bench

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/plan"
)

// Import takes a job file in as a new job.
func (b *Bench) Import(ctx context.Context, name string, data []byte) (*View, error) {
	j, err := jobfile.Read(name, data)
	var refused *jobfile.Refusal
	if errors.As(err, &refused) {
		return nil, fileRefusal(refused)
	}
	if err != nil {
		return nil, err
	}
	if j.Head.Opened.IsZero() {
		j.Head.Opened = b.now()
	}
	id := newID()
	if err := b.store.Add(ctx, id, j); err != nil {
		return nil, err
	}
	b.hub.tell(Event{Type: "job", Job: id})
	return b.view(id, j), nil
}

// fileRefusal says for people why a file was refused, with every fault.
func fileRefusal(refused *jobfile.Refusal) *Refusal {
	lines := refused.Lines()
	r := invalid("%s", lines[0])
	if n := len(lines); n > 1 {
		r.Message += fmt.Sprintf(" (and %d more)", n-1)
	}
	r.Fields = map[string]string{}
	for i, l := range lines[:min(len(lines), 50)] {
		r.Fields[fmt.Sprintf("%d", i+1)] = l
	}
	r.Kept = "Nothing of the file was taken in; the jobs here are as they were."
	r.Do = "Ask for the file again, or mend the places named."
	return r
}

// Export returns a job as a job file.
func (b *Bench) Export(ctx context.Context, id string) (number string, data []byte, err error) {
	j, err := b.store.Job(ctx, id)
	if err != nil {
		return "", nil, wrap(err)
	}
	data, err = jobfile.Write(j)
	return j.Head.Number, data, err
}

// TakeSitting takes a probe's sitting file into a setup: a new sitting under
// the file's conditions, with its runs. A test that measures the same as one of
// the plan is that one; others are added. Facts that nobody had noted yet are
// filled in, and none is changed.
func (b *Bench) TakeSitting(ctx context.Context, jobID, setup, name string, data []byte) (*View, error) {
	f, err := jobfile.ReadSitting(name, data)
	var refused *jobfile.Refusal
	if errors.As(err, &refused) {
		return nil, fileRefusal(refused)
	}
	if err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		s := j.Setup(setup)
		if s == nil {
			return missing("There is no setup %q in this job.", setup)
		}
		if slices.ContainsFunc(f.Runs, func(r job.Run) bool { return j.Run(r.ID) != nil }) {
			c := conflict("That file was taken in already: a run of it is in this job.")
			c.Kept = "Its runs are there, once."
			return c
		}
		sitting := job.Sitting{ID: freeID("s", len(j.Sittings), func(id string) bool { return j.Sitting(id) != nil }), Setup: setup, Conditions: f.Conditions}
		for _, r := range f.Runs {
			if !r.At.IsZero() && (sitting.Started.IsZero() || r.At.Before(sitting.Started)) {
				sitting.Started = r.At
			}
		}
		if sitting.Started.IsZero() {
			sitting.Started = b.now()
		}
		j.Sittings = append(j.Sittings, sitting)
		ids := map[string]string{} // of the file's tests in the job
		for i := range f.Tests {
			t := f.Tests[i]
			at := slices.IndexFunc(j.Tests, func(o job.Test) bool { return plan.SameMeasurement(&o, &t) })
			if at >= 0 {
				ids[t.ID] = j.Tests[at].ID
				continue
			}
			if !slices.ContainsFunc(f.Runs, func(r job.Run) bool { return r.Test == t.ID }) {
				continue
			}
			own := t.ID
			for n := 2; j.Test(own) != nil; n++ {
				own = fmt.Sprintf("%s-%d", t.ID, n)
			}
			ids[t.ID], t.ID = own, own
			j.Tests = append(j.Tests, t)
		}
		for _, r := range f.Runs {
			r.Test, r.Sitting = ids[r.Test], sitting.ID
			aside := r.SetAside
			if err := b.addRun(j, r); err != nil {
				return err
			}
			if last := &j.Runs[len(j.Runs)-1]; aside != nil {
				last.SetAside = aside
			}
		}
		fillIn(j, s, f)
		return nil
	})
}

// fillIn notes what the file knows and the job does not.
func fillIn(j *job.Job, s *job.Setup, f *jobfile.SittingFile) {
	c := j.Computer(s.Computer)
	for _, pair := range [][2]*string{{&c.Maker, &f.Computer.Maker}, {&c.Model, &f.Computer.Model}, {&c.Processor, &f.Computer.Processor},
		{&c.Graphics, &f.Computer.Graphics}, {&c.System, &f.Computer.System}} {
		if *pair[0] == "" {
			*pair[0] = *pair[1]
		}
	}
	if c.MemoryBytes == 0 {
		c.MemoryBytes = f.Computer.MemoryBytes
	}
	if s.Attached.Port == "" && s.Attached.LinkMBs == 0 {
		s.Attached = f.Attached
	}
	d := j.Drive(s.Drive)
	for _, pair := range [][2]*string{{&d.Maker, &f.Drive.Maker}, {&d.Model, &f.Drive.Model}, {&d.Interface, &f.Drive.Interface}} {
		if *pair[0] == "" {
			*pair[0] = *pair[1]
		}
	}
	if d.CapacityBytes == 0 {
		d.CapacityBytes = f.Drive.CapacityBytes
	}
	if d.Rated == nil {
		d.Rated = f.Drive.Rated
	}
}
