package plan

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

func TestCatalogueIsSound(t *testing.T) {
	ids := map[string]bool{}
	for _, e := range catalogue.All() {
		assert.False(t, ids[e.Test.ID], "%s stands twice", e.Test.ID)
		ids[e.Test.ID] = true
		assert.NotEmpty(t, e.Group)
		assert.Positive(t, Wanted(&e.Test))
		if e.Test.Kind == job.OnDrive {
			assert.NoError(t, e.Test.Params.Check(), e.Test.Name)
		} else if e.Test.Automatic() {
			assert.Zero(t, e.Hands, "%s takes no hand", e.Test.Name)
			assert.Positive(t, e.Wait, e.Test.Name)
		} else {
			assert.Positive(t, e.Hands, "%s takes a hand", e.Test.Name)
		}
		if e.Test.Usage != "" {
			assert.Contains(t, questions, e.Test.Usage, e.Test.Name)
		}
	}
}

func TestTemplatesAreSound(t *testing.T) {
	names := map[string]bool{}
	for _, tt := range Templates() {
		assert.False(t, names[tt.Name])
		names[tt.Name] = true
		assert.NotEmpty(t, tt.Tests, tt.Name)
		assert.LessOrEqual(t, len(tt.Questions), 4, "a few quick questions")
		assert.False(t, tt.Shop)
		ids := map[string]bool{}
		for _, s := range tt.Steps {
			assert.False(t, ids[s.ID], "%s: %s", tt.Name, s.ID)
			ids[s.ID] = true
		}
		assert.True(t, ids[job.BackupStep], "%s: a backup", tt.Name)
		for _, test := range tt.Tests {
			asked := test.Usage == "" ||
				slices.ContainsFunc(tt.Questions, func(q job.Question) bool { return q.ID == test.Usage })
			assert.True(t, asked || test.Kind == job.OnFiles, "%s: nobody asks how often %s", tt.Name, test.Name)
		}
	}
	require.Len(t, names, 8)
}

func TestTheFailingComputerIsNotWrittenTo(t *testing.T) {
	j := visit()
	Apply(j, templateNamed(t, "failing"), 0, 0)
	assert.Zero(t, Of(j).Budget(&j.Setups[0]).WriteBytes)
}

func TestTheQuickCheckIsQuick(t *testing.T) {
	j := visit()
	j.Drives[0].Kind = job.SataSSD
	Apply(j, templateNamed(t, "quick"), 0, 0)
	b := Of(j).Budget(&j.Setups[0])
	assert.LessOrEqual(t, b.HandsMinutes+b.WaitMinutes, 10.0)
}

func templateNamed(t *testing.T, id string) Template {
	t.Helper()
	for _, tt := range Templates() {
		if tt.ID == id {
			return tt
		}
	}
	t.Fatalf("no template %s", id)
	return Template{}
}

func TestApplyKeepsWhatHasRuns(t *testing.T) {
	j := visit()
	Apply(j, templateNamed(t, DefaultTemplate), 64<<20, 0.5)
	assert.Equal(t, []string{catalogue.ScatteredRead}, j.References())
	assert.Equal(t, catalogue.ColdStart, j.Plan.Headline, "named before anything is measured")
	assert.Equal(t, 7.0, j.Test(catalogue.ColdStart).PerWeek, "once a day")
	add(j, catalogue.ColdStart, "s1", 1)
	add(j, catalogue.LongWrite, "s1", 1)
	j.Step(job.BackupStep).Done = &job.Tick{By: "Runa"}
	j.Plan.Questions[0].Answer = 4

	Apply(j, templateNamed(t, "capacity"), 64<<20, 0.5)
	assert.Equal(t, "capacity", j.Plan.Template)
	assert.False(t, j.Test(catalogue.ColdStart).Retired)
	assert.Equal(t, 28.0, j.Test(catalogue.ColdStart).PerWeek, "answers stay")
	assert.True(t, j.Test(catalogue.LongWrite).Retired, "it has a run and is not in the new plan")
	assert.Nil(t, j.Test(catalogue.ScatteredRead), "it had no run")
	assert.Equal(t, int64(64<<20), j.Test(catalogue.LongRead).Params.SpanBytes)
	assert.Equal(t, "Runa", j.Step(job.BackupStep).Done.By, "ticks stay")
	assert.Empty(t, j.Plan.Reference)
	assert.Zero(t, Wanted(j.Test(catalogue.LongWrite)))
}

func TestFromJobLeavesTheVisitBehind(t *testing.T) {
	j := visit()
	Apply(j, templateNamed(t, "games"), 0, 0)
	j.Step(job.BackupStep).Done = &job.Tick{}
	j.Test(catalogue.LongWrite).Retired = true
	own := FromJob(j, "X", "Ours")
	assert.True(t, own.Shop)
	assert.Len(t, own.Tests, len(j.Tests)-1)
	for _, s := range own.Steps {
		assert.Nil(t, s.Done)
	}
	assert.NotNil(t, j.Step(job.BackupStep).Done, "the job's own stays")
}

func TestBudget(t *testing.T) {
	j := visit()
	Apply(j, templateNamed(t, DefaultTemplate), 0, 0)
	j.Drives[0].Rated = &job.Rated{WriteMBs: 100, EnduranceTB: 100}
	span := catalogue.SpanFor(job.HDD, 0)
	b := Of(j).Budget(&j.Setups[0])
	assert.InDelta(t, 12, b.HandsMinutes, 1e-9, "three starts of four minutes")
	assert.InDelta(t, 9*8.0/60+float64(span)/1e8/60, b.WaitMinutes, 1e-9, "nine runs and the laying out")
	assert.Equal(t, int64(3*8*1e8)+span, b.WriteBytes, "three long writes of 8 s at 100 MB/s")
	assert.InDelta(t, float64(b.WriteBytes)/100e12*100, *b.EndurancePct, 1e-12)
	assert.Equal(t, 3, b.Starts)
	assert.Contains(t, b.Needs, "the customer's password")
	assert.Contains(t, b.Needs, "the charger")
	add(j, catalogue.LongWrite, "s1", 3)
	assert.Equal(t, span, Of(j).Budget(&j.Setups[0]).WriteBytes, "what is done takes nothing more")
	now := Of(j).Budget(&j.Setups[1])
	assert.InDelta(t, 6, now.HandsMinutes, 1e-9, "an SSD starts sooner")
	assert.Nil(t, now.EndurancePct)
}

// One start gives several waits: the desktop, the first program and the morning's pages take three starts, not nine.
func TestTestsThatFollowShareAStart(t *testing.T) {
	j := visit()
	Apply(j, templateNamed(t, "laptop"), 0, 0)
	restarts := 2
	assert.Equal(t, 3+restarts, Of(j).Budget(&j.Setups[0]).Starts)
	for i := range j.Tests {
		j.Tests[i].Follows = ""
	}
	assert.Equal(t, 9+restarts, Of(j).Budget(&j.Setups[0]).Starts)
	add(j, "t-launch", "s1", 2)
	assert.Equal(t, 7+restarts, Of(j).Budget(&j.Setups[0]).Starts)
}

func TestExcusesAndRetiredTestsAreNotMissing(t *testing.T) {
	j := visit()
	require.Len(t, Of(j).BeforeOldDriveOut(), 4)
	j.Plan.Excuses = []job.Excuse{{Test: catalogue.ColdStart, Setup: "then", Why: "it does not start"}}
	j.Tests[1].Retired = true
	lost := Of(j).BeforeOldDriveOut()
	assert.Len(t, lost, 2)
	assert.Equal(t, "measure", Of(j).Next().Do)
	for _, l := range Of(j).BeforeMeasuredAgain() {
		assert.NotContains(t, l.What, "Long write")
	}
	assert.Equal(t, "there is no new drive in this job yet", Of(&job.Job{}).BeforeMeasuredAgain()[0].What)
}

func TestMeasuredAgainCanBeEnded(t *testing.T) {
	j := visit()
	addAll(j, "s1")
	j.Head.Gates = []job.Gate{{Name: job.GateOldDriveOut}}
	require.Equal(t, AtNow, Of(j).Here())
	j.Head.Gates = append(j.Head.Gates, job.Gate{Name: job.GateMeasured, Why: "in a hurry"})
	assert.Equal(t, AtCompare, Of(j).Here())
	assert.Len(t, Of(j).BeforeHandedBack(), 1)
}

// A drive that was put back is measured once more before hand-back: only that shows that it hasn't changed.
func TestADriveThatWasPutBackIsRunOnceMore(t *testing.T) {
	j := visit()
	const missing = "no control run after the drive was put back"
	has := func() bool {
		return slices.ContainsFunc(Of(j).BeforeHandedBack(), func(l Lost) bool { return l.What == missing })
	}
	at := time.Date(2026, 3, 1, 12, 0, 0, 0, time.UTC)
	j.Sittings = append(j.Sittings, job.Sitting{ID: "tried", Setup: "now"}, job.Sitting{ID: "again", Setup: "then"})
	run := func(sitting string, hours int) {
		j.Runs = append(j.Runs, job.Run{ID: sitting, Test: catalogue.ColdStart, Sitting: sitting, Value: 30,
			At: at.Add(time.Duration(hours) * time.Hour)})
	}
	assert.False(t, has(), "the new drive stays")
	j.Head.Stays = "then"
	assert.False(t, has(), "nothing was tried")
	run("tried", 1)
	assert.True(t, has())
	run("again", 2)
	assert.False(t, has())
}

func TestEnoughIsANarrowInterval(t *testing.T) {
	j := visit()
	cover := func() Cover { return Of(j).Coverage("then")[0] }
	add(j, catalogue.ColdStart, "s1", 1)
	assert.False(t, cover().Enough, "one run decides nothing")
	add(j, catalogue.ColdStart, "s1", 2)
	assert.True(t, cover().Enough, "three alike")
	j.Runs[0].Value = 9
	assert.False(t, cover().Enough, "one far off")
}

func TestChoose(t *testing.T) {
	hands := func(do string) Next { return Next{Do: do, Hands: true} }
	tests := []struct {
		name  string
		nexts []Next // the newest first
		want  Choice
	}{
		{"nothing", nil, Choice{-1, -1}},
		{"all finished", []Next{{Do: "nothing"}}, Choice{-1, -1}},
		{"what is nearest to its end", []Next{hands("time"), hands("hand-back"), hands("report")}, Choice{1, -1}},
		{"of two alike the one that waits longer", []Next{hands("time"), hands("time")}, Choice{1, -1}},
		{"what runs by itself stands beside", []Next{{Do: "measure"}, hands("time"), {Do: "measure"}}, Choice{1, 2}},
	}
	for _, tt := range tests {
		assert.Equal(t, tt.want, Choose(tt.nexts), tt.name)
	}
}

func TestSameMeasurement(t *testing.T) {
	base := catalogue.Standard(0, 0)
	tests := []struct {
		name   string
		test   int
		change func(*job.Test)
		same   bool
	}{
		{"another name", 0, func(t *job.Test) { t.Name = "x" }, true},
		{"more runs", 0, func(t *job.Test) { t.Wanted = 9 }, true},
		{"used more often", 0, func(t *job.Test) { t.PerWeek = 70 }, true},
		{"a phase counts", 0, func(t *job.Test) { yes := true; t.Phases[1].Counts = &yes }, false},
		{"a phase less", 0, func(t *job.Test) { t.Phases = t.Phases[:2] }, false},
		{"warm", 0, func(t *job.Test) { t.Warmth = "warm" }, false},
		{"another document", 0, func(t *job.Test) { t.Content = "x" }, false},
		{"another size", 1, func(t *job.Test) { t.Params.SpanBytes *= 2 }, false},
		{"deeper", 1, func(t *job.Test) { t.Params.Depth = 1 }, false},
		{"longer", 1, func(t *job.Test) { t.Params.MaxSeconds = 60 }, false},
		{"no parameters", 1, func(t *job.Test) { t.Params = nil }, false},
	}
	for _, tt := range tests {
		changed := catalogue.Standard(0, 0)[tt.test]
		tt.change(&changed)
		assert.Equal(t, tt.same, SameMeasurement(&base[tt.test], &changed), tt.name)
	}
}

// Each occasion has one question, and the first launch comes as often as a start.
func TestUsageIsAskedByOccasion(t *testing.T) {
	by := map[string]string{}
	for _, e := range catalogue.All() {
		if o := e.Test.Occasion; o != "" {
			assert.True(t, by[o] == "" || by[o] == e.Test.Usage, o)
			by[o] = e.Test.Usage
		}
	}
	assert.Equal(t, by[catalogue.Start], by[catalogue.LaunchFirst])
	assert.NotEqual(t, by[catalogue.LaunchFirst], by[catalogue.LaunchAgain])
	assert.NotEqual(t, by[catalogue.Start], by[catalogue.Wake])
	for _, id := range []string{catalogue.ColdStart, "t-restart", "t-start-browser"} {
		assert.Equal(t, catalogue.Start, catalogue.Tests(0, 0, id)[0].Occasion, id)
	}
}

// Where a small difference matters, a second session is asked for before the drive goes.
func TestASecondSittingIsAskedFor(t *testing.T) {
	j := visit()
	Apply(j, templateNamed(t, "capacity"), 64<<20, 0.5)
	second := func() bool {
		return slices.ContainsFunc(Of(j).BeforeOldDriveOut(),
			func(l Lost) bool { return strings.Contains(l.What, "second session") })
	}
	assert.False(t, second(), "nothing is measured yet")
	add(j, catalogue.ColdStart, "s1", 2)
	assert.True(t, second())
	j.Sittings = append(j.Sittings, job.Sitting{ID: "again", Setup: "then"})
	add(j, catalogue.ColdStart, "again", 1)
	assert.False(t, second())
}

func TestTheFileIsAsLargeAsTheDriveNeedsIt(t *testing.T) {
	const gib = int64(1) << 30
	for _, tt := range []struct {
		kind job.DriveKind
		free int64
		want int64
	}{
		{job.HDD, 0, 4}, {job.SataSSD, 0, 8}, {job.NVMe, 0, 16}, {job.EMMC, 0, 2}, {job.USBFlash, 0, 1}, {"", 0, 1},
		{job.NVMe, 64 * gib, 8}, {job.NVMe, 63 * gib, 7}, {job.HDD, 3 * gib, 1}, {job.NVMe, 900 * gib, 16},
	} {
		assert.Equal(t, tt.want*gib, catalogue.SpanFor(tt.kind, tt.free), "%v", tt)
	}
	j := visit()
	Apply(j, templateNamed(t, DefaultTemplate), 64<<20, 0)
	assert.EqualValues(t, 64<<20, j.Test(catalogue.LongRead).Params.SpanBytes, "what the technician says goes first")
	j = visit()
	Apply(j, templateNamed(t, "quick"), 0, 0)
	assert.EqualValues(t, 256<<20, j.Test(catalogue.LongRead).Params.SpanBytes, "the template has its own")
}

func TestAShortWaitIsNotForAStopwatch(t *testing.T) {
	j := visit()
	j.Tests = catalogue.Tests(0, 0, catalogue.ColdStart, "t-wake", "t-launch", "t-processor")
	hints := func() map[string]string {
		by := map[string]string{}
		for _, c := range Of(j).Coverage("then") {
			by[c.Test] = c.Hint
		}
		return by
	}
	assert.Equal(t, "By hand you can't show a difference under 0.6 s here: use a video.", hints()["t-wake"],
		"before it is timed")
	assert.Empty(t, hints()[catalogue.ColdStart])
	assert.Empty(t, hints()["t-processor"], "nobody times it by hand")
	run := func(test string, value float64) {
		j.Runs = append(j.Runs, job.Run{ID: test + "1", Test: test, Sitting: "s1", Value: value, Method: job.Stopwatch})
	}
	run("t-wake", 9)
	run("t-launch", 2)
	assert.Empty(t, hints()["t-wake"], "this one takes its time")
	assert.NotEmpty(t, hints()["t-launch"])
}

// Every test that a template or a question is about is in the catalogue.
func TestTemplatesHaveAllTheirTests(t *testing.T) {
	want := map[string][]string{
		"plain": {"t-start", "t-long-write", "t-long-read", "t-scattered"},
		"laptop": {"t-start", "t-launch", "t-browser", "t-wake", "t-shutdown", "t-restart", "t-battery", "t-noise",
			"t-long-write",
			"t-long-read", "t-scattered", "t-scattered-existing"},
		"office": {"t-start", "t-launch", "t-document", "t-browser", "t-copy-small", "t-long-write", "t-long-read",
			"t-scattered", "t-scattered-existing"},
		"games": {"t-start", "t-game-menu", "t-game-save", "t-game-level", "t-temp-peak", "t-long-write",
			"t-long-read", "t-scattered", "t-scattered-existing"},
		"editing": {"t-start", "t-document", "t-export", "t-copy-large", "t-processor", "t-busy-read", "t-long-write",
			"t-long-read", "t-scattered", "t-scattered-existing"},
		"failing":  {"t-start", "t-read-folder", "t-long-read-existing", "t-scattered-existing", "t-noise"},
		"quick":    {"t-start", "t-long-read", "t-scattered"},
		"capacity": {"t-start", "t-long-read"},
	}
	got := map[string][]string{}
	for _, tp := range Templates() {
		for _, test := range tp.Tests {
			got[tp.ID] = append(got[tp.ID], test.ID)
		}
	}
	assert.Equal(t, want, got)
}
