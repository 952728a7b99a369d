package plan

import (
	"fmt"
	"reflect"
	"slices"

	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/message"
)

// Template is a plan for a kind of visit.
type Template struct {
	ID        string         `json:"id"`
	Name      string         `json:"name"`
	About     string         `json:"about"`
	Tests     []job.Test     `json:"tests"`
	Questions []job.Question `json:"questions"`
	Steps     []job.Step     `json:"steps"`
	Needs     []string       `json:"needs"`
	// Sittings are how many a setup is to be measured in: two where a difference under 15 %
	// matters, which a single sitting cannot show.
	Sittings int `json:"sittings"`
	// Shop marks a template that the shop made itself.
	Shop bool `json:"shop"`
}

// DefaultTemplate is what a job gets if nothing is given.
const DefaultTemplate = "plain"

var questions = map[string]job.Question{
	catalogue.AskStarts: {ID: catalogue.AskStarts,
		Text: "How often a day is it switched on or restarted?", PerWeek: 7, Answer: 1},
	catalogue.AskWakes: {ID: catalogue.AskWakes, Text: "How often in a day is it woken from sleep?", PerWeek: 7,
		Answer: 1},
	catalogue.AskResumes: {ID: catalogue.AskResumes, Text: "How often in a day does it come back from hibernation?",
		PerWeek: 7, Answer: 1},
	catalogue.AskLaunches: {ID: catalogue.AskLaunches,
		Text: "How often in a day is the main program opened again, after the first time?", PerWeek: 7, Answer: 2},
	catalogue.AskLoads: {ID: catalogue.AskLoads, Text: "How often is a game or save loaded in a week?", PerWeek: 1,
		Answer: 10},
	catalogue.AskDocuments: {ID: catalogue.AskDocuments, Text: "How often is a large document opened in a day?",
		PerWeek: 7, Answer: 2},
	catalogue.AskCopies: {ID: catalogue.AskCopies, Text: "How often is something large copied in a week?",
		PerWeek: 1, Answer: 2},
	catalogue.AskExports: {ID: catalogue.AskExports, Text: "How often is something exported in a week?", PerWeek: 1,
		Answer: 5},
}

// asking are the questions that tests ask, in the order in which their answers come up
// in a day.
func asking(tests []job.Test) []job.Question {
	list := []job.Question{}
	for _, id := range []string{catalogue.AskStarts, catalogue.AskWakes, catalogue.AskResumes, catalogue.AskLaunches,
		catalogue.AskLoads,
		catalogue.AskDocuments, catalogue.AskCopies, catalogue.AskExports} {
		if slices.ContainsFunc(tests, func(t job.Test) bool { return t.Usage == id }) {
			list = append(list, questions[id])
		}
	}
	return list
}

// usualSteps are those of a visit in which a drive is changed.
var usualSteps = []job.Step{
	{ID: "charger", When: "then", Text: "Charger is in", Fact: job.FactMains},
	{ID: job.BackupStep, When: "then", Text: "Backup is made, and one file of it was opened"},
	{ID: "updates", When: "then", Text: "System updates are paused"},
	{ID: "media", When: job.WhenPrepare, Text: "Cloning or installation media is ready"},
	{ID: "power-off", When: "swap", Text: "Power is off, cable and battery are disconnected"},
	{ID: "screws", When: "swap", Text: "Photo of the inside, screws sorted"},
	{ID: "recognised", When: "swap", Text: "Firmware recognises the new drive", Fact: job.FactMeasured},
	{ID: "started", When: job.WhenClose, Text: "The system started from the new drive"},
	{ID: "fans", When: job.WhenClose, Text: "Fans turn and sensors answer"},
	{ID: "cables", When: job.WhenClose, Text: "Cables and screws are where they belong"},
	{ID: "inside", When: job.WhenClose, Text: "Nothing is left inside"},
	{ID: "link", When: "now", Text: "The link has its full speed", Fact: job.FactLink},
	{ID: "trim", When: "now", Text: "TRIM is on"},
	{ID: "space", When: "now", Text: "No unallocated space is left"},
	{ID: "drivers", When: "now", Text: "Drivers are present"},
	{ID: "encrypted", When: "now", Text: "Drive is encrypted again, where it was", Fact: job.FactEncrypted},
	{ID: "updates-on", When: "back", Text: "System updates are on again"},
}

// stepInSentence returns a step's text as it stands within a sentence: one of ours in lower
// case, one that a person typed as it is.
func stepInSentence(text string) string {
	if slices.ContainsFunc(usualSteps, func(s job.Step) bool { return s.Text == text }) {
		return message.Lower(text)
	}
	return text
}

var parts = []string{"parts, adhesives and tools for this case"}

// Templates returns the templates that come with the program.
func Templates() []Template {
	steps := func(without ...string) []job.Step {
		return slices.DeleteFunc(slices.Clone(usualSteps),
			func(s job.Step) bool { return slices.Contains(without, s.ID) })
	}
	driveTests := []string{catalogue.LongWrite, catalogue.LongRead, catalogue.ScatteredRead}
	// The customer's own files come last: a folder without any ends the round.
	with := func(ids ...string) []job.Test {
		return catalogue.Tests(0, 0, append(append(ids, driveTests...), catalogue.ScatteredOwn)...)
	}
	twice := func(list []job.Test, ids ...string) []job.Test {
		for i := range list {
			if slices.Contains(ids, list[i].ID) {
				list[i].Wanted = 2
			}
		}
		return list
	}
	wanting := func(n int, list []job.Test) []job.Test {
		for i := range list {
			list[i].Wanted = min(n, list[i].Wanted)
		}
		return list
	}
	all := []Template{
		{ID: DefaultTemplate, Name: "Start and drive",
			About: "The minimum: a cold start and the drive itself.",
			Tests: catalogue.Standard(0, 0), Steps: steps(), Needs: parts},
		{ID: "laptop", Name: "Everyday laptop",
			About: "Starts, restart and shut-down, the main program, the browser in the morning, battery and noise.",
			Tests: twice(with(catalogue.ColdStart, catalogue.FirstLaunch, catalogue.MorningBrowser, catalogue.WakeUp,
				catalogue.Shutdown, catalogue.RestartToDesktop,
				catalogue.BatteryLife, catalogue.NoiseAtSeat), catalogue.Shutdown, catalogue.RestartToDesktop),
			Steps: steps(), Needs: parts},
		{ID: "office", Name: "Office desktop", About: "Starts, the main program, documents, folders of small files.",
			Tests: with(catalogue.ColdStart, catalogue.FirstLaunch, catalogue.OpenDocument, catalogue.MorningBrowser,
				catalogue.CopySmall), Steps: steps("charger"), Needs: parts},
		{ID: "games", Name: "Games machine",
			About: "From the launch to the menu, a save, a change of level, and how hot the drive gets.",
			Tests: with(catalogue.ColdStart, catalogue.GameMenu, catalogue.GameSave, catalogue.GameLevel,
				catalogue.PeakTemperature), Steps: steps("charger"), Needs: parts},
		{ID: "editing", Name: "Editing workstation",
			About: "Projects, exports, large copies, and a control of the processor.",
			Tests: with(catalogue.ColdStart, catalogue.OpenDocument, catalogue.ExportProject, catalogue.CopyLarge,
				catalogue.ProcessorControl,
				catalogue.BusyRead), Steps: steps("charger"), Needs: parts},
		{ID: FailingTemplate, Name: "Very old or failing",
			About: "Gentle: nothing is written to the drive. Save the data before anything else.",
			Tests: wanting(1, catalogue.Tests(0, 0, catalogue.ColdStart, catalogue.ReadFolder, catalogue.LongReadOwn,
				catalogue.ScatteredOwn, catalogue.NoiseAtSeat)),
			Steps: steps(), Needs: append([]string{"a drive for the customer's data"}, parts...)},
		{ID: "quick", Name: "Quick check in ten minutes", About: "One start and short drive tests, twice.",
			Tests: append(wanting(1, catalogue.Tests(0, 0, catalogue.ColdStart)),
				wanting(2, catalogue.Tests(256<<20, 4, catalogue.LongRead, catalogue.ScatteredRead))...),
			Steps: steps("power-off", "screws", "started", "fans", "cables", "inside"), Needs: []string{}},
		{ID: "capacity", Name: "Capacity only",
			About: "More room is what is wanted; that it is not slower is what is shown.",
			Tests: wanting(2, catalogue.Tests(0, 0, catalogue.ColdStart, catalogue.LongRead)),
			Steps: steps(), Needs: parts},
	}
	for i := range all {
		all[i].Questions = asking(all[i].Tests)
		all[i].Sittings = 1
		if slices.Contains([]string{"capacity", "editing"}, all[i].ID) {
			all[i].Sittings = 2
		}
	}
	return all
}

// Apply gives a job the plan of a template. Tests that have runs stay; what of
// them the template lacks wants no more runs. Ticked steps stay ticked.
func Apply(j *job.Job, t Template, span int64, seconds float64) {
	kept := []job.Test{}
	for _, old := range j.Tests {
		if !j.HasRuns(old.ID) {
			continue
		}
		old.Retired = !slices.ContainsFunc(t.Tests, func(n job.Test) bool { return n.ID == old.ID })
		kept = append(kept, old)
	}
	for _, n := range t.Tests {
		if !slices.ContainsFunc(kept, func(k job.Test) bool { return k.ID == n.ID }) {
			kept = append(kept, catalogue.Bounded(n, spanOf(j, &n, span), seconds))
		}
	}
	j.Tests = kept
	catalogue.Chain(j.Tests)
	ticked := j.Plan.Steps
	j.Plan.Steps = slices.Clone(t.Steps)
	for _, s := range ticked {
		if i := slices.IndexFunc(j.Plan.Steps, func(n job.Step) bool { return n.ID == s.ID }); i >= 0 {
			j.Plan.Steps[i] = s
		} else if s.Done != nil || len(s.Photos) > 0 {
			j.Plan.Steps = append(j.Plan.Steps, s)
		}
	}
	answers := j.Plan.Questions
	j.Plan.Questions = slices.Clone(t.Questions)
	for i, q := range j.Plan.Questions {
		if k := slices.IndexFunc(answers, func(a job.Question) bool { return a.ID == q.ID }); k >= 0 {
			j.Plan.Questions[i].Answer = answers[k].Answer
		}
	}
	j.Plan.Template, j.Plan.Needs, j.Plan.Sittings = t.ID, slices.Clone(t.Needs), t.Sittings
	j.Plan.Reference, j.Plan.Headline = "", Headline(j)
	Use(j)
}

// spanOf is the size of a test's file: the one that is asked for, else as the drive that
// the job began with is made, unless the test has a size of its own.
func spanOf(j *job.Job, t *job.Test, asked int64) int64 {
	then := j.SetupAs(job.Then)
	if asked > 0 || t.Params == nil || t.Params.SpanBytes != catalogue.DefaultSpan || then == nil {
		return asked
	}
	d := j.Drive(then.Drive)
	if d == nil {
		return asked
	}
	free := int64(0)
	if then.UsedBytes > 0 {
		free = d.CapacityBytes - then.UsedBytes
	}
	return catalogue.SpanFor(d.Kind, free)
}

// Use works the answers about usage into the tests' uses per week.
func Use(j *job.Job) {
	for i := range j.Tests {
		t := &j.Tests[i]
		for _, q := range j.Plan.Questions {
			if q.ID == t.Usage {
				t.PerWeek = q.Answer * q.PerWeek
			}
		}
	}
}

// Headline is the test that a job's headline will be about, by the reason of the visit:
// the first of its waiting tests; "" where none waits.
func Headline(j *job.Job) string {
	for i := range j.Tests {
		if t := &j.Tests[i]; !t.Retired && (t.Kind == job.Timed || t.Kind == job.OnFiles) {
			return t.ID
		}
	}
	return ""
}

// Ask adds the questions that the job's tests ask and its plan does not.
func Ask(j *job.Job) {
	for _, q := range asking(j.Tests) {
		if !slices.ContainsFunc(j.Plan.Questions, func(have job.Question) bool { return have.ID == q.ID }) {
			j.Plan.Questions = append(j.Plan.Questions, q)
		}
	}
}

// FromJob makes a template of a job's plan: its tests without what was retired,
// its steps without ticks.
func FromJob(j *job.Job, id, name string) Template {
	t := Template{ID: id, Name: name, About: "A plan of this shop.", Shop: true, Tests: []job.Test{},
		Questions: slices.Clone(j.Plan.Questions),
		Steps:     slices.Clone(j.Plan.Steps), Needs: slices.Clone(j.Plan.Needs), Sittings: j.Plan.Sittings}
	for _, test := range j.Tests {
		if !test.Retired {
			test.Replaces = ""
			t.Tests = append(t.Tests, test)
		}
	}
	for i := range t.Steps {
		t.Steps[i].Done, t.Steps[i].Photos = nil, nil
	}
	return t
}

// SameMeasurement reports whether two tests measure the same thing: kind, unit,
// direction, parameters and phases. Name, wanted runs and usage may differ.
func SameMeasurement(a, b *job.Test) bool {
	if a.Kind != b.Kind || a.What != b.What || a.Unit != b.Unit || a.Better != b.Better || a.Warmth != b.Warmth ||
		a.StartKind != b.StartKind || a.Content != b.Content || a.Pages != b.Pages || len(a.Phases) != len(b.Phases) ||
		(a.Params == nil) != (b.Params == nil) {
		return false
	}
	for i := range a.Phases {
		if a.Phases[i].ID != b.Phases[i].ID || a.Phases[i].Counted() != b.Phases[i].Counted() {
			return false
		}
	}
	if !reflect.DeepEqual(a.FileWork, b.FileWork) {
		return false
	}
	if a.Params == nil {
		return true
	}
	p, q := *a.Params, *b.Params
	p.MaxSeconds, q.MaxSeconds = p.Seconds(), q.Seconds() // nothing said means the usual time
	p.Unknown, q.Unknown = nil, nil
	return reflect.DeepEqual(p, q)
}

// Adopt returns the id of the job's test that measures the same as one of elsewhere, which
// is put into the plan where there is none.
func Adopt(j *job.Job, t job.Test) string {
	if at := slices.IndexFunc(j.Tests, func(o job.Test) bool { return SameMeasurement(&o, &t) }); at >= 0 {
		return j.Tests[at].ID
	}
	own := t.ID
	for n := 2; j.Test(own) != nil; n++ {
		own = fmt.Sprintf("%s-%d", t.ID, n)
	}
	t.ID = own
	j.Tests = append(j.Tests, t)
	return own
}
