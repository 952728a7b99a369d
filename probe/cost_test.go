package probe

import (
	"context"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/order"
	"nowthen/machine"
	"nowthen/sim"
)

// reporting returns what tells progress to a bench at an address, as a round's own reporter does.
func reporting(tb testing.TB, address string) (tell func(drivetest.Progress), done func()) {
	tb.Helper()
	b, err := NewBench(address, "t")
	require.NoError(tb, err)
	j, err := open(idle{}, b, tb.TempDir(), Options{Say: func(string) {}})
	require.NoError(tb, err)
	to, end := j.reporter(tb.Context(), &order.Order{ID: "o"})
	return func(p drivetest.Progress) { to(0, p) }, end
}

// listening is a bench that takes what it is told, and counts it.
func listening(tb testing.TB) (address string, heard *atomic.Int64) {
	tb.Helper()
	heard = &atomic.Int64{}
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		_, _ = io.Copy(io.Discard, r.Body)
		heard.Add(1)
		w.WriteHeader(http.StatusNoContent)
	}))
	tb.Cleanup(s.Close)
	return s.URL, heard
}

// quiet tells nobody.
func quiet(drivetest.Progress) {}

// On a simulated drive, whose time is its own, a round that reports reads what one reads that is
// silent, to the last digit.
func TestReportingChangesNoReading(t *testing.T) {
	address, heard := listening(t)
	tell, done := reporting(t, address)
	measure := func(tell func(drivetest.Progress)) []float64 {
		drive, err := sim.Open("worn-disk", 1)
		require.NoError(t, err)
		s, err := drivetest.Open(t.Context(), drive, 64<<20, 1)
		require.NoError(t, err)
		defer func() { _ = s.Close() }()
		require.NoError(t, s.Lay(t.Context(), quiet))
		var read []float64
		for _, w := range []drivetest.Workload{drivetest.LongRead(64 << 20), drivetest.ScatteredRead(64 << 20)} {
			r, err := s.Measure(t.Context(), w, tell)
			require.NoError(t, err)
			read = append(read, r.IOPS)
		}
		return read
	}
	silent := measure(quiet)
	assert.NotZero(t, silent[0])
	assert.Equal(t, silent, measure(tell))
	done()
	assert.Positive(t, heard.Load(), "it was told, too")
}

// A bench that doesn't answer doesn't delay a round, however much there is to report, and gets only the latest progress.
func TestReportingNeverWaits(t *testing.T) {
	hang := make(chan struct{})
	var asked atomic.Int64
	s := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		asked.Add(1)
		select {
		case <-hang:
		case <-r.Context().Done():
		}
	}))
	defer s.Close()
	tell, done := reporting(t, s.URL)
	for range 4000 { // which would never return if telling waited for the bench
		tell(drivetest.Progress{})
	}
	close(hang)
	done()
	assert.LessOrEqual(t, asked.Load(), int64(2), "the first, and the newest of the others")
}

// here is a folder beside the test: the one for passing files may lie in memory.
func here(tb testing.TB) string {
	tb.Helper()
	dir, err := os.MkdirTemp(".", "measured-")
	require.NoError(tb, err)
	tb.Cleanup(func() { _ = os.RemoveAll(dir) })
	dir, err = filepath.Abs(dir)
	require.NoError(tb, err)
	return dir
}

// BenchmarkReporting measures real files in turn with and without reporting to a bench on this
// machine, and prints the ratio of
// the medians: between 0.99 and 1.01 is meant.
func BenchmarkReporting(b *testing.B) {
	const span = 64 << 20
	address, _ := listening(b)
	for _, c := range []struct {
		name string
		w    drivetest.Workload
	}{
		{"long-read", drivetest.LongRead(span)}, {"scattered-read", drivetest.ScatteredRead(span)},
	} {
		b.Run(c.name, func(b *testing.B) {
			vol, err := machine.OpenFolder(here(b))
			require.NoError(b, err)
			s, err := drivetest.Open(context.Background(), vol, span, 1)
			require.NoError(b, err)
			defer func() { _ = s.Close() }()
			require.NoError(b, s.Lay(b.Context(), quiet))
			c.w.MaxSeconds, c.w.MaxBytes = 2, 0
			tell, done := reporting(b, address)
			defer done()
			var telling, silent []float64
			for range b.N {
				for _, way := range []struct {
					tell func(drivetest.Progress)
					into *[]float64
				}{{tell, &telling}, {quiet, &silent}} {
					r, err := s.Measure(b.Context(), c.w, way.tell)
					require.NoError(b, err)
					*way.into = append(*way.into, r.IOPS)
				}
			}
			slices.Sort(telling)
			slices.Sort(silent)
			b.ReportMetric(telling[len(telling)/2]/silent[len(silent)/2], "of-silent")
		})
	}
}
