package bench

import (
	"bytes"
	"crypto/rand"
	"slices"
	"sync"
	"sync/atomic"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"

	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/plan"
)

// Snapshot is a job as it was at one revision, with what follows from it, which is
// worked out once. It is shared by all who ask and never changes.
type Snapshot struct {
	ID       string
	Revision int64
	Job      *job.Job

	before *encoded   // of the revision before, until this one is written
	older  *job.Index // of the revision before, until this one is made
	stood  *plan.Standing

	viewing  sync.Once
	view     *View
	standing atomic.Pointer[plan.Standing]
	indexing sync.Once
	index    atomic.Pointer[job.Index]
	encoding sync.Once
	encoded  atomic.Pointer[encoded]
}

// next is the job after a change.
func (s *Snapshot) next(revision int64, j *job.Job) *Snapshot {
	return &Snapshot{ID: s.ID, Revision: revision, Job: j, before: s.encoded.Load(), older: s.index.Load(),
		stood: s.standing.Load()}
}

// Index returns the job's index.
func (s *Snapshot) Index() *job.Index {
	s.indexing.Do(func() {
		s.index.Store(s.Job.IndexedAfter(s.older))
		s.older = nil
	})
	return s.index.Load()
}

// View is a job with what follows from it.
type View struct {
	ID        string    `json:"id"`
	Revision  int64     `json:"revision"`
	Job       *job.Job  `json:"job"`
	Simulated bool      `json:"simulated"`
	State     job.State `json:"state"` // quoted, open or finished
	Here      string    `json:"here"`
	// Page is the job's page on which its next step is done.
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
	// Doubts are what was measured and cannot have been the drive that the job says.
	Doubts []plan.Doubt `json:"doubts"`
	// Imported says what a file brought to a job that was there already.
	Imported *jobfile.Merged `json:"imported,omitzero"`

	of   *Snapshot
	bare bool // its runs are left out when it is written
}

// WithoutRuns is the view that is written without the job's runs.
func (v *View) WithoutRuns() *View {
	bare := *v
	bare.bare = true
	return &bare
}

// View returns the job with what follows from it.
func (s *Snapshot) View() *View {
	s.viewing.Do(func() {
		j := s.Job
		st := plan.OfIndexed(s.Index()).Since(s.stood)
		s.stood = nil
		v := &View{ID: s.ID, Revision: s.Revision, Job: j, Simulated: j.Simulated(), State: j.State(), Here: st.Here(),
			Page:  st.Page(),
			Track: st.Track(), Next: st.Next(), of: s,
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

// encoded are a job's runs as JSON, separated by commas. A job of many runs is asked
// for after each of them; they are written once.
type encoded struct {
	runs  []job.Run // whose JSON it is
	text  []byte
	fault error
}

func (s *Snapshot) runsJSON() ([]byte, error) {
	s.encoding.Do(func() {
		e := &encoded{runs: s.Job.Runs}
		from := 0
		if b := s.before; b != nil && b.fault == nil && job.Continues(b.runs, e.runs) {
			// What the earlier one holds ends where its text does: writing behind it harms nobody.
			e.text, from = b.text, len(b.runs)
		}
		for i := from; i < len(e.runs) && e.fault == nil; i++ {
			var one []byte
			if one, e.fault = json.Marshal(&e.runs[i]); e.fault == nil {
				if len(e.text) > 0 {
					e.text = append(e.text, ',')
				}
				e.text = append(e.text, one...)
			}
		}
		s.encoded.Store(e)
		s.before = nil
	})
	e := s.encoded.Load()
	return e.text, e.fault
}

// runsMark stands where the runs go until they are put there. Nobody can guess it, so
// it stands nowhere else.
var runsMark = []byte(`"` + rand.Text() + rand.Text() + `"`)

// viewBody is a view without the way to write it.
type viewBody View

// AppendJSON writes the view with its runs as they were written before.
func (v *View) AppendJSON(to []byte) ([]byte, error) {
	if v.of == nil {
		return nil, nil
	}
	body := struct {
		viewBody
		Job jobBody `json:"job"`
	}{viewBody(*v), jobBody{Head: v.Job.Head, Computers: v.Job.Computers, Drives: v.Job.Drives, Plan: v.Job.Plan,
		Tests: v.Job.Tests, Setups: v.Job.Setups,
		Sittings: v.Job.Sittings, Runs: runsMark, Unknown: v.Job.Unknown}}
	if v.bare {
		body.Job.Runs = nil
	}
	text, err := json.Marshal(&body)
	if err != nil || v.bare {
		return append(to, text...), err
	}
	runs, err := v.of.runsJSON()
	if err != nil {
		return nil, err
	}
	at := bytes.Index(text, runsMark)
	to = slices.Grow(to, len(text)+len(runs))
	to = append(append(append(to, text[:at]...), '['), runs...)
	return append(append(to, ']'), text[at+len(runsMark):]...), nil
}

// jobBody is a job whose runs were written already.
type jobBody struct {
	Head      job.Head       `json:"job"`
	Computers []job.Computer `json:"computers"`
	Drives    []job.Drive    `json:"drives"`
	Plan      job.Plan       `json:"plan"`
	Tests     []job.Test     `json:"tests"`
	Setups    []job.Setup    `json:"setups"`
	Sittings  []job.Sitting  `json:"sittings"`
	Runs      jsontext.Value `json:"runs,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}
