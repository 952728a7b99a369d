package bench

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/go-json-experiment/json"

	"nowthen/core/catalogue"
	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/store"
)

// Templates returns the templates that come with the program, then the shop's.
func (b *Bench) Templates(ctx context.Context) ([]plan.Template, error) {
	bodies, err := b.store.Templates(ctx)
	if err != nil {
		return nil, err
	}
	list := plan.Templates()
	for _, body := range bodies {
		var t plan.Template
		if err := json.Unmarshal(body, &t); err != nil {
			return nil, fmt.Errorf("a template of the shop: %w", err)
		}
		list = append(list, t)
	}
	return list, nil
}

func (b *Bench) template(ctx context.Context, id string) (plan.Template, error) {
	list, err := b.Templates(ctx)
	if err != nil {
		return plan.Template{}, err
	}
	for _, t := range list {
		if t.ID == id {
			return t, nil
		}
	}
	return plan.Template{}, missing("There is no template %q.", id)
}

// SaveTemplate keeps a job's plan as a template of the shop.
func (b *Bench) SaveTemplate(ctx context.Context, jobID, name string) ([]plan.Template, error) {
	name = strings.TrimSpace(name)
	f := fields{}
	f.check(name != "", "name", "Give the template a name.")
	checkText(f, "name", name)
	if err := f.refusal(); err != nil {
		return nil, err
	}
	j, err := b.store.Job(ctx, jobID)
	if err != nil {
		return nil, wrap(err)
	}
	t := plan.FromJob(j, newID(), name)
	body, err := json.Marshal(t)
	if err != nil {
		return nil, err
	}
	if err := b.store.SaveTemplate(ctx, t.ID, body); err != nil {
		return nil, err
	}
	return b.Templates(ctx)
}

// DropTemplate forgets a template of the shop. Jobs made from it stay as they are.
func (b *Bench) DropTemplate(ctx context.Context, id string) ([]plan.Template, error) {
	if err := b.store.DropTemplate(ctx, id); errors.Is(err, store.ErrNotFound) {
		return nil, missing("The shop has no template %q.", id)
	} else if err != nil {
		return nil, err
	}
	return b.Templates(ctx)
}

// UseTemplate gives a job the plan of a template. Tests with runs stay.
func (b *Bench) UseTemplate(ctx context.Context, jobID, id string) (*View, error) {
	t, err := b.template(ctx, id)
	if err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		span, seconds := bounds(j)
		plan.Apply(j, t, span, seconds)
		return nil
	})
}

// bounds returns the size and the seconds of the job's drive tests.
func bounds(j *job.Job) (span int64, seconds float64) {
	for _, t := range j.Tests {
		if catalogue.Usual(&t) && !t.Params.OwnFile() {
			return t.Params.SpanBytes, t.Params.MaxSeconds
		}
	}
	return 0, 0
}

// Answer sets how often the customer does what the questions ask.
func (b *Bench) Answer(ctx context.Context, jobID string, answers map[string]float64) (*View, error) {
	return b.update(ctx, jobID, func(j *job.Job) error {
		if err := answer(j, answers); err != nil {
			return err
		}
		plan.Use(j)
		return nil
	})
}

func answer(j *job.Job, answers map[string]float64) error {
	f := fields{}
	for id, a := range answers {
		i := slices.IndexFunc(j.Plan.Questions, func(q job.Question) bool { return q.ID == id })
		f.check(i >= 0, id, fmt.Sprintf("This plan does not ask %q.", id))
		f.check(a >= 0 && a <= 10_000, id, "That lies between 0 and 10 000.")
		if i >= 0 {
			j.Plan.Questions[i].Answer = a
		}
	}
	return f.refusal()
}

// AddTest puts a test into a job's plan: one of the catalogue by its id, or an
// own one. A test that was taken out comes back.
func (b *Bench) AddTest(ctx context.Context, jobID string, t job.Test) (*View, error) {
	own := true
	for _, e := range catalogue.All() {
		if e.Test.ID == t.ID {
			t, own = e.Test, false
		}
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		if old := j.Test(t.ID); old != nil && !own {
			if !old.Retired {
				return conflict("%s is in the plan already.", old.Name)
			}
			old.Retired = false
			return nil
		}
		if own {
			if err := checkOwnTest(&t); err != nil {
				return err
			}
			t.ID = freeID("t-own-", 0, func(id string) bool { return j.Test(id) != nil })
		}
		span, seconds := bounds(j)
		j.Tests = append(j.Tests, catalogue.Bounded(t, span, seconds))
		plan.Use(j)
		return nil
	})
}

var ownUnits = map[job.Kind][]string{job.Timed: {"s"}, job.OnFiles: {"s", "MB/s", "files/s"}, job.Control: {"s"}}

// checkOwnTest tells what is wrong with a test that a technician made up, and
// fills in what goes without saying.
func checkOwnTest(t *job.Test) error {
	t.Name = strings.TrimSpace(t.Name)
	f := fields{}
	f.check(t.Name != "", "name", "Give the test a name.")
	checkText(f, "name", t.Name)
	checkText(f, "content", t.Content)
	units, timed := ownUnits[t.Kind]
	f.check(timed || t.Kind == job.Note, "kind", "An own test is a timed test, a file test, a control or a note reading.")
	if timed {
		if t.Unit == "" {
			t.Unit = units[0]
		}
		f.check(slices.Contains(units, t.Unit), "unit", "That is measured in "+strings.Join(units, " or ")+".")
	}
	f.check(t.Unit != "" && len([]rune(t.Unit)) <= 20, "unit", "Say in what unit it is read, in at most 20 characters.")
	if t.Better == "" {
		t.Better = job.Lower
	}
	f.check(t.Better == job.Lower || t.Better == job.Higher, "better", "Say whether lower or higher is better.")
	f.check(t.Wanted >= 0 && t.Wanted <= maxRuns, "wanted_runs", fmt.Sprintf("Between 1 and %d runs.", maxRuns))
	f.check(t.PerWeek >= 0 && t.PerWeek <= 10_000, "per_week", "Between 0 and 10 000 uses a week.")
	f.check(slices.Contains([]string{"", "cold", "warm"}, t.Warmth), "warmth", "A run is cold or warm.")
	f.check(len(t.Phases) <= 12, "phases", "At most 12 phases.")
	for i := range t.Phases {
		t.Phases[i].Name = strings.TrimSpace(t.Phases[i].Name)
		f.check(t.Phases[i].Name != "", "phases", "Every phase has a name.")
		t.Phases[i].ID = fmt.Sprintf("p%d", i+1)
	}
	t.Params, t.FileWork, t.Retired, t.Replaces = nil, nil, false, ""
	return f.refusal()
}

// TestChange is what of a test can be changed; nil leaves a part as it is.
type TestChange struct {
	Name      *string      `json:"name"`
	Wanted    *int         `json:"wanted_runs"`
	PerWeek   *float64     `json:"per_week"`
	Content   *string      `json:"content"`
	Phases    *[]job.Phase `json:"phases"`
	SpanBytes *int64       `json:"span_bytes"`
	Seconds   *float64     `json:"max_seconds"`
	// Streams are what a drive must keep up with.
	Streams *drivetest.Streams `json:"streams"`
}

// Changed is a job after its plan was changed, with what the technician should
// know of it.
type Changed struct {
	*View
	Notice string `json:"notice"`
}

// ChangeTest changes a test. What identifies a test is what it measures: once
// it has runs, a change of that makes a new test, and the old one keeps its
// runs and wants no more.
func (b *Bench) ChangeTest(ctx context.Context, jobID, id string, c TestChange) (*Changed, error) {
	out := &Changed{}
	v, err := b.update(ctx, jobID, func(j *job.Job) error {
		t := j.Test(id)
		if t == nil {
			return missing("There is no test %q in this job.", id)
		}
		n := *t
		f := fields{}
		if c.Name != nil {
			n.Name = strings.TrimSpace(*c.Name)
			f.check(n.Name != "", "name", "Give the test a name.")
			checkText(f, "name", n.Name)
		}
		if c.Wanted != nil {
			n.Wanted = *c.Wanted
			f.check(n.Wanted >= 1 && n.Wanted <= maxRuns, "wanted_runs", fmt.Sprintf("Between 1 and %d runs.", maxRuns))
		}
		if c.PerWeek != nil {
			n.PerWeek, n.Usage = *c.PerWeek, ""
			f.check(n.PerWeek >= 0 && n.PerWeek <= 10_000, "per_week", "Between 0 and 10 000 uses a week.")
		}
		if c.Content != nil {
			n.Content = strings.TrimSpace(*c.Content)
			checkText(f, "content", n.Content)
		}
		if c.Phases != nil {
			n.Phases = slices.Clone(*c.Phases)
			f.check(len(n.Phases) <= 12, "phases", "At most 12 phases.")
			for i := range n.Phases {
				f.check(strings.TrimSpace(n.Phases[i].Name) != "", "phases", "Every phase has a name.")
				if n.Phases[i].ID == "" {
					n.Phases[i].ID = fmt.Sprintf("p%d", i+1)
				}
			}
		}
		if n.Params != nil {
			span, seconds := int64(0), 0.0
			if c.SpanBytes != nil {
				span = *c.SpanBytes
				f.check(span >= 16<<20 && span <= 64<<30 && span%(1<<20) == 0, "span_bytes", "The test file is between 16 MiB and 64 GiB, in whole MiB.")
			}
			if c.Seconds != nil {
				seconds = *c.Seconds
				f.check(seconds >= 0.2 && seconds <= drivetest.MaxSeconds, "max_seconds", fmt.Sprintf("A drive test lasts between 0.2 and %d seconds.", drivetest.MaxSeconds))
			}
			if len(f) == 0 {
				n = catalogue.Resized(n, span, seconds)
			}
			if c.Streams != nil && len(f) == 0 {
				w := *n.Params
				w.Streams = c.Streams
				err := w.Check()
				f.check(t.Params.Streams != nil && err == nil, "streams", fmt.Sprintf("These streams cannot be kept up with: %v.", err))
				n.Params = &w
			}
		}
		if err := f.refusal(); err != nil {
			return err
		}
		if plan.SameMeasurement(t, &n) || !j.HasRuns(id) {
			*t = n
			return nil
		}
		t.Retired = true
		n.Replaces = id
		n.ID = freeID(id+"-v", 1, func(id string) bool { return j.Test(id) != nil })
		old := t.Name
		at := slices.IndexFunc(j.Tests, func(t job.Test) bool { return t.ID == id }) + 1
		j.Tests = slices.Insert(j.Tests, at, n)
		if j.Plan.Reference == id {
			j.Plan.Reference = n.ID
		}
		out.Notice = fmt.Sprintf("%s has runs already. With other parameters it is a new test; the old one keeps its runs and wants no more.", old)
		return nil
	})
	out.View = v
	return out, err
}

// TakeOut takes a test out of a job's plan. One with runs stays in the ledger
// and wants no more.
func (b *Bench) TakeOut(ctx context.Context, jobID, id string) (*Changed, error) {
	out := &Changed{}
	v, err := b.update(ctx, jobID, func(j *job.Job) error {
		t := j.Test(id)
		switch {
		case t == nil:
			return missing("There is no test %q in this job.", id)
		case j.HasRuns(id):
			t.Retired = true
			out.Notice = t.Name + " has runs; they stay in the ledger, and no more are wanted."
			return nil
		}
		if j.Plan.Reference == id {
			j.Plan.Reference = ""
		}
		j.Tests = slices.DeleteFunc(j.Tests, func(t job.Test) bool { return t.ID == id })
		j.Plan.Excuses = slices.DeleteFunc(j.Plan.Excuses, func(e job.Excuse) bool { return e.Test == id })
		return nil
	})
	out.View = v
	return out, err
}

// Excuse says why a test cannot be done on a setup; an empty why takes it back.
func (b *Bench) Excuse(ctx context.Context, jobID, test, setup, why string) (*View, error) {
	why = strings.TrimSpace(why)
	f := fields{}
	checkText(f, "why", why)
	if err := f.refusal(); err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		if j.Test(test) == nil || j.Setup(setup) == nil {
			return missing("There is no such test or setup in this job.")
		}
		j.Plan.Excuses = slices.DeleteFunc(j.Plan.Excuses, func(e job.Excuse) bool { return e.Test == test && e.Setup == setup })
		if why != "" {
			j.Plan.Excuses = append(j.Plan.Excuses, job.Excuse{Test: test, Setup: setup, Why: why, At: b.now()})
		}
		return nil
	})
}
