package bench

import (
	"sync"
	"sync/atomic"

	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/plan"
)

// Snapshot is a job at one revision, with derived data that is computed once. It is shared and never changes.
type Snapshot struct {
	ID       string
	Revision int64
	Job      *job.Job

	older *job.Index // of the revision before, until this one is made
	stood *plan.Standing

	viewing  sync.Once
	view     *View
	standing atomic.Pointer[plan.Standing]
	indexing sync.Once
	index    atomic.Pointer[job.Index]
}

// next is the snapshot after a change.
func (s *Snapshot) next(revision int64, j *job.Job) *Snapshot {
	return &Snapshot{ID: s.ID, Revision: revision, Job: j, older: s.index.Load(), stood: s.standing.Load()}
}

// Index returns the job's index.
func (s *Snapshot) Index() *job.Index {
	s.indexing.Do(func() {
		s.index.Store(s.Job.IndexedAfter(s.older))
		s.older = nil
	})
	return s.index.Load()
}

// View is a job with everything derived from it.
type View struct {
	ID        string    `json:"id"`
	Revision  int64     `json:"revision"`
	Job       *job.Job  `json:"job"`
	Simulated bool      `json:"simulated"`
	State     job.State `json:"state"` // quoted, open or finished
	Here      string    `json:"here"`
	// Page is the job's page for its next step.
	Page     string         `json:"page"`
	Track    []plan.Station `json:"track"`
	Next     plan.Next      `json:"next"`
	Coverage []plan.Cover   `json:"coverage"`
	// Lost, Closing, Again and Back are what is missing at the gates.
	Lost    []plan.Lost   `json:"lost"`
	Closing []plan.Lost   `json:"closing"`
	Again   []plan.Lost   `json:"again"`
	Back    []plan.Lost   `json:"back"`
	Budget  []plan.Budget `json:"budget"`
	// Doubts are measurements that can't be of the drive that the job states.
	Doubts []plan.Doubt `json:"doubts"`
	// Imported is what a file added to an existing job.
	Imported *jobfile.Merged `json:"imported,omitzero"`
}

// Bare is a view whose job leaves its runs out.
type Bare struct {
	*View
	Job struct {
		*job.Job
		Runs *struct{} `json:"runs,omitzero"` // in place of the job's
	} `json:"job"`
}

// WithoutRuns is the view without the job's runs.
func (v *View) WithoutRuns() *Bare {
	bare := &Bare{View: v}
	bare.Job.Job = v.Job
	return bare
}

// View returns the job with everything derived from it.
func (s *Snapshot) View() *View {
	s.viewing.Do(func() {
		j := s.Job
		st := plan.OfIndexed(s.Index()).Since(s.stood)
		s.stood = nil
		v := &View{ID: s.ID, Revision: s.Revision, Job: j, Simulated: j.Simulated(), State: j.State(), Here: st.Here(),
			Page:  st.Page(),
			Track: st.Track(), Next: st.Next(),
			Coverage: []plan.Cover{}, Lost: []plan.Lost{}, Closing: st.BeforeCaseClosed(), Again: st.BeforeMeasuredAgain(), Back: st.BeforeHandedBack(), Budget: []plan.Budget{}, Doubts: []plan.Doubt{}}
		for i := range j.Setups {
			v.Coverage = append(v.Coverage, st.Coverage(j.Setups[i].ID)...)
			v.Budget = append(v.Budget, st.Budget(&j.Setups[i]))
			v.Doubts = append(v.Doubts, st.Doubts(&j.Setups[i])...)
		}
		if j.Gate(job.GateOldDriveOut) == nil {
			v.Lost = st.BeforeOldDriveOut()
		}
		s.view = v
		s.standing.Store(st)
	})
	return s.view
}
