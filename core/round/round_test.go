package round_test

import (
	"context"
	"errors"
	"fmt"
	"math"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/drivetest"
	"nowthen/core/filetest"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/round"
	"nowthen/sim"
)

// automatic returns the catalogue's tests that need no person, by id.
func automatic() map[string]job.Test {
	tests := map[string]job.Test{}
	for _, e := range catalogue.All() {
		if e.Test.Automatic() {
			tests[e.Test.ID] = catalogue.Bounded(e.Test, 64<<20, 2)
		}
	}
	return tests
}

func TestEveryAutomaticTestRunsOnEveryDrive(t *testing.T) {
	tests := automatic()
	require.Greater(t, len(tests), 15)
	for _, name := range sim.Names() {
		d, err := sim.Open(name, 3)
		require.NoError(t, err)
		var list []job.Test
		for _, test := range tests {
			if name != "board-emmc" || test.Params == nil || !test.Params.Fresh { // which has no room for it
				if test.Params != nil && test.Params.Fresh {
					test = catalogue.Resized(test, 2<<30, 0)
				}
				list = append(list, test)
			}
		}
		r, err := round.Open(t.Context(), d, round.Options{Tests: list, Seed: 3, Folder: "x"})
		require.NoError(t, err)
		for i := range list {
			run, err := r.Run(t.Context(), &list[i], func(drivetest.Progress) {})
			require.NoError(t, err, "%s on %s", list[i].Name, name)
			assert.Positive(t, run.Value, list[i].Name)
			assert.False(t, math.IsInf(run.Value, 0), list[i].Name)
			assert.True(t, run.Simulated, list[i].Name)
			assert.NoError(t, job.CheckRun(&list[i], run), list[i].Name)
		}
		require.NoError(t, r.Close())
	}
}

// A whole default plan stays under twelve minutes on a disk that does 1 MB/s
// scattered and 60 MB/s long, laying out included.
func TestTheDefaultPlanIsBoundedOnAnOldDisk(t *testing.T) {
	for _, tt := range plan.Templates() {
		j := job.Job{Drives: []job.Drive{{ID: "d",
			DriveLabel: job.DriveLabel{Kind: job.HDD, Rated: &job.Rated{WriteMBs: 60}}}},
			Setups: []job.Setup{{ID: "then", Role: job.Then, Drive: "d"}}}
		plan.Apply(&j, tt, 0, 0)
		itself := 0.0
		for i := range j.Tests {
			if test := &j.Tests[i]; test.Automatic() {
				itself += float64(plan.Wanted(test)) * round.Seconds(test)
			}
		}
		if span, _ := round.Span(j.Tests); !round.Gentle(j.Tests) {
			itself += float64(span) / 60e6
		}
		assert.Less(t, itself/60, 12.0, tt.Name)
	}
	// And so it does when it is done.
	d, err := sim.Open("worn-disk", 1)
	require.NoError(t, err)
	tests := catalogue.Standard(0, 0)[1:]
	r, err := round.Open(t.Context(), d, round.Options{Tests: tests, Seed: 1})
	require.NoError(t, err)
	for i := range tests {
		for range plan.Wanted(&tests[i]) {
			_, err := r.Run(t.Context(), &tests[i], func(drivetest.Progress) {})
			require.NoError(t, err)
		}
	}
	assert.Less(t, d.Now().Minutes(), 12.0)
	assert.Greater(t, d.Now().Seconds(), 20.0)
}

func TestReadingsBecomeRuns(t *testing.T) {
	tests := automatic()
	one := func(id string) (*job.Test, *job.Run) {
		d, err := sim.Open("fresh-ssd", 3)
		require.NoError(t, err)
		test := tests[id]
		r, err := round.Open(t.Context(), d, round.Options{Tests: []job.Test{test}, Seed: 1, Folder: "x"})
		require.NoError(t, err)
		defer r.Close()
		run, err := r.Run(t.Context(), &test, func(drivetest.Progress) {})
		require.NoError(t, err)
		return &test, run
	}
	_, response := one("t-response")
	require.NotNil(t, response.Latency)
	assert.Equal(t, response.Latency.MedianMS, response.Value)
	assert.True(t, response.Latency.P999MS > response.Latency.P99MS &&
		response.Latency.P99MS > response.Latency.MedianMS)
	sum := int64(0)
	for _, n := range response.Latency.Spread.Counts {
		sum += n
	}
	assert.Equal(t, response.IOs, sum, "the distribution counts every request")
	assert.InDelta(t, math.Log10(response.Latency.MaxMS/response.Latency.Spread.FromMS)*10,
		len(response.Latency.Spread.Counts), 1)

	_, sustained := one("t-sustained")
	assert.NotNil(t, sustained.PeakTempC)
	cliff := job.CliffOf(sustained, 70)
	require.NotNil(t, cliff)
	assert.InEpsilon(t, 15.5e9, float64(cliff.AfterBytes), 0.02)
	assert.Equal(t, drivetest.CacheCause, cliff.Cause)

	test, keep := one("t-keep-up")
	assert.Equal(t, keep.Slowest, keep.Value)
	_, verdict := test.Params.Streams.KeepUp(keep.Value)
	assert.Equal(t, drivetest.KeepsUp, verdict)

	_, sweep := one("t-sweep-read")
	assert.Len(t, sweep.Curve, 13)
	assert.Nil(t, sweep.Latency)

	_, small := one("t-copy-small")
	assert.InDelta(t, small.Value, small.Phases[filetest.PhaseMake]+small.Phases[filetest.PhaseCopy], 1e-9)
	assert.Equal(t, int64(3000), small.Files)
	_, folder := one("t-read-folder")
	assert.Equal(t, map[string]float64{filetest.PhaseRead: folder.Value}, folder.Phases)
	assert.Contains(t, folder.Note, "listing was not cold", "a simulated computer has none")
	assert.NotEmpty(t, folder.ContentDigest)
	_, work := one("t-processor")
	assert.InDelta(t, work.Value, work.Phases[job.PhaseOneCore]+work.Phases[job.PhaseAllCores], 1e-9)
}

func TestADriveMustNotChangeTheControl(t *testing.T) {
	test := automatic()["t-processor"]
	value := func(name string) float64 {
		d, err := sim.Open(name, 8)
		require.NoError(t, err)
		r, err := round.Open(t.Context(), d, round.Options{Tests: []job.Test{test}})
		require.NoError(t, err)
		run, err := r.Run(t.Context(), &test, func(drivetest.Progress) {})
		require.NoError(t, err)
		return run.Value
	}
	assert.InEpsilon(t, value("worn-disk"), value("fresh-ssd"), 0.03)
}

func TestCheckAndGentle(t *testing.T) {
	tests := automatic()
	pick := func(ids ...string) (list []job.Test) {
		for _, id := range ids {
			list = append(list, tests[id])
		}
		return list
	}
	assert.ErrorIs(t, round.Check(pick("t-read-folder"), ""), round.ErrNoFolder)
	assert.NoError(t, round.Check(pick("t-read-folder"), "/games"))
	assert.ErrorContains(t, round.Check([]job.Test{{Name: "Start", Kind: job.Timed}}, ""), "needs a person")
	odd := tests[catalogue.LongRead]
	odd.Unit = "furlongs"
	assert.ErrorContains(t, round.Check([]job.Test{odd}, ""), "furlongs")
	assert.True(t, round.Gentle(pick("t-read-folder", "t-long-read-existing", "t-scattered-existing", "t-processor")))
	assert.False(t, round.Gentle(pick(catalogue.LongRead)), "a test file is written for it")
	assert.False(t, round.Gentle(pick("t-copy-small")))
	full, err := sim.Open("board-emmc", 1)
	require.NoError(t, err)
	_, err = round.Open(t.Context(), full, round.Options{Tests: pick("t-sustained")})
	assert.ErrorIs(t, err, drivetest.ErrNoRoom)
}

// The reserve holds for the shared test file and the files of a file test together.
func TestRoomForATestFileAndFilesTogether(t *testing.T) {
	tests := automatic()
	drive := catalogue.Resized(tests["t-long-read"], 1<<30, 0)
	var files job.Test
	for _, test := range tests {
		if test.FileWork != nil && test.FileWork.Writes() > 0 {
			files = test
		}
	}
	require.NotNil(t, files.FileWork)
	span, extra := round.Span([]job.Test{drive, files})
	assert.Equal(t, int64(1<<30), span)
	assert.Equal(t, files.FileWork.Writes(), extra)

	room := drivetest.Facts{TotalBytes: 1 << 40, FreeBytes: 2e9 + span + extra - 1}
	_, err := round.Open(t.Context(), narrow{facts: room}, round.Options{Tests: []job.Test{drive, files}})
	require.ErrorIs(t, err, drivetest.ErrNoRoom, "one byte too few")
}

// narrow is a place with little room on which nothing is ever made.
type narrow struct {
	round.Place
	facts drivetest.Facts
}

func (n narrow) Facts() drivetest.Facts { return n.facts }

func TestStepsRepeatTheFirstTestAtTheEnd(t *testing.T) {
	all := automatic()
	tests := []job.Test{all["t-sustained"], all["t-long-read"], all["t-scattered"]}
	var got []string
	for _, s := range round.Steps(tests, []int{1, 2, 1}) {
		got = append(got, fmt.Sprintf("%s %d/%d %v", s.Test.ID, s.Run, s.Runs, s.Repeat))
	}
	assert.Equal(t, []string{"t-sustained 1/1 false", "t-long-read 1/2 false", "t-long-read 2/2 false",
		"t-scattered 1/1 false", "t-long-read 1/1 true"}, got)
	for _, s := range round.Steps(tests[1:2], []int{3}) {
		assert.False(t, s.Repeat, "a round of one")
	}
}

// slow is a place whose files take their time, by the clock on the wall.
type slow struct {
	round.Place
	each time.Duration
}

func (p slow) Facts() drivetest.Facts {
	f := p.Place.Facts()
	f.Simulated = false
	return f
}

func (p slow) OpenTree(ctx context.Context, dir string) (filetest.Tree, error) {
	t, err := p.Place.OpenTree(ctx, dir)
	return slowTree{t, p.each}, err
}

type slowTree struct {
	filetest.Tree
	each time.Duration
}

func (t slowTree) Read(name string) (int64, error) {
	time.Sleep(t.each)
	return t.Tree.Read(name)
}

// A file test on an old disk has the time that it has by itself, and that much is
// announced.
func TestASlowFileTestIsNotGivenUpEarly(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		d, err := sim.Open("worn-disk", 1)
		require.NoError(t, err)
		tree, err := d.OpenTree(t.Context(), "x")
		require.NoError(t, err)
		all, err := tree.Entries()
		require.NoError(t, err)
		p := slow{d, 8 * time.Minute / time.Duration(len(all))}
		test := automatic()["t-read-folder"]
		r, err := round.Open(t.Context(), p, round.Options{Tests: []job.Test{test}, Seed: 1, Folder: "x"})
		require.NoError(t, err)
		began := time.Now()
		run, err := r.Run(t.Context(), &test, func(drivetest.Progress) {})
		require.NoError(t, err)
		assert.NotNil(t, run)
		assert.Greater(t, time.Since(began), 7*time.Minute)
		assert.LessOrEqual(t, time.Since(began), round.Longest(p, []round.Step{{Test: &test}}))
		require.NoError(t, r.Close())
	})
}

// silent is a place whose drive stops answering after so many requests.
type silent struct {
	round.Place
	after  int
	hung   chan struct{}
	served int
}

func (p *silent) Facts() drivetest.Facts {
	f := p.Place.Facts()
	f.Simulated = false // it must be given up by real time
	return f
}

func (p *silent) Create(ctx context.Context, size int64) (drivetest.File, error) {
	f, err := p.Place.Create(ctx, size)
	return silentFile{f, p}, err
}

type silentFile struct {
	drivetest.File
	p *silent
}

func (f silentFile) Queue(depth int) drivetest.Queue { return silentQueue{f.File.Queue(depth), f.p} }

type silentQueue struct {
	drivetest.Queue
	p *silent
}

func (q silentQueue) Wait() *drivetest.Request {
	if q.p.served++; q.p.served > q.p.after {
		<-q.p.hung
	}
	return q.Queue.Wait()
}

// A drive that never answers is given up, by the technician or after its time, and nothing waits for it.
func TestADriveThatNeverAnswersIsGivenUp(t *testing.T) {
	for name, cancelled := range map[string]bool{"cancelled": true, "left alone": false} {
		t.Run(name, func(t *testing.T) {
			synctest.Test(t, func(t *testing.T) {
				d, err := sim.Open("worn-disk", 1)
				require.NoError(t, err)
				p := &silent{Place: d, after: 100, hung: make(chan struct{})}
				test := automatic()["t-long-read"]
				ctx, cancel := context.WithCancel(t.Context())
				defer cancel()
				r, err := round.Open(ctx, p, round.Options{Tests: []job.Test{test}, Seed: 1})
				require.NoError(t, err)
				if cancelled {
					time.AfterFunc(time.Second, cancel)
				}
				began := time.Now()
				run, err := r.Run(ctx, &test, func(drivetest.Progress) {})
				assert.Nil(t, run)
				require.ErrorIs(t, err, round.ErrHung)
				if cancelled {
					assert.ErrorIs(t, err, context.Canceled)
					assert.Less(t, time.Since(began), 10*time.Second)
				} else {
					assert.Less(t, time.Since(began), 10*time.Minute)
				}
				_, err = r.Run(ctx, &test, func(drivetest.Progress) {})
				require.ErrorIs(t, err, round.ErrHung)
				require.NoError(t, r.Close(), "nothing waits for it")
				close(p.hung) // lets what hangs end with the test
			})
		})
	}
}

// What is announced as the most counts laying out, the runs and the waits for a drive
// that tells its temperature.
func TestWhatIsAnnouncedIsTheMost(t *testing.T) {
	tests := catalogue.Standard(1<<30, 0)[1:]
	runs := []int{3, 3, 3}
	for _, name := range sim.Names() {
		d, err := sim.Open(name, 2)
		require.NoError(t, err)
		steps := round.Steps(tests, runs)
		most := round.Longest(d, steps)
		began := d.Now()
		r, err := round.Open(t.Context(), d, round.Options{Tests: tests, Seed: 2})
		require.NoError(t, err)
		kept := 0
		require.NoError(t, r.All(t.Context(), steps, round.Along{Keep: func(at int, s round.Step, run *job.Run) error {
			assert.Equal(t, kept, at)
			kept++
			assert.Equal(t, s.Repeat, run.Repeat)
			require.NotNil(t, run.Placement)
			assert.Greater(t, run.Placement.ToPct, run.Placement.FromPct)
			if run.StartTempC != nil && run.PeakTempC != nil {
				assert.LessOrEqual(t, *run.StartTempC, *run.PeakTempC+coolTo)
			}
			return nil
		}}))
		assert.Len(t, steps, kept)
		assert.LessOrEqual(t, d.Now()-began, most, name)
	}
}

// What is said to be left at most is never exceeded, at no moment of 40 rounds, laying out the file included.
func TestWhatIsLeftAtMost(t *testing.T) {
	type said struct{ at, left time.Duration }
	names := sim.Names()
	for n := range 40 {
		seed := uint64(n + 1)
		d, err := sim.Open(names[n%len(names)], seed)
		require.NoError(t, err)
		tests := catalogue.Standard(int64(256+256*(n%4))<<20, 0)[1:]
		steps := round.Steps(tests, []int{1 + n%3, 1, 1 + n%2})
		r, err := round.Open(t.Context(), d, round.Options{Tests: tests, Seed: seed})
		require.NoError(t, err)
		var all []said
		require.NoError(t, r.All(t.Context(), steps, round.Along{
			Before: func(at int, _ round.Step) error {
				all = append(all, said{d.Now(), round.MostLeft(steps, at, drivetest.Progress{Laying: true})})
				return nil
			},
			Tell: func(at int, _ round.Step, p drivetest.Progress) {
				all = append(all, said{d.Now(), round.MostLeft(steps, at, p)})
			},
			Keep: func(int, round.Step, *job.Run) error { return nil }}))
		require.NotEmpty(t, all)
		end := d.Now()
		for _, s := range all {
			require.GreaterOrEqual(t, s.at+s.left, end, "round %d on %s, said after %s", n, names[n%len(names)], s.at)
		}
	}
}

const coolTo = 3 // °C

// A run is kept before the next begins; what goes wrong on the way ends the round, with what was kept.
func TestAllStepsInTurn(t *testing.T) {
	full := errors.New("the disk is full")
	for name, c := range map[string]struct {
		along func(said *[]string) round.Along
		want  []string
		err   error
	}{
		"as it should be": {func(said *[]string) round.Along {
			return round.Along{
				Before: func(at int, _ round.Step) error {
					*said = append(*said, fmt.Sprint("begin ", at))
					return nil
				},
				Keep: func(at int, _ round.Step, _ *job.Run) error {
					*said = append(*said, fmt.Sprint("keep ", at))
					return nil
				}}
		}, []string{"begin 0", "keep 0", "begin 1", "keep 1"}, nil},
		"a run that can't be kept": {func(said *[]string) round.Along {
			return round.Along{Keep: func(at int, _ round.Step, _ *job.Run) error {
				*said = append(*said, fmt.Sprint("keep ", at))
				return full
			}}
		}, []string{"keep 0"}, full},
		"it is not to begin": {func(*[]string) round.Along {
			return round.Along{Before: func(int, round.Step) error { return context.Canceled }}
		}, nil, context.Canceled},
		"the measuring itself fails": {func(said *[]string) round.Along {
			return round.Along{Keep: func(at int, _ round.Step, _ *job.Run) error { panic("no") }}
		}, nil, new(round.PanicError)},
	} {
		t.Run(name, func(t *testing.T) {
			d, err := sim.Open(sim.Names()[0], 2)
			require.NoError(t, err)
			tests := catalogue.Standard(1<<30, 0)[1:2]
			r, err := round.Open(t.Context(), d, round.Options{Tests: tests, Seed: 2})
			require.NoError(t, err)
			var said []string
			err = r.All(t.Context(), round.Steps(tests, []int{2}), c.along(&said))
			var panicked *round.PanicError
			switch {
			case c.err == nil:
				require.NoError(t, err)
			case errors.As(c.err, &panicked):
				require.ErrorAs(t, err, &panicked)
				assert.Equal(t, "no", panicked.Value)
			default:
				require.ErrorIs(t, err, c.err)
			}
			assert.Equal(t, c.want, said)
		})
	}
}

// trimming is a place that is told of freed blocks.
type trimming struct {
	round.Place
	err   error
	times int
}

func (p *trimming) Can() drivetest.Capabilities {
	can := p.Place.Can()
	can.Trim = func() error { p.times++; return p.err }
	return can
}

func TestWhatBecameOfTheTestFiles(t *testing.T) {
	read, control := automatic()[catalogue.ScatteredRead], automatic()["t-processor"]
	tests := map[string]struct {
		test  job.Test
		err   error
		times int
		want  round.Cleared
	}{
		"trimmed": {read, nil, 1, round.Cleared{Trimmed: true}},
		"not allowed": {read, drivetest.ErrTrimForbidden, 1,
			round.Cleared{Untrimmed: drivetest.ErrTrimForbidden}},
		"nothing was written": {control, nil, 0, round.Cleared{}},
	}
	for name, tc := range tests {
		t.Run(name, func(t *testing.T) {
			d, err := sim.Open("fresh-ssd", 1)
			require.NoError(t, err)
			p := &trimming{Place: d, err: tc.err}
			r, err := round.Open(t.Context(), p, round.Options{Tests: []job.Test{tc.test}, Seed: 1})
			require.NoError(t, err)
			require.NoError(t, r.Close())
			assert.Equal(t, tc.times, p.times)
			assert.Equal(t, tc.want, r.Cleared())
		})
	}
}
