package compare

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/testscale"
)

// Over generated jobs whose spreads are drawn from the priors, intervals hold the truth
// as often as they say, and no difference is claimed too often (JCGM 101 calls this a
// validation by Monte Carlo). Half of the jobs are timed by hand; in half of them the
// sittings' effects are shared by all lines; sittings are equal or unequal.
func TestIntervalsHoldTheTruth(t *testing.T) {
	jobs := testscale.Of(4000, 40)
	rng := rand.New(rand.NewPCG(9, 26))
	var lines, groups, savings, shares, falseLines share
	var falseLedgers share
	for n := range jobs {
		g := generate(rng, n)
		l := Compare(g.job, "then", "now", DefaultOptions)
		wrong := false
		for i := range l.Lines {
			ln := &l.Lines[i]
			lines.count(*ln.Low <= g.factors[i] && g.factors[i] <= *ln.High)
			if g.factors[i] == 1 {
				falseLines.count(ln.Verdict != TooClose)
				wrong = wrong || ln.HoldsAfterAll
			}
			if ln.DriveShare != nil {
				truth := (1 - 1/g.factors[i]) / (1 - 1/g.factors[len(g.factors)-1])
				shares.count(*ln.DriveShareLow <= clamp(truth) && clamp(truth) <= *ln.DriveShareHigh)
			}
		}
		if g.none {
			falseLedgers.count(wrong)
		}
		groups.count(*l.Groups.Waiting.Low <= g.group && g.group <= *l.Groups.Waiting.High)
		savings.count(l.Savings.Low <= g.saving && g.saving <= l.Savings.High)
	}
	t.Logf("lines %v, groups %v, savings %v, shares %v, no difference called one %v, after all %v", lines, groups,
		savings, shares, falseLines, falseLedgers)
	between := func(low, high float64, s share, what string) {
		t.Helper()
		assert.GreaterOrEqual(t, s.of(), low-testscale.Slack(0.1), what)
		assert.LessOrEqual(t, s.of(), high+testscale.Slack(0.15), what)
	}
	between(0.94, 0.97, lines, "lines")
	between(0.94, 0.995, groups, "groups")
	between(0.94, 0.995, savings, "savings")
	between(0.94, 0.99, shares, "shares")
	between(0, 0.06, falseLines, "no difference called faster or slower")
	between(0, 0.06, falseLedgers, "after all lines are considered")
	assert.Greater(t, shares.n, jobs/4)
	assert.Greater(t, falseLedgers.n, jobs/8)
}

// share counts how often something was so.
type share struct{ so, n int }

func (s *share) count(is bool) {
	s.n++
	if is {
		s.so++
	}
}

func (s share) of() float64 { return float64(s.so) / float64(s.n) }

func (s share) String() string { return fmt.Sprintf("%.1f %% of %d", 100*s.of(), s.n) }

// generated is a job with the truth that it was made from.
type generated struct {
	job           *job.Job
	factors       []float64
	group, saving float64
	none          bool // without any difference
}

func generate(rng *rand.Rand, n int) generated {
	byHand, shared, none := n%2 == 0, n/2%2 == 0, n/4%3 == 0
	counts := map[string][]int{}
	for _, setup := range []string{"then", "now"} {
		for range 1 + rng.IntN(3) {
			c := 3
			if n/8%2 == 0 {
				c = 1 + rng.IntN(4)
			}
			counts[setup] = append(counts[setup], c)
		}
	}
	// Sittings' effects in units of each test's own spread between them.
	effects := func() map[string][]float64 {
		e := map[string][]float64{}
		for setup, c := range counts {
			for range c {
				e[setup] = append(e[setup], rng.NormFloat64())
			}
		}
		return e
	}
	common := effects()
	g := generated{none: none}
	var in []lineIn
	logs := 0.0
	const waits = 4
	for k := range waits + 1 {
		test := timed(fmt.Sprint("x", k), float64(1+rng.IntN(20)))
		method, u := job.Automatic, 0.0
		then := 10 * math.Exp(rng.Float64()*2)
		factor := math.Exp(0.9 * rng.Float64())
		if k == waits {
			test, then, factor = scattered(), 150, 4+4*rng.Float64()
		} else if byHand {
			method, u = job.Stopwatch, 0.28
		}
		if none || k == 1 {
			factor = 1
		}
		usual := side.Usual(&job.Job{}, test.Kind)
		within, between := drawn(rng, usual.Within), drawn(rng, usual.Between)
		own := common
		if !shared {
			own = effects()
		}
		sittings := func(setup string, centre float64) (all [][]float64) {
			for s, c := range counts[setup] {
				var values []float64
				for range c {
					v := centre * math.Exp(between*own[setup][s]+within*rng.NormFloat64())
					values = append(values, v+u*rng.NormFloat64())
				}
				all = append(all, values)
			}
			return all
		}
		now := then / factor
		if test.Better == job.Higher {
			now = then * factor
		}
		in = append(in, lineIn{test: test, then: sittings("then", then), with: sittings("now", now), method: method,
			u: u})
		g.factors = append(g.factors, factor)
		if k < waits {
			logs += math.Log(factor) / waits
			g.saving += test.PerWeek * (then - now)
		}
	}
	g.group = math.Exp(logs)
	g.job = build(in...)
	return g
}

// drawn is a standard deviation drawn from a prior worth six degrees of freedom: a
// scaled inverse χ².
func drawn(rng *rand.Rand, sd float64) float64 {
	chi := 0.0
	for range 6 {
		z := rng.NormFloat64()
		chi += z * z
	}
	return sd * math.Sqrt(6/chi)
}
