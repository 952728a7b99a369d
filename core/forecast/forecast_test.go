package forecast

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/testscale"
)

func byJob(values ...float64) map[int]float64 {
	m := map[int]float64{}
	for i, v := range values {
		m[i] = v
	}
	return m
}

func TestNext(t *testing.T) {
	for name, c := range map[string]struct {
		values    []float64
		without   int
		low, high float64
		n         int
		ok        bool
	}{
		"four tell nothing": {[]float64{1, 2, 3, 4}, -1, 0, 0, 4, false},
		// mean 3, s 1.58114, t(4; 90 %) = 1.53321, √1.2 = 1.09545
		"five, as normal":       {[]float64{5, 3, 1, 4, 2}, -1, 3 - 2.65560, 3 + 2.65560, 5, true},
		"six without one":       {[]float64{5, 3, 1, 4, 2, 99}, 5, 3 - 2.65560, 3 + 2.65560, 5, true},
		"nine, by order":        {[]float64{9, 8, 7, 6, 5, 4, 3, 2, 1}, -1, 1, 9, 9, true},
		"fourteen: rank 1.5":    {[]float64{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14}, -1, 1.5, 13.5, 14, true},
		"ten without the least": {[]float64{0, 1, 2, 3, 4, 5, 6, 7, 8, 9}, 0, 1, 9, 9, true},
		"nineteen: rank 2": {[]float64{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19}, -1, 2, 18,
			19, true},
	} {
		t.Run(name, func(t *testing.T) {
			low, high, n, ok := poolOf(byJob(c.values...)).next(c.without)
			assert.Equal(t, c.ok, ok)
			assert.Equal(t, c.n, n)
			assert.InDelta(t, c.low, low, 1e-4)
			assert.InDelta(t, c.high, high, 1e-4)
		})
	}
	_, _, _, ok := (*pool)(nil).next(-1)
	assert.False(t, ok)
}

// shop is a made-up shop of n upgrades from disks to SATA SSDs by the distribution of ln factor given.
func shop(n int, draw func() float64) []Past {
	var jobs []Past
	for i := range n {
		y := draw()
		jobs = append(jobs, Past{Job: fmt.Sprint(i), Old: job.HDD, New: job.SataSSD, Lines: []Line{
			{Test: "cold-start", Group: "starts", LnFactor: y, Wait: true, LnAfter: math.Log(15) - y/10},
			{Test: "launch-first", Group: "programs", LnFactor: y / 2, Wait: true, LnAfter: math.Log(2)}}})
	}
	return jobs
}

func TestTheNarrowestClassThatHasEnough(t *testing.T) {
	line := func(test, group string, y float64) []Line { return []Line{{Test: test, Group: group, LnFactor: y}} }
	var jobs []Past
	for i := range 5 { // disks to SSDs, by restart; hybrids to SSDs, by cold start
		jobs = append(jobs, Past{Job: fmt.Sprint("r", i), Old: job.HDD, New: job.SataSSD,
			Lines: line("restart", "starts", 1+float64(i)/10)},
			Past{Job: fmt.Sprint("h", i), Old: job.Hybrid, New: job.SataSSD,
				Lines: line("start-browser", "starts", 0.2)})
	}
	s := Of(jobs)
	for name, c := range map[string]struct {
		test, group string
		old         job.DriveKind
		new         job.DriveKind
		class       string
		jobs        int
	}{
		"by the test":                   {"restart", "starts", job.HDD, job.SataSSD, ByTest, 5},
		"by the group":                  {"cold-start", "starts", job.HDD, job.SataSSD, ByGroup, 5},
		"by disk or flash":              {"cold-start", "starts", job.Cached, job.SataSSD, ByAny, 10},
		"flash is no disk":              {"cold-start", "starts", job.EMMC, job.SataSSD, "", 0},
		"another new kind":              {"restart", "starts", job.HDD, job.NVMe, "", 0},
		"another group":                 {"export", "programs", job.HDD, job.SataSSD, "", 0},
		"an own test, by its group":     {"", "starts", job.HDD, job.SataSSD, ByGroup, 5},
		"an own test without any group": {"", "", job.HDD, job.SataSSD, "", 0},
	} {
		t.Run(name, func(t *testing.T) {
			r, ok := s.Factor(c.test, c.group, c.old, c.new)
			assert.Equal(t, c.class != "", ok)
			assert.Equal(t, c.class, r.Class)
			assert.Equal(t, c.jobs, r.Jobs)
		})
	}
	assert.Equal(t, []job.DriveKind{job.SataSSD}, s.Kinds())
}

// The list of past jobs equals one that is worked out again for each job from all others, the slow way.
func TestPastEqualsTheSlowWay(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	kinds := []job.DriveKind{job.HDD, job.Hybrid, job.EMMC, job.SataSSD}
	tests := []Line{{Test: "cold-start", Group: "starts"}, {Test: "restart", Group: "starts"},
		{Test: "long-read", Group: "drive"}, {Test: "", Group: "games"}}
	for range testscale.Of(600, 20) {
		var jobs []Past
		for i := range 3 + rng.IntN(40) {
			p := Past{Job: fmt.Sprint(i), Old: job.DriveKind(kinds[rng.IntN(4)]),
				New: []job.DriveKind{job.NVMe, job.SataSSD}[rng.IntN(2)]}
			for range 1 + rng.IntN(5) {
				l := tests[rng.IntN(4)]
				l.LnFactor = rng.NormFloat64()
				p.Lines = append(p.Lines, l)
			}
			jobs = append(jobs, p)
		}
		want := slow(jobs)
		got := Of(jobs).Past()
		require.Len(t, got, len(want))
		for i := range got {
			assert.Equal(t, [3]string{want[i].Job, want[i].Test, want[i].Class},
				[3]string{got[i].Job, got[i].Test, got[i].Class})
			assert.InDeltaSlice(t, []float64{want[i].Low, want[i].High, want[i].Measured},
				[]float64{got[i].Low, got[i].High, got[i].Measured}, 1e-9)
		}
	}
}

func slow(jobs []Past) []Left {
	list := []Left{}
	for i, p := range jobs {
		others := Of(slices.Delete(slices.Clone(jobs), i, i+1))
		var seen []string
		for _, l := range p.Lines {
			if l.Test != "" && slices.Contains(seen, l.Test) {
				continue
			}
			seen = append(seen, l.Test)
			if r, ok := others.Factor(l.Test, l.Group, p.Old, p.New); ok {
				list = append(list, Left{Job: p.Job, Test: l.Test, Class: r.Class, Low: math.Exp(r.Low),
					High: math.Exp(r.High), Measured: math.Exp(l.LnFactor)})
			}
		}
	}
	return list
}

// 80 % ranges hold 75 to 86 % of next jobs, averaged over shops, with heavy tails and mixtures too.
func TestRangesHold(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	for name, draw := range map[string]func() float64{
		"normal":      func() float64 { return 1.5 + 0.3*rng.NormFloat64() },
		"heavy tails": func() float64 { return 1.5 + 0.3*rng.NormFloat64()/math.Sqrt((sq(rng)+sq(rng)+sq(rng))/3) },
		"a mixture": func() float64 {
			if rng.IntN(3) == 0 {
				return 0.4 + 0.1*rng.NormFloat64()
			}
			return 1.8 + 0.2*rng.NormFloat64()
		},
		"a long tail": func() float64 { return 1 + rng.ExpFloat64()/2 },
	} {
		for _, n := range []int{20, 100, 1000} {
			t.Run(fmt.Sprint(name, ", ", n, " jobs"), func(t *testing.T) {
				const next = 2000
				held := 0
				for range next / 20 {
					s := Of(shop(n, draw))
					r, ok := s.Factor("cold-start", "starts", job.HDD, job.SataSSD)
					require.True(t, ok)
					for range 20 {
						if y := draw(); r.Low <= y && y <= r.High {
							held++
						}
					}
				}
				assert.InDelta(t, 0.805, float64(held)/next, 0.055, "80 %% ranges hold 75 to 86 %%")
			})
		}
	}
}

func sq(rng *rand.Rand) float64 { v := rng.NormFloat64(); return v * v }

func TestRecord(t *testing.T) {
	left := func(n, held int) (list []Left) {
		for i := range n {
			l := Left{Job: fmt.Sprint(i), Test: "t", Class: ByTest, Low: 1, High: 2, Measured: 3, old: string(job.HDD),
				new: job.NVMe}
			if i < held {
				l.Measured = 1.5
			}
			list = append(list, l)
		}
		return list
	}
	r := RecordOf(left(19, 19))
	assert.Nil(t, r.Share, "below 20 it is not known yet")
	assert.Equal(t, 19, r.Held)
	r = RecordOf(left(40, 30))
	require.NotNil(t, r.Share)
	assert.InDelta(t, 0.75, *r.Share, 1e-12)
	assert.Equal(t, []ClassRecord{{ByTest, "t", string(job.HDD), job.NVMe, 40, 30}}, r.Classes)
}

// visit is a made-up job of a disk: starts of 90 s, 7 a week, launches of 0.4 s; nothing else was measured.
func visit(change func(j *job.Job)) *job.Job {
	j := &job.Job{Computers: []job.Computer{{ID: "c1"}},
		Drives:   []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Kind: job.HDD}}},
		Setups:   []job.Setup{{ID: "then", Role: job.Then, Computer: "c1", Drive: "d1"}},
		Sittings: []job.Sitting{{ID: "s1", Setup: "then"}},
		Tests: []job.Test{{ID: "start", Kind: job.Timed, What: "cold-start", Name: "Start", Unit: "s",
			Better: job.Lower, PerWeek: 7, Occasion: "start"},
			{ID: "launch", Kind: job.Timed, What: "launch-first", Name: "Launch", Unit: "s", Better: job.Lower,
				PerWeek: 7},
			{ID: "wake", Kind: job.Timed, What: "wake", Name: "Wake", Unit: "s", Better: job.Lower}}}
	for i, v := range []float64{90, 89, 91} {
		j.Runs = append(j.Runs, job.Run{ID: fmt.Sprint("a", i), Test: "start", Sitting: "s1", Value: v})
	}
	j.Runs = append(j.Runs, job.Run{ID: "b", Test: "launch", Sitting: "s1", Value: 0.4})
	if change != nil {
		change(j)
	}
	return j
}

func TestFor(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 3))
	s := Of(shop(30, func() float64 { return math.Log(6) + 0.1*rng.NormFloat64() }))
	price := &job.Price{Amount: "60.00", Currency: "EUR"}
	drives := []Drive{{Name: "Kestrel", Kind: job.SataSSD, Price: price, CapacityBytes: 5e11},
		{Name: string(job.NVMe), Kind: job.NVMe}}
	f, ok := s.For(visit(func(j *job.Job) {
		j.Head.Bill = &job.Bill{HourWorth: &job.Price{Amount: "12",
			Currency: "EUR"}}
	}), drives, compare.DefaultOptions)
	require.True(t, ok)
	require.Len(t, f.Candidates, 2)
	c := f.Candidates[0]
	require.Len(t, c.Waits, 2)
	w := c.Waits[0]
	assert.Equal(t, "start", w.Test)
	assert.InDelta(t, 90, *w.Then, 1e-9)
	assert.Less(t, w.NowLow, w.NowMiddle)
	assert.Less(t, w.NowMiddle, w.NowHigh)
	assert.InDelta(t, 15, w.NowMiddle, 1)
	assert.InDelta(t, math.Sqrt(w.NowLow*w.NowHigh), w.NowMiddle, 1e-9, "the middle on the ln scale")
	assert.Equal(t, 30, w.Jobs)
	assert.Equal(t, []string{"launch"}, c.HardlyFelt, "0.4 s is no wait")
	require.NotNil(t, c.HoursPerYear)
	assert.InDelta(t, 7*(90-w.NowHigh)*52/3600+7*(0.4-c.Waits[1].NowHigh)*52/3600, c.HoursPerYear.Low, 1e-9)
	assert.InDelta(t, 120, *c.PricePerTB, 1e-9)
	require.NotNil(t, c.PaybackWeeks)
	assert.InDelta(t, 60/(12*c.HoursPerYear.Low/52), c.PaybackWeeks.High, 1e-9)
	assert.Equal(t, "wake", f.Refused[0].Test)
	assert.Empty(t, f.Candidates[1].Waits, "nobody had such a drive fitted yet")
	assert.Nil(t, f.Candidates[1].HoursPerYear)
	assert.Empty(t, f.OtherCause)
	assert.Equal(t, 60, f.Record.Forecasts)
	require.NotNil(t, f.Record.Share)

	before, _ := s.For(visit(func(j *job.Job) { j.Runs = nil }), drives[:1], compare.DefaultOptions)
	require.Len(t, before.Candidates[0].Waits, 2, "before Then the shop's own waits after say it")
	assert.Nil(t, before.Candidates[0].Waits[0].Then)
	assert.Nil(t, before.Candidates[0].HoursPerYear)

	busy, _ := s.For(visit(func(j *job.Job) {
		j.Sittings[0].Conditions.CPUPct = new(float64)
		*j.Sittings[0].Conditions.CPUPct = 95
	}), drives[:1], compare.DefaultOptions)
	assert.Equal(t, []string{ProcessorBusy}, busy.OtherCause)
	for pct, want := range map[float64][]string{89: {}, 90: {MemoryFull}} {
		full, _ := s.For(visit(func(j *job.Job) { j.Sittings[0].Conditions.MemoryPct = &pct }), drives[:1],
			compare.DefaultOptions)
		assert.Equal(t, want, full.OtherCause, "%g %% of the memory", pct)
	}

	_, ok = s.For(&job.Job{}, drives, compare.DefaultOptions)
	assert.False(t, ok, "no old drive")
	finished, _ := s.For(visit(func(j *job.Job) { j.Head.Number = "7" }), drives[:1], compare.DefaultOptions)
	assert.Equal(t, 29, finished.Candidates[0].Waits[0].Jobs, "a job is not foretold from itself")
	empty, _ := Of(nil).For(visit(nil), drives, compare.DefaultOptions)
	assert.Empty(t, empty.Candidates[0].Waits)
	assert.Len(t, empty.Refused, 3)
	assert.Nil(t, empty.Record.Share)
}

func TestFrom(t *testing.T) {
	j := visit(func(j *job.Job) {
		j.Drives = append(j.Drives, job.Drive{ID: "d2", DriveLabel: job.DriveLabel{Kind: job.SataSSD}})
		j.Setups = append(j.Setups, job.Setup{ID: "now", Role: job.Now, Computer: "c1", Drive: "d2", Replaces: "d1"})
		j.Sittings = append(j.Sittings, job.Sitting{ID: "s2", Setup: "now"})
		for i, v := range []float64{15, 15.1, 14.9} {
			j.Runs = append(j.Runs, job.Run{ID: fmt.Sprint("n", i), Test: "start", Sitting: "s2", Value: v})
		}
		j.Runs = append(j.Runs, job.Run{ID: "nb", Test: "launch", Sitting: "s2", Value: 0.2})
	})
	p, ok := From(j, compare.Compare(j, "then", "now", compare.DefaultOptions))
	require.True(t, ok)
	assert.Equal(t, [2]job.DriveKind{job.HDD, job.SataSSD}, [2]job.DriveKind{p.Old, p.New})
	require.Len(t, p.Lines, 1, "what was measured once tells nothing")
	assert.InDelta(t, math.Log(6), p.Lines[0].LnFactor, 1e-9)
	assert.InDelta(t, math.Log(15), p.Lines[0].LnAfter, 1e-9)
	helped := func(change func(j *job.Job)) bool {
		c := j.Clone()
		change(c)
		_, ok := From(c, compare.Compare(c, "then", "now", compare.DefaultOptions))
		return !ok
	}
	assert.True(t, helped(func(j *job.Job) {
		j.Sittings[0].Conditions.Power, j.Sittings[1].Conditions.Power = job.Battery, job.Mains
	}), "something else helped")
	assert.True(t, helped(func(j *job.Job) { j.Head.Kind = job.KindComparison }), "no upgrade")
	assert.True(t, helped(func(j *job.Job) { j.Drives[1].Kind = "" }), "the new kind is not known")
}

// What is known of a class: its jobs, the ranges from five on, and which job lies far from the others.
func TestKnown(t *testing.T) {
	assert.Empty(t, Of(nil).Known())
	jobs := shop(4, func() float64 { return math.Log(4) })
	few := Of(jobs).Known()
	require.NotEmpty(t, few)
	assert.Len(t, few[0].Jobs, 4)
	assert.Nil(t, few[0].FactorLow, "four jobs give no range")
	i := 0
	factors := []float64{4, 4.2, 3.9, 4.1, 4.05, 3.95, 4.15, 40}
	many := Of(shop(len(factors), func() float64 { i++; return math.Log(factors[(i-1)%len(factors)]) })).Known()
	k := many[0]
	require.Len(t, k.Jobs, len(factors))
	require.NotNil(t, k.FactorLow)
	assert.Less(t, *k.FactorLow, 4.0)
	var far []float64
	for _, j := range k.Jobs {
		if j.Outlier {
			far = append(far, math.Round(j.Factor))
		}
	}
	assert.Equal(t, []float64{40}, far)
}

func BenchmarkForecast(b *testing.B) {
	rng := rand.New(rand.NewPCG(5, 5))
	s := Of(shop(10_000, func() float64 { return 1.5 + 0.3*rng.NormFloat64() }))
	s.Past()
	j := visit(nil)
	for b.Loop() {
		s.For(j, []Drive{{Name: string(job.SataSSD), Kind: job.SataSSD}}, compare.DefaultOptions)
	}
}
