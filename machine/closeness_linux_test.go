package machine

import (
	"math/rand/v2"
	"slices"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"nowthen/core/drivetest"
)

// reference moves blocks with the same system calls on the same file as the
// engine, and does nothing else: what the engine's own work costs shows beside it.
func reference(b *testing.B, t *testFile, w drivetest.Workload, d time.Duration) (iops float64) {
	b.Helper()
	var next, done atomic.Int64
	blocks := w.SpanBytes / w.BlockBytes
	begun := time.Now()
	var wg sync.WaitGroup
	for i := range w.Depth {
		buffer := t.Buffer(w.BlockBytes)
		rng := rand.New(rand.NewPCG(uint64(i), 1))
		for k := range buffer {
			buffer[k] = byte(rng.Uint32())
		}
		wg.Go(func() {
			for time.Since(begun) < d {
				block := (next.Add(1) - 1) % blocks
				if w.Pattern == drivetest.Random {
					block = rng.Int64N(blocks)
				}
				var n int
				var err error
				if w.Writes() {
					n, err = syscall.Pwrite(t.fd, buffer, t.base+block*w.BlockBytes)
				} else {
					n, err = syscall.Pread(t.fd, buffer, t.base+block*w.BlockBytes)
				}
				if err != nil || n != len(buffer) {
					b.Error(n, err)
					return
				}
				done.Add(1)
			}
		})
	}
	wg.Wait()
	if w.Writes() {
		require.NoError(b, unix.Fdatasync(t.fd))
	}
	return float64(done.Load()) / time.Since(begun).Seconds()
}

// BenchmarkCloseToTheMetal runs the engine and the reference in turn and prints
// the ratio of their medians: 0.97 is meant for long reading and writing, 0.95
// for scattered reads one at a time, 0.90 for 32 at once.
func BenchmarkCloseToTheMetal(b *testing.B) {
	const span = 256 << 20
	const each = 700 * time.Millisecond
	scattered := drivetest.ScatteredRead(span)
	for _, c := range []struct {
		name string
		w    drivetest.Workload
	}{
		{"long-read", drivetest.LongRead(span)}, {"long-write", drivetest.LongWrite(span)},
		{"scattered-read", scattered}, {"busy-scattered-read", drivetest.Busy(scattered)},
	} {
		b.Run(c.name, func(b *testing.B) {
			vol, err := OpenFolder(b.TempDir())
			require.NoError(b, err)
			s, err := drivetest.Open(b.Context(), vol, span, 1)
			require.NoError(b, err)
			defer s.Close()
			quiet := func(drivetest.Progress) {}
			require.NoError(b, s.Lay(b.Context(), quiet))
			c.w.MaxSeconds, c.w.MaxBytes = each.Seconds(), 0
			var ours, theirs []float64
			for range b.N {
				r, err := s.Measure(b.Context(), c.w, quiet)
				require.NoError(b, err)
				ours = append(ours, r.IOPS)
				theirs = append(theirs, reference(b, s.File().(*testFile), c.w, each))
			}
			slices.Sort(ours)
			slices.Sort(theirs)
			b.ReportMetric(ours[len(ours)/2]/theirs[len(theirs)/2], "of-reference")
			b.ReportMetric(ours[len(ours)/2]*float64(c.w.BlockBytes)/1e6, "MB/s")
		})
	}
}
