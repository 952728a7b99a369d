package work

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

var nine = time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC)

// at is a stretch from a minute after nine to another; to -1 runs.
func at(kind job.StretchKind, from, to float64, broke string) job.Stretch {
	minute := func(m float64) time.Time { return nine.Add(time.Duration(m * float64(time.Minute))) }
	s := job.Stretch{From: minute(from), Kind: kind, Broke: broke}
	if to >= 0 {
		s.To = minute(to)
	}
	return s
}

// visited is a job whose old drive reads 100 MB/s and whose new one writes 450, as measured; both are rated higher.
func visited(tasks ...job.Task) *job.Job {
	j := &job.Job{
		Head: job.Head{Tasks: tasks},
		Drives: []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Rated: &job.Rated{ReadMBs: 160}}},
			{ID: "d2", DriveLabel: job.DriveLabel{Rated: &job.Rated{WriteMBs: 500}}}},
		Setups:   []job.Setup{{ID: "then", Role: job.Then, Drive: "d1"}, {ID: "now", Role: job.Now, Drive: "d2"}},
		Tests:    []job.Test{{ID: catalogue.LongRead}, {ID: catalogue.LongWrite}},
		Sittings: []job.Sitting{{ID: "s1", Setup: "then"}, {ID: "s2", Setup: "now"}},
	}
	for _, v := range []float64{90, 100, 130} {
		j.Runs = append(j.Runs, job.Run{Test: catalogue.LongRead, Sitting: "s1", Value: v},
			job.Run{Test: catalogue.LongWrite, Sitting: "s2", Value: v * 4.5})
	}
	j.Runs = append(j.Runs,
		job.Run{Test: catalogue.LongRead, Sitting: "s1", Value: 1, SetAside: &job.SetAside{Reason: "x"}})
	return j
}

// What is left of a transfer is said while it runs: at least what its drives need for its size, and about what is usual
// here. Where it takes longer, nothing is.
func TestWhatIsLeft(t *testing.T) {
	earlier := []job.Task{}
	for _, minutes := range []float64{60, 80, 100} {
		earlier = append(earlier, job.Task{ID: "e", What: job.Cloning, Bytes: 200e9,
			Stretches: []job.Stretch{at(job.Waiting, 0, minutes, "")}})
	}
	for name, c := range map[string]struct {
		bytes         int64
		since, to     float64
		earlier       []job.Task
		left, atLeast float64 // minutes; 0: nothing is said
	}{
		"its drives' rate alone":      {300e9, 50, -1, nil, 0, 40},
		"and what is usual":           {300e9, 50, -1, earlier, 110, 40},
		"longer than its drives need": {30e9, 50, -1, earlier, 2, 0},
		"longer than is usual":        {15e9, 50, -1, earlier, 0, 0},
		"its size is not known":       {0, 50, -1, earlier, 0, 0},
		"it has ended":                {300e9, 30, 50, earlier, 0, 0},
	} {
		t.Run(name, func(t *testing.T) {
			s := Of(visited(job.Task{ID: "a", What: job.Cloning, From: job.FromOldDrive, Bytes: c.bytes,
				Stretches: []job.Stretch{at(job.Waiting, c.since, c.to, "")}}), c.earlier, nine.Add(time.Hour)).Tasks[0]
			for what, of := range map[string][2]any{"left": {s.Left, c.left}, "at least": {s.AtLeast, c.atLeast}} {
				got, want := of[0].(*float64), of[1].(float64)
				if want == 0 {
					assert.Nil(t, got, what)
				} else if assert.NotNil(t, got, what) {
					assert.InDelta(t, want, *got, 1e-9, what)
				}
			}
		})
	}
}

func TestTimeOfAVisit(t *testing.T) {
	s := Of(visited(
		job.Task{ID: "a", What: job.Cloning,
			Stretches: []job.Stretch{at(job.HandsOn, 0, 5, ""), at(job.Waiting, 5, 35, "the cable slipped"),
				at(job.Waiting, 40, -1, "")}},
		job.Task{ID: "b", What: job.OtherTask, Stretches: []job.Stretch{at(job.HandsOn, 40, 52, "")}},
		// whose device's clock runs ahead
		job.Task{ID: "c", What: job.Installing, Stretches: []job.Stretch{at(job.Waiting, 70, -1, "")}},
	), nil, nine.Add(time.Hour))
	require.Len(t, s.Tasks, 3)
	assert.Equal(t, []float64{5 * 60, 50 * 60, 1},
		[]float64{s.Tasks[0].HandsOn, s.Tasks[0].Waiting, float64(s.Tasks[0].Broke)})
	assert.Equal(t, []float64{12 * 60, 0}, []float64{s.Tasks[1].HandsOn, s.Tasks[1].Waiting})
	assert.Equal(t, 0.0, s.Tasks[2].Waiting, "no time is less than none")
	assert.Equal(t, []float64{17 * 60, 50 * 60}, []float64{s.HandsOn, s.Waiting})
}

func TestRateOfATransfer(t *testing.T) {
	const gb = 1_000_000_000
	whole := []job.Stretch{at(job.HandsOn, 0, 5, ""), at(job.Waiting, 5, 20, "")}
	for name, c := range map[string]struct {
		task   job.Task
		change func(*job.Job)
		rate   float64 // 0: none
		could  float64
		slower string
	}{
		"a clone goes as the old drive reads": {job.Task{What: job.Cloning, From: job.FromOldDrive, Bytes: 120 * gb,
			Stretches: whole}, nil, 100, 100, "then"},
		"a backup, as the new one writes": {job.Task{What: job.Restoring, From: job.FromBackup, Bytes: 60 * gb,
			Stretches: whole}, nil, 50, 450, "now"},
		"from where is not known": {job.Task{What: job.Copying, Bytes: 60 * gb, Stretches: whole}, nil, 50,
			450, "now"},
		"how much is not known": {job.Task{What: job.Cloning, From: job.FromOldDrive, Stretches: whole},
			nil, 0, 100, "then"},
		"it runs": {job.Task{What: job.Cloning, From: job.FromOldDrive, Bytes: gb,
			Stretches: []job.Stretch{at(job.Waiting, 0, -1, "")}}, nil, 0, 100, "then"},
		"never begun": {job.Task{What: job.Cloning, From: job.FromOldDrive, Bytes: gb}, nil, 0,
			100, "then"},
		"an attempt that broke off counts no more": {job.Task{What: job.Cloning, From: job.FromOldDrive, Bytes: 60 * gb,
			Stretches: []job.Stretch{at(job.Waiting, 0, 100, "a bad sector"), at(job.Waiting, 100, 110, "")}}, nil, 100,
			100, "then"},
		"it broke off, and that was all": {job.Task{What: job.Cloning, From: job.FromOldDrive, Bytes: 60 * gb,
			Stretches: []job.Stretch{at(job.Waiting, 0, 100, "a bad sector")}}, nil, 0, 100, "then"},
		"installing moves nobody knows what": {job.Task{What: job.Installing, From: job.FromInstaller, Bytes: gb,
			Stretches: whole}, nil, 0, 0, ""},
		"not measured: as rated": {job.Task{What: job.Cloning, From: job.FromOldDrive, Bytes: 120 * gb,
			Stretches: whole}, func(j *job.Job) { j.Runs = nil }, 100, 160, "then"},
		"neither": {job.Task{What: job.Cloning, From: job.FromOldDrive, Bytes: 120 * gb, Stretches: whole},
			func(j *job.Job) {
				j.Runs, j.Drives = nil, []job.Drive{{ID: "d1"}}
			}, 100, 0, ""},
	} {
		t.Run(name, func(t *testing.T) {
			j := visited(c.task)
			if c.change != nil {
				c.change(j)
			}
			s := Of(j, nil, nine.Add(time.Hour)).Tasks[0]
			or0 := func(v *float64) float64 {
				if v == nil {
					return 0
				}
				return *v
			}
			assert.InDelta(t, c.rate, or0(s.Rate), 1e-9, "rate")
			assert.InDelta(t, c.could, or0(s.Could), 1e-9, "could")
			assert.Equal(t, c.slower, s.Slower)
		})
	}
}

func TestWhatIsUsual(t *testing.T) {
	took := func(what job.TaskKind, bytes int64, stretches ...job.Stretch) job.Task {
		return job.Task{ID: "e", What: what, Bytes: bytes, Stretches: stretches}
	}
	earlier := []job.Task{
		took(job.Cloning, 100, at(job.Waiting, 0, 10, "")),
		took(job.Cloning, 200, at(job.Waiting, 0, 90, "it hung"), at(job.Waiting, 90, 120, "")), // 30 min for 200
		took(job.Cloning, 100, at(job.Waiting, 0, 20, "")),
		took(job.Cloning, 0, at(job.Waiting, 0, 500, "")),  // how much, nobody knows
		took(job.Cloning, 100, at(job.Waiting, 0, -1, "")), // runs yet
		took(job.Cloning, 100, at(job.Waiting, 0, 7, "broke")),
		took(job.Installing, 0, at(job.HandsOn, 0, 20, "")),
		took(job.Installing, 0, at(job.HandsOn, 0, 40, "")),
	}
	usual := func(t job.Task, earlier []job.Task) (float64, int) {
		s := Of(visited(t), earlier, nine).Tasks[0]
		if s.Usual == nil {
			return 0, s.Of
		}
		return *s.Usual, s.Of
	}
	m, of := usual(job.Task{ID: "a", What: job.Cloning, Bytes: 300}, earlier)
	assert.InDelta(t, 45, m, 1e-9, "0.1, 0.15 and 0.2 min for one: as many bytes as it moves itself")
	assert.Equal(t, 3, of)
	m, of = usual(job.Task{ID: "a", What: job.Cloning}, earlier)
	assert.InDelta(t, 25, m, 1e-9, "of those of any size, where its own is not known")
	assert.Equal(t, 4, of)
	m, of = usual(job.Task{ID: "a", What: job.Installing}, earlier)
	assert.Zero(t, m, "two are too few")
	assert.Equal(t, 2, of)
	_, of = usual(job.Task{ID: "e", What: job.Installing}, earlier)
	assert.Zero(t, of, "it is not its own past")
}

// What took no time has no rate, and one of half a second has.
func TestTransfersOfNoTime(t *testing.T) {
	const gb = 1_000_000_000
	rate := func(stretches ...job.Stretch) *float64 {
		return Of(visited(job.Task{ID: "a", What: job.Cloning, Bytes: gb, Stretches: stretches}), nil,
			nine.Add(time.Hour)).Tasks[0].Rate
	}
	assert.Nil(t, rate())
	assert.Nil(t, rate(at(job.Waiting, 5, 5, "")))
	assert.Nil(t, rate(at(job.Waiting, 5, 20, "it broke off")))
	assert.Nil(t, Of(visited(job.Task{ID: "a", What: job.Cloning,
		Stretches: []job.Stretch{at(job.Waiting, 5, 20, "")}}), nil, nine.Add(time.Hour)).Tasks[0].Rate,
		"nobody said how much it was")
	quick := rate(at(job.Waiting, 5, 5+0.5/60, ""))
	require.NotNil(t, quick)
	assert.InDelta(t, 2000, *quick, 0.1)
}
