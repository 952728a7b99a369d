package job

import (
	"time"

	"github.com/go-json-experiment/json/jsontext"
)

// When a step is to be done.
const (
	WhenThen    = "then"    // while the old drive is in
	WhenPrepare = "prepare" // while the old drive is still in
	WhenSwap    = "swap"
	WhenNow     = "now"
	WhenClose   = "close" // before the case is sealed
	WhenBack    = "back"  // before the computer goes back
)

// Step is a thing to do during a visit, ticked when it is done.
type Step struct {
	ID   string `json:"id"`
	Text string `json:"text"`
	// When says at which station of the track it belongs: then, swap, now or back.
	When string `json:"when,omitzero"`
	// Fact names the fact that ticks the step automatically once it is known.
	Fact   string  `json:"fact,omitzero"`
	Done   *Tick   `json:"done,omitzero"`
	Photos []Photo `json:"photos,omitempty"`

	Unknown jsontext.Value `json:",embed"`
}

// Tick is when a step was done and by whom; By is empty if a fact ticked it.
type Tick struct {
	At time.Time `json:"at"`
	By string    `json:"by,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Photo is a picture attached to a step. The picture itself is kept beside the
// job and does not travel with the job file.
type Photo struct {
	ID   string    `json:"id"`
	At   time.Time `json:"at"`
	Type string    `json:"type"` // image/jpeg, image/png
	Name string    `json:"name,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Excuse is why a test can't be done on a setup.
type Excuse struct {
	Test  string    `json:"test"`
	Setup string    `json:"setup"`
	Why   string    `json:"why"`
	At    time.Time `json:"at,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Question is asked of the customer to learn how often things are done.
type Question struct {
	ID   string `json:"id"`
	Text string `json:"text"`
	// PerWeek turns the answer into uses per week: 7 for "a day".
	PerWeek float64 `json:"per_week"`
	Answer  float64 `json:"answer"`

	Unknown jsontext.Value `json:",embed"`
}

// BackupStep is the id of the step that says that the customer's data is safe.
const BackupStep = "backup"

// Facts that tick a step automatically.
const (
	FactMains     = "mains"     // a sitting on mains
	FactEncrypted = "encrypted" // a sitting on the new drive says that it is encrypted
	FactLink      = "link"      // the new drive's link carries what the port can
	FactMeasured  = "measured"  // the new drive was measured, so it is recognised
)

// Step returns the step with that id, or nil.
func (j *Job) Step(id string) *Step {
	return find(j.Plan.Steps, func(s *Step) bool { return s.ID == id })
}

// Excused returns why a test cannot be done on a setup, or "".
func (j *Job) Excused(test, setup string) string {
	e := find(j.Plan.Excuses, func(e *Excuse) bool { return e.Test == test && e.Setup == setup })
	if e == nil {
		return ""
	}
	return e.Why
}

// HasRuns reports whether a test was run anywhere in the job, set-aside runs
// included.
func (j *Job) HasRuns(test string) bool {
	return find(j.Runs, func(r *Run) bool { return r.Test == test }) != nil
}

// SettleFacts ticks the steps whose fact is known and which nobody ticked.
func (j *Job) SettleFacts(at time.Time) {
	for i := range j.Plan.Steps {
		s := &j.Plan.Steps[i]
		if s.Done == nil && s.Fact != "" && j.known(s.Fact) {
			s.Done = &Tick{At: at}
		}
	}
}

func (j *Job) known(fact string) bool {
	now := j.AsNow()
	for _, s := range j.Sittings {
		if s.Job != "" {
			continue // what was so in an earlier job is not done in this one
		}
		switch fact {
		case FactMains:
			if s.Conditions.Power == "mains" {
				return true
			}
		case FactEncrypted:
			if now != nil && s.Setup == now.ID && s.Conditions.Encrypted != nil && *s.Conditions.Encrypted {
				return true
			}
		}
	}
	if now == nil {
		return false
	}
	switch fact {
	case FactLink:
		return now.Attached.LinkMBs > 0 && now.Attached.LinkMBs >= now.Attached.CapableMBs && j.known(FactMeasured)
	case FactMeasured:
		return j.measuredOn(now.ID)
	}
	return false
}

// measuredOn reports whether a drive test was run on a setup.
func (j *Job) measuredOn(setup string) bool {
	on := map[string]bool{}
	for _, s := range j.Sittings {
		on[s.ID] = s.Setup == setup
	}
	drive := map[string]bool{}
	for _, t := range j.Tests {
		drive[t.ID] = t.Kind == OnDrive
	}
	return find(j.Runs, func(r *Run) bool { return on[r.Sitting] && drive[r.Test] }) != nil
}
