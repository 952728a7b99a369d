package visit_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/go-json-experiment/json"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/measuring"
	"nowthen/bench/sittings"
	"nowthen/bench/visit"
	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/plan"
)

func TestOpenWithATemplateAndAnswers(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "x"}, OldDrive: bench.Drive{Kind: job.HDD}, Template: "games",
			Answers: map[string]float64{"loads": 20}})
	require.NoError(t, err)
	assert.Equal(t, "games", v.Job.Plan.Template)
	assert.Equal(t, 20.0, v.Job.Test("t-game-save").PerWeek)
	assert.Equal(t, 7.0, v.Job.Test(catalogue.ColdStart).PerWeek, "as the template has it")
	v, err = b.Plans.Answer(ctx, nil, v.ID, map[string]float64{"starts": 3})
	require.NoError(t, err)
	assert.Equal(t, 21.0, v.Job.Test(catalogue.ColdStart).PerWeek)
	_, err = b.Plans.Answer(ctx, nil, v.ID, map[string]float64{"starts": -3})
	desktest.Refusal(t, err, bench.Invalid)
	_, err = b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "x"}, OldDrive: bench.Drive{Kind: job.HDD}, Template: "moon"})
	desktest.Refusal(t, err, bench.Missing)
}

func TestGatesListWhatIsMissing(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	v, err := b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateOldDriveOut, Why: "it died"})
	require.NoError(t, err)
	g := v.Job.Gate(job.GateOldDriveOut)
	assert.Len(t, g.Missing, 6, "what was missing is kept with the sentence")
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateMeasured})
	assert.NotEmpty(t, desktest.Refusal(t, err, bench.Lacking).Lost)
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateMeasured, Why: "it leaves today"})
	require.NoError(t, err)
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateHandedBack, Why: "no report wanted"})
	assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Fields, "old_drive")
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateHandedBack, OldDrive: "kept"})
	assert.Equal(t, "no report is issued", desktest.Refusal(t, err, bench.Lacking).Lost[0].What)
	v, err = b.Visits.PassGate(ctx, nil, id,
		visit.Passing{Gate: job.GateHandedBack, OldDrive: "destroyed", Why: "no report wanted"})
	require.NoError(t, err)
	assert.EqualValues(t, "destroyed", v.Job.Gate(job.GateHandedBack).OldDrive)
	assert.Empty(t, v.Here)
}

func TestTrialsAndFollowUps(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	v, err := b.Visits.AddTrial(ctx, nil, id,
		visit.Trial{Name: "the quiet one", Drive: bench.Drive{Kind: job.SataSSD, CapacityBytes: 1e12}})
	require.NoError(t, err)
	require.Len(t, v.Job.Setups, 3)
	trial := v.Job.Setups[2]
	assert.Equal(t, job.Trial, trial.Role)
	assert.Equal(t, "fresh-ssd", v.Job.Drive(trial.Drive).Simulated,
		"on a simulated computer a new drive is simulated as one")
	for i, setup := range []string{"then", "now", trial.ID, trial.ID, "then"} {
		_, err := b.Sittings.Sit(ctx, nil, id, setup, bench.Conditions{})
		require.NoError(t, err)
		for range 4 {
			_, err = b.Rounds.Perform(ctx, nil, id, catalogue.ColdStart, fmt.Sprint("s", i+1))
			require.NoError(t, err)
		}
	}
	v, err = b.Visits.Stay(ctx, nil, id, trial.ID)
	require.NoError(t, err)
	assert.Equal(t, trial.ID, v.Job.Head.Stays)
	assert.Equal(t, job.Trial, v.Job.Setup(trial.ID).Role, "roles stay as they are")
	assert.Equal(t, job.Now, v.Job.Setup("now").Role)
	assert.Len(t, v.Job.RunsOf(catalogue.ColdStart, "then"), 8,
		"an earlier drive put back is a new sitting on its setup")

	l, err := b.Reports.Compare(ctx, id, "", "", "")
	require.NoError(t, err)
	assert.Equal(t, trial.ID, l.With.Setup)
	assert.Equal(t, compare.Faster, l.Rows[0].Line.Verdict)
	l, err = b.Reports.Compare(ctx, id, "now", trial.ID, "")
	require.NoError(t, err)
	assert.NotEqual(t, compare.NotMeasured, l.Rows[0].Line.Verdict)
	// Has it slowed down? The follow-up against the first sitting.
	l, err = b.Reports.Compare(ctx, id, trial.ID+"@s3", trial.ID+"@s4", "")
	require.NoError(t, err)
	assert.Equal(t, 3, l.Rows[0].Line.Then.N, "the first start after the swap is set aside")
	assert.Equal(t, 4, l.Rows[0].Line.With.N)
	_, err = b.Reports.Compare(ctx, id, trial.ID+"@s1", "then", "")
	desktest.Refusal(t, err, bench.Missing)
}

func TestTicksWorkAndUsed(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	v, err := b.Visits.Tick(ctx, nil, id, job.BackupStep, true, " Runa ")
	require.NoError(t, err)
	assert.Equal(t, "Runa", v.Job.Step(job.BackupStep).Done.By)
	at := v.Job.Step(job.BackupStep).Done.At
	v, err = b.Visits.Tick(ctx, nil, id, job.BackupStep, true, "someone else")
	require.NoError(t, err)
	assert.True(t, at.Equal(v.Job.Step(job.BackupStep).Done.At), "ticked once")
	_, err = b.Sittings.Sit(ctx, nil, id, "then", bench.Conditions{Power: "mains"})
	require.NoError(t, err)
	v, err = b.Visits.Tick(ctx, nil, id, "charger", false, "")
	require.NoError(t, err)
	assert.Nil(t, v.Job.Step("charger").Done, "what a person takes off does not tick itself again")
	_, err = b.Visits.NoteWork(ctx, nil, id, visit.Work{What: "cleaning", At: time.Now().Add(time.Hour)})
	desktest.Refusal(t, err, bench.Invalid)
	v, err = b.Visits.NoteWork(ctx, nil, id, visit.Work{What: "cleaning"})
	require.NoError(t, err)
	assert.False(t, v.Job.Head.Work[0].At.IsZero())
	_, err = b.Visits.NoteUsed(ctx, nil, id, "then", 9e14)
	desktest.Refusal(t, err, bench.Invalid)
}

func TestTheBoardIsNeverStale(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	first, second := desktest.Simulated(t, b), desktest.Simulated(t, b)
	board, err := b.Visits.Board(ctx, visit.Ask{})
	require.NoError(t, err)
	assert.Equal(t, 2, board.Total)
	assert.Equal(t, first, board.Hands.ID, "the one that waits longer")
	_, err = b.Visits.Amend(ctx, nil, second, visit.Change{Reason: new(string)})
	require.NoError(t, err)
	for range 2 {
		_, err = b.Visits.PassGate(ctx, nil, second, visit.Passing{Gate: job.GateOldDriveOut, Why: "x"})
		if err == nil {
			_, err = b.Visits.PassGate(ctx, nil, second, visit.Passing{Gate: job.GateMeasured, Why: "x"})
			require.NoError(t, err)
		}
	}
	board, err = b.Visits.Board(ctx, visit.Ask{State: "open"})
	require.NoError(t, err)
	assert.Equal(t, second, board.Hands.ID, "nearer to its end")
	_, err = b.Visits.Board(ctx, visit.Ask{State: "lost"})
	desktest.Refusal(t, err, bench.Invalid)
}

// What was fitted is that of the setups that were not measured before it, also of those
// that are still to come; the ledger then says so.
func TestFittedMemoryBelongsToTheSetup(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil, visit.Intake{Customer: bench.Customer{Name: "Ottilie"}, Simulated: "laptop"})
	require.NoError(t, err)
	v, err = b.Sittings.Sit(ctx, nil, v.ID, "then", bench.Conditions{Power: "mains"})
	require.NoError(t, err)
	v, err = b.Visits.NoteWork(ctx, nil, v.ID,
		visit.Work{What: job.WorkMemory, Note: "second module", Fitted: &visit.Fitted{MemoryBytes: 16 << 30}})
	require.NoError(t, err)
	assert.Nil(t, v.Job.Setup("then").Fitted, "it was measured before")
	require.NotNil(t, v.Job.Setup("now").Fitted)
	assert.EqualValues(t, 16<<30, v.Job.Setup("now").Fitted.MemoryBytes)
	v, err = b.Visits.AddTrial(ctx, nil, v.ID,
		visit.Trial{Name: "the other", Drive: bench.Drive{Kind: job.SataSSD, CapacityBytes: 500e9}})
	require.NoError(t, err)
	trial := v.Job.Setups[len(v.Job.Setups)-1]
	require.NotNil(t, trial.Fitted, "a setup that comes later")
	assert.EqualValues(t, 16<<30, trial.Fitted.MemoryBytes)
	at := v.Job.Head.Work[0].At
	v, err = b.Visits.NoteWork(ctx, nil, v.ID,
		visit.Work{What: job.WorkOther, At: at, Fitted: &visit.Fitted{Processor: "4 cores"}})
	require.NoError(t, err)
	assert.Equal(t, &job.Fitted{MemoryBytes: 16 << 30}, v.Job.Head.Work[0].Fitted,
		"work of the same minute keeps what it fitted")
	assert.Equal(t, &job.Fitted{Processor: "4 cores"}, v.Job.Head.Work[1].Fitted)
	assert.Equal(t, &job.Fitted{MemoryBytes: 16 << 30, Processor: "4 cores"}, v.Job.Setup("now").Fitted)
	_, err = b.Visits.NoteWork(ctx, nil, v.ID, visit.Work{What: job.WorkMemory, Fitted: &visit.Fitted{MemoryBytes: -1}})
	desktest.Refusal(t, err, bench.Invalid)
}

// The page that a job has reached, and what is next on it, from intake to hand-over.
func TestTheWayThroughAJob(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	v, err := b.Visits.Open(ctx, nil, visit.Intake{Customer: bench.Customer{Name: "Ottilie"}, Simulated: "laptop",
		Reasons: []visit.Reason{{What: job.ReasonSlowStart, Words: "takes an age"}, {What: job.ReasonNoise}}})
	require.NoError(t, err)
	id := v.ID
	at := func(page, do string) {
		t.Helper()
		v, err = b.Jobs.View(ctx, id)
		require.NoError(t, err)
		assert.Equal(t, page, v.Page)
		assert.Equal(t, do, v.Next.Do, v.Next.Words)
	}
	at("then", "time")
	assert.Equal(t, []string{"the customer's password"}, v.Next.Needs)
	require.NotNil(t, v.Next.Unattended)
	assert.Equal(t, "measure", v.Next.Unattended.Do)
	measure := func(setup string, starts int) {
		t.Helper()
		v, err := b.Sittings.Sit(ctx, nil, id, setup, bench.Conditions{Power: job.Mains})
		require.NoError(t, err)
		sitting := v.Job.Sittings[len(v.Job.Sittings)-1].ID
		for range starts {
			_, err = b.Rounds.Perform(ctx, nil, id, catalogue.ColdStart, sitting)
			require.NoError(t, err)
		}
		_, err = b.Rounds.Measure(ctx, nil, id, measuring.MeasureRequest{Sitting: sitting})
		require.NoError(t, err)
		desktest.Measured(t, b, id)
	}
	measure("then", 3)
	at("prepare", "take-out")
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateOldDriveOut, Why: "no backup wanted"})
	require.NoError(t, err)
	at("swap", "step")
	for _, step := range []string{"power-off", "screws"} {
		v, err := b.Jobs.View(ctx, id)
		require.NoError(t, err)
		assert.Equal(t, step, v.Next.Step)
		_, err = b.Visits.Tick(ctx, nil, id, step, true, "Runa")
		require.NoError(t, err)
	}
	at("swap", "close")
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateCaseClosed})
	desktest.Refusal(t, err, bench.Lacking)
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateCaseClosed, Why: "in a hurry"})
	require.NoError(t, err)
	at("now", "time")
	measure("now", 4)
	at("compare", "report")
	_, err = b.Reports.Issue(ctx, nil, id, "")
	require.NoError(t, err)
	at("report", "hand-back")
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateHandedBack, OldDrive: "kept"})
	r := desktest.Refusal(t, err, bench.Lacking)
	require.Len(t, r.Lost, 2)
	assert.Equal(t, "no answer yet to the reason for the visit: takes an age", r.Lost[0].What)
	assert.Equal(t, "no answer yet to the reason for the visit: it is noisy", r.Lost[1].What)
	closed := []visit.Reason{{What: job.ReasonSlowStart, Words: "takes an age", Outcome: job.Solved},
		{What: job.ReasonNoise, Outcome: job.OtherCause, Remains: "a worn fan"}}
	_, err = b.Visits.Amend(ctx, nil, id, visit.Change{Reasons: &closed})
	require.NoError(t, err)
	_, err = b.Visits.PassGate(ctx, nil, id, visit.Passing{Gate: job.GateHandedBack, OldDrive: "kept"})
	require.NoError(t, err)
	at("report", "nothing")
}

func TestWhatWentWrongIsOnePress(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	v, err := b.Sittings.NoteEvent(ctx, nil, id,
		sittings.Happening{Setup: "then", What: job.Hang, Test: catalogue.ColdStart})
	require.NoError(t, err)
	require.Len(t, v.Job.Sittings, 1, "a sitting is begun of which nothing is known")
	c := v.Job.Sittings[0].Conditions
	require.Len(t, c.Events, 1)
	assert.Equal(t, job.Hang, c.Events[0].What)
	assert.WithinDuration(t, time.Now(), c.Events[0].At, time.Minute)
	assert.Empty(t, c.Power)
	_, err = b.Sittings.NoteEvent(ctx, nil, id, sittings.Happening{Setup: "then", What: job.Crash})
	require.NoError(t, err)
	v, err = b.Sittings.Amend(ctx, nil, id, v.Job.Sittings[0].ID, bench.Conditions{Power: job.Mains})
	require.NoError(t, err)
	assert.Len(t, v.Job.Sittings[0].Conditions.Events, 2, "conditions that are noted later take nothing away")
	v, err = b.Sittings.ForgetEvent(ctx, nil, id, "then")
	require.NoError(t, err)
	assert.Len(t, v.Job.Sittings[0].Conditions.Events, 1)
	_, err = b.Sittings.NoteEvent(ctx, nil, id, sittings.Happening{Setup: "then", What: "nap"})
	assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Fields, "what")
}

// A drive whose name is corrected on the docket is still the same drive: what the probe knows it
// by, and what was noted and found of
// it, stays.
func TestACorrectedDriveIsTheSame(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Real(t, b, 1)
	_, err := b.Jobs.Change(ctx, nil, id, func(j *job.Job) error {
		d := j.Drive(j.SetupAs(job.Then).Drive)
		d.SerialDigest, d.Shape, d.Held = "the mark of its number", &job.Shape{Form: job.Form25}, &job.Capacity{Blocks: 4}
		return nil
	})
	require.NoError(t, err)
	v, err := b.Visits.Amend(ctx, nil, id,
		visit.Change{OldDrive: &bench.Drive{Kind: job.HDD, Maker: "Halden", Model: "Turnstone 640"}})
	require.NoError(t, err)
	d := v.Job.Drive(v.Job.SetupAs(job.Then).Drive)
	assert.Equal(t, "Turnstone 640", d.Model)
	assert.Equal(t, "the mark of its number", d.SerialDigest)
	assert.Equal(t, &job.Shape{Form: job.Form25}, d.Shape)
	assert.Equal(t, &job.Capacity{Blocks: 4}, d.Held)
}

// An edit of a drive changes what was entered about it and nothing that was found.
func TestAnEditKeepsWhatWasFound(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	v, err := b.Visits.Open(t.Context(), nil,
		visit.Intake{Customer: bench.Customer{Name: "x"}, OldDrive: bench.Drive{Kind: job.HDD},
			NewDrive: &bench.Drive{Kind: job.NVMe}})
	require.NoError(t, err)
	found := func(id string) job.DriveFound {
		return job.DriveFound{SerialDigest: id, Shape: &job.Shape{Form: job.FormM2}, Held: &job.Capacity{Blocks: 7},
			Sustained: []job.Sustained{{ID: "w" + id, Parts: []job.SustainedPart{{Seconds: 60, Bytes: 1e9, MBs: 16}}}}}
	}
	_, err = b.Jobs.Change(t.Context(), nil, v.ID, func(j *job.Job) error {
		for i := range j.Drives {
			j.Drives[i].DriveFound = found(j.Drives[i].ID)
		}
		return nil
	})
	require.NoError(t, err)
	edited := bench.Drive{Kind: job.SataSSD, Model: "Kestrel", CapacityBytes: 2e12}
	v, err = b.Visits.Amend(t.Context(), nil, v.ID, visit.Change{OldDrive: &edited, NewDrive: &edited})
	require.NoError(t, err)
	require.Len(t, v.Job.Drives, 2)
	for _, d := range v.Job.Drives {
		assert.Equal(t, "Kestrel", d.Model)
		assert.Equal(t, found(d.ID), d.DriveFound, d.ID)
	}
}

// Names begin with any letter there is.
func TestAnyNameOfATest(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	v, err := b.Visits.Open(t.Context(), nil,
		visit.Intake{Customer: bench.Customer{Name: "x"}, OldDrive: bench.Drive{Kind: job.HDD}})
	require.NoError(t, err)
	for _, name := range []string{"Öffnen der Kasse", "ß", "Ärger", "日本", "Ǆ", "SSD"} {
		_, err = b.Jobs.Change(t.Context(), nil, v.ID, func(j *job.Job) error {
			j.Tests[0].Name = name
			return nil
		})
		require.NoError(t, err)
		v, err = b.Jobs.View(t.Context(), v.ID)
		require.NoError(t, err)
		assert.Contains(t, v.Next.Words, name)
		text, err := json.Marshal(v)
		require.NoError(t, err)
		assert.Contains(t, string(text), name)
	}
}

// A new name has at most 200 characters; a longer one that came with a file stays and keeps no
// other edit back.
func TestLongNames(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	long := strings.Repeat("ä", 201)
	_, err := b.Visits.Open(t.Context(), nil,
		visit.Intake{Customer: bench.Customer{Name: long}, OldDrive: bench.Drive{Kind: job.HDD, Model: long}})
	fields := desktest.Refusal(t, err, bench.Invalid).Fields
	assert.Contains(t, fields, "customer.name")
	assert.Contains(t, fields, "old_drive.model")
	v, err := b.Visits.Open(t.Context(), nil,
		visit.Intake{Customer: bench.Customer{Name: long[:400]}, OldDrive: bench.Drive{Kind: job.HDD}})
	require.NoError(t, err, "200 of them")
	_, err = b.Jobs.Change(t.Context(), nil, v.ID, func(j *job.Job) error {
		j.Head.Customer.Name, j.Drives[0].Model, j.Tests[0].Name = long, long, long
		return nil
	})
	require.NoError(t, err)
	v, err = b.Visits.Amend(t.Context(), nil, v.ID,
		visit.Change{Customer: &bench.Customer{Name: long, Contact: "0123"},
			OldDrive: &bench.Drive{Kind: job.HDD, Model: long, RPM: 5400}})
	require.NoError(t, err)
	assert.Equal(t, long, v.Job.Head.Customer.Name)
	assert.Equal(t, 5400, v.Job.Drives[0].RPM)
	_, err = b.Visits.Amend(t.Context(), nil, v.ID, visit.Change{Customer: &bench.Customer{Name: long + "x"}})
	assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Fields, "customer.name")
}

// One drive can have several setups: outside by USB first, then inside.
func TestADriveInAnotherPlace(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	id := desktest.Simulated(t, b)
	v, err := b.Visits.AddTrial(t.Context(), nil, id,
		visit.Trial{Name: "outside", DriveID: "d2", Relation: job.OnlyTried})
	require.NoError(t, err)
	assert.Len(t, v.Job.Drives, 2, "no drive is added")
	s := v.Job.Setup("trial1")
	assert.Equal(t, []any{"d2", job.OnlyTried, "outside"},
		[]any{s.Drive, s.Relation, s.Name})
	_, err = b.Visits.AddTrial(t.Context(), nil, id, visit.Trial{DriveID: "d9"})
	desktest.Refusal(t, err, bench.Missing)
}

// The reason that the drive is failing brings the gentle plan, once; another plan that is picked then stays.
func TestTheReasonThatItIsFailing(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	failing := []visit.Reason{{What: job.ReasonFailing}}
	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "a"}, OldDrive: bench.Drive{Kind: job.HDD}, Reasons: failing})
	require.NoError(t, err)
	assert.Equal(t, plan.FailingTemplate, v.Job.Plan.Template)
	assert.Equal(t, job.BackupStep, v.Next.Step, "the backup comes first")

	v, err = b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "b"}, OldDrive: bench.Drive{Kind: job.HDD}})
	require.NoError(t, err)
	v, err = b.Visits.Amend(ctx, nil, v.ID, visit.Change{Reasons: &failing})
	require.NoError(t, err)
	assert.Equal(t, plan.FailingTemplate, v.Job.Plan.Template)
	_, err = b.Plans.UseTemplate(ctx, nil, v.ID, plan.DefaultTemplate)
	require.NoError(t, err)
	v, err = b.Visits.Amend(ctx, nil, v.ID, visit.Change{Reasons: &failing})
	require.NoError(t, err)
	assert.Equal(t, plan.DefaultTemplate, v.Job.Plan.Template)
}
