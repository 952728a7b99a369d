package side

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"nowthen/core/job"
)

// runsOf are runs of a test with those values, a minute apart, in one sitting.
func runsOf(values ...float64) []*job.Run {
	runs := make([]*job.Run, len(values))
	for i, v := range values {
		runs[i] = &job.Run{ID: fmt.Sprint("r", i), Test: "t", Sitting: "s", Value: v, Method: job.Automatic,
			At: time.Date(2026, 11, 3, 9, i, 0, 0, time.UTC)}
	}
	return runs
}

// learning is a job whose setup has a hybrid drive, with runs of a test.
func learning(better job.Direction, runs []*job.Run) (*job.Index, *job.Test) {
	j := &job.Job{Drives: []job.Drive{{ID: "d", DriveLabel: job.DriveLabel{Kind: job.Hybrid}}},
		Setups:   []job.Setup{{ID: "now", Role: job.Now, Drive: "d"}},
		Sittings: []job.Sitting{{ID: "s", Setup: "now"}}, Tests: []job.Test{{ID: "t", Kind: job.Timed, Unit: "s",
			Better: better}}}
	for _, r := range runs {
		j.Runs = append(j.Runs, *r)
	}
	x := j.Indexed()
	return x, x.Test("t")
}

// The block is the longest run of last values that lie together and don't fall (calculations, section 14). The
// prior spread of a timed test is 4 %: four values may lie 1.5 × 3.63 × 4 % = 21.8 % apart on the ln scale.
func TestTheSettledBlock(t *testing.T) {
	at := func(ln ...float64) (values []float64) {
		for _, x := range ln {
			values = append(values, 50*math.Exp(x))
		}
		return values
	}
	for name, tt := range map[string]struct {
		values []float64
		n      int // of the block, 0 is settling
	}{
		"one run":                      {at(0), 0},
		"three alike":                  {at(0, 0, 0), 0},
		"four alike":                   {at(0, 0, 0, 0), 4},
		"a slow first one":             {at(0.5, 0, 0, 0, 0), 4},
		"three slow ones":              {at(0.9, 0.7, 0.5, 0, 0.01, 0, 0.01), 4},
		"a step in the last run":       {at(0, 0, 0, -0.9), 0},
		"a fall that goes on":          {at(0.3, 0.2, 0.1, 0), 0},
		"four within the range":        {at(0, 0.216, 0, 0.216), 4},
		"four beyond it":               {at(0, 0.219, 0, 0.219), 0},
		"a first half just not above":  {at(0.0195, 0.0195, 0, 0), 4},
		"a first half just above":      {at(0.0205, 0.0205, 0, 0), 0},
		"the middle of five is in no":  {at(0, 0, 0.1, 0, 0), 5},
		"rising is no fall":            {at(0, 0.02, 0.04, 0.06), 4},
		"twelve alike":                 {at(0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0), 12},
		"a late slow one scatters":     {at(0, 0, 0, 0, 0.5), 0},
		"and settles again after four": {at(0, 0, 0, 0, 0.5, 0, 0, 0, 0), 4},
	} {
		t.Run(name, func(t *testing.T) {
			for _, better := range []job.Direction{job.Lower, job.Higher} {
				values := tt.values
				if job.Direction(better) == job.Higher { // the same turned over
					values = nil
					for _, v := range tt.values {
						values = append(values, 2500/v)
					}
				}
				x, test := learning(better, runsOf(values...))
				s := Of(x, test, "now")
				assert.Equal(t, values[0], *s.First)
				assert.Equal(t, values[len(values)-1], *s.Last)
				if tt.n == 0 {
					assert.True(t, s.IsSettling(), better)
					assert.Nil(t, s.Settled)
					assert.Equal(t, len(values), s.N, "all of them")
					continue
				}
				assert.True(t, s.HasSettled(), better)
				assert.Equal(t, tt.n, s.N, better)
				assert.Equal(t, s.Centre, *s.Settled)
				assert.Equal(t, tt.n < len(values), s.delta > 0, "runs were left out before it")
			}
		})
	}
}

// The uncertainty of a stopwatch widens what lies together; drives that don't learn, bounds and notes have no state.
func TestWhatSettlingLooksAt(t *testing.T) {
	x, test := learning(job.Lower, runsOf(50, 65, 50, 65))
	assert.True(t, Of(x, test, "now").IsSettling())
	u := 4.0
	by := runsOf(50, 65, 50, 65)
	for _, r := range by {
		r.Method, r.U = job.Stopwatch, &u
	}
	x, test = learning(job.Lower, by)
	assert.True(t, Of(x, test, "now").HasSettled(), "8 % of uncertainty beside 4 % of spread")
	test.Kind = job.Note
	assert.Nil(t, Of(x, test, "now").State)
	test.Kind = job.Timed
	x.Drives[0].Kind = job.HDD
	assert.Nil(t, Of(x, test, "now").State)
	x.Setups[0].CacheDrive = "d"
	assert.NotNil(t, Of(x, test, "now").State, "a cache drive learns")
	x.Runs[3].Bound = job.BoundAbove
	assert.Nil(t, Of(x, test, "now").State)
}

// First runs that are all slower than those that lie together are named, of drives that don't learn.
func TestSlowFirstRuns(t *testing.T) {
	test := &job.Test{ID: "t", Kind: job.Timed, Unit: "s", Better: job.Lower}
	u := usual[job.Timed]
	for name, tt := range map[string]struct {
		values []float64
		before int
	}{
		"all alike":             {[]float64{50, 50, 50, 50}, 0},
		"the first":             {[]float64{80, 50, 50, 50}, 1},
		"two":                   {[]float64{80, 70, 50, 50, 50}, 2},
		"a fast first one":      {[]float64{30, 50, 50, 50}, 0},
		"one fast, one slow":    {[]float64{30, 80, 50, 50, 50}, 0},
		"only two lie together": {[]float64{80, 65, 50, 50}, 0},
		"three runs":            {[]float64{80, 50, 50}, 0},
		"no logarithm":          {[]float64{80, 50, 0, 50, 50}, 0},
	} {
		assert.Len(t, Before(test, runsOf(tt.values...), u), tt.before, name)
	}
	assert.Empty(t, Before(&job.Test{Kind: job.Note}, runsOf(80, 50, 50, 50), u))
}

// A run that slips after a drive had settled is named; what still changes after ten runs is told from what scatters.
func TestAfterItHadSettled(t *testing.T) {
	test := &job.Test{ID: "t", Kind: job.Timed, Unit: "s", Better: job.Lower}
	u := usual[job.Timed]
	assert.Equal(t, "r4", Slipped(test, runsOf(50, 50, 50, 50, 90), u).ID)
	assert.Nil(t, Slipped(test, runsOf(50, 50, 50, 50, 20), u), "faster is no slip")
	assert.Nil(t, Slipped(test, runsOf(90, 70, 50, 40, 90), u), "it had not settled")
	assert.Nil(t, Slipped(test, runsOf(50, 50, 50, 90), u), "three make no block")
	assert.True(t, StillChanging(test, runsOf(100, 90, 81, 73, 66, 59, 53, 48, 43, 39), u))
	assert.False(t, StillChanging(test, runsOf(50, 90, 50, 90, 50, 50, 90, 50, 90, 50), u), "it scatters")
	assert.False(t, StillChanging(test, runsOf(50), u))
}

// Of drives that don't learn nearly all settle, soon, and their intervals hold (calculations, section 14: 99.5 %,
// 4.6 runs, 95 %); a fall by two with a time constant of 0.7 runs settles as well (99 %).
func TestSettlingOfSimulatedDrives(t *testing.T) {
	const drives = 600
	rng := rand.New(rand.NewPCG(14, 1))
	for name, tt := range map[string]struct {
		fall, constant  float64
		share, meanRuns float64
	}{"no learning": {0, 1, 0.98, 5.2}, "a quick learner": {math.Ln2, 0.7, 0.96, 7.5}} {
		settled, taken := 0, 0
		for range drives {
			// The prior's spread: s0² times ν0 over a chi-squared with ν0 degrees of freedom.
			chi := 0.0
			for range usualWeight {
				z := rng.NormFloat64()
				chi += z * z
			}
			sd := usual[job.Timed].Within * math.Sqrt(usualWeight/chi)
			var values []float64
			for k := range MostLearning {
				values = append(values, 50*math.Exp(tt.fall*math.Exp(-float64(k)/tt.constant)+sd*rng.NormFloat64()))
				if k+1 < leastBlock {
					continue
				}
				x, test := learning(job.Lower, runsOf(values...))
				if Of(x, test, "now").HasSettled() {
					settled, taken = settled+1, taken+k+1
					break
				}
			}
		}
		assert.GreaterOrEqual(t, float64(settled)/drives, tt.share, name)
		assert.LessOrEqual(t, float64(taken)/float64(settled), tt.meanRuns, name)
		t.Logf("%s: %.3f settle after %.2f runs", name, float64(settled)/drives, float64(taken)/float64(settled))
	}
}
