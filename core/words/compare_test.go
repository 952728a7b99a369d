package words

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/compare"
	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/side"
)

func TestFactorWords(t *testing.T) {
	for f, want := range map[float64]string{
		2.5:    "2.5 times as fast",
		2.567:  "2.6 times as fast",
		1.06:   "1.1 times as fast",
		1.049:  "1.05 times as fast",
		1:      "1.00 times as fast",
		0.9999: "1.00 times as fast",
		0.97:   "takes 1.03 times as long",
		0.77:   "takes 1.3 times as long",
		1.25:   "1.3 times as fast",
		0.05:   "takes 20 times as long",
		9.94:   "9.9 times as fast",
		9.96:   "10 times as fast",
		70.4:   "70 times as fast",
		123.6:  "124 times as fast",
	} {
		assert.Equal(t, want, FactorWords(f), "%v", f)
	}
}

func TestWaitingAndSavesWords(t *testing.T) {
	assert.Equal(t, "60 % less waiting", WaitingWords(90, 36))
	assert.Equal(t, "99 % less waiting", WaitingWords(1000, 1))
	assert.Equal(t, "50 % more waiting", WaitingWords(10, 15))
	assert.Equal(t, "the same waiting", WaitingWords(10, 10.01))
	assert.Equal(t, "saves 54 s each time", SavesWords(54))
	assert.Equal(t, "saves 0.70 s each time", SavesWords(0.7))
	assert.Equal(t, "takes 5.0 s longer each time", SavesWords(-5))
	assert.Equal(t, "saves 3 min 20 s each time", SavesWords(200))
}

func TestSecondsAndFigure(t *testing.T) {
	for s, want := range map[float64]string{0.82: "0.82 s", 5.44: "5.4 s", 54.2: "54 s", 119.4: "119 s", 120: "2 min",
		200.4: "3 min 20 s"} {
		assert.Equal(t, want, Seconds(s))
	}
	for v, want := range map[float64]string{92.4: "92.4 s", 108.2: "108 s", 0.82: "0.820 s", 5.443: "5.44 s", 0: "0 s",
		9.999: "10.0 s"} {
		assert.Equal(t, want, Figure(v, "s"))
	}
}

// The ends are rounded outwards, with as many decimals as the factor; below 1 they are
// turned over.
func TestRangeWords(t *testing.T) {
	tests := []struct {
		factor, low, high float64
		want              string
	}{
		{2.57, 2.31, 2.84, "between 2.3 and 2.9 times as fast"},
		{2, 2, 2, "between 2.0 and 2.0 times as fast"},
		{10.4, 9.71, 11.01, "between 9 and 12 times as fast"},
		{1.02, 1.013, 1.027, "between 1.01 and 1.03 times as fast"},
		{0.8, 0.71, 0.89, "takes between 1.1 and 1.5 times as long"},
		{0.99, 0.9, 1.1, "between 1.12 times as long and 1.10 times as fast"},
		{1.2, 0.91, 1.51, "between 1.1 times as long and 1.6 times as fast"},
	}
	for _, tt := range tests {
		assert.Equal(t, tt.want, English.rangeWords(tt.factor, tt.low, tt.high, true), "%v", tt)
	}
	assert.Equal(t, "between 2.3× and 2.9×", English.rangeWords(2.57, 2.31, 2.84, false), "a rate")
}

var names = Sides{Then: "Then", With: "Now"}

func TestLine(t *testing.T) {
	p := func(f float64) *float64 { return &f }
	wait := job.Test{ID: "x", Kind: job.Timed, Unit: "s", Better: job.Lower}
	rate := job.Test{ID: "x", Kind: job.OnDrive, Unit: "MB/s", Better: job.Higher}
	heat := job.Test{ID: "x", Kind: job.Note, Unit: "°C", Better: job.Lower}
	of := func(v float64) *side.Side { return &side.Side{N: 3, Centre: v, Min: v, Max: v} }
	none, two := 0, 2
	now := compare.OnWith
	tests := []struct {
		name string
		test job.Test
		line compare.Line
		want LineInWords
	}{
		{"a wait", wait, compare.Line{Verdict: compare.Faster, HoldsAfterAll: true, Factor: p(2.5), Low: p(2.41),
			High: p(2.59), Saves: p(54), Then: of(90), With: of(36), FurtherRuns: &none},
			LineInWords{Then: "90.0 s", With: "36.0 s", Factor: "2.5 times as fast", Waiting: "60 % less waiting",
				Saves: "saves 54 s each time", Range: "between 2.4 and 2.6 times as fast"}},
		{"a rate gets × alone", rate,
			compare.Line{Verdict: compare.Faster, HoldsAfterAll: true, Factor: p(5), Low: p(4.99), High: p(5.01),
				Then: of(100), With: of(500), FurtherRuns: &none},
			LineInWords{Then: "100 MB/s", With: "500 MB/s", Factor: "5.0×", Range: "between 4.9× and 5.1×"}},
		{"one that does not hold", wait,
			compare.Line{Verdict: compare.Faster, Factor: p(1.2), Low: p(1.01), High: p(1.4), Saves: p(6), Then: of(36),
				With: of(30), FurtherRuns: &two, FurtherRunsOn: &now},
			LineInWords{Then: "36.0 s", With: "30.0 s", Factor: "1.2 times as fast", Waiting: "17 % less waiting",
				Saves: "saves 6.0 s each time", Range: "between 1.0 and 1.4 times as fast",
				Doubt: "does not hold once all lines are considered", Further: "2 more runs on Now would decide it."}},
		{"a single run", rate,
			compare.Line{Verdict: compare.Slower, HoldsAfterAll: true, Indicative: true, Factor: p(0.8), Low: p(0.7),
				High: p(0.9), Then: of(500), With: of(400), FurtherRuns: &none},
			LineInWords{Then: "500 MB/s", With: "400 MB/s", Factor: "takes 1.3 times as long",
				Range: "takes between 1.1 and 1.5 times as long", Doubt: "measured only once: indicative"}},
		{"undecidable", wait,
			compare.Line{Verdict: compare.TooClose, Factor: p(1.1), Low: p(0.9), High: p(1.3), Then: of(33),
				With: of(30)},
			LineInWords{Then: "33.0 s", With: "30.0 s", Factor: "too close to call",
				Range: "between 1.2 times as long and 1.3 times as fast", Further: "Further runs will not decide it; a second " +
					"session might."}},
		{"practically the same", wait,
			compare.Line{Verdict: compare.TooClose, Equal: true, Factor: p(1.01), Low: p(0.98), High: p(1.04),
				Then: of(30.3), With: of(30), FurtherRuns: &none},
			LineInWords{Then: "30.3 s", With: "30.0 s", Factor: "practically the same",
				Range: "between 1.03 times as long and 1.04 times as fast"}},
		{"a bound", heat, compare.Line{Verdict: compare.NotComparable, Then: of(29),
			With: &side.Side{N: 1, Centre: 30, Bound: job.BoundBelow}},
			LineInWords{Then: "29.0 °C", With: "below 30.0 °C", Factor: "not certain: one figure is only a limit"}},
		{"a direction", heat, compare.Line{Verdict: compare.Faster, Then: of(61),
			With: &side.Side{N: 1, Centre: 30, Bound: job.BoundBelow}},
			LineInWords{Then: "61.0 °C", With: "below 30.0 °C", Factor: "lower, by an unknown amount"}},
		{"a wait that never ended", wait, compare.Line{Verdict: compare.Faster, With: of(36),
			Then: &side.Side{N: 1, Centre: 600, Bound: job.BoundAbove}},
			LineInWords{Then: "above 600 s", With: "36.0 s", Factor: "faster, by an unknown amount"}},
		{"a difference alone", heat, compare.Line{Verdict: compare.Faster, Then: of(61), With: of(40)},
			LineInWords{Then: "61.0 °C", With: "40.0 °C", Factor: "21.0 °C less"}},
		{"nothing on one side", wait, compare.Line{Verdict: compare.NotMeasured, With: of(36)},
			LineInWords{With: "36.0 s", Factor: "not measured on the first side"}},
		{"recordings", rate, compare.Line{Verdict: compare.NotMeasured, With: of(36),
			KeepsUp: &compare.KeepsUp{With: drivetest.JustKeepsUp}},
			LineInWords{With: "36.0 MB/s", Factor: "not measured on the first side",
				KeepsUp: "Now only just keeps up with the recordings"}},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) { assert.Equal(t, tt.want, Line(&tt.line, &tt.test, names)) })
	}
}

func TestShareClaimsNoBound(t *testing.T) {
	p := func(f float64) *float64 { return &f }
	l := &compare.Line{Then: &side.Side{Centre: 90}, With: &side.Side{Centre: 36}, DriveShare: p(0.68),
		DriveShareLow: p(0.61), DriveShareHigh: p(0.756), Floor: p(28.8)}
	assert.Equal(t, "Of the 90 s, about 61 s (55 s to 68 s) were waiting for the drive, judging by the random-read "+
		"test; a drive that took no time would save about another 7.2 s.", Share(l))
	l.DriveShare, l.Floor = p(1), p(36)
	assert.NotContains(t, Share(l), "another")
	assert.Empty(t, Share(&compare.Line{}))
}

func TestGroupAndSavingsWords(t *testing.T) {
	p := func(f float64) *float64 { return &f }
	assert.Equal(t, "", Waits(compare.Group{}))
	assert.Equal(t, "5.1 times as fast", Waits(compare.Group{Factor: p(5.1), Low: p(4.9), High: p(5.3), Lines: 4}))
	assert.Equal(t, "5.1×", Rates(compare.Group{Factor: p(5.1), Low: p(4.9), High: p(5.3), Lines: 4}))
	assert.Equal(t, "too close to call", Rates(compare.Group{Factor: p(1.1), Low: p(0.9), High: p(1.3), Lines: 1}))
	assert.Equal(t, "", Savings(nil))
	for want, s := range map[string]compare.Savings{
		"About 10 min less waiting a week: about 9 hours a year.":                                               {SecondsPerWeek: 612, Low: 570, High: 650, Clear: true, HoursPerYear: 8.84},
		"Between 10 and 18 min less waiting a week: about 12 hours a year.":                                     {SecondsPerWeek: 840, Low: 600, High: 1080, Clear: true, HoursPerYear: 12.1},
		"Between 90 s and 4 min less waiting a week: about 2 hours a year.":                                     {SecondsPerWeek: 165, Low: 90, High: 240, Clear: true, HoursPerYear: 2.38},
		"Between 20 and 40 s more waiting a week.":                                                              {SecondsPerWeek: -30, Low: -40, High: -20, Clear: true},
		"No clear saving: between 94 s more waiting and 90 s less waiting a week in the tests that were timed.": {SecondsPerWeek: 5, Low: -94, High: 90},
	} {
		assert.Equal(t, want, Savings(&s))
	}
}

func TestFileRates(t *testing.T) {
	assert.Equal(t, "100 files/s", FileRates(&side.Rates{MBs: 2, FilesS: new(100.0)}))
	assert.Equal(t, "50.0 MB/s", FileRates(&side.Rates{MBs: 50, FilesS: new(0.05)}))
	assert.Equal(t, "50.0 MB/s", FileRates(&side.Rates{MBs: 50}), "of a copy whose files nobody counted")
	assert.Empty(t, FileRates(nil))
}

// The pages round as the bench does: one table holds both to it.
func TestFiguresAsThePagesHaveThem(t *testing.T) {
	data, err := os.ReadFile("testdata/figures.json")
	require.NoError(t, err)
	var cases []struct {
		Value float64
		Words string
	}
	require.NoError(t, json.Unmarshal(data, &cases))
	require.NotEmpty(t, cases)
	for _, c := range cases {
		assert.Equal(t, c.Words, Figure(c.Value, "s"), "%v", c.Value)
	}
}
