package bench

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/plan"
)

func TestOpenWithATemplateAndAnswers(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	v, err := b.Open(ctx, Intake{Customer: job.Customer{Name: "x"}, OldDrive: job.Drive{Kind: job.HDD}, Template: "games", Answers: map[string]float64{"loads": 20}})
	require.NoError(t, err)
	assert.Equal(t, "games", v.Job.Plan.Template)
	assert.Equal(t, 20.0, v.Job.Test("t-game-continue").PerWeek)
	assert.Equal(t, 7.0, v.Job.Test(catalogue.ColdStart).PerWeek, "as the template has it")
	v, err = b.Answer(ctx, v.ID, map[string]float64{"starts": 3})
	require.NoError(t, err)
	assert.Equal(t, 21.0, v.Job.Test(catalogue.ColdStart).PerWeek)
	_, err = b.Answer(ctx, v.ID, map[string]float64{"starts": -3})
	refusal(t, err, Invalid)
	_, err = b.Open(ctx, Intake{Customer: job.Customer{Name: "x"}, OldDrive: job.Drive{Kind: job.HDD}, Template: "moon"})
	refusal(t, err, Missing)
}

func TestAChangeAfterARunMakesANewTest(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id := simulated(t, b)
	half := int64(512 << 20)
	c, err := b.ChangeTest(ctx, id, catalogue.ScatteredRead, TestChange{SpanBytes: &half})
	require.NoError(t, err)
	assert.Empty(t, c.Notice, "no run yet: the test itself is changed")
	assert.Equal(t, half, c.Job.Test(catalogue.ScatteredRead).Params.SpanBytes)

	_, err = b.Sit(ctx, id, "then", job.Conditions{})
	require.NoError(t, err)
	_, err = b.Measure(ctx, id, MeasureRequest{Sitting: "s1", Runs: 1, Tests: []string{catalogue.ScatteredRead}})
	require.NoError(t, err)
	waitMeasured(t, b, id)
	name := "Scattered reads, our way"
	c, err = b.ChangeTest(ctx, id, catalogue.ScatteredRead, TestChange{Name: &name})
	require.NoError(t, err)
	assert.Empty(t, c.Notice, "a name is not what is measured")
	quarter := int64(256 << 20)
	c, err = b.ChangeTest(ctx, id, catalogue.ScatteredRead, TestChange{SpanBytes: &quarter})
	require.NoError(t, err)
	assert.Contains(t, c.Notice, "new test")
	old := c.Job.Test(catalogue.ScatteredRead)
	assert.True(t, old.Retired)
	assert.Equal(t, half, old.Params.SpanBytes, "the old one is not bent")
	assert.Len(t, c.Job.RunsOf(old.ID, "then"), 1)
	i := slices.IndexFunc(c.Job.Tests, func(t job.Test) bool { return t.Replaces == old.ID })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, quarter, c.Job.Tests[i].Params.SpanBytes)
	assert.Equal(t, c.Job.Tests[i].ID, c.Job.Plan.Reference)

	for field, wrong := range map[string]TestChange{"span_bytes": {SpanBytes: new(int64)}, "max_seconds": {Seconds: new(float64)}, "wanted_runs": {Wanted: new(int)}, "name": {Name: new(string)}} {
		_, err = b.ChangeTest(ctx, id, catalogue.LongRead, wrong)
		assert.Contains(t, refusal(t, err, Invalid).Fields, field)
	}
}

func TestTakeOutAndPutBack(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id := simulated(t, b)
	_, err := b.Sit(ctx, id, "then", job.Conditions{})
	require.NoError(t, err)
	_, err = b.Perform(ctx, id, catalogue.ColdStart, "s1")
	require.NoError(t, err)
	c, err := b.TakeOut(ctx, id, catalogue.ColdStart)
	require.NoError(t, err)
	assert.Contains(t, c.Notice, "stay in the ledger")
	assert.Len(t, c.Job.RunsOf(catalogue.ColdStart, "then"), 1)
	c, err = b.TakeOut(ctx, id, catalogue.LongWrite)
	require.NoError(t, err)
	assert.Empty(t, c.Notice)
	assert.Nil(t, c.Job.Test(catalogue.LongWrite))
	v, err := b.AddTest(ctx, id, job.Test{ID: catalogue.ColdStart})
	require.NoError(t, err)
	assert.False(t, v.Job.Test(catalogue.ColdStart).Retired)
	_, err = b.AddTest(ctx, id, job.Test{Kind: job.Timed, Name: " "})
	refusal(t, err, Invalid)
	_, err = b.AddTest(ctx, id, job.Test{Kind: job.OnDrive, Name: "x", Unit: "MB/s"})
	refusal(t, err, Invalid)
	v, err = b.AddTest(ctx, id, job.Test{Kind: job.Note, Name: "Light at the seat", Unit: "lx", Better: job.Higher})
	require.NoError(t, err)
	assert.NotNil(t, v.Job.Test("t-own-1"))
}

// Whatever order tests, runs, set-asides and plan changes come in, coverage
// counts agree with the runs, no run is lost, and the job is whole.
func TestCoverageAgreesWithTheRunsWhateverHappens(t *testing.T) {
	b, s := newBench(t, Options{})
	ctx := t.Context()
	for seed := range uint64(6) {
		rng := rand.New(rand.NewPCG(seed, 9))
		id := simulated(t, b)
		for _, setup := range []string{"then", "now"} {
			_, err := b.Sit(ctx, id, setup, job.Conditions{})
			require.NoError(t, err)
		}
		templates, entries := plan.Templates(), catalogue.All()
		runs := 0
		for range 80 {
			j, err := s.Job(ctx, id)
			require.NoError(t, err)
			require.GreaterOrEqual(t, len(j.Runs), runs, "a run was lost")
			runs = len(j.Runs)
			test := catalogue.ColdStart
			if n := len(j.Tests); n > 0 {
				test = j.Tests[rng.IntN(n)].ID
			}
			run := ""
			if runs > 0 {
				run = j.Runs[rng.IntN(runs)].ID
			}
			// A refusal is an answer; what counts is what is there afterwards.
			switch rng.IntN(9) {
			case 0:
				_, _ = b.AddTest(ctx, id, job.Test{ID: entries[rng.IntN(len(entries))].Test.ID})
			case 1:
				_, _ = b.TakeOut(ctx, id, test)
			case 2:
				span := int64(16+rng.IntN(64)) << 20
				_, _ = b.ChangeTest(ctx, id, test, TestChange{SpanBytes: &span, Phases: &[]job.Phase{{ID: fmt.Sprint("p", rng.IntN(3)), Name: "x"}}})
			case 3:
				_, _ = b.UseTemplate(ctx, id, templates[rng.IntN(len(templates))].ID)
			case 4:
				_, _ = b.SetAside(ctx, id, run, "x")
			case 5:
				_, _ = b.TakeBack(ctx, id, run)
			case 6:
				_, _ = b.Excuse(ctx, id, test, "then", []string{"", "too ill"}[rng.IntN(2)])
			default:
				if u := j.Test(test); u != nil {
					_, _ = b.TypeIn(ctx, id, Type{Test: test, Sitting: []string{"s1", "s2"}[rng.IntN(2)], Value: 1 + rng.Float64(), Unit: u.Unit})
				}
			}
			v, err := b.Job(ctx, id)
			require.NoError(t, err)
			require.Empty(t, v.Job.Check())
			kept, all := 0, 0
			for _, c := range v.Coverage {
				require.Equal(t, len(v.Job.KeptRuns(c.Test, c.Setup)), c.Kept)
				require.Equal(t, len(v.Job.RunsOf(c.Test, c.Setup)), c.Kept+c.Aside)
				kept += c.Kept
				all += c.Kept + c.Aside
			}
			require.Equal(t, len(v.Job.Runs), all)
		}
		assert.Positive(t, runs)
	}
}

func TestGatesListWhatIsMissing(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id := simulated(t, b)
	v, err := b.PassGate(ctx, id, Passing{Gate: job.GateOldDriveOut, Why: "it died"})
	require.NoError(t, err)
	g := v.Job.Gate(job.GateOldDriveOut)
	assert.Len(t, g.Missing, 6, "what was missing is kept with the sentence")
	_, err = b.PassGate(ctx, id, Passing{Gate: job.GateMeasured})
	assert.NotEmpty(t, refusal(t, err, Conflict).Lost)
	_, err = b.PassGate(ctx, id, Passing{Gate: job.GateMeasured, Why: "it leaves today"})
	require.NoError(t, err)
	_, err = b.PassGate(ctx, id, Passing{Gate: job.GateHandedBack, Why: "no report wanted"})
	assert.Contains(t, refusal(t, err, Invalid).Fields, "old_drive")
	_, err = b.PassGate(ctx, id, Passing{Gate: job.GateHandedBack, OldDrive: "kept"})
	assert.Equal(t, "no report is issued", refusal(t, err, Conflict).Lost[0].What)
	v, err = b.PassGate(ctx, id, Passing{Gate: job.GateHandedBack, OldDrive: "destroyed", Why: "no report wanted"})
	require.NoError(t, err)
	assert.Equal(t, "destroyed", v.Job.Gate(job.GateHandedBack).OldDrive)
	assert.Empty(t, v.Here)
}

func TestTrialsAndFollowUps(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id := simulated(t, b)
	v, err := b.AddTrial(ctx, id, "the quiet one", job.Drive{Kind: job.SataSSD, CapacityBytes: 1e12})
	require.NoError(t, err)
	require.Len(t, v.Job.Setups, 3)
	trial := v.Job.Setups[2]
	assert.Equal(t, job.Trial, trial.Role)
	assert.Equal(t, "fresh-ssd", v.Job.Drive(trial.Drive).Simulated, "on a simulated computer a new drive is simulated as one")
	for i, setup := range []string{"then", "now", trial.ID, trial.ID, "then"} {
		_, err := b.Sit(ctx, id, setup, job.Conditions{})
		require.NoError(t, err)
		for range 4 {
			_, err = b.Perform(ctx, id, catalogue.ColdStart, fmt.Sprint("s", i+1))
			require.NoError(t, err)
		}
	}
	v, err = b.Stay(ctx, id, trial.ID)
	require.NoError(t, err)
	assert.Equal(t, job.Now, v.Job.Setup(trial.ID).Role)
	assert.Equal(t, job.Trial, v.Job.Setup("now").Role)
	assert.Len(t, v.Job.RunsOf(catalogue.ColdStart, "then"), 8, "an earlier drive put back is a new sitting on its setup")

	l, err := b.Compare(ctx, id, "", "")
	require.NoError(t, err)
	assert.Equal(t, trial.ID, l.With.Setup)
	assert.Equal(t, compare.Faster, l.Rows[0].Line.Verdict)
	l, err = b.Compare(ctx, id, "now", trial.ID)
	require.NoError(t, err)
	assert.NotEqual(t, compare.NotMeasured, l.Rows[0].Line.Verdict)
	// Has it slowed down? The follow-up against the first sitting.
	l, err = b.Compare(ctx, id, trial.ID+"@s3", trial.ID+"@s4")
	require.NoError(t, err)
	assert.Equal(t, 3, l.Rows[0].Line.Then.N, "the first start after the swap is set aside")
	assert.Equal(t, 4, l.Rows[0].Line.With.N)
	_, err = b.Compare(ctx, id, trial.ID+"@s1", "then")
	refusal(t, err, Missing)
}

func TestTicksWorkAndUsed(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id := simulated(t, b)
	v, err := b.Tick(ctx, id, job.BackupStep, true, " Noor ")
	require.NoError(t, err)
	assert.Equal(t, "Noor", v.Job.Step(job.BackupStep).Done.By)
	at := v.Job.Step(job.BackupStep).Done.At
	v, err = b.Tick(ctx, id, job.BackupStep, true, "someone else")
	require.NoError(t, err)
	assert.True(t, at.Equal(v.Job.Step(job.BackupStep).Done.At), "ticked once")
	_, err = b.Sit(ctx, id, "then", job.Conditions{Power: "mains"})
	require.NoError(t, err)
	v, err = b.Tick(ctx, id, "charger", false, "")
	require.NoError(t, err)
	assert.Nil(t, v.Job.Step("charger").Done, "what a person takes off does not tick itself again")
	_, err = b.NoteWork(ctx, id, job.Work{What: "cleaning", At: time.Now().Add(time.Hour)})
	refusal(t, err, Invalid)
	v, err = b.NoteWork(ctx, id, job.Work{What: "cleaning"})
	require.NoError(t, err)
	assert.False(t, v.Job.Head.Work[0].At.IsZero())
	_, err = b.NoteUsed(ctx, id, "then", 9e14)
	refusal(t, err, Invalid)
}

// photoOf is a JPEG, wider than high, that says it lies on its side and where
// it was taken.
func photoOf(t *testing.T) []byte {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, 40, 20))
	for x := range 40 {
		for y := range 20 {
			img.Set(x, y, color.RGBA{R: uint8(x * 6), A: 255})
		}
	}
	var plain bytes.Buffer
	require.NoError(t, jpeg.Encode(&plain, img, nil))
	// An Exif segment: one entry, orientation 6 (a quarter turn), and a place behind it.
	exif := []byte("Exif\x00\x00MM\x00\x2a\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00\x00\x00\x00\x00taken at 52.1N 4.3E")
	segment := binary.BigEndian.AppendUint16([]byte{0xff, 0xe1}, uint16(len(exif)+2))
	out := append([]byte{0xff, 0xd8}, append(segment, exif...)...)
	return append(out, plain.Bytes()[2:]...)
}

func TestPhotosAreTurnedUprightAndTellNothing(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id := simulated(t, b)
	raw := photoOf(t)
	require.Contains(t, string(raw), "52.1N")
	v, err := b.AddPhoto(ctx, id, "screws", "inside.jpg", raw)
	require.NoError(t, err)
	photo := v.Job.Step("screws").Photos[0]
	kind, data, err := b.Photo(ctx, id, photo.ID)
	require.NoError(t, err)
	assert.Equal(t, "image/jpeg", kind)
	assert.NotContains(t, string(data), "Exif")
	assert.NotContains(t, string(data), "52.1N")
	head, err := jpeg.DecodeConfig(bytes.NewReader(data))
	require.NoError(t, err)
	assert.Equal(t, 20, head.Width, "turned upright")
	assert.Equal(t, 40, head.Height)
	for name, bad := range map[string][]byte{"text": []byte("hello"), "half": raw[:100], "page": []byte("<html>"), "huge": make([]byte, MaxPhotoBytes+1)} {
		_, err := b.AddPhoto(ctx, id, "screws", name, bad)
		assert.NotEmpty(t, refusal(t, err, Invalid).Kept, name)
	}
	_, _, err = b.Photo(ctx, id, "nobody")
	refusal(t, err, Missing)
}

func TestShopTemplates(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	id := simulated(t, b)
	_, err := b.TakeOut(ctx, id, catalogue.LongWrite)
	require.NoError(t, err)
	list, err := b.SaveTemplate(ctx, id, " Ours ")
	require.NoError(t, err)
	own := list[len(list)-1]
	assert.Equal(t, "Ours", own.Name)
	assert.True(t, own.Shop)
	v, err := b.Open(ctx, Intake{Customer: job.Customer{Name: "y"}, OldDrive: job.Drive{Kind: job.HDD}, Template: own.ID})
	require.NoError(t, err)
	assert.Len(t, v.Job.Tests, 3)
	list, err = b.DropTemplate(ctx, own.ID)
	require.NoError(t, err)
	assert.False(t, slices.ContainsFunc(list, func(t plan.Template) bool { return t.ID == own.ID }))
	_, err = b.DropTemplate(ctx, "games")
	refusal(t, err, Missing)
	_, err = b.SaveTemplate(ctx, id, strings.Repeat("x", 600))
	refusal(t, err, Invalid)
}

func TestTheBoardIsNeverStale(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	first, second := simulated(t, b), simulated(t, b)
	board, err := b.Board(ctx, "", "")
	require.NoError(t, err)
	assert.Equal(t, 2, board.Total)
	assert.Equal(t, first, board.Hands.ID, "the one that waits longer")
	_, err = b.Amend(ctx, second, Change{Reason: new(string)})
	require.NoError(t, err)
	for range 2 {
		_, err = b.PassGate(ctx, second, Passing{Gate: job.GateOldDriveOut, Why: "x"})
		if err == nil {
			_, err = b.PassGate(ctx, second, Passing{Gate: job.GateMeasured, Why: "x"})
			require.NoError(t, err)
		}
	}
	board, err = b.Board(ctx, "open", "")
	require.NoError(t, err)
	assert.Equal(t, second, board.Hands.ID, "nearer to its end")
	_, err = b.Board(ctx, "lost", "")
	refusal(t, err, Invalid)
}

func TestTakingASittingFile(t *testing.T) {
	b, _ := newBench(t, Options{})
	ctx := t.Context()
	v, err := b.Open(ctx, Intake{Customer: job.Customer{Name: "x"}, OldDrive: job.Drive{Kind: job.HDD}})
	require.NoError(t, err)
	long := *v.Job.Test(catalogue.LongRead)
	other := long
	w := *long.Params
	w.SpanBytes *= 2
	other.ID, other.Params = "t-other", &w
	f := &jobfile.SittingFile{Computer: job.Computer{Maker: "Larkfield"}, Conditions: job.Conditions{Power: "mains"}, Tests: []job.Test{long, other},
		Runs: []job.Run{{ID: "A", Test: long.ID, Sitting: "s1", Value: 100, Method: job.Automatic, At: time.Unix(1000, 0)},
			{ID: "B", Test: "t-other", Sitting: "s1", Value: 90, Method: job.Automatic, Simulated: true, SetAside: &job.SetAside{Reason: "the drive's error"}}}}
	data, err := jobfile.WriteSitting(f)
	require.NoError(t, err)
	v, err = b.TakeSitting(ctx, v.ID, "then", "x.json", data)
	require.NoError(t, err)
	require.Len(t, v.Job.Sittings, 1)
	assert.Equal(t, "mains", v.Job.Sittings[0].Conditions.Power)
	assert.Len(t, v.Job.RunsOf(catalogue.LongRead, "then"), 1, "the same measurement is the same test")
	assert.Len(t, v.Job.RunsOf("t-other", "then"), 1, "another one is added")
	assert.Equal(t, "the drive's error", v.Job.Run("B").SetAside.Reason)
	assert.True(t, v.Simulated, "the mark comes along")
	assert.Equal(t, "Larkfield", v.Job.Computers[0].Maker, "what nobody had noted is filled in")
	_, err = b.TakeSitting(ctx, v.ID, "then", "x.json", data)
	refusal(t, err, Conflict)
	_, err = b.TakeSitting(ctx, v.ID, "then", "x.json", data[:50])
	assert.Contains(t, refusal(t, err, Invalid).Message, "x.json")
	after, err := b.Job(ctx, v.ID)
	require.NoError(t, err)
	assert.Len(t, after.Job.Runs, 2)
}
