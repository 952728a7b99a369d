package probe

import (
	"context"
	"errors"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/manifest"
	"nowthen/core/order"
	"nowthen/core/round"
	"nowthen/machine/startup"
)

// restartable is a made-up computer whose restarts are what a test says.
type restartable struct {
	folder string // whose programs it starts
	boot   string
	down   func() error // what it does when it is told to restart
}

func (r *restartable) Identity() string                    { return "made-up" }
func (*restartable) Simulated() string                     { return "" }
func (*restartable) Facts(context.Context) *hardware.Facts { return &hardware.Facts{} }
func (*restartable) Do(string) error                       { return errors.New("it is none") }
func (*restartable) List(context.Context, *order.Order, string, string, func(drivetest.Progress)) (string, manifest.Listed, error) {
	return "", manifest.Listed{}, errors.New("nobody asked")
}
func (*restartable) Weigh(context.Context, string) (order.Weighed, error) {
	return order.Weighed{}, errors.New("nobody asked")
}
func (r *restartable) Boot() (string, error)         { return r.boot, nil }
func (r *restartable) Restart(context.Context) error { return r.down() }
func (*restartable) Conditions(context.Context, string) (job.Conditions, []string, error) {
	return job.Conditions{Power: job.Mains}, nil, nil
}
func (*restartable) Open(context.Context, string, bool) (round.Place, error) {
	return nil, errors.New("no")
}
func (*restartable) Launcher(*job.Test, uint64) (func(context.Context) (*job.Run, error), error) {
	return nil, errors.New("no")
}
func (r *restartable) Watch(command []string) (startup.Entry, error) {
	return startup.System{OS: "linux", Folder: r.folder}.Entry(command)
}

// clockBench is a bench that gives one order of restarts, and whose clock a test sets.
type clockBench struct {
	t       *testing.T
	mu      sync.Mutex
	clock   order.Clock
	silent  bool // it gives no clock
	refuses bool // it knows of no sign after a restart
	wanted  int
	byHand  bool
	stopped bool
	done    int
	runs    []job.Run
	ended   []order.Ended
	signs   []order.Sign
	seen    chan string // what was said
}

func (b *clockBench) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	text, _ := io.ReadAll(r.Body)
	b.mu.Lock()
	defer b.mu.Unlock()
	what := strings.TrimPrefix(r.URL.Path, "/api/probe/")
	answer := func(v any) {
		out, err := json.Marshal(v)
		assert.NoError(b.t, err)
		_, _ = w.Write(out)
	}
	switch what {
	case "sign":
		var s order.Sign
		assert.NoError(b.t, json.Unmarshal(text, &s))
		if b.refuses && !s.Leaving {
			problem(w, 404)
			return
		}
		if b.silent {
			w.WriteHeader(503)
			return
		}
		b.signs = append(b.signs, s)
		answer(b.clock)
	case "hello":
		answer(order.Welcome{Probe: "p", Job: "2031-0001"})
	case "runs":
		var res order.Result
		assert.NoError(b.t, json.Unmarshal(text, &res))
		b.runs = append(b.runs, res.Run)
		b.done = res.Step + 1
	case "ended":
		var e order.Ended
		assert.NoError(b.t, json.Unmarshal(text, &e))
		b.ended = append(b.ended, e)
	case "work":
		doing := r.URL.Query().Get("doing")
		switch {
		case len(b.ended) > 0:
			answer(order.Order{ID: "l", Kind: order.Leave})
		case doing != "" && b.stopped:
			answer(order.Order{ID: doing, Kind: order.Stop})
		case doing == "":
			answer(order.Order{ID: "o", Kind: order.Restart, Sitting: "s1", Skip: b.done, ByHand: b.byHand,
				Wanted: []int{b.wanted},
				Tests: []job.Test{{ID: "t-restart-watch", What: "restart-watch", Kind: job.Timed, Unit: "s",
					StartKind: "cold", Warmth: "cold"}}})
		default:
			w.WriteHeader(204)
		}
	}
	select {
	case b.seen <- what:
	default:
	}
}

func (b *clockBench) set(change func()) {
	b.mu.Lock()
	defer b.mu.Unlock()
	change()
}

// watched starts a bench and a folder in which a computer has joined it.
func watched(t *testing.T, wanted int) (*clockBench, *restartable, func(ctx context.Context) error, string) {
	b := &clockBench{t: t, wanted: wanted, clock: order.Clock{Now: time.Now(), Steady: 100, Start: "a"},
		seen: make(chan string, 1000)}
	s := httptest.NewServer(b)
	t.Cleanup(s.Close)
	dir, computer := t.TempDir(), &restartable{folder: filepath.Join(t.TempDir(), "start"), boot: "first"}
	state := filepath.Join(dir, "made-up")
	require.NoError(t, os.MkdirAll(state, 0o700))
	text, err := json.Marshal(joined{Address: s.URL, Token: "token", Job: "2031-0001", Machine: "made-up"})
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(state, joinedFile), text, 0o600))
	run := func(ctx context.Context) error {
		j, err := Again(computer, state,
			Options{Say: func(line string) { t.Log(line) },
				Command: []string{"/stick/nowthen-probe", "join", "--state", dir}})
		require.NoError(t, err)
		return j.Run(ctx)
	}
	return b, computer, run, state
}

func entries(t *testing.T, c *restartable) []string {
	list, err := filepath.Glob(filepath.Join(c.folder, "*"))
	require.NoError(t, err)
	return list
}

// Two restarts of one order: the computer goes down with the probe, comes back, and each is timed
// by the bench's clock alone.
func TestRestartsAreTimedByTheBench(t *testing.T) {
	b, computer, run, state := watched(t, 2)
	for i, took := range []float64{41.5, 39.25} {
		ctx, goesDown := context.WithCancel(t.Context())
		computer.down = func() error {
			assert.Len(t, entries(t, computer), 1, "it is in the start-up programs before the system goes down")
			goesDown()
			return nil
		}
		require.ErrorIs(t, run(ctx), context.Canceled)
		assert.Len(t, b.runs, i, "it is not timed before it is back")
		// The start runs the entry, which takes itself out; the time of day was set in the meantime.
		require.NoError(t, os.Remove(entries(t, computer)[0]))
		computer.boot += "'"
		b.set(func() { b.clock.Steady += took; b.clock.Now = b.clock.Now.Add(-time.Hour) })
	}
	computer.down = func() error { return errors.New("nobody asked for a third one") }
	require.NoError(t, run(t.Context()), "the order is done, and the bench lets it go")
	require.Len(t, b.runs, 2)
	for i, took := range []float64{41.5, 39.25} {
		r := b.runs[i]
		assert.InDelta(t, took, r.Value, 1e-9)
		assert.Equal(t, job.RestartWatch, r.Method)
		assert.EqualValues(t, "cold", r.StartKind)
		assert.Equal(t, "s1", r.Sitting)
		assert.Equal(t, job.Mains, r.Conditions.Power)
		assert.Positive(t, *r.U)
		assert.Contains(t, r.Note, "before anyone signs in")
	}
	assert.Equal(t, []order.Ended{{Order: "o", State: order.Done}}, b.ended)
	assert.Equal(t, []order.Sign{{Order: "o", Step: 0, Leaving: true}, {Order: "o", Step: 0},
		{Order: "o", Step: 1, Leaving: true}, {Order: "o", Step: 1}}, b.signs)
	assert.Empty(t, entries(t, computer))
	assert.NoDirExists(t, state, "all that it made is removed")
}

// A technician who restarts it: the last sign is given as the system ends the probe.
func TestARestartByHand(t *testing.T) {
	b, computer, run, _ := watched(t, 1)
	b.byHand = true
	computer.down = func() error { return errors.New("the technician does that") }
	ctx, goesDown := context.WithCancel(t.Context())
	go func() {
		for what := range b.seen {
			if what == "progress" { // the page says that it is time to
				b.set(func() { b.clock.Steady = 500 })
				goesDown()
				return
			}
		}
	}()
	require.ErrorIs(t, run(ctx), context.Canceled)
	computer.boot = "second"
	b.set(func() { b.clock.Steady = 560 })
	require.NoError(t, run(t.Context()))
	require.Len(t, b.runs, 1)
	assert.InDelta(t, 60, b.runs[0].Value, 1e-9)
}

// A probe that a person ends while it waits for a restart by hand takes itself out of the system's
// start: a restart later in the
// day is not the one that was to be timed.
func TestARestartByHandThatIsGivenUp(t *testing.T) {
	b, computer, _, state := watched(t, 1)
	b.byHand = true
	ctx, ends := context.WithCancel(t.Context())
	go func() {
		for what := range b.seen {
			if what == "progress" {
				ends()
				return
			}
		}
	}()
	j, err := Again(computer, state,
		Options{Command: []string{"/stick/nowthen-probe", "join"}, GoesDown: func() bool { return false }})
	require.NoError(t, err)
	require.ErrorIs(t, j.Run(ctx), context.Canceled)
	assert.Empty(t, entries(t, computer))
	b.mu.Lock()
	defer b.mu.Unlock()
	assert.Empty(t, b.signs, "it gave no last sign")
	assert.Empty(t, b.runs)
}

// What is no restart times nothing, and nothing of the probe stays in the system's start.
func TestWhatIsNoRestart(t *testing.T) {
	for name, c := range map[string]struct {
		between func(b *clockBench, c *restartable)
		down    func(b *clockBench, goesDown func()) error
		state   string
	}{
		"the probe alone was started again": {between: func(b *clockBench, _ *restartable) { b.clock.Steady += 30 },
			state: order.Failed},
		"it was off over night": {between: func(b *clockBench, c *restartable) {
			c.boot, b.clock.Start, b.clock.Now = "second", "another start of the bench", b.clock.Now.Add(9*time.Hour)
		}, state: order.Failed},
		"a bench that knows of no signs": {between: func(b *clockBench, c *restartable) {
			c.boot, b.refuses = "second",
				true
		}, state: order.Failed},
		"the system refuses to restart": {down: func(*clockBench,
			func()) error {
			return errors.New("the system does not restart: an update is put in")
		},
			state: order.Failed},
		"the bench gives no clock": {between: func(*clockBench, *restartable) {}, down: nil, state: order.Failed},
		"it is stopped meanwhile": {down: func(b *clockBench,
			_ func()) error {
			b.set(func() { b.stopped = true })
			return nil
		}, state: order.Cancelled},
	} {
		t.Run(name, func(t *testing.T) {
			b, computer, run, _ := watched(t, 1)
			ctx, goesDown := context.WithCancel(t.Context())
			defer goesDown()
			computer.down = func() error { goesDown(); return nil }
			switch {
			case c.down != nil:
				computer.down = func() error { return c.down(b, goesDown) }
			case name == "the bench gives no clock":
				b.silent = true
			default:
				require.ErrorIs(t, run(ctx), context.Canceled)
				b.set(func() { c.between(b, computer) })
				computer.down = func() error { t.Error("no restart is tried twice by itself"); return nil }
				ctx = t.Context()
			}
			require.NoError(t, run(ctx))
			assert.Empty(t, b.runs)
			require.Len(t, b.ended, 1)
			assert.Equal(t, c.state, b.ended[0].State, b.ended[0].Error)
			assert.Empty(t, entries(t, computer))
		})
	}
}

func TestTimedBySigns(t *testing.T) {
	value, u := timedBySigns(61.23456, 0.08, 0.02, 0.03)
	assert.InDelta(t, 61.235, value, 1e-12)
	assert.InDelta(t, 0.05, u, 1e-12, "√(0.03² + 0.04²)")
}
