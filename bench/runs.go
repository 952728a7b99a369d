package bench

import (
	"context"
	"fmt"
	"hash/fnv"
	"slices"
	"strings"

	"nowthen/core/job"
	"nowthen/core/stopwatch"
	"nowthen/machine"
	"nowthen/sim"
)

// ConditionsHere measures the conditions of measuring on this computer, in a
// folder where one is given.
func (b *Bench) ConditionsHere(ctx context.Context, dir string) job.Conditions {
	return machine.ConditionsAt(ctx, dir)
}

// Computer says what the operating system tells of this computer.
func (b *Bench) Computer(ctx context.Context) job.Computer { return machine.ThisComputer(ctx) }

// Folders lists the folders in a folder of this computer.
func (b *Bench) Folders(path string) (*machine.Listing, error) {
	l, err := machine.Folders(path)
	if err != nil {
		r := invalid("%s.", upperFirst(err.Error()))
		r.Do = "Pick another folder."
		return nil, r
	}
	return l, nil
}

// checkConditions tells what is wrong with conditions.
func checkConditions(f fields, c job.Conditions) {
	one := func(field, v string, of ...string) {
		f.check(v == "" || slices.Contains(of, v), field, fmt.Sprintf("%q is not one of %s.", v, strings.Join(of, ", ")))
	}
	one("power", c.Power, "mains", "battery")
	one("power_mode", c.PowerMode, "normal", "saving")
	for _, v := range c.Busy {
		one("busy", v, "recording", "download", "update", "indexing", "backup", "scan", "other")
	}
	within := func(field string, v *float64, low, high float64, unit string) {
		f.check(v == nil || *v >= low && *v <= high, field, fmt.Sprintf("That lies between %g and %g %s.", low, high, unit))
	}
	within("background_mb_s", c.BackgroundMBs, 0, 1e6, "MB/s")
	within("cpu_pct", c.CPUPct, 0, 100, "%")
	within("fill_pct", c.FillPct, 0, 100, "%")
	within("drive_temp_c", c.DriveTempC, -40, 150, "°C")
}

// Sit opens a sitting on a setup under conditions.
func (b *Bench) Sit(ctx context.Context, jobID, setup string, c job.Conditions) (*View, error) {
	f := fields{}
	checkConditions(f, c)
	if err := f.refusal(); err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		s := j.Setup(setup)
		if s == nil {
			return missing("There is no setup %q in this job.", setup)
		}
		if d := j.Drive(s.Drive); d.Simulated != "" {
			c = simConditions(d.Simulated, c)
		}
		if s.Role != job.Then && c.FirstAfterSwap == nil {
			first := !slices.ContainsFunc(j.Sittings, func(o job.Sitting) bool { return o.Setup == setup })
			c.FirstAfterSwap = &first
		}
		id := freeID("s", len(j.Sittings), func(id string) bool { return j.Sitting(id) != nil })
		j.Sittings = append(j.Sittings, job.Sitting{ID: id, Setup: setup, Started: b.now(), Conditions: c})
		return nil
	})
}

// simConditions fills in what a simulated computer tells of itself.
func simConditions(drive string, c job.Conditions) job.Conditions {
	d, err := sim.Open(drive, 0)
	if err != nil {
		return c
	}
	fill, temp := d.Spec().FillPct, d.Spec().TempC
	if c.FillPct == nil {
		c.FillPct = &fill
	}
	if c.DriveTempC == nil {
		c.DriveTempC = &temp
	}
	return c
}

// AmendSitting changes a sitting's conditions.
func (b *Bench) AmendSitting(ctx context.Context, jobID, sitting string, c job.Conditions) (*View, error) {
	f := fields{}
	checkConditions(f, c)
	if err := f.refusal(); err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		s := j.Sitting(sitting)
		if s == nil {
			return missing("There is no sitting %q in this job.", sitting)
		}
		if c.FirstAfterSwap == nil {
			c.FirstAfterSwap = s.Conditions.FirstAfterSwap
		}
		c.Unknown = s.Conditions.Unknown
		s.Conditions = c
		return nil
	})
}

// starts are the tests that start the computer; the first after a swap meets a
// drive that the system does not know yet.
var starts = []string{"cold-start", "restart", "start-browser"}

// firstStart tells whether a run of a test on a setup would be the first start
// after a swap.
func firstStart(j *job.Job, t *job.Test, setup *job.Setup) bool {
	if setup.Role == job.Then || !slices.Contains(starts, t.What) {
		return false
	}
	for _, o := range j.Tests {
		if slices.Contains(starts, o.What) && len(j.RunsOf(o.ID, setup.ID)) > 0 {
			return false
		}
	}
	return true
}

// FirstStartReason is why a first start after a swap is set aside.
const FirstStartReason = "first start after the swap: the system meets a drive it does not know"

// addRun adds a run to a job. A start that is the first after a swap is set
// aside by itself.
func (b *Bench) addRun(j *job.Job, r job.Run) error {
	t, s := j.Test(r.Test), j.Sitting(r.Sitting)
	if t == nil {
		return missing("There is no test %q in this job.", r.Test)
	}
	if s == nil {
		return missing("There is no sitting %q in this job.", r.Sitting)
	}
	if err := job.CheckRun(t, &r); err != nil {
		return &Refusal{Kind: Invalid, Message: err.Error(), Kept: "All earlier runs are as they were.", Do: "Check value and unit, and send it again."}
	}
	if r.ID == "" {
		r.ID = newID()
	}
	if r.At.IsZero() {
		r.At = b.now()
	}
	if r.Warmth == "" {
		r.Warmth = t.Warmth
	}
	if r.StartKind == "" {
		r.StartKind = t.StartKind
	}
	setup := j.Setup(s.Setup)
	if j.Drive(setup.Drive).Simulated != "" || j.Computer(setup.Computer).Simulated != "" {
		r.Simulated = true // however it was timed
	}
	if firstStart(j, t, setup) {
		r.SetAside = &job.SetAside{Reason: FirstStartReason, At: r.At}
	}
	j.Runs = append(j.Runs, r)
	return nil
}

// SetAside takes a run out of the comparison, with a reason. It is kept.
func (b *Bench) SetAside(ctx context.Context, jobID, run, reason string) (*View, error) {
	reason = strings.TrimSpace(reason)
	f := fields{}
	f.check(reason != "", "reason", "Say why the run is set aside; it stands in the report's figures.")
	checkText(f, "reason", reason)
	if err := f.refusal(); err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		r := j.Run(run)
		if r == nil {
			return missing("There is no run %q in this job.", run)
		}
		r.SetAside = &job.SetAside{Reason: reason, At: b.now()}
		return nil
	})
}

// TakeBack puts a run that was set aside back into the comparison.
func (b *Bench) TakeBack(ctx context.Context, jobID, run string) (*View, error) {
	return b.update(ctx, jobID, func(j *job.Job) error {
		r := j.Run(run)
		if r == nil {
			return missing("There is no run %q in this job.", run)
		}
		r.SetAside = nil
		return nil
	})
}

// seed makes the simulated computer's next run of a test repeatable: the same
// job, test and count of runs give the same figures.
func seed(parts ...any) uint64 {
	h := fnv.New64a()
	fmt.Fprintln(h, parts...)
	return h.Sum64()
}

// Perform lets the simulated computer do a timed test once and keeps the run.
func (b *Bench) Perform(ctx context.Context, jobID, test, sitting string) (*View, error) {
	return b.update(ctx, jobID, func(j *job.Job) error {
		t, s := j.Test(test), j.Sitting(sitting)
		if t == nil || s == nil {
			return missing("There is no such test or sitting in this job.")
		}
		setup := j.Setup(s.Setup)
		name := j.Drive(setup.Drive).Simulated
		if name == "" {
			return conflict("This is a real computer; time it by hand.")
		}
		d, err := sim.Open(name, seed(j.Head.Number, test, setup.ID, len(j.RunsOf(test, setup.ID))))
		if err != nil {
			return invalid("%v", err)
		}
		phases, err := sim.Perform(d, t.What, firstStart(j, t, setup), len(j.RunsOf(test, setup.ID)))
		if err != nil {
			return invalid("%v", err)
		}
		value := phases[""] // a test without phases is one whole
		for _, p := range t.Phases {
			if p.Counted() {
				value += phases[p.ID]
			}
		}
		delete(phases, "")
		u := stopwatch.Automatic(sim.Resolution)
		return b.addRun(j, job.Run{Test: test, Sitting: sitting, Value: value, Method: job.Automatic, U: &u, Phases: phases, Simulated: true})
	})
}
