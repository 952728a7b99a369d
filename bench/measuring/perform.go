package measuring

import (
	"context"
	"fmt"
	"hash/fnv"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/core/stopwatch"
	"nowthen/sim"
)

// seed makes the simulated computer's next run of a test repeatable: the same job, test and number of runs give
// the same figures.
func seed(parts ...any) uint64 {
	h := fnv.New64a()
	fmt.Fprintln(h, parts...)
	return h.Sum64()
}

// Perform lets the simulated computer do a timed test once and keeps the run.
func (x *Rounds) Perform(ctx context.Context, ch *bench.Change, jobID, test, sitting string) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		t, s := j.Test(test), j.Sitting(sitting)
		if t == nil || s == nil {
			return bench.Refuse(bench.Missing, "There is no such test or session in this job.")
		}
		setup := j.Setup(s.Setup)
		name := j.Drive(setup.Drive).Simulated
		if name == "" {
			return bench.Refuse(bench.Conflict, "This is a real computer; time it by hand.")
		}
		d, err := sim.Open(name, seed(j.Head.Number, test, setup.ID, len(j.RunsOf(test, setup.ID))))
		if err != nil {
			return bench.Because(bench.Invalid, err)
		}
		phases, err := sim.Perform(d, t.What, bench.FirstStart(j, t, setup), len(j.RunsOf(test, setup.ID)))
		if err != nil {
			return bench.Because(bench.Invalid, err)
		}
		value := phases[""] // a test without phases is one whole
		for _, p := range t.Phases {
			if p.Counted() {
				value += phases[p.ID]
			}
		}
		delete(phases, "")
		u := stopwatch.Automatic(sim.Resolution)
		return bench.AddRun(j,
			job.Run{Test: test, Sitting: sitting, Value: value, Method: job.Automatic, U: &u, Phases: phases,
				Simulated: true}, x.jobs.Now())
	})
}
