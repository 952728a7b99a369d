package planning_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/planning"
	"nowthen/core/catalogue"
	"nowthen/core/job"
)

// ids are those of a job's tests that are in the plan, in order.
func ids(j *job.Job) []string {
	var list []string
	for _, t := range j.Tests {
		if !t.Retired {
			list = append(list, t.ID)
		}
	}
	return list
}

func TestATemplateCanBeTakenBack(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	own, err := b.Plans.AddTest(ctx, nil, id, planning.NewTest{Kind: job.Timed, Name: "Opening the till"})
	require.NoError(t, err)
	before := own.Job
	v, err := b.Plans.UseTemplate(ctx, nil, id, "games")
	require.NoError(t, err)
	assert.NotContains(t, ids(v.Job), "t-own-1")
	v, err = b.Plans.UndoTemplate(ctx, nil, id)
	require.NoError(t, err)
	assert.Equal(t, before.Tests, v.Job.Tests, "what was added by hand is back")
	assert.Equal(t, before.Plan, v.Job.Plan)
	_, err = b.Plans.UndoTemplate(ctx, nil, id)
	desktest.Refusal(t, err, bench.Conflict)

	_, err = b.Plans.UseTemplate(ctx, nil, id, "office")
	require.NoError(t, err)
	_, err = b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-wake"})
	require.NoError(t, err)
	_, err = b.Plans.UndoTemplate(ctx, nil, id)
	r := desktest.Refusal(t, err, bench.Conflict)
	assert.Equal(t, "The plan is unchanged.", r.Kept)
}

func TestATestStandsInThePlanSeveralTimes(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	for _, content := range []string{"Ledgerwright", " Colour Loom "} {
		_, err := b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-launch", Content: content})
		require.NoError(t, err)
	}
	_, err := b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-launch", Content: "Colour Loom"})
	desktest.Refusal(t, err, bench.Conflict)
	v, err := b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-launch"})
	desktest.Refusal(t, err, bench.Conflict)
	assert.Nil(t, v)
	v, err = b.Jobs.View(ctx, id)
	require.NoError(t, err)
	one, two := v.Job.Test("t-launch"), v.Job.Test("t-launch-2")
	require.NotNil(t, one)
	require.NotNil(t, two)
	assert.Equal(t, "Main program, first time since the start: Colour Loom", two.Name)
	assert.Equal(t, one.Occasion, two.Occasion, "both describe the same wait")
}

func TestTheOrderAndTheHeadlineOfAPlan(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	_, err := b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-wake"})
	require.NoError(t, err)
	v, err := b.Jobs.View(ctx, id)
	require.NoError(t, err)
	order := ids(v.Job)
	order = append([]string{"t-wake"}, order[:len(order)-1]...)
	headline := "t-wake"
	changed, err := b.Plans.Save(ctx, nil, id, planning.PlanChange{Order: &order, Headline: &headline})
	require.NoError(t, err)
	assert.Equal(t, order, ids(changed.View.Job))
	assert.Equal(t, "t-wake", changed.View.Job.Plan.Headline)
	for name, wrong := range map[string][]string{"one left out": order[1:],
		"one twice": append([]string{order[0]}, order...), "an unknown one": append([]string{"nap"}, order...)} {
		_, err := b.Plans.Save(ctx, nil, id, planning.PlanChange{Order: &wrong})
		assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Fields, "order", name)
	}
	for _, wrong := range []string{"nap", catalogue.LongRead} {
		_, err := b.Plans.Save(ctx, nil, id, planning.PlanChange{Headline: &wrong})
		assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Fields, "headline")
	}
}

func TestTheShopSetsHowManyPagesTheMorningHas(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	shop, err := b.Reports.Shop(ctx)
	require.NoError(t, err)
	assert.Equal(t, bench.NewShop, shop)
	shop.MorningPages = 7
	_, err = b.Reports.SetShop(ctx, nil, shop)
	require.NoError(t, err)
	id := desktest.Simulated(t, b)
	v, err := b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-browser"})
	require.NoError(t, err)
	assert.Equal(t, 7, v.Job.Test("t-browser").Pages)
	v, err = b.Plans.UseTemplate(ctx, nil, id, "laptop")
	require.NoError(t, err)
	assert.Equal(t, 7, v.Job.Test("t-browser").Pages)
	shop.MorningPages = 0
	_, err = b.Reports.SetShop(ctx, nil, shop)
	assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Fields, "morning_pages")
}
