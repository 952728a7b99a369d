package words

import (
	"encoding/json"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/compare"
	"nowthen/core/job"
)

func TestFactorWords(t *testing.T) {
	for f, want := range map[float64]string{
		2.5:    "2.5× as fast",
		2.567:  "2.6× as fast",
		1.06:   "1.1× as fast",
		1.049:  "1.05× as fast",
		1:      "1.00× as fast",
		0.9999: "1.00× as fast",
		0.97:   "1.03× slower",
		0.77:   "1.3× slower",
		1.25:   "1.3× as fast",
		0.05:   "20× slower",
		9.94:   "9.9× as fast",
		9.96:   "10× as fast",
		70.4:   "70× as fast",
		123.6:  "124× as fast",
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
	for s, want := range map[float64]string{0.82: "0.82 s", 5.44: "5.4 s", 54.2: "54 s", 119.4: "119 s", 120: "2 min", 200.4: "3 min 20 s"} {
		assert.Equal(t, want, Seconds(s))
	}
	for v, want := range map[float64]string{92.4: "92.4 s", 108.2: "108 s", 0.82: "0.820 s", 5.443: "5.44 s", 0: "0 s", 9.999: "10.0 s"} {
		assert.Equal(t, want, Figure(v, "s"))
	}
}

func TestRangeWordsTellTheEndsApart(t *testing.T) {
	assert.Equal(t, "between 2.3× and 2.7×", rangeWords(2.31, 2.74))
	assert.Equal(t, "between 7.41× and 7.42×", rangeWords(7.411, 7.424))
	assert.Equal(t, "very nearly 2.0×", rangeWords(2, 2))
	assert.Equal(t, "between 0.50× and 2.0×", rangeWords(0.5, 2))
}

func TestLine(t *testing.T) {
	p := func(f float64) *float64 { return &f }
	wait := job.Test{ID: "x", Kind: job.Timed, Unit: "s", Better: job.Lower}
	rate := job.Test{ID: "x", Kind: job.OnDrive, Unit: "MB/s", Better: job.Higher}
	side := func(v float64) *compare.Side { return &compare.Side{N: 3, Centre: v, Min: v, Max: v} }
	tests := []struct {
		name string
		test job.Test
		line compare.Line
		want LineInWords
	}{
		{"a wait", wait, compare.Line{Verdict: compare.Faster, Factor: p(2.5), Low: p(2.494), High: p(2.506), Saves: p(54), Then: side(90), With: side(36)},
			LineInWords{Then: "90.0 s", With: "36.0 s", Factor: "2.5× as fast", Waiting: "60 % less waiting", Saves: "saves 54 s each time", Range: "between 2.49× and 2.51×"}},
		{"a rate gets × alone", rate, compare.Line{Verdict: compare.Faster, Factor: p(5), Low: p(4.99), High: p(5.01), Then: side(100), With: side(500)},
			LineInWords{Then: "100 MB/s", With: "500 MB/s", Factor: "5.0×", Range: "between 4.99× and 5.01×"}},
		{"a slower rate", rate, compare.Line{Verdict: compare.Slower, Factor: p(0.8), Low: p(0.798), High: p(0.802), Then: side(500), With: side(400)},
			LineInWords{Then: "500 MB/s", With: "400 MB/s", Factor: "1.3× slower", Range: "between 0.798× and 0.802×"}},
		{"nothing on one side", wait, compare.Line{Verdict: compare.NotMeasured, With: side(36)}, LineInWords{With: "36.0 s", Factor: "not measured on the first side"}},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) { assert.Equal(t, tt.want, Line(&tt.line, &tt.test)) })
	}
}

func TestGroupAndSavingsWords(t *testing.T) {
	p := func(f float64) *float64 { return &f }
	assert.Equal(t, "", Waits(compare.Group{}))
	assert.Equal(t, "5.1× as fast", Waits(compare.Group{Factor: p(5.1), Low: p(4.9), High: p(5.3), Lines: 4}))
	assert.Equal(t, "5.1×", Rates(compare.Group{Factor: p(5.1), Low: p(4.9), High: p(5.3), Lines: 4}))
	assert.Equal(t, "too close to call", Rates(compare.Group{Factor: p(1.1), Low: p(0.9), High: p(1.3), Lines: 1}))
	assert.Equal(t, "", Savings(compare.Savings{}))
	assert.Equal(t, "About 10 min less waiting a week (between 9 min and 11 min): about 9 hours a year.",
		Savings(compare.Savings{SecondsPerWeek: 612, Low: 560, High: 640, HoursPerYear: 8.84}))
	assert.Equal(t, "About 30 s more waiting a week.", Savings(compare.Savings{SecondsPerWeek: -30}))
}

func TestFileRates(t *testing.T) {
	run := func(value float64, files, bytes int64) job.Run {
		return job.Run{Value: value, Files: files, Bytes: bytes}
	}
	aside := run(1, 9e9, 9e9)
	aside.SetAside = &job.SetAside{Reason: "odd"}
	assert.Equal(t, "100 files/s", FileRates([]job.Run{run(30, 3000, 70e6), run(20, 3000, 70e6), aside, run(60, 3000, 70e6)}))
	assert.Equal(t, "50.0 MB/s", FileRates([]job.Run{run(20, 1, 1e9)}))
	assert.Empty(t, FileRates([]job.Run{{Value: 3}}))
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
