package plan

import (
	"slices"

	"nowthen/core/job"
)

// FailingTemplate is the gentle plan, for a drive that is failing: nothing is written to it, it
// starts once, and saving the
// data comes first.
const FailingTemplate = "failing"

// GoGentle gives a job the gentle plan where nothing was measured in it yet, and reports whether it
// did. Where something
// was, a person decides.
func GoGentle(j *job.Job) bool {
	if j.Plan.Template == FailingTemplate || len(j.Runs) > 0 || j.Kind() != job.KindUpgrade {
		return false
	}
	all := Templates()
	i := slices.IndexFunc(all, func(t Template) bool { return t.ID == FailingTemplate })
	Apply(j, all[i], 0, 0)
	return true
}

// failing reports whether the job's plan is the gentle one.
func (st *Standing) failing() bool { return st.Plan.Template == FailingTemplate }

// backupFirst is the backup step where the old drive is failing and it is not done, else nil.
func (st *Standing) backupFirst() *job.Step {
	if b := st.Step(job.BackupStep); st.failing() && b != nil && b.Done == nil {
		return b
	}
	return nil
}
