package plan

import (
	"flag"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

var update = flag.Bool("update", false, "write the golden files anew; read what has changed in them")

// golden compares a text with a file: a change of a figure or a sentence shows all its effects.
func golden(t *testing.T, name, text string) {
	t.Helper()
	path := "testdata/" + name
	if *update {
		require.NoError(t, os.MkdirAll("testdata", 0o755))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return
	}
	want, err := os.ReadFile(path)
	require.NoError(t, err, "run the test with -update")
	assert.Equal(t, string(want), text)
}

// What every template measures, asks and wants done.
func TestTemplatesAreAsTheyWere(t *testing.T) {
	var b strings.Builder
	for _, tp := range Templates() {
		fmt.Fprintf(&b, "%s: %s, %d sitting(s), needs %q\n", tp.ID, tp.Name, tp.Sittings, tp.Needs)
		for _, test := range tp.Tests {
			fmt.Fprintf(&b, "  %s %s, %d times", test.ID, test.Kind, test.Wanted)
			if p := test.Params; p != nil {
				fmt.Fprintf(&b, ", %d MiB, %g s", p.SpanBytes>>20, p.Seconds())
			}
			b.WriteString("\n")
		}
		for _, q := range tp.Questions {
			fmt.Fprintf(&b, "  asks %s: %g × %g\n", q.ID, q.Answer, q.PerWeek)
		}
		for _, s := range tp.Steps {
			fmt.Fprintf(&b, "  step %s %s %s\n", s.When, s.ID, s.Fact)
		}
	}
	all := []job.Test{}
	for _, e := range catalogue.All() {
		all = append(all, e.Test)
	}
	for _, q := range asking(all) {
		fmt.Fprintf(&b, "question %s: %g × %g: %s\n", q.ID, q.Answer, q.PerWeek, q.Text)
	}
	golden(t, "templates.golden", b.String())
}

// Which means a test is measured by, and what that shows.
func TestMeansAreAsTheyWere(t *testing.T) {
	var b strings.Builder
	for _, o := range Offers() {
		fmt.Fprintf(&b, "%s: %s. %s\n", o.Test.ID, o.Best, o.Shows)
	}
	golden(t, "means.golden", b.String())
}

// stage is how far a made-up job has come.
type stage struct {
	name string
	do   func(j *job.Job)
}

// measured adds runs of the tests for which is tells true, as many as are wanted less some,
// 1 % apart.
func measured(j *job.Job, sitting string, less int, is func(*job.Test) bool) {
	for i := range j.Tests {
		t := &j.Tests[i]
		if !is(t) {
			continue
		}
		for n := range Wanted(t) - less {
			j.Runs = append(j.Runs,
				job.Run{ID: fmt.Sprint(len(j.Runs)), Test: t.ID, Sitting: sitting, Value: 40 + 0.4*float64(n),
					Method: job.Stopwatch,
					At:     time.Date(2026, 3, 1, 10, len(j.Runs)%60, 0, 0, time.UTC)})
		}
	}
}

// The way of a job from template to hand-over: what is next, how long it takes, what is
// missing at the gates, what the rest takes.
func TestTheWayIsAsItWas(t *testing.T) {
	any := func(*job.Test) bool { return true }
	byHand := func(t *job.Test) bool { return ByHand(t) }
	pass := func(gate job.GateName) func(*job.Job) {
		return func(j *job.Job) { j.Head.Gates = append(j.Head.Gates, job.Gate{Name: gate}) }
	}
	stages := []stage{
		{"opened", func(*job.Job) {}},
		{"one run of each by hand", func(j *job.Job) { measured(j, "s1", 2, byHand) }},
		{"measured on battery", func(j *job.Job) {
			j.Sittings[0].Conditions.Power = job.Battery
			j.Runs = nil
			measured(j, "s1", 0, any)
		}},
		{"on mains, backed up", func(j *job.Job) {
			j.Sittings[0].Conditions.Power = job.Mains
			j.Setups[0].UsedBytes = 200e9
			if s := j.Step(job.BackupStep); s != nil {
				s.Done = &job.Tick{}
			}
		}},
		{"the old drive is out", pass(job.GateOldDriveOut)},
		{"the swap is done", func(j *job.Job) {
			for i := range j.Plan.Steps {
				if s := &j.Plan.Steps[i]; s.When == job.WhenSwap {
					s.Done = &job.Tick{}
				}
			}
		}},
		{"sat down to it", func(j *job.Job) {
			j.Sittings = append(j.Sittings,
				job.Sitting{ID: "s2", Setup: "now", Conditions: job.Conditions{Power: job.Mains}})
		}},
		{"by hand", func(j *job.Job) { measured(j, "s2", 0, byHand) }},
		{"measured again", func(j *job.Job) { measured(j, "s2", 0, func(t *job.Test) bool { return !ByHand(t) }) }},
		{"issued", pass(job.GateReport)},
		{"handed back", pass(job.GateHandedBack)},
	}
	var b strings.Builder
	for _, tp := range Templates() {
		pairs := [][2]job.DriveKind{{job.HDD, job.SataSSD}}
		if tp.ID == DefaultTemplate {
			pairs = append(pairs, [2]job.DriveKind{job.EMMC, job.NVMe}, [2]job.DriveKind{job.Hybrid, job.Cached},
				[2]job.DriveKind{job.USBFlash, job.HDD})
		}
		for _, kinds := range pairs {
			j := &job.Job{
				Head:      job.Head{Reasons: []job.Reason{{What: job.ReasonSlowStart, Words: "takes an age"}}},
				Computers: []job.Computer{{ID: "c"}},
				Drives: []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Kind: kinds[0], CapacityBytes: 500e9}},
					{ID: "d2", DriveLabel: job.DriveLabel{Kind: kinds[1], CapacityBytes: 1000e9,
						Rated: &job.Rated{WriteMBs: 480, EnduranceTB: 300}}}},
				Setups: []job.Setup{{ID: "then", Role: job.Then, Computer: "c", Drive: "d1"},
					{ID: "now", Role: job.Now, Computer: "c", Drive: "d2", Replaces: "d1"}},
				Sittings: []job.Sitting{{ID: "s1", Setup: "then"}},
			}
			Apply(j, tp, 0, 0)
			fmt.Fprintf(&b, "%s on %s and %s, headline %s\n", tp.ID, kinds[0], kinds[1], j.Plan.Headline)
			for _, s := range stages {
				s.do(j)
				st := Of(j)
				n := st.Next()
				fmt.Fprintf(&b, " %s: at %q, page %s", s.name, st.Here(), st.Page())
				for _, station := range st.Track() {
					fmt.Fprintf(&b, " %s%s", station.State[:1], map[bool]string{true: "|"}[station.Gate])
				}
				b.WriteString("\n")
				fmt.Fprintf(&b, "  next %s %s%s%s, %.4g min, hands %v, needs %q: %s\n", n.Do, n.Test, n.Step, n.Setup,
					n.Minutes, n.Hands, n.Needs, n.Words)
				if u := n.Unattended; u != nil {
					fmt.Fprintf(&b, "  unattended %.4g min: %s\n", u.Minutes, u.Words)
				}
				for _, lost := range [][]Lost{st.BeforeOldDriveOut(), st.BeforeMeasuredAgain(), st.BeforeHandedBack()} {
					for _, l := range lost {
						fmt.Fprintf(&b, "  - %s\n", l.What)
					}
				}
				for i := range j.Setups {
					u := st.Budget(&j.Setups[i])
					fmt.Fprintf(&b, "  %s: %.4g with hands, %.4g waiting, %d bytes, needs %q", u.Setup, u.HandsMinutes,
						u.WaitMinutes, u.WriteBytes, u.Needs)
					if u.EndurancePct != nil {
						fmt.Fprintf(&b, ", %.4g %%", *u.EndurancePct)
					}
					b.WriteString("\n")
					for _, c := range st.Coverage(u.Setup) {
						if s.name == "opened" || s.name == "measured again" && u.Setup == "now" {
							fmt.Fprintf(&b, "    %s %d/%d enough %v, %.4g s, %d bytes %s\n", c.Test, c.Kept, c.Wanted,
								c.Enough, c.RunS, c.RunWrites, c.Hint)
						}
					}
				}
			}
		}
	}
	golden(t, "way.golden", b.String())
}

// How close runs must lie for a side to have enough, by kind of test.
func TestEnoughByKind(t *testing.T) {
	for kind, most := range map[job.Kind]float64{job.Timed: 0.10, job.OnDrive: 0.05, job.OnFiles: 0.15} {
		for _, within := range []bool{true, false} {
			// Four runs in pairs so far apart that the half-width comes out at the limit, or just beyond.
			off := 0.0
			for low, high, k := 0.0, 1.0, 0; k < 60; k++ {
				off = (low + high) / 2
				if halfOf(kind, off) > most {
					high = off
				} else {
					low = off
				}
			}
			if !within {
				off *= 1.01
			} else {
				off *= 0.99
			}
			st := Of(fourRuns(kind, off))
			require.InDelta(t, most, st.halfWidth(st.Test("t"), "then", 4), 0.004)
			assert.Equal(t, within, st.Coverage("then")[0].Enough, "%s", kind)
		}
	}
}

func fourRuns(kind job.Kind, off float64) *job.Job {
	j := &job.Job{Drives: []job.Drive{{ID: "d"}},
		Tests:  []job.Test{{ID: "t", Kind: kind, Unit: "s", Better: job.Lower, Wanted: 4}},
		Setups: []job.Setup{{ID: "then", Role: job.Then, Drive: "d"}}, Sittings: []job.Sitting{{ID: "s",
			Setup: "then"}}}
	for i, v := range []float64{100 * (1 - off), 100 * (1 + off), 100 * (1 - off), 100 * (1 + off)} {
		j.Runs = append(j.Runs, job.Run{ID: fmt.Sprint(i), Test: "t", Sitting: "s", Value: v, Method: job.Automatic})
	}
	return j
}

func halfOf(kind job.Kind, off float64) float64 {
	st := Of(fourRuns(kind, off))
	return st.halfWidth(st.Test("t"), "then", 4)
}

// Cached results are computed again when there are more runs.
func TestAStandingSeesNewRuns(t *testing.T) {
	j := fourRuns(job.Timed, 0.5)
	j.Tests[0].Phases = nil
	before := Of(j)
	require.False(t, before.Coverage("then")[0].Enough)
	wide := before.widths[job.Side{Test: "t", Setup: "then"}]
	require.Equal(t, wait{4, 100}, before.waits["t"])
	j.Runs = slices.Grow(j.Runs, 30) // more runs lie behind those that there were, as they do once a job is loaded
	before.Job.Runs = j.Runs
	after := &job.Job{}
	*after = *j
	for i := range 30 {
		after.Runs = append(after.Runs,
			job.Run{ID: fmt.Sprint("n", i), Test: "t", Sitting: "s", Value: 100, Method: job.Automatic})
	}
	require.True(t, job.Continues(before.Runs, after.Runs))
	st := Of(after).Since(before)
	require.Equal(t, wide, st.widths[job.Side{Test: "t", Setup: "then"}], "taken over")
	assert.True(t, st.Coverage("then")[0].Enough)
	assert.Less(t, st.widths[job.Side{Test: "t", Setup: "then"}].half, wide.half)
	assert.InDelta(t, 100, st.waits["t"].middle, 1e-9)
	assert.Equal(t, 34, st.waits["t"].kept)
	assert.NotNil(t, Of(after).Since(nil))
	assert.NotNil(t, Of(after).Since(Counted(j, j.Counts())))
}

// A wait is short for a stopwatch where a difference of a fifth of it cannot be shown.
func TestAFifthOfTheWait(t *testing.T) {
	for seconds, short := range map[float64]bool{2.8: true, 2.9: false} { // 2 × 0.2 s × √2 are a fifth of 2.83 s
		j := fourRuns(job.Timed, 0)
		for i := range j.Runs {
			j.Runs[i].Value = seconds
		}
		assert.Equal(t, short, Of(j).Coverage("then")[0].Hint != "", "%v s", seconds)
	}
	j := fourRuns(job.Timed, 0)
	j.Tests[0].What = "wake"
	j.Runs = nil
	assert.NotEmpty(t, Of(j).Coverage("then")[0].Hint, "before it was timed: what is usual")
	j.Tests[0].Retired = true
	assert.Empty(t, Of(j).Coverage("then")[0].Hint, "nobody times it any more")
	j.Tests[0].Retired, j.Tests[0].Unit = false, "dB"
	assert.Empty(t, Of(j).Coverage("then")[0].Hint, "it is not timed")
}

// Of several jobs, the one nearest to its end needs hands first.
func TestWhatIsNearestToItsEnd(t *testing.T) {
	order := []string{"fit", "type", "time", "take-out", "step", "report", "hand-back"}
	for i, do := range order {
		for _, other := range order[:i] {
			if do == "step" && other == "take-out" {
				continue // alike: who waited longest
			}
			assert.Equal(t, 0, Choose([]Next{{Do: do, Hands: true}, {Do: other, Hands: true}}).Hands, "%s before %s",
				do, other)
			assert.Equal(t, 1, Choose([]Next{{Do: other, Hands: true}, {Do: do, Hands: true}}).Hands, "%s before %s",
				do, other)
		}
	}
	unattended := &Next{Do: "measure"}
	c := Choose([]Next{{Do: "time", Hands: true, Unattended: unattended},
		{Do: "time", Hands: true, Unattended: unattended}})
	assert.Equal(t, Choice{1, 0}, c, "the other computer can be measured meanwhile")
	assert.Equal(t, Choice{0, -1}, Choose([]Next{{Do: "time", Hands: true, Unattended: unattended}}))
	assert.Equal(t, Choice{0, 1}, Choose([]Next{{Do: "time", Hands: true, Unattended: unattended}, {Do: "measure"}}))
	assert.Equal(t, Choice{-1, -1}, Choose([]Next{{Do: "nothing"}}))
}

// Catalogue tests in the size of the drive that the job begins with.
func TestFreeRoomBoundsTheTestFile(t *testing.T) {
	for used, gib := range map[int64]int64{0: 4, 400e9: 4, 490e9: 1} {
		j := &job.Job{Drives: []job.Drive{{ID: "d", DriveLabel: job.DriveLabel{Kind: job.HDD, CapacityBytes: 500e9}}},
			Setups: []job.Setup{{ID: "then", Role: job.Then, Drive: "d", UsedBytes: used}}}
		Apply(j, Templates()[0], 0, 0)
		assert.Equal(t, gib<<30, j.Test(catalogue.LongRead).Params.SpanBytes, "%d bytes used", used)
		Apply(j, Templates()[0], 64<<20, 0)
		assert.EqualValues(t, 64<<20, j.Test(catalogue.LongRead).Params.SpanBytes,
			"the technician's own size goes first")
	}
}

// What a drive writes at most: what its label says, else what its kind does.
func TestWhatADriveWrites(t *testing.T) {
	for kind, mbs := range map[job.DriveKind]float64{job.HDD: 200, job.SataSSD: 550, job.NVMe: 7000, job.EMMC: 300,
		job.Hybrid: 200, job.Cached: 500, job.USBFlash: 400} {
		assert.Equal(t, mbs, writeRate(&job.Drive{DriveLabel: job.DriveLabel{Kind: kind}}), kind)
		assert.Equal(t, mbs, writeRate(&job.Drive{DriveLabel: job.DriveLabel{Kind: kind, Rated: &job.Rated{}}}), kind)
	}
	assert.Equal(t, 0.5, writeRate(&job.Drive{DriveLabel: job.DriveLabel{Kind: job.NVMe,
		Rated: &job.Rated{WriteMBs: 0.5}}}))
	assert.Equal(t, 200.0, writeRate(nil))
}
