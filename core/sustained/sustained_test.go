package sustained_test

import (
	"context"
	"errors"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/round"
	"nowthen/core/sustained"
	"nowthen/sim"
)

func quiet(int, drivetest.Progress) {}

func open(t *testing.T, name string) *sim.Drive {
	t.Helper()
	d, err := sim.Open(name, 3)
	require.NoError(t, err)
	return d
}

func TestADriveIsWrittenToAloneAndUnderLoad(t *testing.T) {
	d := open(t, "fresh-ssd")
	parts := map[int]int{}
	s, err := sustained.Write(t.Context(), d, sustained.Options{Seconds: 60, MostBytes: 12 << 30, Seed: 1, Load: true},
		func(part int, _ drivetest.Progress) { parts[part]++ })
	require.NoError(t, err)
	require.Len(t, s.Parts, 2)
	alone, loaded := s.Parts[0], s.Parts[1]
	assert.True(t, s.Simulated)
	assert.Equal(t, 70.0, *s.LimitC)
	assert.False(t, alone.Loaded)
	assert.True(t, loaded.Loaded)
	assert.InDelta(t, 500, alone.MBs, 25, "about what its label says")
	assert.InDelta(t, 12.0*(1<<30), float64(alone.Bytes), 4<<20)
	assert.EqualValues(t, "bytes", alone.Stopped)
	assert.Nil(t, alone.Cliff)
	assert.Equal(t, 33.0, *alone.StartC)
	assert.Greater(t, *alone.PeakC, *alone.StartC)
	assert.Greater(t, *loaded.PeakC, *alone.PeakC, "it begins where the first ended, in a warmer computer")
	assert.Positive(t, parts[0])
	assert.Positive(t, parts[1])
	c, _ := d.Temperature()
	require.NoError(t, d.Rest(t.Context(), 1<<42))
	cooled, _ := d.Temperature()
	assert.Less(t, cooled, c)
	assert.Equal(t, 33.0, cooled, "the load has ended")
}

func TestWhatIsPoorShows(t *testing.T) {
	t.Run("a small write cache", func(t *testing.T) {
		s, err := sustained.Write(t.Context(), open(t, "fresh-ssd"),
			sustained.Options{Seconds: 120, MostBytes: 40 << 30}, quiet)
		require.NoError(t, err)
		c := s.Parts[0].Cliff
		require.NotNil(t, c)
		assert.Equal(t, drivetest.CacheCause, c.Cause)
		assert.Less(t, c.AfterMBs, 0.7*c.BeforeMBs)
	})
	t.Run("heat ends it, and that is no error", func(t *testing.T) {
		s, err := sustained.Write(t.Context(), open(t, "fresh-ssd"),
			sustained.Options{Seconds: 120, MostBytes: 40 << 30, MaxTempC: 36}, quiet)
		require.NoError(t, err)
		assert.EqualValues(t, "heat", s.Parts[0].Stopped)
		assert.InDelta(t, 36, *s.Parts[0].PeakC, 1)
	})
}

func TestWhatIsRefused(t *testing.T) {
	for name, c := range map[string]struct {
		o    sustained.Options
		says string
	}{
		"too short":       {sustained.Options{Seconds: 1, MostBytes: 1 << 30}, "seconds"},
		"for days":        {sustained.Options{Seconds: 1e6, MostBytes: 1 << 30}, "seconds"},
		"next to nothing": {sustained.Options{Seconds: 60, MostBytes: 1}, "bytes"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := sustained.Write(t.Context(), open(t, "fresh-ssd"), c.o, quiet)
			assert.ErrorContains(t, err, c.says)
		})
	}
	t.Run("just enough room", func(t *testing.T) {
		d := open(t, "fresh-ssd")
		facts := d.Facts()
		keep := facts.FreeBytes - drivetest.Room(facts)
		for free, fine := range map[int64]bool{keep + 64<<20: true, keep + 64<<20 - 1: false} {
			s, err := sustained.Write(t.Context(), roomy{d, free}, sustained.Options{Seconds: 10, MostBytes: 1 << 30},
				quiet)
			assert.Equal(t, fine, err == nil, "%d bytes: %v", free-keep, err)
			if fine {
				assert.EqualValues(t, 64<<20, s.Parts[0].Bytes)
			} else {
				assert.ErrorContains(t, err, "67 MB are less")
			}
		}
	})
	t.Run("no limit is known", func(t *testing.T) {
		s, err := sustained.Write(t.Context(), mute{open(t, "fresh-ssd")},
			sustained.Options{Seconds: 10, MostBytes: 64 << 20}, quiet)
		require.NoError(t, err)
		assert.Nil(t, s.LimitC)
		s, err = sustained.Write(t.Context(), mute{open(t, "fresh-ssd")},
			sustained.Options{Seconds: 10, MostBytes: 64 << 20, MaxTempC: 60}, quiet)
		require.NoError(t, err)
		assert.Equal(t, 60.0, *s.LimitC, "that of the label")
		s, err = sustained.Write(t.Context(), limitless{open(t, "fresh-ssd")},
			sustained.Options{Seconds: 10, MostBytes: 64 << 20, MaxTempC: 60}, quiet)
		require.NoError(t, err)
		assert.Equal(t, 60.0, *s.LimitC, "it tells how warm it is, and no limit")
	})
	t.Run("no room", func(t *testing.T) {
		_, err := sustained.Write(t.Context(), full{open(t, "fresh-ssd")},
			sustained.Options{Seconds: 60, MostBytes: 1 << 30}, quiet)
		assert.ErrorIs(t, err, drivetest.ErrNoRoom)
	})
	t.Run("a place without a processor", func(t *testing.T) {
		_, err := sustained.Write(t.Context(), full{open(t, "fresh-ssd")},
			sustained.Options{Seconds: 60, MostBytes: 1 << 30, Load: true}, quiet)
		assert.Error(t, err)
	})
	t.Run("somebody stops it", func(t *testing.T) {
		ctx, stop := context.WithCancel(t.Context())
		s, err := sustained.Write(ctx, open(t, "fresh-ssd"), sustained.Options{Seconds: 60, MostBytes: 8 << 30},
			func(int, drivetest.Progress) { stop() })
		assert.ErrorIs(t, err, context.Canceled)
		assert.True(t, s == nil || len(s.Parts) < 2)
	})
	t.Run("it fails under way", func(t *testing.T) {
		_, err := sustained.Write(t.Context(), failing{round.Place(open(t, "fresh-ssd"))},
			sustained.Options{Seconds: 60, MostBytes: 1 << 30}, quiet)
		assert.ErrorIs(t, err, errBroken)
	})
}

// A drive that fails under way has written so much until then, and that is kept with why.
func TestADriveThatFailsUnderWay(t *testing.T) {
	d := open(t, "fresh-ssd")
	s, err := sustained.Write(t.Context(), dying{d, 4 << 30}, sustained.Options{Seconds: 60, MostBytes: 12 << 30}, quiet)
	assert.ErrorIs(t, err, errBroken)
	require.NotNil(t, s)
	require.Len(t, s.Parts, 1)
	assert.EqualValues(t, "error", s.Parts[0].Stopped)
	assert.InDelta(t, 4.0*(1<<30), float64(s.Parts[0].Bytes), 64<<20)
	assert.NoError(t, s.Check())
}

// dying is a drive that fails once a place of its file is written.
type dying struct {
	*sim.Drive
	at int64
}

func (d dying) Create(ctx context.Context, size int64) (drivetest.File, error) {
	f, err := d.Drive.Create(ctx, size)
	return dyingFile{f, d.at}, err
}

type dyingFile struct {
	drivetest.File
	at int64
}

func (f dyingFile) Queue(depth int) drivetest.Queue { return dyingQueue{f.File.Queue(depth), f.at} }

type dyingQueue struct {
	drivetest.Queue
	at int64
}

func (q dyingQueue) Wait() *drivetest.Request {
	r := q.Queue.Wait()
	if r.Write && r.Offset >= q.at {
		r.Err = errBroken
	}
	return r
}

func TestBoundsOfWhatIsAsked(t *testing.T) {
	for name, c := range map[string]struct {
		o    sustained.Options
		fine bool
	}{
		"ten seconds":          {sustained.Options{Seconds: 10, MostBytes: 64 << 20}, true},
		"a little less":        {sustained.Options{Seconds: 9.999, MostBytes: 64 << 20}, false},
		"half an hour":         {sustained.Options{Seconds: 1800, MostBytes: 64 << 20}, true},
		"a little more":        {sustained.Options{Seconds: 1800.001, MostBytes: 64 << 20}, false},
		"no number of seconds": {sustained.Options{Seconds: math.NaN(), MostBytes: 64 << 20}, false},
		"a byte less":          {sustained.Options{Seconds: 10, MostBytes: 64<<20 - 1}, false},
	} {
		assert.Equal(t, c.fine, c.o.Check() == nil, name)
	}
}

// full is a place without room.
type full struct{ round.Place }

func (f full) Facts() drivetest.Facts {
	facts := f.Place.Facts()
	facts.FreeBytes = 1 << 20
	return facts
}

// roomy is a place with so much room.
type roomy struct {
	*sim.Drive
	free int64
}

func (f roomy) Facts() drivetest.Facts {
	facts := f.Drive.Facts()
	facts.FreeBytes = f.free
	return facts
}

// mute is a place that reports no temperature.
type mute struct{ round.Place }

func (mute) Can() drivetest.Capabilities { return drivetest.Capabilities{} }

// limitless is a drive that tells its temperature and no limit.
type limitless struct{ *sim.Drive }

func (d limitless) Can() drivetest.Capabilities {
	can := d.Drive.Can()
	can.Temperature = func() (celsius, limit float64) {
		celsius, _ = d.Drive.Temperature()
		return celsius, 0
	}
	return can
}

var errBroken = errors.New("broken")

// failing is a place where no file can be made.
type failing struct{ round.Place }

func (failing) Create(context.Context, int64) (drivetest.File, error) { return nil, errBroken }
