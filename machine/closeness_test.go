package machine

import (
	"runtime"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
)

// BenchmarkCloseToTheMetal runs the engine and the reference in turn and prints
// the ratio of their medians: 0.97 is meant for long reading and writing, 0.95
// for scattered reads one at a time, 0.90 for 32 at once.
func BenchmarkCloseToTheMetal(b *testing.B) {
	const span = 256 << 20
	const each = 700 * time.Millisecond
	scattered := drivetest.ScatteredRead(span)
	if runtime.GOOS == "darwin" {
		b.Skip("there is no bare loop for this system")
	}
	for _, c := range []struct {
		name string
		w    drivetest.Workload
	}{
		{"long-read", drivetest.LongRead(span)}, {"long-write", drivetest.LongWrite(span)},
		{"scattered-read", scattered}, {"busy-scattered-read", drivetest.Busy(scattered)},
	} {
		b.Run(c.name, func(b *testing.B) {
			vol, err := OpenFolder(onDrive(b))
			require.NoError(b, err)
			s, err := drivetest.Open(b.Context(), vol, span, 1)
			require.NoError(b, err)
			defer s.Close()
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
