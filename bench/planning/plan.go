package planning

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/core/catalogue"
	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/store"
)

// Templates returns the templates that come with the program, then the shop's.
func (x *Plans) Templates(ctx context.Context) ([]plan.Template, error) {
	return templates(ctx, x.store)
}

func templates(ctx context.Context, s Store) ([]plan.Template, error) {
	bodies, err := s.Templates(ctx)
	if err != nil {
		return nil, err
	}
	shop, err := bench.LoadShop(ctx, s)
	if err != nil {
		return nil, err
	}
	list := plan.Templates()
	for _, t := range list {
		for i := range t.Tests {
			inShop(&t.Tests[i], shop)
		}
	}
	for _, body := range bodies {
		var t plan.Template
		if err := json.Unmarshal(body, &t); err != nil {
			return nil, fmt.Errorf("a template of the shop: %w", err)
		}
		list = append(list, t)
	}
	return list, nil
}

// inShop applies the shop's settings to a test of the catalogue.
func inShop(t *job.Test, s bench.Shop) {
	if t.Occasion == catalogue.Pages && t.Pages > 0 {
		t.Pages = s.MorningPages
	}
}

// Template returns a template by its id.
func (x *Plans) Template(ctx context.Context, id string) (plan.Template, error) {
	list, err := x.Templates(ctx)
	if err != nil {
		return plan.Template{}, err
	}
	for _, t := range list {
		if t.ID == id {
			return t, nil
		}
	}
	return plan.Template{}, bench.Refuse(bench.Missing, "There is no template %q.", id)
}

// SaveTemplate saves a job's plan as a template of the shop.
func (x *Plans) SaveTemplate(ctx context.Context, ch *bench.Change, jobID, name string) ([]plan.Template, error) {
	name = strings.TrimSpace(name)
	f := bench.Fields{}
	f.Check(name != "", "name", "Give the template a name.")
	f.Name("name", name)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	t := plan.FromJob(s.Job.Clone(), bench.NewID(), name)
	body, err := json.Marshal(t)
	if err != nil {
		return nil, err
	}
	return x.changed(ctx, ch, func(ch *bench.Change) error {
		ch.Made("templates/" + t.ID)
		return ch.Tx.SaveTemplate(ctx, t.ID, body)
	})
}

// DropTemplate deletes a template of the shop. Jobs made from it don't change.
func (x *Plans) DropTemplate(ctx context.Context, ch *bench.Change, id string) ([]plan.Template, error) {
	return x.changed(ctx, ch, func(ch *bench.Change) error {
		err := ch.Tx.DropTemplate(ctx, id)
		if errors.Is(err, store.ErrNotFound) {
			return bench.Refuse(bench.Missing, "The shop has no template %q.", id)
		}
		return err
	})
}

// changed changes the shop's templates and returns the resulting list.
func (x *Plans) changed(ctx context.Context, ch *bench.Change,
	change func(ch *bench.Change) error) (list []plan.Template, err error) {
	err = x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		if err := change(ch); err != nil {
			return err
		}
		list, err = templates(ctx, ch.Tx)
		ch.Answer(list)
		return err
	})
	return list, err
}

// UseTemplate applies a template to a job's plan. Tests with runs stay.
func (x *Plans) UseTemplate(ctx context.Context, ch *bench.Change, jobID, id string) (*bench.View, error) {
	t, err := x.Template(ctx, id)
	if err != nil {
		return nil, err
	}
	var before chosen
	v, err := x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		span, seconds := bounds(j)
		old := j.Clone()
		plan.Apply(j, t, span, seconds)
		now := j.Clone()
		before = chosen{was: planOf(old), is: planOf(now)}
		return nil
	})
	if err == nil {
		x.mu.Lock()
		x.undo[jobID] = before
		x.mu.Unlock()
	}
	return v, err
}

// chosen is a plan before and after a template was applied.
type chosen struct{ was, is planned }

// planned is the part of a job that a template sets.
type planned struct {
	plan  job.Plan
	tests []job.Test
}

func planOf(j *job.Job) planned { return planned{j.Plan, j.Tests} }

// UndoTemplate undoes applying the last template, if the plan hasn't changed since.
func (x *Plans) UndoTemplate(ctx context.Context, ch *bench.Change, jobID string) (*bench.View, error) {
	x.mu.Lock()
	last, ok := x.undo[jobID]
	x.mu.Unlock()
	v, err := x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		if !ok || j.Plan.Template != last.is.plan.Template || !reflect.DeepEqual(j.Tests, last.is.tests) {
			return &bench.Refusal{Kind: bench.Conflict,
				Message: "The plan was changed since you chose the template, or the bench was restarted.",
				Kept:    "The plan is unchanged.",
				Do:      "Add or remove the tests one by one."}
		}
		c := (&job.Job{Plan: last.was.plan, Tests: last.was.tests}).Clone()
		// A test that got runs in the meantime stays.
		for _, t := range j.Tests {
			if c.Test(t.ID) == nil && j.HasRuns(t.ID) {
				t.Retired = true
				c.Tests = append(c.Tests, t)
			}
		}
		j.Plan, j.Tests = c.Plan, c.Tests
		return nil
	})
	if err == nil {
		x.mu.Lock()
		delete(x.undo, jobID)
		x.mu.Unlock()
	}
	return v, err
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
func (x *Plans) Answer(ctx context.Context, ch *bench.Change, jobID string,
	answers map[string]float64) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		if err := AnswerIn(j, answers); err != nil {
			return err
		}
		plan.Use(j)
		return nil
	})
}

// AnswerIn sets answers in a job.
func AnswerIn(j *job.Job, answers map[string]float64) error {
	f := bench.Fields{}
	for id, a := range answers {
		i := slices.IndexFunc(j.Plan.Questions, func(q job.Question) bool { return q.ID == id })
		f.Check(i >= 0, id, fmt.Sprintf("This plan has no question %q.", id))
		f.Check(a >= 0 && a <= 10_000, id, "Enter 0 to 10,000.")
		if i >= 0 {
			j.Plan.Questions[i].Answer = a
		}
	}
	return f.Refusal()
}

// NewPhase is a phase of a custom test.
type NewPhase struct {
	ID     string `json:"id"`
	Name   string `json:"name" validate:"required,max=200" say:"Every phase has a name, of at most 200 characters."`
	Counts *bool  `json:"counts"`
}

func phasesOf(in []NewPhase) []job.Phase {
	list := make([]job.Phase, len(in))
	for i, p := range in {
		list[i] = job.Phase{ID: p.ID, Name: strings.TrimSpace(p.Name), Counts: p.Counts}
		if p.ID == "" {
			list[i].ID = fmt.Sprintf("p%d", i+1)
		}
	}
	return list
}

// NewTest is a test to add to a plan: an id from the catalogue, or a custom test.
type NewTest struct {
	ID        string        `json:"id"`
	Kind      job.Kind      `json:"kind"`
	Name      string        `json:"name" validate:"max=200"`
	Unit      string        `json:"unit" validate:"max=20"`
	Better    job.Direction `json:"better" validate:"omitempty,oneof=lower higher" say:"Say whether lower or higher is better."`
	PerWeek   float64       `json:"per_week" validate:"min=0,max=10000" say:"Enter 0 to 10,000 uses a week."`
	Wanted    int           `json:"wanted_runs" validate:"min=0,max=20" say:"Between 1 and 20 runs."`
	Phases    []NewPhase    `json:"phases" validate:"max=12,dive" say:"At most 12 phases, each with a name."`
	Warmth    job.Warmth    `json:"warmth" validate:"omitempty,oneof=cold warm"`
	StartKind job.StartKind `json:"start_kind" validate:"omitempty,oneof=cold resume-assisted"`
	Content   string        `json:"content" validate:"max=500"`
	Pages     int           `json:"pages" validate:"min=0,max=99" say:"Between 1 and 99 pages."`
}

// AddTest adds a test to a job's plan. A removed test comes back. A test of the catalogue can be in a plan
// several times, each with its own content.
func (x *Plans) AddTest(ctx context.Context, ch *bench.Change, jobID string, in NewTest) (*bench.View, error) {
	own, t := true, job.Test{ID: in.ID}
	for _, e := range catalogue.All() {
		if e.Test.ID == t.ID {
			t, own = e.Test, false
		}
	}
	shop, err := bench.LoadShop(ctx, x.store)
	if err != nil {
		return nil, err
	}
	if !own {
		inShop(&t, shop)
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		content := strings.TrimSpace(in.Content)
		if old := j.Test(t.ID); old != nil && !own && content == "" {
			if !old.Retired {
				r := bench.Refuse(bench.Conflict, "%s is already in the plan.", old.Name)
				r.Do = "Choose another program, game, document or folder to measure it again."
				return r
			}
			old.Retired = false
			return nil
		}
		if !own && content != "" {
			f := bench.Fields{}
			f.Text("content", content)
			if err := f.Refusal(); err != nil {
				return err
			}
			t.Content, t.Name = content, t.Name+": "+content
			if j.Test(t.ID) != nil {
				t.ID = bench.FreeID(t.ID+"-", 1, func(id string) bool { return j.Test(id) != nil })
			}
			if slices.ContainsFunc(j.Tests,
				func(o job.Test) bool { return !o.Retired && o.What == t.What && o.Content == t.Content }) {
				return bench.Refuse(bench.Conflict, "%s is already in the plan.", t.Name)
			}
		}
		if own {
			var err error
			if t, err = ownTest(in); err != nil {
				return err
			}
			t.ID = bench.FreeID("t-own-", 0, func(id string) bool { return j.Test(id) != nil })
		}
		span, seconds := bounds(j)
		j.Tests = append(j.Tests, catalogue.Bounded(t, span, seconds))
		plan.Ask(j)
		plan.Use(j)
		return nil
	})
}

var ownUnits = map[job.Kind][]string{job.Timed: {"s"}, job.OnFiles: {"s", "MB/s", "files/s"}}

// ownTest returns a custom test with its defaults.
func ownTest(in NewTest) (t job.Test, err error) {
	f := bench.Fields{}
	f.Input("", in)
	t = job.Test{Kind: in.Kind, Name: strings.TrimSpace(in.Name), Unit: in.Unit, Better: in.Better, PerWeek: in.PerWeek,
		Wanted: in.Wanted, Phases: phasesOf(in.Phases),
		Warmth: in.Warmth, StartKind: in.StartKind, Content: strings.TrimSpace(in.Content), Pages: in.Pages}
	f.Check(t.Name != "", "name", "Give the test a name.")
	units, timed := ownUnits[t.Kind]
	f.Check(timed || t.Kind == job.Note || t.Kind == job.Control, "kind",
		"A custom test is a timed test, a file test, a control or a noted value.")
	if timed {
		if t.Unit == "" {
			t.Unit = units[0]
		}
		f.Check(slices.Contains(units, t.Unit), "unit",
			fmt.Sprintf("That is measured in %s.", strings.Join(units, " or ")))
	}
	f.Check(t.Unit != "", "unit", "Enter its unit, up to 20 characters.")
	if t.Better == "" {
		t.Better = job.Lower
	}
	for i := range t.Phases {
		t.Phases[i].ID = fmt.Sprintf("p%d", i+1)
	}
	return t, f.Refusal()
}

// TestChange is a change to a test; nil members stay unchanged.
type TestChange struct {
	Name      *string     `json:"name"`
	Wanted    *int        `json:"wanted_runs"`
	PerWeek   *float64    `json:"per_week"`
	Content   *string     `json:"content"`
	Phases    *[]NewPhase `json:"phases"`
	SpanBytes *int64      `json:"span_bytes"`
	Seconds   *float64    `json:"max_seconds"`
	// Streams are what a drive must keep up with.
	Streams *drivetest.Streams `json:"streams"`
	// Begin and End are what is seen when its time begins and ends; Follows is the test it follows in one start,
	// "" for none.
	Begin   *string `json:"begin"`
	End     *string `json:"end"`
	Follows *string `json:"follows"`
}

// Changed is a job after a change of its plan, with a notice for the technician.
type Changed struct {
	*bench.View
	Notice string `json:"notice"`
}

// ChangeTest changes a test. A test is identified by what it measures. Once it has runs, changing that makes a
// new test, and the old one keeps its runs and wants no more.
func (x *Plans) ChangeTest(ctx context.Context, ch *bench.Change, jobID, id string, c TestChange) (*Changed, error) {
	return x.change(ctx, ch, jobID, func(j *job.Job) (string, error) { return changeTest(j, id, c) })
}

// change changes a plan and returns a notice for the technician.
func (x *Plans) change(ctx context.Context, ch *bench.Change, jobID string,
	change func(*job.Job) (notice string, err error)) (*Changed, error) {
	out := &Changed{}
	v, err := x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) (err error) {
		if out.Notice, err = change(j); err == nil && out.Notice != "" {
			ch.Answer(noticeOnly{out.Notice})
		}
		return err
	})
	if err != nil {
		return nil, err
	}
	out.View = v
	return out, nil
}

// noticeOnly is the part of the answer that is stored for repeats of the command.
type noticeOnly struct {
	Notice string `json:"notice"`
}

// Repeat answers a repeated command: the current job, and the notice.
func (c *Changed) Repeat(v *bench.View, kept []byte) error {
	c.View = v
	if kept == nil {
		return nil
	}
	var n noticeOnly
	err := json.Unmarshal(kept, &n)
	c.Notice = n.Notice
	return err
}

// PlanChange is a combined change of a plan: tests by id, and answers about usage.
type PlanChange struct {
	Tests   map[string]TestChange `json:"tests"`
	Answers map[string]float64    `json:"answers"`
	// Order is the new order of all tests, by id; nil leaves it unchanged.
	Order *[]string `json:"order"`
	// Headline is the test of the report's headline.
	Headline *string `json:"headline"`
}

// Save applies a combined change of a plan: all of it, or nothing if any part is refused.
func (x *Plans) Save(ctx context.Context, ch *bench.Change, jobID string, c PlanChange) (*Changed, error) {
	return x.change(ctx, ch, jobID, func(j *job.Job) (string, error) {
		var notices []string
		f := bench.Fields{}
		for _, id := range slices.Sorted(maps.Keys(c.Tests)) {
			notice, err := changeTest(j, id, c.Tests[id])
			var refused *bench.Refusal
			if errors.As(err, &refused) && refused.Kind == bench.Invalid {
				for name, message := range refused.Fields {
					f.Check(false, "tests."+id+"."+name, message)
				}
				continue
			}
			if err != nil {
				return "", err
			}
			if notice != "" {
				notices = append(notices, notice)
			}
		}
		if c.Headline != nil {
			t := j.Test(*c.Headline)
			f.Check(t != nil && !t.Retired && (t.Kind == job.Timed || t.Kind == job.OnFiles), "headline",
				"The headline test must measure a wait and be in the plan.")
			j.Plan.Headline = *c.Headline
		}
		if c.Order != nil {
			reordered(j, f, *c.Order)
		}
		if err := f.Refusal(); err != nil {
			return "", err
		}
		if err := AnswerIn(j, c.Answers); err != nil {
			return "", err
		}
		if len(c.Answers) > 0 {
			plan.Use(j)
		}
		return strings.Join(notices, " "), nil
	})
}

// reordered puts a job's tests into an order. Retired tests that it doesn't name stay after the same test as
// before.
func reordered(j *job.Job, f bench.Fields, order []string) {
	place, behind := map[string]int{}, 0
	for i, id := range order {
		_, twice := place[id]
		f.Check(!twice && j.Test(id) != nil, "order", "Name each test of the plan exactly once.")
		place[id] = i
	}
	at := make(map[string]int, len(j.Tests))
	for i := range j.Tests {
		t := &j.Tests[i]
		p, named := place[t.ID]
		f.Check(named || t.Retired, "order", "Name each test of the plan exactly once.")
		if named {
			behind = p
		}
		at[t.ID] = behind
	}
	slices.SortStableFunc(j.Tests, func(a, b job.Test) int { return at[a.ID] - at[b.ID] })
}

func changeTest(j *job.Job, id string, c TestChange) (notice string, err error) {
	t := j.Test(id)
	if t == nil {
		return "", bench.NoSuch("test", id)
	}
	n := *t
	f := bench.Fields{}
	if c.Name != nil {
		n.Name = strings.TrimSpace(*c.Name)
		f.Check(n.Name != "", "name", "Give the test a name.")
		if n.Name != t.Name { // what is stored already may be longer
			f.Name("name", n.Name)
		}
	}
	if c.Wanted != nil {
		n.Wanted = *c.Wanted
		f.Check(n.Wanted >= 1 && n.Wanted <= bench.MaxRuns, "wanted_runs",
			fmt.Sprintf("Enter 1 to %d runs.", bench.MaxRuns))
	}
	if c.PerWeek != nil {
		n.PerWeek, n.Usage = *c.PerWeek, ""
		f.Check(n.PerWeek >= 0 && n.PerWeek <= 10_000, "per_week", "Enter 0 to 10,000 uses a week.")
	}
	if c.Content != nil {
		n.Content = strings.TrimSpace(*c.Content)
		f.Text("content", n.Content)
	}
	for name, text := range map[string]struct {
		said *string
		to   *string
	}{"begin": {c.Begin, &n.Begin}, "end": {c.End, &n.End}} {
		if text.said != nil {
			*text.to = strings.TrimSpace(*text.said)
			f.Name(name, *text.to)
		}
	}
	if c.Follows != nil {
		n.Follows = *c.Follows
		f.Check(n.Follows == "" || j.CanFollow(t.ID, n.Follows), "follows",
			"A test follows another test of the plan that comes before it in the same start.")
	}
	if c.Phases != nil {
		n.Phases = phasesOf(*c.Phases)
		f.Check(len(n.Phases) <= 12, "phases", "At most 12 phases.")
		for _, p := range n.Phases {
			f.Check(p.Name != "", "phases", "Name each phase.")
			f.Name("phases", p.Name)
		}
	}
	if n.Params != nil {
		span, seconds := int64(0), 0.0
		if c.SpanBytes != nil {
			span = *c.SpanBytes
			f.Check(span >= 16<<20 && span <= 64<<30 && span%(1<<20) == 0, "span_bytes",
				"The test file’s size is 16 MiB to 64 GiB, in whole MiB.")
		}
		if c.Seconds != nil {
			seconds = *c.Seconds
			f.Check(seconds >= 0.2 && seconds <= drivetest.MaxSeconds, "max_seconds",
				fmt.Sprintf("A drive test takes 0.2 to %d seconds.", drivetest.MaxSeconds))
		}
		if len(f) == 0 {
			n = catalogue.Resized(n, span, seconds)
		}
		if c.Streams != nil && len(f) == 0 {
			w := *n.Params
			w.Streams = c.Streams
			err := w.Check()
			f.Check(t.Params.Streams != nil && err == nil, "streams",
				fmt.Sprintf("Invalid streams: %v.", err))
			n.Params = &w
		}
	}
	if err := f.Refusal(); err != nil {
		return "", err
	}
	if plan.SameMeasurement(t, &n) || !j.HasRuns(id) {
		*t = n
		return "", nil
	}
	t.Retired = true
	n.Replaces = id
	n.ID = bench.FreeID(id+"-v", 1, func(id string) bool { return j.Test(id) != nil })
	old := t.Name
	at := slices.IndexFunc(j.Tests, func(t job.Test) bool { return t.ID == id }) + 1
	j.Tests = slices.Insert(j.Tests, at, n)
	if j.Plan.Headline == id {
		j.Plan.Headline = n.ID
	}
	if j.Plan.Reference == id {
		j.Plan.Reference = n.ID
	}
	j.Refollow(id, n.ID)
	return fmt.Sprintf("%s has runs already. With other parameters it is a new test; the old one keeps its runs and "+
		"wants no more.", old), nil
}

// TakeOut removes a test from a job's plan. A test with runs stays in the ledger and wants no more.
func (x *Plans) TakeOut(ctx context.Context, ch *bench.Change, jobID, id string) (*Changed, error) {
	return x.change(ctx, ch, jobID, func(j *job.Job) (string, error) {
		t := j.Test(id)
		switch {
		case t == nil:
			return "", bench.NoSuch("test", id)
		case j.HasRuns(id):
			t.Retired = true
			return t.Name + " has runs; they stay in the ledger, and no more are wanted.", nil
		}
		if j.Plan.Reference == id {
			j.Plan.Reference = ""
		}
		if j.Plan.Headline == id {
			j.Plan.Headline = ""
		}
		j.Refollow(id, t.Follows)
		j.Tests = slices.DeleteFunc(j.Tests, func(t job.Test) bool { return t.ID == id })
		j.Plan.Excuses = slices.DeleteFunc(j.Plan.Excuses, func(e job.Excuse) bool { return e.Test == id })
		return "", nil
	})
}

// Excuse sets why a test can't be done on a setup; an empty why clears it.
func (x *Plans) Excuse(ctx context.Context, ch *bench.Change, jobID, test, setup, why string) (*bench.View, error) {
	why = strings.TrimSpace(why)
	f := bench.Fields{}
	f.Text("why", why)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		if j.Test(test) == nil || j.Setup(setup) == nil {
			return bench.Refuse(bench.Missing, "There is no such test or setup in this job.")
		}
		j.Plan.Excuses = slices.DeleteFunc(j.Plan.Excuses,
			func(e job.Excuse) bool { return e.Test == test && e.Setup == setup })
		if why != "" {
			j.Plan.Excuses = append(j.Plan.Excuses, job.Excuse{Test: test, Setup: setup, Why: why, At: x.jobs.Now()})
		}
		return nil
	})
}
