package compare

import (
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/stats"
)

// build makes a job with one line per test, from values by side.
type lineIn struct {
	test       job.Test
	then, with []float64
	method     string
	u          float64
}

func timed(id string, perWeek float64) job.Test {
	return job.Test{ID: id, Kind: job.Timed, Name: id, Unit: "s", Better: job.Lower, PerWeek: perWeek}
}

func scattered() job.Test {
	w := drivetest.ScatteredRead(1 << 30)
	return job.Test{ID: "ref", Kind: job.OnDrive, Name: "ref", Unit: "IOPS", Better: job.Higher, Params: &w}
}

func build(lines ...lineIn) *job.Job {
	j := &job.Job{
		Computers: []job.Computer{{ID: "c"}},
		Drives:    []job.Drive{{ID: "d1", Kind: job.SataSSD}, {ID: "d2", Kind: job.SataSSD}},
		Setups:    []job.Setup{{ID: "then", Role: job.Then, Computer: "c", Drive: "d1"}, {ID: "now", Role: job.Now, Computer: "c", Drive: "d2"}},
		Sittings:  []job.Sitting{{ID: "s1", Setup: "then"}, {ID: "s2", Setup: "now"}},
	}
	at := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	for _, l := range lines {
		j.Tests = append(j.Tests, l.test)
		if l.method == "" {
			l.method = job.Automatic
		}
		for sitting, values := range map[string][]float64{"s1": l.then, "s2": l.with} {
			for i, v := range values {
				u := l.u
				j.Runs = append(j.Runs, job.Run{ID: l.test.ID + sitting + string(rune('a'+i)), Test: l.test.ID, Sitting: sitting,
					Value: v, Method: l.method, U: &u, At: at.Add(time.Duration(i) * time.Minute)})
			}
		}
	}
	return j
}

func TestSideWorkedExamples(t *testing.T) {
	run := func(v, u float64) job.Run { return job.Run{Value: v, Method: job.Stopwatch, U: &u} }
	tests := []struct {
		name         string
		kind         job.Kind
		runs         []job.Run
		n            int
		centre       float64
		typeA, typeB float64
	}{
		// s of ln 91.0, 92.4, 95.1 is 0.0223784; c = π/2.
		{"three timed runs", job.Timed, []job.Run{run(95.1, 0.28), run(91.0, 0.28), run(92.4, 0.28)}, 3, 92.4,
			math.Pi / 2 * 0.0223784 * 0.0223784 / 3, (0.28 / 92.4) * (0.28 / 92.4)},
		// s of ln 100, 110 is ln(1.1)/√2; c = 1.
		{"two runs", job.Timed, []job.Run{run(100, 0), run(110, 0)}, 2, 105, math.Pow(math.Log(1.1), 2) / 2 / 2, 0},
		{"a single timed run", job.Timed, []job.Run{run(50, 0.5)}, 1, 50, 0.05 * 0.05, 0.01 * 0.01},
		{"a single drive run", job.OnDrive, []job.Run{run(500, 0)}, 1, 500, 0.03 * 0.03, 0},
		{"a single file run", job.OnFiles, []job.Run{run(20, 0)}, 1, 20, 0.10 * 0.10, 0},
		{"an even count", job.Timed, []job.Run{run(4, 0), run(1, 0), run(3, 0), run(2, 0)}, 4, 2.5,
			math.Pi / 2 * 0.3614025 / 4, 0}, // the variance of ln 1…4 is 0.3614025
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			s := NewSide(&job.Test{Kind: tt.kind, Unit: "s"}, pointers(tt.runs))
			assert.Equal(t, tt.n, s.N)
			assert.InDelta(t, tt.centre, s.Centre, 1e-12)
			assert.InEpsilon(t, tt.typeA, s.typeA, 1e-4)
			assert.InDelta(t, tt.typeB, s.typeB, 1e-12)
		})
	}
	assert.Nil(t, NewSide(&job.Test{}, nil))
}

func TestUncertaintyByMethod(t *testing.T) {
	tests := []struct {
		name string
		run  job.Run
		unit string
		want float64
	}{
		{"stopwatch", job.Run{Method: job.Stopwatch, Value: 9}, "s", math.Sqrt2 * 0.20},
		{"finish line", job.Run{Method: job.FinishLine, Value: 9}, "s", 0.20},
		{"video", job.Run{Method: job.Video, Value: 9}, "s", math.Sqrt2 / 30 / math.Sqrt(12)},
		{"typed time", job.Run{Method: job.Typed, Value: 9.25}, "s", 0.5},
		{"typed rate", job.Run{Method: job.Typed, Value: 512}, "MB/s", 0.5 / math.Sqrt(3)},
		{"automatic", job.Run{Method: job.Automatic, Value: 9}, "s", 0},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			assert.InDelta(t, tt.want, instrument(&job.Test{Unit: tt.unit}, &tt.run), 1e-12)
		})
	}
}

func TestLineWorkedExample(t *testing.T) {
	j := build(lineIn{test: timed("start", 7), then: []float64{91.0, 92.4, 95.1}, with: []float64{35.2, 36.0, 37.0}, method: job.Stopwatch, u: 0.28})
	ln := Compare(j, "then", "now", DefaultOptions).Lines[0]
	assert.Equal(t, Faster, ln.Verdict)
	assert.InDelta(t, 92.4/36.0, *ln.Factor, 1e-12)
	// vT = 2.70396e-4, vN = 3.87...e-4 (JCGM 100): worked out independently.
	sT, sN := 0.0223784, 0.0249764
	aT, aN := math.Pi/2*sT*sT/3, math.Pi/2*sN*sN/3
	v := aT + aN + math.Pow(0.28/92.4, 2) + math.Pow(0.28/36, 2)
	nu := v * v / (aT*aT/2 + aN*aN/2)
	require.InDelta(t, 4.8, nu, 0.4)
	k := stats.Student(0.975, nu)
	assert.InDelta(t, 2.6, k, 0.1)
	assert.InEpsilon(t, 92.4/36*math.Exp(-k*math.Sqrt(v)), *ln.Low, 1e-5)
	assert.InEpsilon(t, 92.4/36*math.Exp(k*math.Sqrt(v)), *ln.High, 1e-5)
	assert.InDelta(t, 56.4, *ln.Saves, 1e-9)
	assert.True(t, ln.Felt)
	assert.False(t, ln.Indicative)
}

func TestVerdicts(t *testing.T) {
	rate := job.Test{ID: "x", Kind: job.OnDrive, Name: "x", Unit: "MB/s", Better: job.Higher}
	tests := []struct {
		name       string
		test       job.Test
		then, with []float64
		verdict    Verdict
		felt       bool
		indicative bool
	}{
		{"a side without runs", timed("x", 0), []float64{9}, nil, NotMeasured, false, false},
		{"clearly faster", timed("x", 0), []float64{10, 10.1, 9.9}, []float64{5, 5.1, 4.9}, Faster, true, false},
		{"clearly slower", timed("x", 0), []float64{5, 5.1, 4.9}, []float64{10, 10.1, 9.9}, Slower, true, false},
		{"39 against 32, once each", timed("x", 0), []float64{39}, []float64{32}, Faster, false, true}, // 7 s but 18 %: not felt
		{"39 against 36, once each", timed("x", 0), []float64{39}, []float64{36}, TooClose, false, true},
		{"within the spread", timed("x", 0), []float64{10, 12, 11}, []float64{10.5, 11.5, 9.5}, TooClose, false, false},
		{"too little to be felt", timed("x", 0), []float64{1, 1.001, 0.999}, []float64{0.6, 0.601, 0.599}, Faster, false, false},
		{"a rate", rate, []float64{100, 101, 99}, []float64{500, 501, 499}, Faster, false, false},
		{"a slower rate", rate, []float64{500, 501, 499}, []float64{100, 101, 99}, Slower, false, false},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			ln := Compare(build(lineIn{test: tt.test, then: tt.then, with: tt.with}), "then", "now", DefaultOptions).Lines[0]
			assert.Equal(t, tt.verdict, ln.Verdict)
			assert.Equal(t, tt.felt, ln.Felt)
			assert.Equal(t, tt.indicative, ln.Indicative)
		})
	}
}

func TestBlockingFindingMakesALineNotComparable(t *testing.T) {
	j := build(
		lineIn{test: timed("start", 7), then: []float64{90, 91, 92}, with: []float64{30, 31, 32}},
		lineIn{test: scattered(), then: []float64{100, 101, 99}, with: []float64{7000, 7001, 7002}},
	)
	j.Sittings[0].Conditions.Power, j.Sittings[1].Conditions.Power = "battery", "mains"
	l := Compare(j, "then", "now", DefaultOptions)
	assert.Equal(t, Faster, l.Line("start").Verdict, "a qualifying finding leaves the verdict")
	assert.Contains(t, l.Line("start").Findings, "power")
	assert.Equal(t, NotComparable, l.Line("ref").Verdict)
	assert.Nil(t, l.Line("ref").Factor)
	assert.Nil(t, l.Line("start").DriveShare, "no reference, no share")
	assert.Zero(t, l.Groups.Drive.Lines)
	assert.Nil(t, l.Groups.Drive.Factor)
}

func TestARuleOnBothSidesStandsOnceOnTheLine(t *testing.T) {
	j := build(lineIn{test: scattered(), then: []float64{100, 101, 300}, with: []float64{7000, 7001, 700}})
	l := Compare(j, "then", "now", DefaultOptions)
	assert.Equal(t, []string{"lone-run"}, l.Lines[0].Findings)
}

func TestSetAsideRunsAreNotInIt(t *testing.T) {
	j := build(lineIn{test: timed("x", 0), then: []float64{10, 99}, with: []float64{5, 5}})
	for i := range j.Runs {
		if j.Runs[i].Value == 99 {
			j.Runs[i].SetAside = &job.SetAside{Reason: "the cat"}
		}
	}
	ln := Compare(j, "then", "now", DefaultOptions).Lines[0]
	assert.Equal(t, 1, ln.Then.N)
	assert.Equal(t, 10.0, ln.Then.Max)
}

func TestGroupsAndSavings(t *testing.T) {
	j := build(
		lineIn{test: timed("a", 10), then: []float64{40, 40, 40}, with: []float64{10, 10, 10}},
		lineIn{test: timed("b", 5), then: []float64{9, 9, 9}, with: []float64{9, 9, 9}},
		lineIn{test: timed("c", 2), then: []float64{10, 10, 10}, with: []float64{20, 20, 20}},
		lineIn{test: scattered(), then: []float64{100, 100, 100}, with: []float64{1600, 1600, 1600}},
	)
	l := Compare(j, "then", "now", DefaultOptions)
	require.Equal(t, TooClose, l.Line("b").Verdict)
	assert.Equal(t, 3, l.Groups.Waiting.Lines)
	assert.InDelta(t, math.Cbrt(4*1*0.5), *l.Groups.Waiting.Factor, 1e-12, "too-close lines are in the group")
	assert.InDelta(t, 16, *l.Groups.Drive.Factor, 1e-12)
	assert.InDelta(t, 10*30-2*10, l.Savings.SecondsPerWeek, 1e-9)
	assert.InDelta(t, 280.0*52/3600, l.Savings.HoursPerYear, 1e-9)
	assert.Equal(t, []string{"b"}, l.Savings.LeftOut)
	assert.LessOrEqual(t, l.Savings.Low, l.Savings.SecondsPerWeek)
	assert.GreaterOrEqual(t, l.Savings.High, l.Savings.SecondsPerWeek)
}

func TestSavingsEnds(t *testing.T) {
	j := build(lineIn{test: timed("a", 3), then: []float64{40, 42, 41}, with: []float64{10, 11, 10.5}})
	l := Compare(j, "then", "now", DefaultOptions)
	ln := l.Lines[0]
	assert.InDelta(t, 3*41*(1 - 1 / *ln.Low), l.Savings.Low, 1e-9)
	assert.InDelta(t, 3*41*(1 - 1 / *ln.High), l.Savings.High, 1e-9)
}

func TestAmdahl(t *testing.T) {
	tests := []struct {
		name         string
		then, with   float64 // s
		reference    float64 // factor of the drive
		share, floor float64 // NaN: none
	}{
		// S = 2.5, R = 10: (1 − 0.4) ÷ (1 − 0.1) = 2/3; floor 90 × 1/3 = 30.
		{"most of it was the drive", 90, 36, 10, 2.0 / 3, 30},
		{"more than the drive can explain", 90, 9, 2, 1, 0},
		{"the reference moved too little", 90, 36, 1.2, math.NaN(), math.NaN()},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			three := func(v float64) []float64 { return []float64{v, v * 1.001, v * 0.999} }
			l := Compare(build(lineIn{test: timed("x", 0), then: three(tt.then), with: three(tt.with)},
				lineIn{test: scattered(), then: three(1000), with: three(1000 * tt.reference)}), "then", "now", DefaultOptions)
			ln := l.Line("x")
			if math.IsNaN(tt.share) {
				assert.Nil(t, ln.DriveShare)
				return
			}
			require.NotNil(t, ln.DriveShare)
			assert.InDelta(t, tt.share, *ln.DriveShare, 1e-9)
			assert.InDelta(t, tt.floor, *ln.Floor, 1e-9)
		})
	}
}

// Whatever the runs are: the factor is the ratio of the centres shown, lies in
// its interval, and swapping the sides turns everything round.
func TestSwappingSidesTurnsTheLineRound(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	values := func() []float64 {
		v := make([]float64, 1+rng.IntN(6))
		for i := range v {
			v[i] = math.Exp(4 * rng.NormFloat64())
		}
		return v
	}
	for range 300 {
		test := timed("x", 1)
		if rng.IntN(2) == 0 {
			test.Better, test.Unit = job.Higher, "MB/s"
		}
		j := build(lineIn{test: test, then: values(), with: values()})
		a := Compare(j, "then", "now", DefaultOptions).Lines[0]
		b := Compare(j, "now", "then", DefaultOptions).Lines[0]
		if a.Factor == nil {
			continue // a lone run may not block, but keep the property honest
		}
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
	}
}

func TestNotesMayBeBelowZero(t *testing.T) {
	note := job.Test{ID: "n", Kind: job.Note, Name: "n", Unit: "°C", Better: job.Lower}
	ln := Compare(build(lineIn{test: note, then: []float64{-2}, with: []float64{4}}), "then", "now", DefaultOptions).Lines[0]
	assert.Equal(t, TooClose, ln.Verdict)
	assert.Nil(t, ln.Factor)
}

func pointers(runs []job.Run) []*job.Run {
	var list []*job.Run
	for i := range runs {
		list = append(list, &runs[i])
	}
	return list
}
