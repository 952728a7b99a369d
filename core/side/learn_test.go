package side

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

func past(rng *rand.Rand, n, sittings int, within, between float64) *job.Index {
	j := &job.Job{Setups: []job.Setup{{ID: "then", Role: job.Then}}}
	for i := range n {
		j.Tests = append(j.Tests, job.Test{ID: fmt.Sprint("t", i), Kind: job.Timed, Unit: "s", Better: job.Lower})
	}
	for s := range sittings {
		j.Sittings = append(j.Sittings, job.Sitting{ID: fmt.Sprint("s", s), Setup: "then"})
		for _, t := range j.Tests {
			offset := between * rng.NormFloat64()
			for k := range 3 {
				j.Runs = append(j.Runs, job.Run{ID: fmt.Sprint(t.ID, s, k), Test: t.ID, Sitting: fmt.Sprint("s", s), Value: 30 * math.Exp(offset+within*rng.NormFloat64())})
			}
		}
	}
	return j.Indexed()
}

func TestWhatIsUsualIsLearntFromEnoughSides(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 1))
	var l Learning
	assert.Equal(t, Learnt{Kind: job.Timed, Usual: usual[job.Timed]}, l.Learnt()[0], "the table")
	l.Add(past(rng, LeastSides-1, 1, 0.1, 0))
	assert.False(t, l.Learnt()[0].Own, "one too few")
	l.Add(past(rng, 1, 1, 0.1, 0))
	got := l.Learnt()[0]
	assert.True(t, got.Own)
	assert.False(t, got.OwnBetween)
	assert.Equal(t, 0.02, got.Usual.Between)
	assert.Equal(t, LeastSides, got.Sides)
	assert.InEpsilon(t, 0.1, got.Usual.Within, 0.3)
	assert.True(t, got.Usual.Weight >= 5 && got.Usual.Weight <= 20)

	l.Add(past(rng, 400, 3, 0.1, 0.08))
	got = l.Learnt()[0]
	require.True(t, got.OwnBetween)
	assert.InEpsilon(t, 0.08, got.Usual.Between, 0.1)
	assert.InEpsilon(t, 0.1, got.Usual.Within, 0.05)
	assert.Equal(t, 400, got.Sittings)
}

func TestSimulatedRunsTeachNothing(t *testing.T) {
	x := past(rand.New(rand.NewPCG(1, 1)), 40, 1, 0.1, 0)
	for i := range x.Runs {
		x.Runs[i].Simulated = true
	}
	var l Learning
	l.Add(x)
	assert.Zero(t, l.Learnt()[0].Sides)
}
