package planning_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/measuring"
	"nowthen/bench/planning"
	"nowthen/bench/sittings"
	"nowthen/bench/visit"
	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/testscale"
)

func TestAChangeAfterARunMakesANewTest(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	half := int64(512 << 20)
	c, err := b.Plans.ChangeTest(ctx, nil, id, catalogue.ScatteredRead, planning.TestChange{SpanBytes: &half})
	require.NoError(t, err)
	assert.Empty(t, c.Notice, "no run yet: the test itself is changed")
	assert.Equal(t, half, c.Job.Test(catalogue.ScatteredRead).Params.SpanBytes)

	_, err = b.Sittings.Sit(ctx, nil, id, "then", bench.Conditions{})
	require.NoError(t, err)
	_, err = b.Rounds.Measure(ctx, nil, id,
		measuring.MeasureRequest{Sitting: "s1", Runs: 1, Tests: []string{catalogue.ScatteredRead}})
	require.NoError(t, err)
	desktest.Measured(t, b, id)
	name := "Scattered reads, our way"
	c, err = b.Plans.ChangeTest(ctx, nil, id, catalogue.ScatteredRead, planning.TestChange{Name: &name})
	require.NoError(t, err)
	assert.Empty(t, c.Notice, "a name is not what is measured")
	quarter := int64(256 << 20)
	c, err = b.Plans.ChangeTest(ctx, nil, id, catalogue.ScatteredRead, planning.TestChange{SpanBytes: &quarter})
	require.NoError(t, err)
	assert.Contains(t, c.Notice, "new test")
	old := c.Job.Test(catalogue.ScatteredRead)
	assert.True(t, old.Retired)
	assert.Equal(t, half, old.Params.SpanBytes, "the old one is not bent")
	assert.Len(t, c.Job.RunsOf(old.ID, "then"), 1)
	i := slices.IndexFunc(c.Job.Tests, func(t job.Test) bool { return t.Replaces == old.ID })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, quarter, c.Job.Tests[i].Params.SpanBytes)
	assert.Equal(t, c.Job.Tests[i].ID, c.Job.References()[0])

	for field, wrong := range map[string]planning.TestChange{"span_bytes": {SpanBytes: new(int64)},
		"max_seconds": {Seconds: new(float64)}, "wanted_runs": {Wanted: new(int)}, "name": {Name: new(string)}} {
		_, err = b.Plans.ChangeTest(ctx, nil, id, catalogue.LongRead, wrong)
		assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Fields, field)
	}
}

func TestTakeOutAndPutBack(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	_, err := b.Sittings.Sit(ctx, nil, id, "then", bench.Conditions{})
	require.NoError(t, err)
	_, err = b.Rounds.Perform(ctx, nil, id, catalogue.ColdStart, "s1")
	require.NoError(t, err)
	c, err := b.Plans.TakeOut(ctx, nil, id, catalogue.ColdStart)
	require.NoError(t, err)
	assert.Contains(t, c.Notice, "stay in the ledger")
	assert.Len(t, c.Job.RunsOf(catalogue.ColdStart, "then"), 1)
	c, err = b.Plans.TakeOut(ctx, nil, id, catalogue.LongWrite)
	require.NoError(t, err)
	assert.Empty(t, c.Notice)
	assert.Nil(t, c.Job.Test(catalogue.LongWrite))
	v, err := b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: catalogue.ColdStart})
	require.NoError(t, err)
	assert.False(t, v.Job.Test(catalogue.ColdStart).Retired)
	_, err = b.Plans.AddTest(ctx, nil, id, planning.NewTest{Kind: job.Timed, Name: " "})
	desktest.Refusal(t, err, bench.Invalid)
	_, err = b.Plans.AddTest(ctx, nil, id, planning.NewTest{Kind: job.OnDrive, Name: "x", Unit: "MB/s"})
	desktest.Refusal(t, err, bench.Invalid)
	v, err = b.Plans.AddTest(ctx, nil, id,
		planning.NewTest{Kind: job.Note, Name: "Light at the seat", Unit: "lx", Better: job.Higher})
	require.NoError(t, err)
	assert.NotNil(t, v.Job.Test("t-own-1"))
}

// Whatever order tests, runs, set-asides and plan changes come in, coverage
// counts agree with the runs, no run is lost, and the job is whole.
func TestCoverageAgreesWithTheRunsWhateverHappens(t *testing.T) {
	b, s := desktest.New(t, desk.Options{})
	ctx := t.Context()
	for seed := range uint64(testscale.Of(6, 1)) {
		rng := rand.New(rand.NewPCG(seed, 9))
		id := desktest.Simulated(t, b)
		for _, setup := range []string{"then", "now"} {
			_, err := b.Sittings.Sit(ctx, nil, id, setup, bench.Conditions{})
			require.NoError(t, err)
		}
		templates, entries := plan.Templates(), catalogue.All()
		runs := 0
		for range 80 {
			j, _, err := s.Job(ctx, id)
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
				_, _ = b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: entries[rng.IntN(len(entries))].Test.ID})
			case 1:
				_, _ = b.Plans.TakeOut(ctx, nil, id, test)
			case 2:
				span := int64(16+rng.IntN(64)) << 20
				_, _ = b.Plans.ChangeTest(ctx, nil, id, test,
					planning.TestChange{SpanBytes: &span,
						Phases: &[]planning.NewPhase{{ID: fmt.Sprint("p", rng.IntN(3)), Name: "x"}}})
			case 3:
				_, _ = b.Plans.UseTemplate(ctx, nil, id, templates[rng.IntN(len(templates))].ID)
			case 4:
				_, _ = b.Sittings.SetAside(ctx, nil, id, run, "x")
			case 5:
				_, _ = b.Sittings.TakeBack(ctx, nil, id, run)
			case 6:
				_, _ = b.Plans.Excuse(ctx, nil, id, test, "then", []string{"", "too ill"}[rng.IntN(2)])
			default:
				if u := j.Test(test); u != nil {
					_, _ = b.Sittings.TypeIn(ctx, nil, id,
						sittings.Typed{Test: test, Sitting: []string{"s1", "s2"}[rng.IntN(2)],
							Value: new(1 + rng.Float64()), Unit: u.Unit})
				}
			}
			v, err := b.Jobs.View(ctx, id)
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

func TestShopTemplates(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	_, err := b.Plans.TakeOut(ctx, nil, id, catalogue.LongWrite)
	require.NoError(t, err)
	list, err := b.Plans.SaveTemplate(ctx, nil, id, " Ours ")
	require.NoError(t, err)
	own := list[len(list)-1]
	assert.Equal(t, "Ours", own.Name)
	assert.True(t, own.Shop)
	v, err := b.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "y"}, OldDrive: bench.Drive{Kind: job.HDD}, Template: own.ID})
	require.NoError(t, err)
	assert.Len(t, v.Job.Tests, 3)
	list, err = b.Plans.DropTemplate(ctx, nil, own.ID)
	require.NoError(t, err)
	assert.False(t, slices.ContainsFunc(list, func(t plan.Template) bool { return t.ID == own.ID }))
	_, err = b.Plans.DropTemplate(ctx, nil, "games")
	desktest.Refusal(t, err, bench.Missing)
	_, err = b.Plans.SaveTemplate(ctx, nil, id, strings.Repeat("x", 600))
	desktest.Refusal(t, err, bench.Invalid)
}
