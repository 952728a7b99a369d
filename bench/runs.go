package bench

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

// FirstStartReason is the reason for setting a first start after a swap aside.
const FirstStartReason = "first start after the swap: the system meets a drive it does not know"

// FirstStart reports whether a run of a test on a setup would be the first start after a swap, when the system
// doesn't know the drive yet.
func FirstStart(j *job.Job, t *job.Test, setup *job.Setup) bool {
	if setup.Role == job.Then || !catalogue.IsStart(t) {
		return false
	}
	starts, on := map[string]bool{}, map[string]bool{}
	for i := range j.Tests {
		starts[j.Tests[i].ID] = catalogue.IsStart(&j.Tests[i])
	}
	for i := range j.Sittings {
		on[j.Sittings[i].ID] = j.Sittings[i].Setup == setup.ID
	}
	for i := range j.Runs {
		if starts[j.Runs[i].Test] && on[j.Runs[i].Sitting] {
			return false
		}
	}
	return true
}

// AddRun adds a run to a job; missing members come from its test. The first start after a swap is set aside
// automatically.
func AddRun(j *job.Job, r job.Run, now time.Time) error {
	t, s := j.Test(r.Test), j.Sitting(r.Sitting)
	if t == nil {
		return NoSuch("test", r.Test)
	}
	if s == nil {
		return NoSuch("session", r.Sitting)
	}
	if len(j.Runs) >= job.MaxRuns {
		return &Refusal{Kind: Conflict,
			Message: fmt.Sprintf("This job has %d runs, the most that a job can hold.",
				len(j.Runs)), Kept: "All earlier runs are kept.", Do: "Open a new job for this computer."}
	}
	if err := job.CheckRun(t, &r); err != nil {
		return &Refusal{Kind: Invalid, Message: err.Error(), Kept: "All earlier runs are unchanged.",
			Do: "Check the value and its unit, and try again."}
	}
	if r.ID == "" {
		r.ID = NewID()
	}
	if r.At.IsZero() {
		r.At = now
	}
	if r.Warmth == "" {
		r.Warmth = t.Warmth
	}
	if r.StartKind == "" {
		r.StartKind = t.StartKind
	}
	if r.Chain == "" && r.SetAside == nil {
		r.Chain = j.ChainOf(t, s.ID)
	}
	setup := j.Setup(s.Setup)
	if r.On == setup.Drive {
		r.On = ""
	}
	if r.On != "" && !slices.ContainsFunc(setup.Also, func(a job.Also) bool { return a.Drive == r.On }) {
		return &Refusal{Kind: Invalid, Message: fmt.Sprintf("This setup has no drive %q.", r.On),
			Kept: "All earlier runs are unchanged.",
			Do:   "Add the other drive first, or choose one that is there."}
	}
	if j.Drive(setup.Drive).Simulated != "" || j.Computer(setup.Computer).Simulated != "" {
		r.Simulated = true // however it was timed
	}
	if r.SetAside != nil && r.SetAside.At.IsZero() {
		r.SetAside.At = now
	}
	if r.SetAside == nil && FirstStart(j, t, setup) {
		r.SetAside = &job.SetAside{Reason: FirstStartReason, At: r.At}
	}
	j.Runs = append(j.Runs, r)
	return nil
}

// together is how long values after hand-back join the same sitting; later ones get a new one.
const together = 14 * 24 * time.Hour

// FollowUpSitting returns the sitting that values after hand-back join, on the setup that was handed back.
func FollowUpSitting(j *job.Job, now time.Time) (*job.Sitting, error) {
	setup := j.AsNow()
	if setup == nil {
		return nil, Refuse(Conflict, "This job has no Now setup.")
	}
	for i := len(j.Sittings) - 1; i >= 0; i-- {
		if s := &j.Sittings[i]; s.FollowUp && s.Setup == setup.ID && now.Sub(s.Started) < together {
			return s, nil
		}
	}
	id := FreeID("s", len(j.Sittings), func(id string) bool { return j.Sitting(id) != nil })
	j.Sittings = append(j.Sittings, job.Sitting{ID: id, Setup: setup.ID, Started: now, FollowUp: true})
	return &j.Sittings[len(j.Sittings)-1], nil
}

// AddFollowUp adds a run from after hand-back. It is set aside: it documents later times and changes no
// comparison.
func AddFollowUp(j *job.Job, r job.Run, at time.Time) error {
	s, err := FollowUpSitting(j, at)
	if err != nil {
		return err
	}
	r.Sitting, r.Method, r.At, r.SetAside = s.ID, job.Typed, at, &job.SetAside{Reason: job.AfterItWentBack, At: at}
	return AddRun(j, r, at)
}

// Wait lets a run wait for a technician. A run that already waits, or is in the job, changes nothing.
func Wait(j *job.Job, w job.WaitingRun) error {
	if j.Waits(w.Run.ID) != nil || j.Run(w.Run.ID) != nil {
		return nil
	}
	if len(j.Head.Waiting) >= job.MaxWaiting {
		return &Refusal{Kind: Conflict,
			Message: fmt.Sprintf("%d runs of this job wait for a technician already.",
				job.MaxWaiting), Kept: "They are kept; this one was not.",
			Do: "Accept or discard them on the job's page."}
	}
	j.Head.Waiting = append(j.Head.Waiting, w)
	return nil
}

// LastSitting returns the sitting that new runs on a setup join, or nil. Sittings taken over from an earlier
// job, and those after hand-back, are closed.
func LastSitting(j *job.Job, setup string) *job.Sitting {
	for i := len(j.Sittings) - 1; i >= 0; i-- {
		if j.Sittings[i].Setup == setup && j.Sittings[i].Job == "" && !j.Sittings[i].FollowUp {
			return &j.Sittings[i]
		}
	}
	return nil
}

// FreeID returns the first free id with a prefix and a number above n.
func FreeID(prefix string, n int, taken func(string) bool) string {
	for {
		n++
		if id := fmt.Sprintf("%s%d", prefix, n); !taken(id) {
			return id
		}
	}
}

// MaxRuns is the most runs of one test that are wanted or run at once.
const MaxRuns = 20

// RunFacts describe a timed run; empty members leave the test's values.
type RunFacts struct {
	Warmth     job.Warmth    `json:"warmth" validate:"omitempty,oneof=cold warm" say:"A run is cold or warm."`
	StartKind  job.StartKind `json:"start_kind" validate:"omitempty,oneof=cold resume-assisted" say:"A start is cold or resume-assisted."`
	AppVersion string        `json:"app_version" validate:"max=500"`
	Content    string        `json:"content" validate:"max=500"` // which save or document
	SinceStart int           `json:"since_start" validate:"min=0,max=1000" say:"Between 1 and 1000 times since the start."`
	On         string        `json:"on" validate:"max=200"` // the drive that its content lies on; "" is the setup's
	// Bytes and Files are how much a copy copied; 0 if not noted.
	Bytes int64 `json:"bytes" validate:"min=0" say:"An amount isn't below zero."`
	Files int64 `json:"files" validate:"min=0" say:"A number of files isn't below zero."`
}

// Onto puts them onto a run.
func (f RunFacts) Onto(r *job.Run) {
	r.Bytes, r.Files = f.Bytes, f.Files
	r.Warmth, r.StartKind, r.AppVersion, r.ContentDigest, r.SinceStart, r.On = f.Warmth, f.StartKind,
		strings.TrimSpace(f.AppVersion), strings.TrimSpace(f.Content), f.SinceStart, f.On
}
