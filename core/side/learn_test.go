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
				j.Runs = append(j.Runs,
					job.Run{ID: fmt.Sprint(t.ID, s, k), Test: t.ID, Sitting: fmt.Sprint("s", s),
						Value: 30 * math.Exp(offset+within*rng.NormFloat64())})
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

// What the calculations say of it, section 13.
func TestHowMuchMustBeKnown(t *testing.T) {
	assert.Equal(t, 20, LeastSides)
	assert.Equal(t, 10, LeastSittings)
	assert.Equal(t, []float64{5, 20}, []float64{leastWeight, mostWeight})
}

func TestWhatTeachesNothing(t *testing.T) {
	sides := func(change func(*job.Run), sittings, runs int) Learnt {
		j := &job.Job{Setups: []job.Setup{{ID: "then", Role: job.Then}},
			Tests: []job.Test{{ID: "t", Kind: job.Timed, Unit: "s"}}}
		for s := range sittings {
			j.Sittings = append(j.Sittings, job.Sitting{ID: fmt.Sprint(s), Setup: "then"})
			for k := range runs {
				r := job.Run{ID: fmt.Sprint(s, k), Test: "t", Sitting: fmt.Sprint(s), Value: 0.5 + float64(k)/10}
				change(&r)
				j.Runs = append(j.Runs, r)
			}
		}
		var l Learning
		l.Add(j.Indexed())
		return l.Learnt()[0]
	}
	same := func(*job.Run) {}
	assert.Equal(t, 1, sides(same, 1, 2).Sides, "two runs under a second")
	assert.Equal(t, 0, sides(same, 1, 2).Sittings)
	assert.Equal(t, 0, sides(same, 1, 1).Sides, "a single run")
	assert.Equal(t, Learnt{Kind: job.Timed, Usual: usual[job.Timed], Sides: 1, Sittings: 1}, sides(same, 2, 1),
		"a run in each of two sittings tells of sittings alone")
	for name, change := range map[string]func(*job.Run){
		"simulated": func(r *job.Run) { r.Simulated = true },
		"zero":      func(r *job.Run) { r.Value = 0 },
		"a bound":   func(r *job.Run) { r.Bound = job.BoundBelow },
	} {
		assert.Zero(t, sides(change, 1, 3).Sides, name)
	}
}

// Sides of one run a sitting are judged with what is usual within a sitting.
func TestSittingsOfOneRunEach(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 8))
	j := &job.Job{Setups: []job.Setup{{ID: "then", Role: job.Then}}}
	for s := range 4 {
		j.Sittings = append(j.Sittings, job.Sitting{ID: fmt.Sprint(s), Setup: "then"})
	}
	for i := range 400 {
		id := fmt.Sprint("t", i)
		j.Tests = append(j.Tests, job.Test{ID: id, Kind: job.Timed, Unit: "s"})
		for s := range 4 {
			j.Runs = append(j.Runs,
				job.Run{ID: fmt.Sprint(i, "-", s), Test: id, Sitting: fmt.Sprint(s),
					Value: 30 * math.Exp(0.08*rng.NormFloat64()+0.04*rng.NormFloat64())})
		}
	}
	var l Learning
	l.Add(j.Indexed())
	k := l.kinds[job.Timed]
	assert.InEpsilon(t, 0.08, math.Sqrt(k.between/k.weight), 0.1, "what is usual within, 0.04, is taken off")
	assert.Empty(t, k.variances)
}

// sided is a job with one test whose runs have these values, by sitting.
func sided(sittings ...[]float64) *job.Index {
	j := &job.Job{Setups: []job.Setup{{ID: "then", Role: job.Then}},
		Tests: []job.Test{{ID: "t", Kind: job.Timed, Unit: "s", Better: job.Lower}}}
	for s, values := range sittings {
		j.Sittings = append(j.Sittings, job.Sitting{ID: fmt.Sprint("s", s), Setup: "then"})
		for i, v := range values {
			j.Runs = append(j.Runs,
				job.Run{ID: fmt.Sprint(s, "-", i), Test: "t", Sitting: fmt.Sprint("s", s), Value: v,
					Method: job.Automatic})
		}
	}
	return j.Indexed()
}

// What is learnt of one side: its own spread within sittings, from two runs of a sitting
// on, and what is between them beyond that; where no sitting has two runs, beyond what is
// usual.
func TestWhatASideTeaches(t *testing.T) {
	var l Learning
	l.Add(sided([]float64{10, 11}))
	k := l.kinds[job.Timed]
	require.Len(t, k.variances, 1, "two runs teach a spread")
	ln := math.Log(1.1)
	assert.InDelta(t, ln*ln/2, k.variances[0], 1e-12)
	assert.Equal(t, []float64{1}, k.freedoms)
	assert.Zero(t, k.weight)

	// Its own spread, also of the very first side.
	var first Learning
	first.Add(sided([]float64{10, 11}, []float64{14, 15.4}))
	f := first.kinds[job.Timed]
	apart := math.Log(1.4)
	assert.InDelta(t, apart*apart/2-ln*ln/2/2, f.between, 1e-12,
		"the means are apart by more than runs of 10 % explain")
	assert.Equal(t, 1.0, f.weight)

	// A run a sitting: the table's, whatever was learnt of another side before.
	l.Add(sided([]float64{10}, []float64{14}))
	assert.InDelta(t, apart*apart/2-usual[job.Timed].Within*usual[job.Timed].Within, k.between, 1e-12)
	assert.Len(t, k.variances, 1, "one run a sitting teaches no spread within")
}
