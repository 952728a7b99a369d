package compare

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/side"
)

// lineIn is a line to be made: values of each side, by sitting.
type lineIn struct {
	test       job.Test
	then, with [][]float64
	method     job.Method
	u          float64
}

func timed(id string, perWeek float64) job.Test {
	return job.Test{ID: id, Kind: job.Timed, Name: id, Unit: "s", Better: job.Lower, PerWeek: perWeek}
}

func scattered() job.Test {
	w := drivetest.ScatteredRead(1 << 30)
	return job.Test{ID: "ref", Kind: job.OnDrive, What: job.ScatteredRead, Name: "ref", Unit: "IOPS",
		Better: job.Higher, Params: &w}
}

// one is a single sitting.
func one(values ...float64) [][]float64 { return [][]float64{values} }

func build(lines ...lineIn) *job.Job {
	j := &job.Job{
		Computers: []job.Computer{{ID: "c"}},
		Drives: []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Kind: job.SataSSD}},
			{ID: "d2", DriveLabel: job.DriveLabel{Kind: job.SataSSD}}},
		Setups: []job.Setup{{ID: "then", Role: job.Then, Computer: "c", Drive: "d1"},
			{ID: "now", Role: job.Now, Computer: "c", Drive: "d2", Replaces: "d1"}},
	}
	at := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	have := map[string]bool{}
	for _, l := range lines {
		j.Tests = append(j.Tests, l.test)
		if l.method == "" {
			l.method = job.Automatic
		}
		for setup, sittings := range map[string][][]float64{"then": l.then, "now": l.with} {
			for k, values := range sittings {
				id := fmt.Sprint(setup, k)
				if !have[id] {
					have[id] = true
					j.Sittings = append(j.Sittings, job.Sitting{ID: id, Setup: setup})
				}
				for i, v := range values {
					u := l.u
					j.Runs = append(j.Runs, job.Run{ID: fmt.Sprint(l.test.ID, id, i), Test: l.test.ID, Sitting: id,
						Value: v, Method: l.method, U: &u, At: at.Add(time.Duration(k)*time.Hour +
							time.Duration(i)*time.Minute)})
				}
			}
		}
	}
	return j
}

func compared(lines ...lineIn) *Ledger {
	return Compare(build(lines...), "then", "now", DefaultOptions)
}

// The worked examples were computed by testdata/worked.py with mpmath, at 30 digits,
// from the calculations alone: the median's efficiency by integration over the order
// statistics, Student's distribution by the incomplete beta function.
func TestWorkedExamples(t *testing.T) {
	data, err := os.ReadFile("testdata/worked.json")
	require.NoError(t, err)
	type wantSide struct {
		N, Sittings                         int
		Centre, Within, Between, Instrument float64
	}
	var cases []struct {
		Spread map[job.Kind]job.Usual
		Tests  []struct {
			ID, Unit  string
			Better    job.Direction
			Occasion  string
			Method    job.Method
			Kind      job.Kind
			PerWeek   float64 `json:"per_week"`
			U         float64
			Then, Now [][]float64
			Want      struct {
				Verdict                   Verdict
				Holds, Equal              bool
				Factor, Low, High, P, DoF float64
				Then, With                wantSide
				Share                     []float64
				Further                   *int
				On                        *string
			}
		}
		Drive, Waiting, Savings []float64
		Same                    []string
	}
	require.NoError(t, json.Unmarshal(data, &cases))
	near := func(t *testing.T, want, got float64, what string) {
		t.Helper()
		assert.InEpsilon(t, want, got, 1e-9, what)
	}
	for i, c := range cases {
		t.Run(fmt.Sprint("job ", i), func(t *testing.T) {
			var lines []lineIn
			for _, x := range c.Tests {
				test := job.Test{ID: x.ID, Kind: x.Kind, Name: x.ID, Unit: x.Unit, Better: x.Better, PerWeek: x.PerWeek,
					Occasion: x.Occasion}
				if x.ID == "scattered" {
					test.What = job.ScatteredRead
				}
				lines = append(lines, lineIn{test: test, then: x.Then, with: x.Now, method: x.Method, u: x.U})
			}
			j := build(lines...)
			j.Usual = c.Spread
			l := Compare(j, "then", "now", DefaultOptions)
			for k, x := range c.Tests {
				ln, w := l.Lines[k], x.Want
				assert.Equal(t, w.Verdict, ln.Verdict, x.ID)
				assert.Equal(t, w.Holds, ln.HoldsAfterAll, x.ID)
				assert.Equal(t, w.Equal, ln.Equal, x.ID)
				near(t, w.Factor, *ln.Factor, x.ID)
				near(t, w.Low, *ln.Low, x.ID)
				near(t, w.High, *ln.High, x.ID)
				near(t, w.P, *ln.P, x.ID)
				near(t, w.DoF, *ln.Freedom, x.ID)
				assert.Equal(t, w.Further, ln.FurtherRuns, x.ID)
				assert.Equal(t, w.On, ln.FurtherRunsOn, x.ID)
				assert.Equal(t, wantSide{ln.Then.N, ln.Then.Sittings, 0, 0, 0, 0},
					wantSide{w.Then.N, w.Then.Sittings, 0, 0, 0, 0})
				near(t, w.Then.Centre, ln.Then.Centre, x.ID)
				near(t, w.Then.Within, ln.Then.Within, x.ID)
				near(t, w.With.Between, ln.With.Between, x.ID)
				near(t, w.With.Instrument, ln.With.Instrument, x.ID)
				if w.Share == nil {
					assert.Nil(t, ln.DriveShare, x.ID)
					continue
				}
				for n, got := range []*float64{ln.DriveShare, ln.DriveShareLow, ln.DriveShareHigh, ln.Floor} {
					require.NotNil(t, got, x.ID)
					assert.InDelta(t, w.Share[n], *got, 1e-9, x.ID)
				}
			}
			for want, g := range map[*[]float64]Group{&c.Drive: l.Groups.Drive, &c.Waiting: l.Groups.Waiting} {
				if *want == nil {
					assert.Nil(t, g.Factor)
					continue
				}
				near(t, (*want)[0], *g.Factor, "group")
				near(t, (*want)[1], *g.Low, "group")
				near(t, (*want)[2], *g.High, "group")
				assert.EqualValues(t, (*want)[3], g.Lines)
			}
			near(t, c.Savings[0], l.Savings.SecondsPerWeek, "savings")
			near(t, c.Savings[1], l.Savings.Low, "savings")
			near(t, c.Savings[2], l.Savings.High, "savings")
			assert.ElementsMatch(t, c.Same, l.Savings.SameOccasion)
		})
	}
}

func TestVerdicts(t *testing.T) {
	rate := job.Test{ID: "x", Kind: job.OnDrive, Name: "x", Unit: "MB/s", Better: job.Higher}
	noise := job.Test{ID: "x", Kind: job.Note, Name: "x", Unit: "dB(A)", Better: job.Lower}
	tests := []struct {
		name                    string
		test                    job.Test
		then, with              [][]float64
		verdict                 Verdict
		felt, indicative, equal bool
	}{
		{"a side without runs", timed("x", 0), one(9), nil, NotMeasured, false, false, false},
		{"clearly faster", timed("x", 0), one(10, 10.1, 9.9), one(5, 5.1, 4.9), Faster, true, false, false},
		{"clearly slower", timed("x", 0), one(5, 5.1, 4.9), one(10, 10.1, 9.9), Slower, true, false, false},
		// 11 s but 18 %: not felt
		{"61 against 50, once each", timed("x", 0), one(61), one(50), Faster, false, true, false},
		{"39 against 36, once each", timed("x", 0), one(39), one(36), TooClose, false, true, false},
		{"within the spread", timed("x", 0), one(10, 12, 11), one(10.5, 11.5, 9.5), TooClose, false, false, false},
		{"practically the same", rate, one(500, 501, 499), one(500, 502, 498), TooClose, false, false, true},
		{"too little to be felt", timed("x", 0), one(1, 1.001, 0.999), one(0.6, 0.601, 0.599), Faster, false, false,
			false},
		{"a rate", rate, one(100, 101, 99), one(500, 501, 499), Faster, false, false, false},
		{"a slower rate", rate, one(500, 501, 499), one(100, 101, 99), Slower, false, false, false},
		{"quieter", noise, one(44), one(22), Faster, false, true, false},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			ln := compared(lineIn{test: tt.test, then: tt.then, with: tt.with}).Lines[0]
			assert.Equal(t, tt.verdict, ln.Verdict)
			assert.Equal(t, tt.felt, ln.Felt)
			assert.Equal(t, tt.indicative, ln.Indicative)
			assert.Equal(t, tt.equal, ln.Equal)
		})
	}
}

func TestReadingsWithoutAMeaningfulZeroHaveNoFactor(t *testing.T) {
	for _, unit := range []string{"°C", "dB(A)"} {
		ln := compared(lineIn{test: job.Test{ID: "n", Kind: job.Note, Name: "n", Unit: unit, Better: job.Lower},
			then: one(60, 61), with: one(40, 41)}).Lines[0]
		assert.Nil(t, ln.Factor, unit)
		assert.Nil(t, ln.P, unit)
		assert.NotNil(t, ln.Then)
	}
	watts := compared(lineIn{test: job.Test{ID: "n", Kind: job.Note, Name: "n", Unit: "W", Better: job.Lower},
		then: one(60, 61), with: one(40, 41)})
	assert.NotNil(t, watts.Lines[0].P)
	assert.False(t, watts.Lines[0].HoldsAfterAll, "a note has no place in it")
	assert.Nil(t, watts.Lines[0].FurtherRuns)
	below := compared(lineIn{test: job.Test{ID: "n", Kind: job.Note, Name: "n", Unit: "W", Better: job.Lower},
		then: one(-2), with: one(4)}).Lines[0]
	assert.Equal(t, TooClose, below.Verdict)
	assert.Nil(t, below.Factor)
}

func TestABoundHasNoFactor(t *testing.T) {
	below, above := job.BoundBelow, job.BoundAbove
	for name, c := range map[string]struct {
		kind       job.Kind
		better     job.Direction
		then, with []float64
		bound      map[float64]job.Bound // of these values
		want       Verdict
	}{
		"a wait that never ended": {job.Timed, job.Lower, []float64{600}, []float64{31, 32},
			map[float64]job.Bound{600: above}, Faster},
		"one that ended before": {job.Timed, job.Lower, []float64{31, 32}, []float64{600},
			map[float64]job.Bound{600: above}, Slower},
		"one among others": {job.Timed, job.Lower, []float64{600, 700}, []float64{31, 32},
			map[float64]job.Bound{600: above}, Faster},
		"the other side may be as long": {job.Timed, job.Lower, []float64{600}, []float64{31, 632},
			map[float64]job.Bound{600: above}, NotComparable},
		"the other side is as long": {job.Timed, job.Lower, []float64{600}, []float64{601, 500},
			map[float64]job.Bound{600: above}, NotComparable},
		"two that never ended": {job.Timed, job.Lower, []float64{600}, []float64{300},
			map[float64]job.Bound{600: above, 300: above}, NotComparable},
		"under the room's own noise": {job.Note, job.Lower, []float64{40}, []float64{30},
			map[float64]job.Bound{30: below}, Faster},
		"a bound that says nothing of it": {job.Note, job.Lower, []float64{20}, []float64{30},
			map[float64]job.Bound{30: below}, NotComparable},
		"a rate of at least": {job.OnDrive, job.Higher, []float64{100}, []float64{500},
			map[float64]job.Bound{500: above}, Faster},
		"a rate of at most": {job.OnDrive, job.Higher, []float64{100}, []float64{50},
			map[float64]job.Bound{50: below}, Slower},
	} {
		t.Run(name, func(t *testing.T) {
			test := job.Test{ID: "n", Kind: c.kind, Name: "n", Unit: "s", Better: c.better, PerWeek: 7,
				Occasion: "start"}
			j := build(lineIn{test: test, then: one(c.then...), with: one(c.with...), method: job.Typed})
			for i := range j.Runs {
				j.Runs[i].Bound = c.bound[j.Runs[i].Value]
			}
			l := Compare(j, "then", "now", DefaultOptions)
			ln := l.Lines[0]
			assert.Equal(t, c.want, ln.Verdict)
			assert.Nil(t, ln.Factor)
			assert.Nil(t, ln.High)
			assert.Nil(t, ln.P)
			assert.Nil(t, ln.Saves)
			assert.Nil(t, ln.FurtherRuns)
			assert.False(t, ln.HoldsAfterAll || ln.Equal)
			assert.Equal(t, c.kind == job.Timed && c.want != NotComparable, ln.Felt, "it is at least as far apart")
			assert.Zero(t, l.Groups.Waiting.Lines+l.Groups.Drive.Lines)
			assert.Nil(t, l.Savings)
			assert.Nil(t, l.Headline)
			assert.Equal(t, len(c.with), ln.With.N, "the sides stand")
		})
	}
}

// Where the wait went: the phases of the run in the middle, so that they add up to the centre.
func TestPhases(t *testing.T) {
	no := false
	test := timed("a", 1)
	test.Phases = []job.Phase{{ID: "in", Name: "to the sign-in"}, {ID: "pass", Name: "password", Counts: &no},
		{ID: "desk", Name: "to the desktop"}}
	split := func(change func(j *job.Job), then, with []float64) Line {
		j := build(lineIn{test: test, then: one(then...), with: one(with...)})
		for i := range j.Runs {
			r := &j.Runs[i]
			r.Phases = map[string]float64{"in": r.Value / 4, "pass": 8, "desk": r.Value * 3 / 4}
		}
		change(j)
		return Compare(j, "then", "now", DefaultOptions).Lines[0]
	}
	ln := split(func(*job.Job) {}, []float64{80, 120, 84}, []float64{20, 24})
	require.NotNil(t, ln.Phases)
	assert.Equal(t, []Phase{{"in", 21, 5.5, 15.5, true}, {"pass", 8, 8, 0, false}, {"desk", 63, 16.5, 46.5, true}},
		*ln.Phases)
	assert.Equal(t, ln.Then.Centre, 21.0+63)
	assert.Equal(t, ln.With.Centre, 5.5+16.5)
	for name, change := range map[string]func(j *job.Job){
		"one side alone": func(j *job.Job) { j.Runs[0].Phases = nil },
		"split otherwise": func(j *job.Job) {
			j.Runs[0].Phases = map[string]float64{"in": 1,
				"desk": j.Runs[0].Value - 1}
		},
		"a bound": func(j *job.Job) { j.Runs[0].Bound = job.BoundAbove },
	} {
		assert.Nil(t, split(change, []float64{80}, []float64{20}).Phases, name)
	}
	learned := split(func(j *job.Job) { j.Drives[1].Kind = job.Hybrid }, []float64{80},
		[]float64{60, 30, 20, 21, 20.5, 20.2})
	require.NotNil(t, learned.With.Settled)
	assert.Equal(t, *learned.With.Settled, (*learned.Phases)[0].With*4, "of the last three once it has settled")
}

func TestBlockingFindingMakesALineNotComparable(t *testing.T) {
	j := build(
		lineIn{test: timed("start", 7), then: one(90, 91, 92), with: one(30, 31, 32)},
		lineIn{test: scattered(), then: one(100, 101, 99), with: one(7000, 7001, 7002)},
	)
	for i := range j.Sittings {
		j.Sittings[i].Conditions.Power = map[string]job.Power{"then": "battery", "now": "mains"}[j.Sittings[i].Setup]
	}
	l := Compare(j, "then", "now", DefaultOptions)
	assert.Equal(t, Faster, l.Line("start").Verdict, "a qualifying finding leaves the verdict")
	assert.Contains(t, l.Line("start").Findings, "power")
	assert.Nil(t, l.Line("start").DriveShare, "no reference, no share")
	blocked := l.Line("ref")
	assert.Equal(t, NotComparable, blocked.Verdict)
	assert.NotNil(t, blocked.Then, "the sides stand")
	for _, none := range []*float64{blocked.Factor, blocked.Low, blocked.High, blocked.P, blocked.Freedom,
		blocked.Saves, blocked.DriveShare, blocked.Floor} {
		assert.Nil(t, none)
	}
	assert.Nil(t, blocked.FurtherRuns)
	assert.False(t, blocked.Indicative || blocked.Felt || blocked.Equal || blocked.HoldsAfterAll)
	assert.Zero(t, l.Groups.Drive.Lines)
	assert.Nil(t, l.Groups.Drive.Factor)

	o := DefaultOptions
	o.Intended = "power"
	l = Compare(j, "then", "now", o)
	assert.Equal(t, Faster, l.Line("ref").Verdict, "the difference is the question")
	assert.Equal(t, fairness.Notes, l.Findings[0].Effect)
}

func TestARuleOnBothSidesStandsOnceOnTheLine(t *testing.T) {
	l := compared(lineIn{test: scattered(), then: one(100, 101, 300), with: one(7000, 7001, 700)})
	assert.Equal(t, []string{"lone-run"}, l.Lines[0].Findings)
}

func TestSetAsideAndRepeatedRunsAreNotInIt(t *testing.T) {
	j := build(lineIn{test: timed("x", 0), then: one(10, 99, 98), with: one(5, 5)})
	for i := range j.Runs {
		switch j.Runs[i].Value {
		case 99:
			j.Runs[i].SetAside = &job.SetAside{Reason: "the cat"}
		case 98:
			j.Runs[i].Repeat = true
		}
	}
	ln := Compare(j, "then", "now", DefaultOptions).Lines[0]
	assert.Equal(t, 1, ln.Then.N)
	assert.Equal(t, 10.0, ln.Then.Max)
}

func TestSavingsCountEachOccasionOnce(t *testing.T) {
	occasion := func(id, o string) job.Test {
		t := timed(id, 7)
		t.Occasion = o
		return t
	}
	lines := []lineIn{
		{test: occasion("cold", "start"), then: one(90), with: one(40)},
		{test: occasion("restart", "start"), then: one(100), with: one(50)},
		{test: timed("launch", 10), then: one(9), with: one(4)},
		{test: timed("never", 0), then: one(9), with: one(4)},
	}
	j := build(lines...)
	s := Compare(j, "then", "now", DefaultOptions).Savings
	assert.InDelta(t, 7*50+10*5, s.SecondsPerWeek, 1e-9)
	assert.InDelta(t, 400.0*52/3600, s.HoursPerYear, 1e-9)
	assert.Equal(t, []string{"restart"}, s.SameOccasion)
	assert.True(t, s.Clear)

	j.Plan.Headline = "restart"
	assert.Equal(t, []string{"cold"}, Compare(j, "then", "now", DefaultOptions).Savings.SameOccasion,
		"the headline counts")

	for i := range j.Runs { // the second of an occasion takes the first one's place where that cannot be compared
		if j.Runs[i].Test == "cold" {
			j.Runs[i].Warmth = map[string]job.Warmth{"then0": "cold", "now0": "warm"}[j.Runs[i].Sitting]
		}
	}
	j.Plan.Headline = ""
	s = Compare(j, "then", "now", DefaultOptions).Savings
	assert.Empty(t, s.SameOccasion)
	assert.Equal(t, []string{"cold"}, s.LeftOut)
	assert.InDelta(t, 7*50+10*5, s.SecondsPerWeek, 1e-9)

	assert.Nil(t, compared(lines[3]).Savings, "no line counts")
	small := compared(lineIn{test: timed("x", 10), then: one(10, 11, 10), with: one(9.9, 10.9, 10)}).Savings
	assert.False(t, small.Clear)
}

func TestTheHeadlineIsNamedBeforehand(t *testing.T) {
	lines := []lineIn{
		{test: scattered(), then: one(100, 101), with: one(7000, 7001)},
		{test: timed("a", 1), then: one(10), with: one(9)},
		{test: timed("b", 1), then: one(90), with: one(9)},
		{test: timed("c", 1), then: one(90), with: nil},
	}
	headline := func(planned string, in ...lineIn) string {
		j := build(in...)
		j.Plan.Headline = planned
		if h := Compare(j, "then", "now", DefaultOptions).Headline; h != nil {
			return *h
		}
		return ""
	}
	assert.Equal(t, "a", headline("", lines...), "the first that waits, not the largest")
	assert.Equal(t, "b", headline("b", lines...))
	assert.Equal(t, "ref", headline("ref", lines...), "the plan says so")
	assert.Equal(t, "a", headline("c", lines...), "not measured: the next one that waits")
	assert.Equal(t, "", headline("", lines[0], lines[3]))
}

func TestNoShareWhereSomethingElseMayHaveHelped(t *testing.T) {
	three := func(v float64) [][]float64 { return one(v, v*1.001, v*0.999) }
	made := func(now, reference float64) *job.Job {
		return build(lineIn{test: timed("x", 0), then: three(90), with: three(now)},
			lineIn{test: scattered(), then: three(1000), with: three(1000 * reference)})
	}
	share := func(j *job.Job) *float64 { return Compare(j, "then", "now", DefaultOptions).Line("x").DriveShare }
	// S = 2.5, R = 10: (1 − 0.4) ÷ (1 − 0.1) = 2/3.
	require.NotNil(t, share(made(36, 10)))
	assert.InDelta(t, 2.0/3, *share(made(36, 10)), 1e-9)
	assert.NotNil(t, share(made(74, 1.26)))
	assert.Nil(t, share(made(74, 1.24)), "the reference moved too little")
	j := made(36, 10)
	j.Setups[0].System.Version, j.Setups[1].System.Version = "10", "11"
	assert.Nil(t, share(j))
	l := Compare(made(36, 1.5), "then", "now", DefaultOptions)
	assert.Contains(t, l.Line("x").Findings, "more-than-the-drive")
	assert.Nil(t, l.Line("x").DriveShare)
}

// Whatever the runs are: the factor is the ratio of the centres shown, lies in its
// interval, a group of one line is that line, and swapping the sides turns it round.
func TestSwappingSidesTurnsTheLineRound(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	values := func() [][]float64 {
		sittings := make([][]float64, 1+rng.IntN(3))
		for k := range sittings {
			for range 1 + rng.IntN(4) {
				sittings[k] = append(sittings[k], math.Exp(4*rng.NormFloat64()))
			}
		}
		return sittings
	}
	for range 300 {
		test := timed("x", 1)
		if rng.IntN(2) == 0 {
			test.Better, test.Unit = job.Higher, "MB/s"
		}
		j := build(lineIn{test: test, then: values(), with: values()})
		l := Compare(j, "then", "now", DefaultOptions)
		a := l.Lines[0]
		b := Compare(j, "now", "then", DefaultOptions).Lines[0]
		ratio := a.Then.Centre / a.With.Centre
		if test.Better == job.Higher {
			ratio = 1 / ratio
		}
		assert.InEpsilon(t, ratio, *a.Factor, 1e-12)
		assert.LessOrEqual(t, *a.Low, *a.Factor)
		assert.GreaterOrEqual(t, *a.High, *a.Factor)
		assert.InEpsilon(t, 1 / *a.Factor, *b.Factor, 1e-9)
		assert.InEpsilon(t, 1 / *a.High, *b.Low, 1e-9)
		turned := map[Verdict]Verdict{Faster: Slower, Slower: Faster, TooClose: TooClose}
		assert.Equal(t, turned[a.Verdict], b.Verdict)
		assert.Equal(t, []float64{*a.Factor, *a.Low, *a.High},
			[]float64{*l.Groups.Waiting.Factor, *l.Groups.Waiting.Low, *l.Groups.Waiting.High})
	}
}

// One more run never widens what is to be expected: where it comes out as those that
// are there, the interval is narrower.
func TestOneMoreRunNeverWidensTheInterval(t *testing.T) {
	j := build(lineIn{test: timed("x", 1), then: one(61), with: one(50)})
	ln := Compare(j, "then", "now", DefaultOptions).Lines[0]
	width := *ln.High / *ln.Low
	then, with := ln.Then, ln.With
	for range 10 {
		then, with = then.Further(1), with.Further(1)
		if then.N%2 == 1 { // the median of an odd number is less efficient than of the even one before it
			continue
		}
		r, ok := side.RatioOf(&j.Tests[0], then, with)
		require.True(t, ok)
		assert.Less(t, r.High/r.Low, width, "%d runs", then.N)
		width = r.High / r.Low
	}
}

// A drive with a cache that learns has a first and a settled value; until it has settled, nothing is claimed.
func TestCachesThatLearnHaveAFirstAndASettledValue(t *testing.T) {
	j := build(lineIn{test: timed("x", 1), then: one(90, 91, 90), with: one(71.3, 71.9, 20.7)})
	ln := Compare(j, "then", "now", DefaultOptions).Lines[0]
	assert.Nil(t, ln.With.State, "a drive that doesn't learn")
	j.Drives[1].Kind = job.Hybrid
	ln = Compare(j, "then", "now", DefaultOptions).Lines[0]
	assert.Equal(t, side.Settling, *ln.With.State)
	assert.Equal(t, []float64{71.3, 20.7}, []float64{*ln.With.First, *ln.With.Last})
	assert.Nil(t, ln.With.Settled)
	assert.Equal(t, NotComparable, ln.Verdict)
	assert.Equal(t, []string{"not-settled"}, ln.Findings)
	assert.Nil(t, ln.Factor)
	assert.Nil(t, ln.Then.State)

	j = build(lineIn{test: timed("x", 1), then: one(90, 91, 90), with: one(71.3, 49, 48.8, 49.1, 48.9)})
	j.Drives[1].Kind = job.Hybrid
	ln = Compare(j, "then", "now", DefaultOptions).Lines[0]
	assert.Equal(t, side.Settled, *ln.With.State)
	assert.Equal(t, []any{4, 48.9, 71.3, 48.9, 48.9},
		[]any{ln.With.N, ln.With.Centre, *ln.With.First, *ln.With.Settled, *ln.With.Last})
	assert.Equal(t, Faster, ln.Verdict)
	assert.True(t, ln.HoldsAfterAll)
	assert.Greater(t, *ln.High / *ln.Factor, *ln.Factor / *ln.Low, "a slow learner may become faster still")
	swapped := Compare(j, "now", "then", DefaultOptions).Lines[0]
	assert.InDelta(t, 1 / *ln.High, *swapped.Low, 1e-9, "whichever is called Then")
}

func TestFeltFromBothLimitsOn(t *testing.T) {
	felt := func(then, now float64) bool {
		return compared(lineIn{test: timed("x", 0), then: one(then, then, then),
			with: one(now, now, now)}).Lines[0].Felt
	}
	assert.True(t, felt(10, 8), "a fifth")
	assert.False(t, felt(10, 8.1))
	assert.True(t, felt(1, 0.5), "half a second")
	assert.False(t, felt(1, 0.52))
	assert.True(t, felt(8, 10), "longer is felt as well")
	assert.Equal(t, 2, compared().Version)
}

func TestFurtherRunsAreThoughtOfUpToTen(t *testing.T) {
	rng := rand.New(rand.NewPCG(6, 6))
	seen := map[int]int{}
	for range 1200 {
		values := func(centre float64) [][]float64 {
			v := make([]float64, 1+rng.IntN(4))
			for i := range v {
				v[i] = centre * math.Exp(0.05*rng.NormFloat64())
			}
			return [][]float64{v}
		}
		ln := compared(lineIn{test: timed("x", 1), then: values(30),
			with: values(30 * (0.8 + 0.4*rng.Float64()))}).Lines[0]
		switch {
		case ln.FurtherRuns == nil:
			assert.Nil(t, ln.FurtherRunsOn)
			seen[-1]++
		case *ln.FurtherRuns == 0:
			assert.Nil(t, ln.FurtherRunsOn)
			assert.True(t, ln.HoldsAfterAll || ln.Equal)
			seen[0]++
		default:
			seen[*ln.FurtherRuns]++
			s := ln.Then
			with := ln.With
			if *ln.FurtherRunsOn == OnThen {
				s = s.Further(*ln.FurtherRuns)
			} else {
				with = with.Further(*ln.FurtherRuns)
			}
			r, ok := side.RatioOf(ln.test, s, with)
			require.True(t, ok)
			assert.True(t, r.P <= Level || equal(r), "so many decide it")
		}
	}
	for k := -1; k <= 10; k++ {
		assert.Positive(t, seen[k], "%d further runs", k)
	}
	assert.Len(t, seen, 12, "never more than ten")
}

func TestWhatIsUsedLessThanOnceAWeekCounts(t *testing.T) {
	rate := job.Test{ID: "rate", Kind: job.OnFiles, Name: "rate", Unit: "files/s", Better: job.Higher, PerWeek: 9}
	l := compared(lineIn{test: timed("a", 0.5), then: one(90), with: one(40)},
		lineIn{test: timed("b", 2), then: one(9), with: one(4)},
		lineIn{test: rate, then: one(9), with: one(40)})
	assert.InDelta(t, 0.5*50+2*5, l.Savings.SecondsPerWeek, 1e-9,
		"tests without an occasion are their own; a rate is no wait")
	assert.Nil(t, l.Line("rate").Saves)
}

func TestTheFirstReferenceThatCanBeComparedCounts(t *testing.T) {
	own := scattered()
	own.ID, own.What = "own", job.ScatteredReadOwn
	three := func(v float64) [][]float64 { return one(v, v*1.001, v*0.999) }
	wait := lineIn{test: timed("x", 0), then: three(90), with: three(36)}
	l := compared(wait, lineIn{test: own, then: three(100), with: nil},
		lineIn{test: scattered(), then: three(100), with: three(1000)})
	assert.InDelta(t, 2.0/3, *l.Line("x").DriveShare, 1e-9, "the customer's own files were not measured twice")
	l = compared(wait, lineIn{test: own, then: three(100), with: three(500)},
		lineIn{test: scattered(), then: three(100), with: three(1000)})
	assert.InDelta(t, 0.6/0.8, *l.Line("x").DriveShare, 1e-9)
	l = compared(lineIn{test: timed("x", 0), then: three(90), with: three(60)},
		lineIn{test: scattered(), then: three(100), with: three(145)})
	assert.Equal(t, 1.0, *l.Line("x").DriveShare, "no more than all of it")
	assert.Equal(t, 1.0, *l.Line("x").DriveShareHigh)
	assert.Zero(t, *l.Line("x").Floor)
}

func TestKeepingUpIsSaidOfEachSide(t *testing.T) {
	w := drivetest.KeepUp(1<<30, drivetest.Streams{Count: 1, MBs: 100})
	test := job.Test{ID: "k", Kind: job.OnDrive, Name: "k", Unit: "MB/s", Better: job.Higher, Params: &w}
	assert.Equal(t, &KeepsUp{drivetest.FallsBehind, drivetest.JustKeepsUp},
		compared(lineIn{test: test, then: one(90, 140),
			with: one(119, 300)}).Lines[0].KeepsUp, "by the slowest of any run")
	assert.Equal(t, &KeepsUp{"", drivetest.KeepsUp}, compared(lineIn{test: test, with: one(120)}).Lines[0].KeepsUp)
	assert.Nil(t, compared(lineIn{test: test}).Lines[0].KeepsUp)
	assert.Nil(t, compared(lineIn{test: scattered(), then: one(1), with: one(2)}).Lines[0].KeepsUp)
}

// Of tests of one occasion the first counts where none of them is the headline.
func TestTheFirstOfAnOccasionCounts(t *testing.T) {
	cold, restart, other := timed("cold", 5), timed("restart", 5), timed("other", 1)
	cold.Occasion, restart.Occasion = "start", "start"
	j := build(lineIn{test: cold, then: one(90, 91), with: one(40, 41)},
		lineIn{test: restart, then: one(100, 101), with: one(50, 51)},
		lineIn{test: other, then: one(20, 21), with: one(10, 11)})
	j.Plan.Headline = "other"
	s := Compare(j, "then", "now", DefaultOptions).Savings
	assert.Equal(t, []string{"restart"}, s.SameOccasion)
	assert.InDelta(t, 5*50+10, s.SecondsPerWeek, 1)
}

// What is saved or lost is clear by its sign alone, however little it is.
func TestASavingOfLessThanASecondIsClear(t *testing.T) {
	seldom := timed("a", 0.01)
	faster := compared(lineIn{test: seldom, then: one(90, 90.5, 91), with: one(40, 40.5, 41)}).Savings
	require.True(t, faster.Low > 0 && faster.Low < 1, "%v", faster)
	assert.True(t, faster.Clear)
	slower := compared(lineIn{test: seldom, then: one(40, 40.5, 41), with: one(90, 90.5, 91)}).Savings
	require.True(t, slower.High < 0 && slower.High > -1, "%v", slower)
	assert.True(t, slower.Clear)
	even := compared(lineIn{test: seldom, then: one(40, 44, 41), with: one(41, 43, 40)}).Savings
	require.True(t, even.Low < 0 && even.High > 0 && even.High < 1, "%v", even)
	assert.False(t, even.Clear)
}

// Only a time that is better shorter saves anything.
func TestWhatSaves(t *testing.T) {
	for name, c := range map[string]struct {
		unit   string
		better job.Direction
		saves  bool
	}{"a wait": {"s", job.Lower, true}, "seconds that are better longer": {"s", job.Higher, false}, "a rate": {"MB/s",
		job.Higher, false}, "a temperature": {"°C", job.Lower, false}} {
		t.Run(name, func(t *testing.T) {
			test := timed("a", 1)
			test.Unit, test.Better = c.unit, c.better
			assert.Equal(t, c.saves,
				compared(lineIn{test: test, then: one(50, 51), with: one(40, 41)}).Lines[0].Saves != nil)
		})
	}
}
