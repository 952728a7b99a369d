package sim

import (
	"math"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/job"
)

// Drives whose result is known in closed form. The engine's readings on them are within 1 % for rates and medians, 3 % for the 99.9 % quantile and 2 % for the
// cliff.

// smooth is a disk without seeks, turns or faults.
func smooth(mbs ...float64) *diskSpec { return &diskSpec{rpm: 1e9, zones: mbs} }

func ideal(capacity int64, s Spec) Spec {
	s.Label = job.Drive{DriveLabel: job.DriveLabel{CapacityBytes: capacity, Rated: &job.Rated{MaxTempC: 70}}}
	return s
}

func onIdeal(t *testing.T, s Spec, span int64, w drivetest.Workload) *drivetest.Reading {
	t.Helper()
	session, err := drivetest.Open(t.Context(), newDrive(s, 5), span, 5)
	require.NoError(t, err)
	r, err := session.Measure(t.Context(), w, func(drivetest.Progress) {})
	require.NoError(t, err)
	require.NoError(t, session.Close())
	return r
}

func TestReadingsAreExact(t *testing.T) {
	const span = 128 << 20
	const tb = int64(1e12)
	scattered, long := drivetest.ScatteredRead(span), drivetest.LongRead(span)
	write := drivetest.LongWrite(span)
	busy := scattered
	busy.Depth = 32
	write.MaxBytes = 0
	for _, w := range []*drivetest.Workload{&long, &write} {
		w.BlockBytes, w.Depth = 1<<20, 8
	}
	tests := []struct {
		name     string
		spec     Spec
		w        drivetest.Workload
		iops     float64
		medianMS float64 // 0: not known in closed form
	}{
		{"fixed service time, one at a time", ideal(tb, Spec{flash: &flashSpec{channels: 1, readLat: 250e-6}}),
			scattered, 4000, 0.25},
		{"one channel, 32 waiting", ideal(tb, Spec{flash: &flashSpec{channels: 1, readLat: 250e-6}}), busy, 4000, 8},
		{"eight channels, 32 waiting", ideal(tb, Spec{flash: &flashSpec{channels: 8, readLat: 250e-6}}), busy, 32000,
			1},
		{"more channels than requests", ideal(tb, Spec{flash: &flashSpec{channels: 64, readLat: 250e-6}}), busy, 128000,
			0.25},
		{"a bridge that lets one in",
			ideal(tb, Spec{flash: &flashSpec{channels: 8, readLat: 200e-6},
				bridge: bridgeSpec{depth: 1, overhead: 50e-6}}), busy, 4000, 8},
		{"the link's ceiling, reading", ideal(tb, Spec{flash: &flashSpec{channels: 64, readLat: 50e-6}, link: 300}),
			long, 300e6 / (1 << 20), 8 * (1 << 20) / 300e3},
		{"the link's ceiling, writing", ideal(tb, Spec{flash: &flashSpec{channels: 64, writeLat: 50e-6}, link: 150}),
			write, 150e6 / (1 << 20), 0},
		{"a disk behind a slower link", ideal(tb, Spec{disk: smooth(200), link: 60}), long, 60e6 / (1 << 20), 0},
		{"two zones, half of the file in each", ideal(span, Spec{disk: smooth(200, 100)}), long,
			2 / (1/200e6 + 1/100e6) / (1 << 20), 0},
		{"an arm with a fixed seek: half a turn on average",
			ideal(tb, Spec{disk: &diskSpec{rpm: 6000, zones: []float64{100}, shortSeek: 8e-3, stroke: 8e-3}}),
			scattered, 1 / (8e-3 + 5e-3 + 4096/100e6), 13.04},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			tt.w.MaxSeconds = 30
			if tt.iops < 100 {
				tt.w.MaxSeconds = 600
			}
			d := newDrive(tt.spec, 5)
			s, err := drivetest.Open(t.Context(), roomy{d}, span, 5)
			require.NoError(t, err)
			r, err := s.Measure(t.Context(), tt.w, func(drivetest.Progress) {})
			require.NoError(t, err)
			assert.InEpsilon(t, tt.iops, r.IOPS, 0.01)
			assert.InEpsilon(t, tt.iops*float64(tt.w.BlockBytes)/1e6, r.MBs, 0.01)
			if tt.medianMS > 0 {
				assert.InEpsilon(t, tt.medianMS, float64(r.Latency.ValueAtQuantile(50))/1e6, 0.01)
			}
		})
	}
}

// roomy is a drive that says it has room for anything.
type roomy struct{ *Drive }

func (r roomy) Facts() drivetest.Facts {
	f := r.Drive.Facts()
	f.TotalBytes, f.FreeBytes = 1<<50, 1<<50
	return f
}

func TestTheTailIsExact(t *testing.T) {
	// One request in a hundred waits for a time that is exponential with a mean of
	// 2 ms: P(more than x beyond the latency) = 0.01·exp(−x ÷ 2 ms), which is 0.001 at
	// x = 2 ms · ln 10.
	w := drivetest.ResponseTime(64 << 20)
	w.MaxSeconds = 300
	r := onIdeal(t, ideal(1e12, Spec{flash: &flashSpec{channels: 1, readLat: 200e-6, tail: 0.01, tailLat: 2e-3}}),
		64<<20, w)
	assert.InEpsilon(t, 0.2, float64(r.Latency.ValueAtQuantile(50))/1e6, 0.01)
	assert.InEpsilon(t, 0.2+2*math.Log(10), float64(r.Latency.ValueAtQuantile(99.9))/1e6, 0.03)
}

func TestTheCliffIsExact(t *testing.T) {
	tests := []struct {
		name   string
		cache  float64 // bytes
		fast   float64
		after  float64
		cause  string
		heat   heatSpec
		within float64
	}{
		{"a large cache", 12.3e9, 500, 120, drivetest.CacheCause, heatSpec{}, 0.02},
		{"a small one", 4.1e9, 400, 90, drivetest.CacheCause, heatSpec{}, 0.02},
		{"a gentle one", 9.7e9, 480, 300, drivetest.CacheCause, heatSpec{}, 0.02},
		// 30 °C + 2 °C a GB reaches 68 °C after 19 GB.
		{"heat", 1e15, 700, 700, drivetest.HeatCause, heatSpec{perGB: 2, slowAt: 68, calm: 1000, slowTo: 0.4}, 0.02},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			spec := ideal(2e12, Spec{TempC: 30, heat: tt.heat,
				flash: &flashSpec{channels: 16, writeLat: 20e-6, writeMBs: tt.fast, afterMBs: tt.after,
					cacheBytes: int64(tt.cache)}})
			w := drivetest.SustainedWrite(24 << 30)
			w.MaxSeconds = 600
			spec.Label.Rated = nil // it may get as hot as it likes
			d := newDrive(spec, 1)
			s, err := drivetest.Open(t.Context(), d, 0, 1)
			require.NoError(t, err)
			r, err := s.Measure(t.Context(), w, func(drivetest.Progress) {})
			require.NoError(t, err)
			c := drivetest.FindCliff(r.Series, r.Temps, 70)
			require.NotNil(t, c)
			at := tt.cache
			if tt.cause == drivetest.HeatCause {
				at = 19e9
			}
			assert.InEpsilon(t, at, float64(c.AfterBytes), tt.within)
			assert.Equal(t, tt.cause, c.Cause)
			assert.InEpsilon(t, tt.fast, c.BeforeMBs, 0.02)
		})
	}
}

func TestASweepIsExactAtEverySize(t *testing.T) {
	// One at a time a block takes 100 µs and its bytes at 500 MB/s.
	w := drivetest.SizeSweep(drivetest.Read, 64<<20)
	w.MaxSeconds = 26
	r := onIdeal(t, ideal(1e12, Spec{flash: &flashSpec{channels: 4, readLat: 100e-6}, link: 500}), 64<<20, w)
	require.Len(t, r.Curve, 13)
	slowness := 0.0
	for _, p := range r.Curve {
		n := float64(p.BlockBytes)
		want := n / (100e-6 + n/500e6) / 1e6
		assert.InEpsilon(t, want, p.MBs, 0.01, "%d KiB", p.BlockBytes>>10)
		slowness += 1 / want
	}
	assert.InEpsilon(t, 13/slowness, r.MBs, 0.01)
	assert.InDelta(t, 26, r.Elapsed.Seconds(), 1.5, "bounded as a whole")
}

func TestKeepingUpIsTheSlowestSecond(t *testing.T) {
	// Two streams on a drive that falls from 400 to 100 MB/s after 2 GB.
	streams := drivetest.Streams{Count: 2, Width: 1920, Height: 1080, FramesS: 25, Bits: 8}
	assert.InEpsilon(t, 51.84, streams.EachMBs(), 1e-9)
	w := drivetest.KeepUp(256<<20, streams)
	w.MaxSeconds, w.MaxBytes = 12, 0
	r := onIdeal(t, ideal(1e12,
		Spec{flash: &flashSpec{channels: 8, writeLat: 20e-6, writeMBs: 400, afterMBs: 100, cacheBytes: 2e9}}),
		256<<20, w)
	assert.InEpsilon(t, 100, r.Slowest, 0.015)
	margin, verdict := streams.KeepUp(r.Slowest)
	assert.InEpsilon(t, 100/103.68, margin, 0.015)
	assert.Equal(t, drivetest.FallsBehind, verdict)
}

func TestAQueueIsReordered(t *testing.T) {
	spec := ideal(1e12, Spec{disk: &diskSpec{rpm: 7200, zones: []float64{150}, shortSeek: 1e-3, stroke: 16e-3,
		overhead: 3e-4}, bridge: bridgeSpec{depth: 32}})
	w := drivetest.ScatteredRead(64 << 20)
	w.MaxSeconds = 60
	one := onIdeal(t, spec, 64<<20, w)
	busy := onIdeal(t, spec, 64<<20, drivetest.Busy(w))
	assert.Greater(t, busy.IOPS, 2.5*one.IOPS, "with 32 to choose from the head goes shorter ways")
}

func TestReadingAheadSavesATurn(t *testing.T) {
	spec := ideal(1e12, Spec{disk: &diskSpec{rpm: 6000, zones: []float64{100}, shortSeek: 1e-3, stroke: 1e-2,
		buffer: 8 << 20}})
	d := newDrive(spec, 1)
	f, err := d.Create(t.Context(), 64<<20)
	require.NoError(t, err)
	q := f.Queue(1)
	read := func(at int64) time.Duration {
		q.Start(&drivetest.Request{Offset: at, Data: scratch})
		r := q.Wait()
		return r.Ended - r.Started
	}
	read(0)
	d.Work(20 * time.Millisecond) // the program thinks; the head reads on
	assert.Zero(t, read(1<<20), "it lies in the track cache")
	assert.Greater(t, read(32<<20), 10*time.Millisecond, "elsewhere it does not")
}

func TestACacheLearnsAWorkingSet(t *testing.T) {
	for _, name := range []string{"hybrid-disk", "cached-disk"} {
		var starts []float64
		for earlier := range 5 {
			d, err := Open(name, 9)
			require.NoError(t, err)
			phases, err := Perform(d, "launch-first", false, earlier)
			require.NoError(t, err)
			starts = append(starts, phases[""])
		}
		assert.Less(t, starts[4], 0.5*starts[0], "%s: %v", name, starts)
		assert.InEpsilon(t, starts[3], starts[4], 0.1, "%s settles: %v", name, starts)
	}
}

func TestHeatSlowsADriveDownAndItRecovers(t *testing.T) {
	h := heat{heatSpec: heatSpec{perGB: 10, coolS: 60, slowAt: 70, calm: 10, slowTo: 0.5}, idle: 30, now: 30}
	h.moved(0, 3.9e9)
	assert.Equal(t, 1.0, h.slowed())
	h.moved(0, 0.1e9)
	assert.Equal(t, 0.5, h.slowed(), "70 °C")
	assert.InEpsilon(t, 30+40*math.Exp(-1), h.at(time.Minute), 0.01)
	h.moved(time.Minute+time.Second, 1)
	assert.Equal(t, 1.0, h.slowed(), "cool again")
}

func TestRequestsFromSeveralGoroutines(t *testing.T) {
	d, err := Open("swift-nvme", 1)
	require.NoError(t, err)
	var wg sync.WaitGroup
	for g := range 4 {
		f, err := d.Create(t.Context(), 16<<20)
		require.NoError(t, err)
		wg.Go(func() {
			q := f.Queue(2)
			a, b := &drivetest.Request{Data: make([]byte, 4096)},
				&drivetest.Request{Data: make([]byte, 4096), Write: true, Offset: 1 << 20}
			for i := range 500 {
				a.Offset = int64(i*(g+1)) % 4096 * 4096
				q.Start(a)
				q.Start(b)
				for range 2 {
					r := q.Wait()
					assert.NoError(t, r.Err)
					assert.Greater(t, r.Ended, r.Started)
				}
			}
			assert.NoError(t, f.Flush())
			assert.NoError(t, f.Close())
		})
	}
	wg.Wait()
	assert.Positive(t, d.Now())
}

func TestExistingFilesAreNotWritten(t *testing.T) {
	d, err := Open("worn-disk", 1)
	require.NoError(t, err)
	w := drivetest.ScatteredRead(64 << 20)
	w.Existing = true
	s, err := drivetest.Open(t.Context(), d, 0, 1)
	require.NoError(t, err)
	r, err := s.Measure(t.Context(), w, func(p drivetest.Progress) { assert.False(t, p.Laying) })
	require.NoError(t, err)
	assert.Positive(t, r.IOPS)
	f, err := d.Existing(t.Context(), 1<<20)
	require.NoError(t, err)
	q := f.Queue(1)
	q.Start(&drivetest.Request{Write: true, Data: make([]byte, 4096)})
	assert.Error(t, q.Wait().Err)
}
