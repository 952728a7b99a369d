package drivetest

import (
	"context"
	"errors"
	"io"
	"math"
	"math/rand/v2"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// faulty is a drive of fixed service time to which something happens at a
// certain request, and from then on if it lasts.
type faulty struct {
	*clockVolume
	at    int64
	lasts bool
	err   error
	jump  time.Duration // of the clock
	sleep time.Duration // of the computer, which the clock does not count
	slept time.Duration
	flush error
	heat  func(now time.Duration) float64
	limit float64
}

func newFaulty() *faulty { return &faulty{clockVolume: newClockVolume(time.Millisecond, 4)} }

func (v *faulty) Create(context.Context, int64) (File, error) { return v, nil }
func (v *faulty) Flush() error                                { return errors.Join(v.clockVolume.Flush(), v.flush) }
func (v *faulty) Queue(int) Queue                             { return &faultyQueue{clockQueue{v: v.clockVolume}, v} }
func (v *faulty) Can() Capabilities {
	return Capabilities{Temperature: v.temperature, Slept: func() time.Duration { return v.slept }}
}
func (v *faulty) temperature() (float64, float64) {
	if v.heat == nil {
		return math.NaN(), 0
	}
	return v.heat(v.now), v.limit
}

type faultyQueue struct {
	clockQueue
	v *faulty
}

func (q *faultyQueue) Wait() *Request {
	r := q.clockQueue.Wait()
	if q.v.at > 0 && (q.v.served == q.v.at || q.v.lasts && q.v.served > q.v.at) {
		if q.v.err != nil {
			r.Err = q.v.err
		}
		q.v.slept += q.v.sleep
		r.Ended += q.v.jump
		q.v.now += q.v.jump
	}
	return r
}

func TestFaultsAreResultsWithWhatWasMeasured(t *testing.T) {
	gone := syscall.Errno(19) // no such device
	tests := []struct {
		name  string
		spoil func(*faulty)
		w     Workload
		is    error
		says  string
		part  bool // something was measured and is kept
	}{
		{"an unreadable block", func(v *faulty) { v.at, v.err = 500, syscall.EIO }, ScatteredRead(16 << 20),
			syscall.EIO, "at byte", true},
		{"the drive vanishes", func(v *faulty) { v.at, v.err, v.lasts = 100, gone, true }, longWrite(16 << 20), gone,
			"at byte", true},
		{"the drive vanishes at the flush", func(v *faulty) { v.flush = gone }, sustained(16 << 20), gone, "flush",
			true},
		{"the room is used up", func(v *faulty) { v.at, v.err = 100, syscall.ENOSPC }, longWrite(16 << 20),
			syscall.ENOSPC, "at byte", true},
		{"a short read", func(v *faulty) { v.at, v.err = 500, io.ErrUnexpectedEOF }, longRead(16 << 20),
			io.ErrUnexpectedEOF, "at byte", true},
		{"a fault at the first request", func(v *faulty) { v.at, v.err, v.lasts = 1, syscall.EIO, true },
			longRead(16 << 20), syscall.EIO, "laying out", false},
		{"the computer sleeps", func(v *faulty) { v.at, v.sleep = 500, time.Hour }, ScatteredRead(16 << 20), ErrClock,
			"slept for 3600 s", true},
		{"it sleeps, and the clock counts it", func(v *faulty) { v.at, v.sleep, v.jump = 500, time.Hour, time.Hour },
			ScatteredRead(16 << 20), ErrClock, "slept for 3600 s", true},
		{"the clock is set back", func(v *faulty) { v.at, v.jump = 500, -time.Hour }, ScatteredRead(16 << 20), ErrClock,
			"set back", true},
		{"each write's flush fails", func(v *faulty) { v.flush = syscall.EIO }, func() Workload {
			w := ScatteredWrite(16 << 20)
			w.Flush, w.Existing = FlushEach, false
			return w
		}(), syscall.EIO, "flush", false},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			v := newFaulty()
			tt.spoil(v)
			s, err := Open(t.Context(), v, 16<<20, 1)
			require.NoError(t, err)
			r, err := s.Measure(t.Context(), tt.w, quiet)
			require.ErrorIs(t, err, tt.is)
			assert.ErrorContains(t, err, tt.says)
			if tt.part {
				require.NotNil(t, r)
				assert.Equal(t, StoppedByError, r.Stopped)
				assert.Positive(t, r.IOs)
				if tt.w.Op == Read && tt.w.Depth == 1 {
					assert.InEpsilon(t, 1000, r.IOPS, 0.01, "the rate is that of the time before")
				}
			} else {
				assert.Nil(t, r)
			}
			_ = s.Close()
			assert.True(t, v.closed, "the test file is removed all the same")
		})
	}
}

func TestAHotDriveIsLeftAlone(t *testing.T) {
	v := newFaulty()
	v.limit = 70
	v.heat = func(now time.Duration) float64 { return 40 + 5*now.Seconds() }
	w := ScatteredRead(16 << 20)
	w.MaxSeconds = 60
	s, err := Open(t.Context(), v, 16<<20, 1)
	require.NoError(t, err)
	r, err := s.Measure(t.Context(), w, quiet)
	require.ErrorIs(t, err, ErrTooHot)
	assert.ErrorContains(t, err, "70 °C is the limit")
	assert.Equal(t, StoppedByHeat, r.Stopped)
	assert.InDelta(t, 6, r.Elapsed.Seconds(), 0.3)
	assert.InDelta(t, 70, r.PeakTempC(), 5)
	assert.InDelta(t, 6, len(r.Temps), 1, "one a second")

	// The label's limit, where it is known, is what counts.
	v = newFaulty()
	v.heat = func(time.Duration) float64 { return 61 }
	s, err = Open(t.Context(), v, 16<<20, 1)
	require.NoError(t, err)
	s.MaxTempC = 60
	_, err = s.Measure(t.Context(), w, quiet)
	assert.ErrorIs(t, err, ErrTooHot, "it is too hot from the start")
}

func TestWarmUpRampAndTailDoNotCount(t *testing.T) {
	// The first second is ten times as slow.
	v := newClockVolume(0, 1)
	v.draw = func() time.Duration {
		if v.now < 300*time.Millisecond {
			return 10 * time.Millisecond
		}
		return time.Millisecond
	}
	w := ScatteredRead(1 << 20)
	w.WarmSeconds, w.MaxSeconds = 0.5, 4
	r := measure(t, v, w)
	assert.InEpsilon(t, 1000, r.IOPS, 0.005)
	assert.InDelta(t, 4, r.Elapsed.Seconds(), 0.01, "the limit is of the measured time")

	// Of 32 at once the last 31 end with fewer in flight.
	v = newClockVolume(10*time.Millisecond, 32)
	w = busyWith32(ScatteredRead(1 << 20))
	w.MaxSeconds = 1
	r = measure(t, v, w)
	assert.InEpsilon(t, 3200, r.IOPS, 0.01)

	// A warm-up does not use up the bytes that may be written.
	v = newClockVolume(time.Millisecond, 1)
	w = longWrite(16 << 20)
	w.MaxBytes, w.WarmSeconds = 64<<20, 5
	r = measure(t, v, w)
	assert.Equal(t, StoppedAtBytes, r.Stopped)
	assert.Greater(t, r.Bytes, int64(40<<20))
}

func TestASlowStartStillGivesAResult(t *testing.T) {
	// A drive so slow that the ramp alone takes longer than the test.
	v := newClockVolume(900*time.Millisecond, 1)
	w := longRead(16 << 20)
	w.MaxSeconds = 1
	r := measure(t, v, w)
	assert.Positive(t, r.IOs)
	assert.InEpsilon(t, 1/0.9, r.IOPS, 0.01)
}

func TestStreamsTakeTurnsInPartsOfTheirOwn(t *testing.T) {
	v := newClockVolume(time.Millisecond, 1)
	w := KeepUp(64<<20, Streams{Count: 4, MBs: 10})
	w.MaxSeconds, w.MaxBytes = 1, 0
	measure(t, v, w)
	for i, at := range v.offsets[64:] { // after laying out
		lane := int64(i % 4)
		require.True(t, at >= lane*16<<20 && at < (lane+1)*16<<20, "request %d at %d", i, at)
	}
}

func TestFreshFilesAreNotLaidOut(t *testing.T) {
	v := newClockVolume(time.Millisecond, 8)
	s, err := Open(t.Context(), v, 0, 1)
	require.NoError(t, err)
	r, err := s.Measure(t.Context(), sustained(32<<20), func(p Progress) { assert.False(t, p.Laying) })
	require.NoError(t, err)
	assert.Equal(t, int64(32), v.served)
	assert.Equal(t, int64(32<<20), r.Bytes, "all of it counts")
	v.facts.FreeBytes = 2 << 30
	_, err = s.Measure(t.Context(), sustained(1<<30), quiet)
	assert.ErrorIs(t, err, ErrNoRoom)
	w := ScatteredRead(1 << 20)
	w.Existing = true
	_, err = s.Measure(t.Context(), w, quiet)
	assert.ErrorContains(t, err, "existing files cannot be read")
}

func TestSpanOf(t *testing.T) {
	existing := longRead(1 << 40)
	existing.Existing = true
	span, extra := SpanOf([]Workload{longRead(5<<20 + 512), existing, sustained(64 << 20), ScatteredRead(2 << 20)})
	assert.Equal(t, int64(6<<20), span)
	assert.Equal(t, int64(64<<20), extra)
}

func TestCheckOfFurtherParameters(t *testing.T) {
	sweep, keep, sustained := SizeSweep(Read, 64<<20), KeepUp(64<<20, Streams{Count: 2, MBs: 4}), sustained(64<<20)
	for _, w := range []Workload{sweep, SizeSweep(Write, 64<<20), keep, sustained, ResponseTime(1 << 20)} {
		require.NoError(t, w.Check())
	}
	tests := []struct {
		name  string
		w     Workload
		spoil func(*Workload)
		wrong string
	}{
		{"odd size", sweep, func(w *Workload) { w.Sweep = []int64{1000} }, "sweep"},
		{"largest", sweep, func(w *Workload) { w.BlockBytes = 4096 }, "largest"},
		{"scattered sweep", sweep, func(w *Workload) { w.Pattern = Random }, "sequentially"},
		{"too many sizes", sweep, func(w *Workload) {
			w.Sweep = make([]int64, 40)
			for i := range w.Sweep {
				w.Sweep[i] = 4096
			}
		}, "32 are taken"},
		{"sweep of streams", sweep, func(w *Workload) { w.Streams = &Streams{Count: 1, MBs: 1} }, "one stream"},
		{"no streams", keep, func(w *Workload) { w.Streams = &Streams{MBs: 4} }, "count"},
		{"no rate", keep, func(w *Workload) { w.Streams = &Streams{Count: 2} }, "streams"},
		{"negative", keep, func(w *Workload) { w.Streams = &Streams{Count: 2, Width: -1} }, "negative"},
		{"crowded", keep, func(w *Workload) { w.Streams = &Streams{Count: 64, MBs: 1} }, "too small"},
		{"scattered streams", keep, func(w *Workload) { w.Pattern = Random }, "sequentially"},
		{"reading what is fresh", sustained, func(w *Workload) { w.Op = Read }, "fresh"},
		{"scattered fresh", sustained, func(w *Workload) { w.Pattern = Random }, "fresh"},
		{"writing what is there", sustained, func(w *Workload) { w.Existing = true }, "existing"},
		{"warm for ever", keep, func(w *Workload) { w.WarmSeconds = 1e9 }, "warm_seconds"},
	}
	for _, tt := range tests {
		tt.spoil(&tt.w)
		assert.ErrorContains(t, tt.w.Check(), tt.wrong, tt.name)
	}
}

func TestFindCliff(t *testing.T) {
	flat := func(n int, mbs float64) []float64 {
		list := make([]float64, n)
		for i := range list {
			list[i] = mbs
		}
		return list
	}
	join := func(parts ...[]float64) (all []float64) {
		for _, p := range parts {
			all = append(all, p...)
		}
		return all
	}
	tests := []struct {
		name  string
		mbs   []float64
		after float64 // bytes; 0: no cliff
	}{
		{"steady", flat(60, 300), 0},
		{"falls to a third", join(flat(20, 300), flat(40, 100)), 6000e6},
		{"in the middle of a second", join(flat(20, 300), []float64{200}, flat(40, 100)), 6150e6},
		{"a little", join(flat(20, 300), flat(40, 220)), 0},
		{"only for a moment", join(flat(30, 300), flat(3, 20), flat(30, 300)), 0},
		{"too late to tell", join(flat(60, 300), flat(4, 100)), 0},
		{"it gets quicker", join(flat(20, 100), flat(40, 300)), 0},
		{"nothing", nil, 0},
	}
	for _, tt := range tests {
		c := FindCliff(tt.mbs, nil, 70)
		if tt.after == 0 {
			assert.Nil(t, c, tt.name)
			continue
		}
		if assert.NotNil(t, c, tt.name) {
			assert.InEpsilon(t, tt.after, float64(c.AfterBytes), 0.005, tt.name)
			assert.Equal(t, CacheCause, c.Cause)
		}
	}
	mbs := join(flat(20, 300), flat(40, 100))
	assert.Equal(t, HeatCause, FindCliff(mbs, flat(60, 67), 70).Cause, "3 °C below its limit")
	assert.Equal(t, CacheCause, FindCliff(mbs, flat(60, 66), 70).Cause)
	assert.Equal(t, CacheCause, FindCliff(mbs, flat(60, 90), 0).Cause, "no limit is known")
}

func TestKeepUp(t *testing.T) {
	s := Streams{Count: 2, MBs: 50}
	for slowest, want := range map[float64]string{120: KeepsUp, 119: JustKeepsUp, 100: JustKeepsUp, 99: FallsBehind} {
		_, got := s.KeepUp(slowest)
		assert.Equal(t, want, got, "%g", slowest)
	}
	s.Plays = 1
	_, got := s.KeepUp(179)
	assert.Equal(t, JustKeepsUp, got, "a playback needs as much as a recording")
}

// What is played back was recorded in the same run, a while before, and is read beside the writing.
func TestPlaybackBesideRecordings(t *testing.T) {
	w := KeepUp(64<<20, Streams{Count: 2, Plays: 1, MBs: 1})
	require.NoError(t, w.Check())
	laid := w
	laid.Fresh = false
	require.Error(t, laid.Check(), "nothing of it would have been recorded")
	r := run{w: w, s: &Session{rng: rand.New(rand.NewPCG(1, 2))}}
	written := map[int64]bool{}
	reads, writes := 0, 0
	for writes < 60 {
		req := Request{Write: true, Data: make([]byte, w.BlockBytes)}
		r.aimSequential(&req, w.BlockBytes, w.SpanBytes)
		if req.Write {
			assert.False(t, written[req.Offset], "nothing is written twice")
			written[req.Offset] = true
			writes++
			continue
		}
		reads++
		assert.True(t, written[req.Offset], "at %d nothing was recorded yet", req.Offset)
	}
	assert.Greater(t, reads, 5)
}

// FuzzFaults: whatever fails and whenever, a run ends, within its bounds, with a
// reading or an error, and the file is closed.
func FuzzFaults(f *testing.F) {
	f.Add(int64(30), true, uint8(5), int64(0), uint8(1), false)
	f.Add(int64(40), false, uint8(0), int64(time.Hour), uint8(2), true)
	f.Add(int64(90), false, uint8(28), int64(-5), uint8(4), false)
	f.Fuzz(func(t *testing.T, at int64, lasts bool, errno uint8, jump int64, kind uint8, hot bool) {
		ws := []Workload{longRead(16 << 20), longWrite(16 << 20), ScatteredRead(16 << 20),
			busyWith32(ScatteredWrite(16 << 20)), DeskMix(16 << 20),
			sustained(16 << 20), SizeSweep(Read, 16<<20), KeepUp(16<<20, Streams{Count: 2, MBs: 1}), KeepUp(64<<20, Streams{Count: 2, Plays: 2, MBs: 1})}
		w := ws[int(kind)%len(ws)]
		w.MaxSeconds, w.MaxBytes = 0.5, 64<<20
		v := newFaulty()
		v.at, v.lasts, v.jump = at, lasts, time.Duration(jump%int64(2*time.Hour))
		if errno > 0 {
			v.err = syscall.Errno(errno)
		}
		if hot {
			v.limit, v.heat = 70, func(now time.Duration) float64 { return 69 + 10*now.Seconds() }
		}
		s, err := Open(t.Context(), v, 16<<20, 1)
		require.NoError(t, err)
		r, err := s.Measure(t.Context(), w, quiet)
		require.True(t, r != nil || err != nil)
		if r != nil {
			require.False(t, math.IsNaN(r.MBs) || math.IsInf(r.MBs, 0) || r.MBs < 0, "%v", r.MBs)
			require.GreaterOrEqual(t, r.Elapsed, time.Duration(0))
		}
		_ = s.Close()
		require.True(t, v.closed)
	})
}

// A drive that retries a bad sector for a long time is slow; the computer didn't sleep.
func TestALongRetryIsNoSleep(t *testing.T) {
	for _, retry := range []time.Duration{70 * time.Second, 5 * time.Minute} {
		v := newFaulty()
		v.at, v.jump = 500, retry
		s, err := Open(t.Context(), v, 16<<20, 1)
		require.NoError(t, err)
		r, err := s.Measure(t.Context(), ScatteredRead(16<<20), quiet)
		require.NoError(t, err)
		assert.Positive(t, r.IOs)
		assert.InEpsilon(t, float64(retry), float64(r.Latency.Max()), 0.01, "the retry is the longest request")
	}
}

// A run ends within its time, or once the drive has answered it at all; one that is not
// answered ends with an error.
func TestARunOfASlowDriveIsBounded(t *testing.T) {
	tests := map[string]struct {
		service  time.Duration
		most     time.Duration // of the whole run, with what was under way at its end
		answered bool
	}{
		"answers in time":            {100 * time.Millisecond, 15*time.Second + 4*100*time.Millisecond, true},
		"its ramp takes the time":    {5 * time.Second, 15*time.Second + 4*5*time.Second + 5*time.Second, true},
		"answers in the last moment": {14 * time.Second, 15*time.Second + Unanswered + 4*14*time.Second, true},
		"does not answer":            {40 * time.Second, 15*time.Second + Unanswered + 4*40*time.Second, false},
	}
	for name, tc := range tests {
		t.Run(name, func(t *testing.T) {
			v := newClockVolume(time.Millisecond, 1)
			s, err := Open(t.Context(), v, 16<<20, 1)
			require.NoError(t, err)
			require.NoError(t, s.Lay(t.Context(), quiet))
			v.service = tc.service
			w := longRead(16 << 20)
			w.Depth, w.MaxSeconds = 4, 15
			began := v.now
			r, err := s.Measure(t.Context(), w, quiet)
			assert.LessOrEqual(t, v.now-began, tc.most+PauseAfterLaying(16<<20))
			if !tc.answered {
				require.ErrorContains(t, err, "nothing ended")
				return
			}
			require.NoError(t, err)
			assert.Positive(t, r.IOs)
		})
	}
}
