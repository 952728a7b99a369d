package plan

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

func TestByHand(t *testing.T) {
	for _, tt := range []struct {
		name string
		test job.Test
		want bool
	}{
		{"a wait", job.Test{Kind: job.Timed, Unit: "s"}, true},
		{"files, by hand", job.Test{Kind: job.OnFiles, Unit: "s"}, true},
		{"a control that is a wait", job.Test{Kind: job.Control, Unit: "s"}, true},
		{"a note in seconds", job.Test{Kind: job.Note, Unit: "s"}, false},
		{"a control in points", job.Test{Kind: job.Control, Unit: "points"}, false},
		{"noise", job.Test{Kind: job.Note, Unit: "dB(A)"}, false},
		{"the program runs it", catalogue.Tests(0, 0, "t-copy-large")[0], false},
		{"the drive", catalogue.Tests(0, 0, catalogue.LongRead)[0], false},
	} {
		assert.Equal(t, tt.want, ByHand(&tt.test), tt.name)
	}
}

// A single page that opens is as good a finish line as four.
func TestAPageIsAFinishLine(t *testing.T) {
	page := job.Test{Kind: job.Timed, Unit: "s", What: "browser-pages", Pages: 1}
	assert.Equal(t, MeansFinishLine, Best(&page))
	page.Pages = 0
	assert.Equal(t, MeansByHand, Best(&page))
	page.What = "start-browser"
	assert.Equal(t, MeansFinishLine, Best(&page))
	assert.InDelta(t, 1.0/30, usualFrame, 1e-12, "a phone's video, 30 frames a second")
	assert.InDelta(t, 0.02, usualTrip, 1e-12)
}

// Unattended tests need no hands, but their time counts in the sum.
func TestARunTakesHandsAndWaiting(t *testing.T) {
	j := visit()
	j.Tests = catalogue.Tests(0, 0, "t-export")
	n := Of(j).Next()
	assert.Equal(t, "time", n.Do)
	assert.InDelta(t, 2*(1+8), n.Minutes, 1e-9, "two exports: a minute with hands, eight of waiting")
	assert.Nil(t, n.Unattended, "nothing runs by itself")
	j.Tests[0].Wanted = 5
	add(j, "t-export", "s1", 1)
	assert.InDelta(t, 4*(1+8), Of(j).Next().Minutes, 1e-9)
	j.Tests = catalogue.Tests(0, 0, "t-noise")
	j.Tests[0].Wanted, j.Runs = 4, nil
	n = Of(j).Next()
	assert.Equal(t, "type", n.Do)
	assert.InDelta(t, 4*0.5, n.Minutes, 1e-9)
}

func TestSayWhichDrive(t *testing.T) {
	n := Of(&job.Job{}).Next()
	assert.Equal(t, Next{Do: "fit", Words: "Enter the drive that is in it.", Minutes: 1, Hands: true,
		Needs: []string{}}, n)
	j := visit()
	addAll(j, "s1")
	j.Setups, j.Head.Gates = j.Setups[:1], []job.Gate{{Name: job.GateOldDriveOut}}
	assert.Equal(t, Next{Do: "fit", Words: "Enter the new drive.", Minutes: 1, Hands: true, Needs: []string{}},
		Of(j).Next())
	j.Head.Gates, j.Tests, j.Runs = nil, nil, nil
	assert.Equal(t, AtThen, Of(j).Here(), "where nothing is planned, nothing is done")
}

// What is missing at the gate: the first of it, and how many more.
func TestTheGateNamesTheFirst(t *testing.T) {
	j := visit()
	addAll(j, "s1")
	for _, tt := range []struct {
		name string
		lose func()
		want string
	}{
		{"nothing", func() {}, "All measured. The old drive can come out."},
		{"one", func() { j.Plan.Steps = []job.Step{{ID: job.BackupStep}} },
			"Before the old drive comes out: the backup is not ticked off."},
		{"two", func() { j.Sittings[0].Conditions.FillPct = nil },
			"Before the old drive comes out: the backup is not ticked off, and 1 more."},
		{"three", func() { j.Sittings[0].Conditions.Power = "" },
			"Before the old drive comes out: mains or battery is not noted, and 2 more."},
	} {
		tt.lose()
		assert.Equal(t, tt.want, Of(j).Next().Words, tt.name)
	}
	j.Setups[0].UsedBytes = 1
	assert.Len(t, Of(j).BeforeOldDriveOut(), 2, "a byte is a figure")
}

// The list of what runs automatically names four, and five where the fifth would stand alone.
func TestWhatRunsByItselfIsNamed(t *testing.T) {
	for n, want := range map[int]string{
		4: "Measure the drive (Then): A, B, C, D.",
		5: "Measure the drive (Then): A, B, C, D, E.",
		6: "Measure the drive (Then): A, B, C, D, 2 more.",
		7: "Measure the drive (Then): A, B, C, D, 3 more.",
	} {
		j := visit()
		read := catalogue.Tests(0, 0, catalogue.LongRead)[0]
		j.Tests = nil
		for i := range n {
			read.ID, read.Name = fmt.Sprint(i), string(rune('A'+i))
			j.Tests = append(j.Tests, read)
		}
		assert.Equal(t, want, Of(j).Next().Words)
	}
}

// A control that was copied from an earlier job counts for that job alone.
func TestAControlIsWantedAgain(t *testing.T) {
	j := visit()
	j.Tests = catalogue.Tests(0, 0, catalogue.ColdStart, "t-processor")
	j.Sittings = append(j.Sittings, job.Sitting{ID: "old", Setup: "then", Job: "N-0001"})
	for _, test := range j.Tests {
		add(j, test.ID, "old", 2)
		add(j, test.ID, "s1", 1)
	}
	covers := Of(j).Coverage("then")
	assert.Equal(t, 3, covers[0].Kept)
	assert.Equal(t, 1, covers[1].Kept)
}

func TestWhatIsWanted(t *testing.T) {
	assert.Equal(t, 3, Wanted(&job.Test{}), "the usual number")
	assert.Equal(t, 1, Wanted(&job.Test{Wanted: 1}))
	assert.Zero(t, Wanted(&job.Test{Wanted: 1, Retired: true}))
	j := visit()
	j.Tests = catalogue.Tests(0, 0, "t-noise")
	j.Tests[0].Retired = true
	assert.False(t, Of(j).Coverage("then")[0].Enough, "of nothing there is never enough")
	j.Tests = catalogue.Tests(0, 0, catalogue.ColdStart)
	j.Tests[0].Wanted = 2
	add(j, catalogue.ColdStart, "s1", 1)
	require.Len(t, Of(j).BeforeOldDriveOut(), 1)
	assert.Equal(t, "Cold start to desktop has only one run on the old drive", Of(j).BeforeOldDriveOut()[0].What)
	j.Tests[0].Wanted = 1
	assert.Empty(t, Of(j).BeforeOldDriveOut(), "one is all that is wanted")
	assert.Equal(t, AtOut, Of(j).Here(), "a plan of one test is done as well")
}

// Only a drive test that has runs in a sitting on battery was measured on battery.
func TestMeasuredOnBattery(t *testing.T) {
	j := visit()
	addAll(j, "s1")
	j.Sittings = append(j.Sittings, job.Sitting{ID: "b", Setup: "then", Conditions: job.Conditions{Power: job.Battery}})
	add(j, catalogue.ColdStart, "b", 1)
	assert.Empty(t, Of(j).BeforeOldDriveOut(), "a start is no drive test")
	add(j, catalogue.LongRead, "b", 1)
	assert.Empty(t, Of(j).BeforeOldDriveOut(), "it was measured on mains as well")
	j.Runs = slices.DeleteFunc(j.Runs,
		func(r job.Run) bool { return r.Sitting == "s1" && r.Test == catalogue.LongRead })
	add(j, catalogue.LongRead, "b", 2)
	assert.Equal(t, []Lost{{"", "the drive was measured on battery (Long read)"}}, Of(j).BeforeOldDriveOut())
}

// For an unknown drive no time is made up, and nothing breaks.
func TestABudgetOfAnUnknownDrive(t *testing.T) {
	for name, d := range map[string]job.Drive{
		"no kind": {ID: "d1"}, "another kind": {ID: "d1",
			DriveLabel: job.DriveLabel{Kind: "drum"}},
		"an empty label": {ID: "d1", DriveLabel: job.DriveLabel{Kind: job.HDD, Rated: &job.Rated{}}},
	} {
		j := visit()
		j.Drives[0] = d
		b := Of(j).Budget(&j.Setups[0])
		assert.False(t, math.IsInf(b.WaitMinutes, 0) || math.IsNaN(b.WaitMinutes), "%s: %v", name, b)
		assert.Nil(t, b.EndurancePct, name)
		addAll(j, "s1")
		b = Of(j).Budget(&j.Setups[0])
		assert.Zero(t, b.WaitMinutes, name)
		assert.Zero(t, b.WriteBytes, name)
	}
	j := visit()
	j.Drives[0].Rated = &job.Rated{EnduranceTB: 0.5}
	require.NotNil(t, Of(j).Budget(&j.Setups[0]).EndurancePct)
}

// What was done stays when another template is taken: ticks in their place, and steps that
// the template lacks where they were ticked or have photos.
func TestApplyKeepsWhatWasDone(t *testing.T) {
	j := visit()
	Apply(j, templateNamed(t, DefaultTemplate), 0, 0)
	require.Equal(t, "charger", j.Plan.Steps[0].ID)
	j.Step("charger").Done = &job.Tick{By: "Runa"}
	j.Step("screws").Photos = []job.Photo{{ID: "p"}}
	n := len(j.Plan.Steps)
	Apply(j, templateNamed(t, "laptop"), 0, 0)
	assert.Len(t, j.Plan.Steps, n, "none stands twice")
	assert.NotNil(t, j.Plan.Steps[0].Done)

	Apply(j, templateNamed(t, "office"), 0, 0) // has no charger
	assert.Equal(t, "Runa", j.Step("charger").Done.By)
	assert.Len(t, j.Plan.Steps, n)
	Apply(j, templateNamed(t, "quick"), 0, 0) // has no screws
	assert.Len(t, j.Step("screws").Photos, 1)

	j = visit()
	Apply(j, templateNamed(t, DefaultTemplate), 0, 0)
	Apply(j, templateNamed(t, "office"), 0, 0)
	assert.Nil(t, j.Step("charger"), "it was never done")
}

// A test's file: what is asked for, else by the room that is known to be left.
func TestSpanOf(t *testing.T) {
	read := catalogue.Tests(0, 0, catalogue.LongRead)[0]
	for _, tt := range []struct {
		name           string
		capacity, used int64
		asked, want    int64
	}{
		{"nothing is known of what is in use", 8e9, 0, 0, 4 << 30},
		{"a byte is in use", 8e9, 1, 0, 1 << 30},
		{"a byte is asked for", 8e9, 0, 1, 1},
	} {
		j := visit()
		j.Drives[0].CapacityBytes, j.Setups[0].UsedBytes = tt.capacity, tt.used
		assert.Equal(t, tt.want, spanOf(j, &read, tt.asked), tt.name)
	}
	j := visit()
	j.Setups = j.Setups[1:]
	assert.Zero(t, spanOf(j, &read, 0), "there is no Then")
	j = visit()
	j.Setups[0].Drive = "gone"
	assert.Zero(t, spanOf(j, &read, 0), "its drive is not known")
}

func TestHeadlineIsAWait(t *testing.T) {
	j := &job.Job{Tests: []job.Test{{ID: "a", Kind: job.Timed, Retired: true}, {ID: "b", Kind: job.Note},
		{ID: "c", Kind: job.OnDrive}, {ID: "d", Kind: job.OnFiles}, {ID: "e", Kind: job.Timed}}}
	assert.Equal(t, "d", Headline(j))
	j.Tests[3].Retired = true
	assert.Equal(t, "e", Headline(j))
	j.Tests = j.Tests[:4]
	assert.Empty(t, Headline(j))
}

func TestAskAddsWhatIsMissing(t *testing.T) {
	j := visit()
	j.Tests = catalogue.Tests(0, 0, catalogue.ColdStart, "t-wake")
	j.Plan.Questions = []job.Question{{ID: catalogue.AskStarts, Answer: 9}}
	Ask(j)
	require.Len(t, j.Plan.Questions, 2)
	assert.Equal(t, 9.0, j.Plan.Questions[0].Answer, "what was answered stays")
	assert.Equal(t, catalogue.AskWakes, j.Plan.Questions[1].ID)
	Ask(j)
	assert.Len(t, j.Plan.Questions, 2)
}

// Each thing that makes another measurement of a test, by itself.
func TestEachDifferenceMakesAnother(t *testing.T) {
	for name, change := range map[string]func(*job.Test){
		"kind":      func(t *job.Test) { t.Kind = job.Note },
		"what":      func(t *job.Test) { t.What = "else" },
		"unit":      func(t *job.Test) { t.Unit = "min" },
		"direction": func(t *job.Test) { t.Better = job.Higher },
		"warmth":    func(t *job.Test) { t.Warmth = "warm" },
		"start":     func(t *job.Test) { t.StartKind = "else" },
		"content":   func(t *job.Test) { t.Content = "else" },
		"pages":     func(t *job.Test) { t.Pages++ },
		"phases":    func(t *job.Test) { t.Phases = append(t.Phases, job.Phase{ID: "more"}) },
		"params":    func(t *job.Test) { t.Params = catalogue.Tests(0, 0, catalogue.LongRead)[0].Params },
		"work":      func(t *job.Test) { t.FileWork = catalogue.Tests(0, 0, "t-copy-large")[0].FileWork },
	} {
		a, b := catalogue.Tests(0, 0, "t-launch")[0], catalogue.Tests(0, 0, "t-launch")[0]
		require.True(t, SameMeasurement(&a, &b))
		change(&b)
		assert.False(t, SameMeasurement(&a, &b), name)
	}
}

// A test of elsewhere goes by the job's own id where there is one, else by one that is free.
func TestAdopt(t *testing.T) {
	j := visit()
	start := j.Tests[0]
	start.ID = "theirs"
	assert.Equal(t, catalogue.ColdStart, Adopt(j, start), "it is the first of the job's")
	assert.Len(t, j.Tests, 4)
	for n, want := range []string{"t-launch", "t-launch-2", "t-launch-3"} {
		other := catalogue.Tests(0, 0, "t-launch")[0]
		other.Content = fmt.Sprint(n)
		assert.Equal(t, want, Adopt(j, other))
		require.NotNil(t, j.Test(want))
		assert.Equal(t, other.Content, j.Test(want).Content)
	}
	assert.Len(t, j.Tests, 7)
}
