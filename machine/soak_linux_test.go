package machine

import (
	"context"
	"errors"
	"math/rand/v2"
	"os"
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/filetest"
)

// TestSoak runs all workloads with cancels at random moments and looks that
// nothing is left: no file, no open descriptor, no worker. It lasts a moment, or
// as long as NOWTHEN_SOAK says.
func TestSoak(t *testing.T) {
	lasts := 4 * time.Second
	if s := os.Getenv("NOWTHEN_SOAK"); s != "" {
		var err error
		lasts, err = time.ParseDuration(s)
		require.NoError(t, err)
	}
	seed := uint64(time.Now().UnixNano())
	t.Logf("seed %d", seed)
	rng := rand.New(rand.NewPCG(seed, 1))
	dir := onDrive(t)
	sweep := drivetest.SizeSweep(drivetest.Write, span)
	sweep.MaxBytes = 32 << 20
	workloads := []drivetest.Workload{
		drivetest.LongRead(span), drivetest.LongWrite(span), drivetest.ScatteredRead(span), drivetest.ScatteredWrite(span),
		drivetest.Busy(drivetest.ScatteredRead(span)), drivetest.Busy(drivetest.ScatteredWrite(span)), drivetest.DeskMix(span),
		drivetest.SizeSweep(drivetest.Read, span), sweep, drivetest.SustainedWrite(2 * span), drivetest.KeepUp(span,
			drivetest.Streams{Count: 2, MBs: 1}),
	}
	descriptors := func() int {
		list, err := os.ReadDir("/proc/self/fd")
		require.NoError(t, err)
		return len(list)
	}
	before, workers := descriptors(), runtime.NumGoroutine()
	runs, cancels := 0, 0
	for end := time.Now().Add(lasts); time.Now().Before(end); runs++ {
		vol, err := OpenFolder(dir)
		require.NoError(t, err)
		vol.named = rng.IntN(2) == 0
		ctx, cancel := context.WithCancel(t.Context())
		if rng.IntN(3) > 0 {
			time.AfterFunc(time.Duration(rng.IntN(400))*time.Millisecond, cancel)
		}
		if rng.IntN(5) == 0 {
			set := filetest.Set{Files: 200, MedianBytes: 4096, Sigma: 1, MaxBytes: 1 << 16, Seed: seed}
			_, err = filetest.Measure(ctx, vol, filetest.Work{Op: filetest.MakeAndCopy, Set: set}, "", quiet)
		} else {
			w := workloads[rng.IntN(len(workloads))]
			w.MaxSeconds = 0.3
			var s *drivetest.Session
			if s, err = drivetest.Open(ctx, vol, span, rng.Uint64()); err == nil {
				_, err = s.Measure(ctx, w, quiet)
				require.NoError(t, s.Close())
			}
		}
		if errors.Is(err, context.Canceled) {
			cancels++
		} else {
			require.NoError(t, err)
		}
		cancel()
		left, err := os.ReadDir(dir)
		require.NoError(t, err)
		require.Empty(t, left)
	}
	t.Logf("%d runs, %d of them cancelled", runs, cancels)
	assert.Positive(t, runs)
	require.Eventually(t, func() bool { return runtime.NumGoroutine() <= workers+2 }, time.Hour, 20*time.Millisecond)
	assert.LessOrEqual(t, descriptors(), before+2)
}

// The engine needs little beyond its buffers: 64 MiB at most.
func TestMemoryBeyondTheBuffers(t *testing.T) {
	vol, err := OpenFolder(onDrive(t))
	require.NoError(t, err)
	s, err := drivetest.Open(t.Context(), vol, span, 1)
	require.NoError(t, err)
	require.NoError(t, s.Lay(t.Context(), quiet))
	sys := func() uint64 {
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		return m.Sys
	}
	runtime.GC()
	before := sys()
	for _, w := range []drivetest.Workload{drivetest.LongRead(span), drivetest.Busy(drivetest.ScatteredRead(span)),
		drivetest.DeskMix(span)} {
		w.MaxSeconds, w.MaxBytes = 0.5, 128<<20
		_, err := s.Measure(t.Context(), w, quiet)
		require.NoError(t, err)
	}
	const buffers = 8 << 20
	assert.LessOrEqual(t, sys()-before, uint64(buffers+64<<20))
	require.NoError(t, s.Close())
}
