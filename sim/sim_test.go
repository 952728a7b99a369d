package sim

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/capacity"
	"nowthen/core/drivetest"
	"nowthen/core/fairness"
	"nowthen/core/order"
)

func read(t *testing.T, name string, seed uint64, w drivetest.Workload) *drivetest.Reading {
	t.Helper()
	d, err := Open(name, seed)
	require.NoError(t, err)
	s, err := drivetest.Open(t.Context(), d, 64<<20, seed)
	require.NoError(t, err)
	r, err := s.Measure(t.Context(), w, func(drivetest.Progress) {})
	require.NoError(t, err)
	require.NoError(t, s.Close())
	return r
}

func TestTheSameSeedGivesTheSameFigures(t *testing.T) {
	for _, name := range Names() {
		w := drivetest.ScatteredRead(64 << 20)
		a, b, c := read(t, name, 7, w), read(t, name, 7, w), read(t, name, 8, w)
		assert.Equal(t, a.IOPS, b.IOPS, name)
		assert.NotEqual(t, a.IOPS, c.IOPS, name)
		assert.True(t, a.Facts.Simulated)
	}
}

func TestDrivesBehaveAsTheirKindDoes(t *testing.T) {
	long, scattered := drivetest.LongRead(64<<20), drivetest.ScatteredRead(64<<20)
	for _, name := range Names() {
		d, err := Open(name, 1)
		require.NoError(t, err)
		spec := d.Spec()
		l, s := read(t, name, 1, long), read(t, name, 1, scattered)
		assert.LessOrEqual(t, l.MBs, 1.02*spec.Attached.LinkMBs, "%s: no faster than its link", name)
		if spec.cache != nil {
			assert.Greater(t, s.IOPS, 100.0, "%s: some of it has been learnt", name)
		} else if spec.disk != nil {
			assert.Less(t, s.IOPS, 250.0, "%s: an arm cannot do more", name)
			assert.Greater(t, s.IOPS, 40.0, name)
			assert.Less(t, l.MBs, spec.disk.zones[0], name)
			assert.Greater(t, l.MBs, spec.disk.zones[len(spec.disk.zones)-1], name)
		} else {
			assert.Greater(t, s.IOPS, 2500.0, name)
			assert.InDelta(t, 1, l.MBs/spec.Label.Rated.ReadMBs, 0.3, "%s: about what its label says", name)
		}
	}
}

func TestSSDOneAtATimeInClosedForm(t *testing.T) {
	// A read takes its latency plus 4 KiB on the link; the tail adds tail × tailLat on average.
	d, err := Open("fresh-ssd", 3)
	require.NoError(t, err)
	f := d.spec.flash
	want := 1 / (f.readLat + 4096/(d.spec.link*1e6) + f.tail*f.tailLat)
	assert.InEpsilon(t, want, read(t, "fresh-ssd", 3, drivetest.ScatteredRead(64<<20)).IOPS, 0.02)
}

func TestAFasterDriveShortensJustItsPart(t *testing.T) {
	old, err := Open("worn-disk", 5)
	require.NoError(t, err)
	fresh, err := Open("fresh-ssd", 5)
	require.NoError(t, err)
	a, err := Perform(old, "cold-start", false, 0)
	require.NoError(t, err)
	b, err := Perform(fresh, "cold-start", false, 0)
	require.NoError(t, err)
	assert.Greater(t, a["login"]+a["desktop"], 3*(b["login"]+b["desktop"]))
	assert.InDelta(t, a["typing"], b["typing"], 6, "typing is the person's")
	floor := 0.0
	for _, part := range scripts["cold-start"] {
		floor += part.processor
	}
	assert.Greater(t, b["login"]+b["desktop"], 0.9*floor, "processor time stays")

	again, err := Open("fresh-ssd", 5)
	require.NoError(t, err)
	first, err := Perform(again, "cold-start", true, 0)
	require.NoError(t, err)
	assert.Greater(t, first["login"], b["login"], "the first start after a swap takes longer")
	_, err = Perform(again, "tea", false, 0)
	assert.ErrorContains(t, err, "cannot do")
}

func TestOutsideTheFileIsAnError(t *testing.T) {
	d, err := Open("fresh-ssd", 1)
	require.NoError(t, err)
	f, err := d.Create(t.Context(), 1<<20)
	require.NoError(t, err)
	q := f.Queue(1)
	q.Start(&drivetest.Request{Offset: 1 << 20, Data: make([]byte, 512)})
	assert.ErrorContains(t, q.Wait().Err, "outside")
	_, err = Open("teapot", 1)
	assert.ErrorContains(t, err, "teapot")
}

// Ten minutes of measuring take moments, whatever the drive.
func TestSimulatedTimeIsCheap(t *testing.T) {
	for name, w := range map[string]drivetest.Workload{
		"worn-disk":  drivetest.Busy(drivetest.ScatteredRead(64 << 20)),
		"fresh-ssd":  drivetest.ScatteredRead(64 << 20),
		"swift-nvme": drivetest.LongRead(64 << 20),
	} {
		d, err := Open(name, 1)
		require.NoError(t, err)
		s, err := drivetest.Open(t.Context(), d, 64<<20, 1)
		require.NoError(t, err)
		w.MaxSeconds = 600
		before := d.Now()
		began := time.Now()
		_, err = s.Measure(t.Context(), w, func(drivetest.Progress) {})
		require.NoError(t, err)
		assert.Greater(t, d.Now()-before, 10*time.Minute)
		t.Logf("%s: ten minutes in %.1f s", name, time.Since(began).Seconds())
	}
}

// A simulated pass says how long it takes, and what is said of it before a measurement.
func TestASimulatedPass(t *testing.T) {
	s, err := NewStandIn("reception")
	require.NoError(t, err)
	require.NoError(t, s.Do(order.Encrypting))
	c, _, err := s.Conditions(t.Context(), "")
	require.NoError(t, err)
	assert.Equal(t, []string{"An encryption pass is running, about 25 minutes left.", "Its processor is 17 % busy."},
		fairness.Doubts(&c))
	require.NoError(t, s.Do(order.Encrypted))
	c, _, err = s.Conditions(t.Context(), "")
	require.NoError(t, err)
	assert.Nil(t, c.Pass)
	assert.Empty(t, fairness.Doubts(&c))
	for _, minutes := range []float64{0, 10, 24.5, 500} {
		p := encryptionPass(time.Duration(minutes * float64(time.Minute)))
		assert.InDelta(t, max(1, 25-minutes), *p.MinutesLeft, 1e-6)
		assert.InDelta(t, 100-*p.MinutesLeft/60*100, *p.DonePct, 1e-6)
	}
}

// What a simulated drive holds comes back, over all that it says that it has.
func TestASimulatedDriveHoldsWhatItSays(t *testing.T) {
	d, err := Open("fresh-ssd", 1)
	require.NoError(t, err)
	p := capacity.Sample(drivetest.Room(d.Facts()), 16<<20, 5)
	p.Of = d.Facts().TotalBytes
	r, err := capacity.Verify(t.Context(), d, p, 5, func(float64) {})
	require.NoError(t, err)
	assert.True(t, r.Holds())
	assert.Equal(t, 64, r.Blocks)
	other, err := capacity.Verify(t.Context(), d, capacity.Whole(1<<20), 6, func(float64) {})
	require.NoError(t, err)
	assert.True(t, other.Holds(), "nothing of the file before is left")
}
