package job

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestCheckValue(t *testing.T) {
	seconds := Test{Name: "Start", Kind: Timed, Unit: "s"}
	rate := Test{Name: "Read", Kind: OnDrive, Unit: "MB/s"}
	iops := Test{Name: "Reads", Kind: OnDrive, Unit: "IOPS"}
	note := Test{Name: "Temperature", Kind: Note, Unit: "°C"}
	tests := []struct {
		name  string
		test  Test
		value float64
		wrong string // part of the message, or "" where it is fine
	}{
		{"a start", seconds, 92.4, ""},
		{"not a number", seconds, math.NaN(), "not a number"},
		{"endless", rate, math.Inf(1), "not a number"},
		{"negative time", seconds, -1, "negative"},
		{"zero", rate, 0, "zero"},
		{"a week", seconds, 7 * 24 * 3600, "more than two days"},
		{"bits for bytes and more", rate, 2e6, "check the unit"},
		{"more requests than there are", iops, 2e9, "check the unit"},
		{"below zero outside", note, -4, ""},
		{"a note that is no number", note, math.NaN(), "not a number"},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			err := CheckValue(&tt.test, tt.value)
			if tt.wrong == "" {
				assert.NoError(t, err)
			} else {
				assert.ErrorContains(t, err, tt.wrong)
			}
		})
	}
}

func TestCheckRunPhases(t *testing.T) {
	no := false
	start := Test{Name: "Start", Kind: Timed, Unit: "s",
		Phases: []Phase{{ID: "login"}, {ID: "typing", Counts: &no}, {ID: "desktop"}}}
	tests := []struct {
		name   string
		value  float64
		phases map[string]float64
		wrong  string
	}{
		{"sum of those that count", 92.4, map[string]float64{"login": 41.2, "typing": 8, "desktop": 51.2}, ""},
		{"to a hundredth", 92.41, map[string]float64{"login": 41.2, "typing": 8, "desktop": 51.2}, ""},
		{"more than a hundredth off", 92.42, map[string]float64{"login": 41.2, "typing": 8, "desktop": 51.2},
			"add up to 92.4"},
		{"typing added as well", 100.4, map[string]float64{"login": 41.2, "typing": 8, "desktop": 51.2},
			"add up to 92.4"},
		{"no phases", 92.4, nil, ""},
		{"an unknown phase", 41.2, map[string]float64{"login": 41.2, "nap": 3}, `no phase "nap"`},
		{"a negative phase", 10, map[string]float64{"login": 20, "desktop": -10}, "cannot be negative"},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			err := CheckRun(&start, &Run{Value: tt.value, Phases: tt.phases})
			if tt.wrong == "" {
				assert.NoError(t, err)
			} else {
				assert.ErrorContains(t, err, tt.wrong)
			}
		})
	}
	u := -0.1
	assert.ErrorContains(t, CheckRun(&start, &Run{Value: 1, U: &u}), "cannot be negative")
}

// whole is a job without faults.
func whole() *Job {
	return &Job{
		Computers: []Computer{{ID: "c"}},
		Drives: []Drive{{ID: "d1", DriveLabel: DriveLabel{Kind: HDD}},
			{ID: "d2", DriveLabel: DriveLabel{Kind: NVMe}}},
		Plan: Plan{Reference: "t2"},
		Tests: []Test{{ID: "t1", Kind: Timed, Name: "Start", Unit: "s"},
			{ID: "t2", Kind: OnDrive, Name: "Read", Unit: "MB/s"}},
		Setups: []Setup{{ID: "then", Role: Then, Computer: "c", Drive: "d1"},
			{ID: "now", Role: Now, Computer: "c", Drive: "d2", Replaces: "d1"}},
		Sittings: []Sitting{{ID: "s1", Setup: "then"}},
		Runs:     []Run{{ID: "r1", Test: "t1", Sitting: "s1", Value: 9}},
	}
}

func TestCheckFindsEveryFault(t *testing.T) {
	require.Empty(t, whole().Check())
	tests := []struct {
		name  string
		spoil func(*Job)
		place string
	}{
		{"a drive twice", func(j *Job) { j.Drives[1].ID = "d1" }, "/drives/1/id"},
		{"a run twice", func(j *Job) { j.Runs = append(j.Runs, j.Runs[0]) }, "/runs/1/id"},
		{"two Thens", func(j *Job) { j.Setups[1].Role = Then }, "/setups/1/role"},
		{"no such computer", func(j *Job) { j.Setups[0].Computer = "x" }, "/setups/0/computer"},
		{"no such drive", func(j *Job) { j.Setups[0].Drive = "" }, "/setups/0/drive"},
		{"replaces nothing known", func(j *Job) { j.Setups[1].Replaces = "x" }, "/setups/1/replaces"},
		{"no such cache drive", func(j *Job) { j.Setups[1].CacheDrive = "x" }, "/setups/1/cache_drive"},
		{"a sitting nowhere", func(j *Job) { j.Sittings[0].Setup = "x" }, "/sittings/0/setup"},
		{"a run of no test", func(j *Job) { j.Runs[0].Test = "x" }, "/runs/0/test"},
		{"a run in no sitting", func(j *Job) { j.Runs[0].Sitting = "x" }, "/runs/0/sitting"},
		{"a run below zero", func(j *Job) { j.Runs[0].Value = -1 }, "/runs/0/value"},
		{"set aside without a reason", func(j *Job) { j.Runs[0].SetAside = &SetAside{Reason: " "} },
			"/runs/0/set_aside"},
		{"a reference that is not there", func(j *Job) { j.Plan.Reference = "x" }, "/plan/reference"},
		{"a reference that is no drive test", func(j *Job) { j.Plan.Reference = "t1" }, "/plan/reference"},
		{"a timed test in MB/s", func(j *Job) { j.Tests[0].Unit = "MB/s" }, "/tests/0/unit"},
		{"a phase twice", func(j *Job) { j.Tests[0].Phases = []Phase{{ID: "p"}, {ID: "p"}} }, "/tests/0/phases/1/id"},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			j := whole()
			tt.spoil(j)
			var places []string
			for _, f := range j.Check() {
				places = append(places, f.Place)
				assert.NotEmpty(t, f.Reason)
			}
			assert.Contains(t, places, tt.place)
		})
	}
}

func TestRunsOfKeepsTheOrderOfMaking(t *testing.T) {
	j := whole()
	j.Sittings = append(j.Sittings, Sitting{ID: "s2", Setup: "then"}, Sitting{ID: "s3", Setup: "now"})
	at := j.Runs[0].At
	j.Runs = []Run{
		{ID: "c", Test: "t1", Sitting: "s2", Value: 3, At: at.Add(3)},
		{ID: "a", Test: "t1", Sitting: "s1", Value: 1, At: at.Add(1)},
		{ID: "b", Test: "t1", Sitting: "s1", Value: 2, At: at.Add(2), SetAside: &SetAside{Reason: "x"}},
		{ID: "n", Test: "t1", Sitting: "s3", Value: 4, At: at},
	}
	ids := func(runs []Run) (s string) {
		for _, r := range runs {
			s += r.ID
		}
		return s
	}
	assert.Equal(t, "abc", ids(j.RunsOf("t1", "then")))
	assert.Equal(t, "ac", ids(j.KeptRuns("t1", "then")))
	assert.Equal(t, "n", ids(j.RunsOf("t1", "now")))
	assert.Empty(t, j.RunsOf("t2", "then"))
}
