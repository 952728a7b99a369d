package side

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

func indexed(t *job.Test, runs ...job.Run) *job.Index {
	j := &job.Job{Drives: []job.Drive{{ID: "d", DriveLabel: job.DriveLabel{Kind: job.HDD}}},
		Setups: []job.Setup{{ID: "then", Role: job.Then, Drive: "d"}}, Tests: []job.Test{*t}}
	seen := map[string]bool{}
	at := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
	for i := range runs {
		r := &runs[i]
		r.ID, r.Test, r.At = string(rune('a'+i)), t.ID, at.Add(time.Duration(i)*time.Minute)
		if r.Sitting == "" {
			r.Sitting = "s"
		}
		if !seen[r.Sitting] {
			seen[r.Sitting] = true
			j.Sittings = append(j.Sittings, job.Sitting{ID: r.Sitting, Setup: "then"})
		}
	}
	j.Runs = runs
	return j.Indexed()
}

func TestInstrument(t *testing.T) {
	no := false
	phased := []job.Phase{{ID: "a"}, {ID: "b", Counts: &no}, {ID: "c"}}
	tests := []struct {
		name string
		test job.Test
		run  job.Run
		want float64
	}{
		{"as it states", job.Test{Unit: "s"}, job.Run{Method: job.Stopwatch, U: new(0.3)}, 0.3},
		{"stopwatch", job.Test{Unit: "s"}, job.Run{Method: job.Stopwatch, Value: 9}, math.Sqrt2 * 0.20},
		{"a password in the middle adds two presses", job.Test{Unit: "s", Phases: phased},
			job.Run{Method: job.Stopwatch, Value: 9, Phases: map[string]float64{"a": 4, "b": 9, "c": 5}}, 2 * 0.20},
		{"a hold of half a second adds two presses as well", job.Test{Unit: "s"},
			job.Run{Method: job.Stopwatch, Value: 9, Held: 0.5}, 2 * 0.20},
		{"a hold adds two presses", job.Test{Unit: "s"}, job.Run{Method: job.Stopwatch, Value: 9, Held: 3}, 2 * 0.20},
		{"finish line", job.Test{Unit: "s"}, job.Run{Method: job.FinishLine, Value: 9}, 0.20},
		{"video", job.Test{Unit: "s"}, job.Run{Method: job.Video, Value: 9}, math.Sqrt2 / 30 / math.Sqrt(12)},
		{"typed time", job.Test{Unit: "s"}, job.Run{Method: job.Typed, Value: 9.25}, 0.5},
		{"typed in minutes, as given", job.Test{Unit: "s"}, job.Run{Method: job.Typed, Value: 90, Given: "1.5 min"},
			3 / math.Sqrt(3)},
		{"typed rate", job.Test{Unit: "MB/s"}, job.Run{Method: job.Typed, Value: 512}, 0.5 / math.Sqrt(3)},
		{"typed rate, a digit more", job.Test{Unit: "MB/s"},
			job.Run{Method: job.Typed, Value: 512, Given: "512.0 MB/s"}, 0.05 / math.Sqrt(3)},
		{"automatic", job.Test{Unit: "s"}, job.Run{Method: job.Automatic, Value: 9}, 0.01 / math.Sqrt(12)},
		{"a drive test's own half-width", job.Test{Kind: job.OnDrive, Unit: "MB/s"},
			job.Run{Method: job.Automatic, Value: 200, HalfWidthPct: new(1.96)}, 2},
		{"and its clock", job.Test{Kind: job.OnDrive, Unit: "MB/s"},
			job.Run{Method: job.Automatic, Value: 200, Seconds: 0.5}, 200 * 0.002 / math.Sqrt(12)},
		{"a reading without either", job.Test{Kind: job.Note, Unit: "W"}, job.Run{Method: job.Automatic, Value: 9}, 0},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) { assert.InDelta(t, tt.want, Uncertainty(&tt.test, &tt.run), 1e-12) })
	}
}

// What is new with each run is lessened by more of them; what is the same each time is
// not, and decides where methods are mixed.
func TestMoreRunsLessenOnlyWhatIsNewEachTime(t *testing.T) {
	wait := &job.Test{ID: "t", Kind: job.Timed, Unit: "s", Better: job.Lower}
	run := func(method job.Method) job.Run { return job.Run{Value: 10, Method: method, U: new(0.2)} }
	s := Of(indexed(wait, run(job.Stopwatch), run(job.Stopwatch), run(job.Video), run(job.FinishLine)), wait, "then")
	assert.InDelta(t, 0.0004/4, s.Instrument, 1e-12)
	s = Of(indexed(wait, run(job.Stopwatch), run(job.Typed)), wait, "then")
	assert.InDelta(t, 0.0004, s.Instrument, 1e-12)
	drive := &job.Test{ID: "t", Kind: job.OnDrive, Unit: "MB/s", Better: job.Higher}
	s = Of(indexed(drive, run(job.Automatic), run(job.Automatic)), drive, "then")
	assert.InDelta(t, 0.0002, s.Instrument, 1e-12)
}

func TestUsualSpreadByKindAndJob(t *testing.T) {
	assert.Equal(t, job.Usual{Within: 0.04, Between: 0.02, Weight: 6}, Usual(&job.Job{}, job.Timed))
	assert.Equal(t, job.Usual{Within: 0.02, Between: 0.015, Weight: 6}, Usual(&job.Job{}, job.OnDrive))
	assert.Equal(t, job.Usual{Within: 0.06, Between: 0.025, Weight: 6}, Usual(&job.Job{}, job.OnFiles))
	assert.Equal(t, job.Usual{Within: 0.01, Between: 0.005, Weight: 6}, Usual(&job.Job{}, job.Control))
	assert.Equal(t, job.Usual{Within: 0.05, Between: 0.03, Weight: 6}, Usual(&job.Job{}, job.Note))
	own := job.Usual{Within: 0.1, Between: 0.2, Weight: 5}
	j := &job.Job{Usual: map[job.Kind]job.Usual{job.Timed: own}}
	assert.Equal(t, own, Usual(j, job.Timed))
	assert.Equal(t, 0.02, Usual(j, job.OnDrive).Within, "kinds that are absent keep the table")
}

func TestSide(t *testing.T) {
	wait := &job.Test{ID: "t", Kind: job.Timed, Unit: "s", Better: job.Lower}
	assert.Nil(t, Of(indexed(wait), wait, "then"))
	assert.False(t, (*Side)(nil).HasRatio())

	// A single run has the prior's spread: 0.04² within, 0.02² between.
	s := Of(indexed(wait, job.Run{Value: 50, U: new(0.5)}), wait, "then")
	assert.InDelta(t, 0.0016, s.Within, 1e-15)
	assert.InDelta(t, 0.0004, s.Between, 1e-15)
	assert.InDelta(t, 0.0001, s.Instrument, 1e-15)
	assert.Equal(t, 6.0, s.WithinPart().Freedom)

	// ln 100 and ln 110 differ by 0.0953102: SS = 0.0045420, (6·0.0016 + SS) ÷ 7 ÷ 2.
	s = Of(indexed(wait, job.Run{Value: 100, U: new(0.0)}, job.Run{Value: 110, U: new(0.0)}), wait, "then")
	assert.InDelta(t, (6*0.0016+math.Pow(math.Log(1.1), 2)/2)/7/2, s.Within, 1e-12)
	assert.Equal(t, 105.0, s.Centre)
	assert.Equal(t, 7.0, s.WithinPart().Freedom)

	// Two sittings halve what each brings.
	s = Of(indexed(wait, job.Run{Value: 100, Sitting: "a", U: new(0.0)},
		job.Run{Value: 100, Sitting: "b", U: new(0.0)}), wait, "then")
	assert.Equal(t, 2, s.Sittings)
	assert.InDelta(t, 6*0.0004/7/2, s.Between, 1e-15)

	low := Of(indexed(wait, job.Run{Value: 0.5, U: new(0.0)}), wait, "then")
	assert.True(t, low.HasRatio(), "under a second is a time")
	below := Of(indexed(&job.Test{ID: "t", Kind: job.Note, Unit: "W"}, job.Run{Value: 0}),
		&job.Test{ID: "t", Kind: job.Note, Unit: "W"}, "then")
	assert.False(t, below.HasRatio(), "nothing has no logarithm")

	f := s.Further(2)
	assert.Equal(t, 4, f.N)
	assert.Equal(t, 2, s.N, "the side itself stays")
	assert.InDelta(t, 6*0.0004/7*(1.0/16+9.0/16), f.Between, 1e-15, "one and three runs")

	bound := Of(indexed(wait, job.Run{Value: 30, Bound: job.BoundBelow}), wait, "then")
	assert.False(t, bound.HasRatio())
	assert.True(t, math.IsNaN(bound.HalfWidth()))
	require.Zero(t, bound.Within)
}

func TestRatesOfFiles(t *testing.T) {
	copying := &job.Test{ID: "t", Kind: job.OnFiles, Unit: "s", Better: job.Lower}
	s := Of(indexed(copying, job.Run{Value: 20, Files: 3000, Bytes: 1e9}, job.Run{Value: 30, Files: 3000, Bytes: 1e9},
		job.Run{Value: 25, Files: 3000, Bytes: 1e9}), copying, "then")
	assert.Equal(t, &Rates{MBs: 40, FilesS: new(120.0)}, s.Rates)
	for name, r := range map[string]job.Run{"neither": {Value: 20}, "no files": {Value: 20, Bytes: 9},
		"no bytes": {Value: 20, Files: 9}} {
		assert.Nil(t, Of(indexed(copying, r), copying, "then").Rates, name)
	}
	assert.NotNil(t, Of(indexed(copying, job.Run{Value: 0.5, Files: 1, Bytes: 1}), copying, "then").Rates)
}
