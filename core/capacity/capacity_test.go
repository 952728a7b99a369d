package capacity

import (
	"context"
	"errors"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/testscale"
)

// falseDrive is a drive in memory that says more than it has: what lies beyond its true size is
// lost, or laid over its beginning.
type falseDrive struct {
	says, has int64
	wraps     bool
	sectors   map[int64][]byte
	broken    int64 // an offset that cannot be read; 0: none
	closed    bool
}

func (d *falseDrive) Facts() drivetest.Facts {
	return drivetest.Facts{FreeBytes: d.says, Simulated: true}
}
func (*falseDrive) Can() drivetest.Capabilities { return drivetest.Capabilities{} }
func (d *falseDrive) Now() time.Duration        { return 0 }
func (d *falseDrive) Create(context.Context, int64) (drivetest.File, error) {
	d.sectors = map[int64][]byte{}
	return d, nil
}
func (d *falseDrive) Buffer(n int64) []byte     { return make([]byte, n) }
func (d *falseDrive) Queue(int) drivetest.Queue { return &queue{d: d} }
func (d *falseDrive) Flush() error              { return nil }
func (d *falseDrive) Close() error              { d.closed = true; return nil }

type queue struct {
	d *falseDrive
	r *drivetest.Request
}

func (q *queue) Close()                   {}
func (q *queue) Wait() *drivetest.Request { return q.r }
func (q *queue) Start(r *drivetest.Request) {
	q.r, r.Err = r, nil
	const sector = 512
	for at := int64(0); at < int64(len(r.Data)); at += sector {
		lba := r.Offset + at
		if lba >= q.d.has {
			if !q.d.wraps {
				if !r.Write {
					clear(r.Data[at : at+sector])
				}
				continue
			}
			lba %= q.d.has
		}
		if r.Write {
			q.d.sectors[lba] = append([]byte(nil), r.Data[at:at+sector]...)
		} else {
			if q.d.broken != 0 && lba == q.d.broken {
				r.Err = errors.New("a bad sector")
			}
			copy(r.Data[at:at+sector], q.d.sectors[lba])
		}
	}
}

func quiet(float64) {}

func TestWhatADriveHolds(t *testing.T) {
	const says = 64 << 20 // 256 blocks
	for name, c := range map[string]struct {
		drive falseDrive
		plan  Plan
		holds bool
		wraps bool
	}{
		"a true one, all of it":         {falseDrive{has: says}, Whole(says), true, false},
		"a true one, a sample":          {falseDrive{has: says}, Sample(says, 8<<20, 1), true, false},
		"half of it is lost":            {falseDrive{has: says / 2}, Whole(says), false, false},
		"half is lost, a sample":        {falseDrive{has: says / 2}, Sample(says, 2<<20, 1), false, false},
		"a little is lost":              {falseDrive{has: says - BlockBytes}, Whole(says), false, false},
		"an eighth, laid over":          {falseDrive{has: says / 8, wraps: true}, Whole(says), false, true},
		"laid over within a block":      {falseDrive{has: says/2 - 4096, wraps: true}, Whole(says), false, true},
		"an eighth, laid over, sampled": {falseDrive{has: says / 8, wraps: true}, Sample(says, 16<<20, 1), false, true},
		"a sector that cannot be read":  {falseDrive{has: says, broken: 5 * BlockBytes}, Whole(says), false, false},
	} {
		t.Run(name, func(t *testing.T) {
			c.drive.says = says
			last := 0.0
			r, err := Verify(t.Context(), &c.drive, c.plan, 7, func(share float64) {
				assert.GreaterOrEqual(t, share, last)
				last = share
			})
			require.NoError(t, err)
			assert.InDelta(t, 1, last, 1e-12)
			assert.True(t, c.drive.closed, "the file is removed")
			assert.Equal(t, c.holds, r.Holds(), "%+v", r)
			assert.Equal(t, c.wraps, r.Overlaid > 0, "%+v", r)
			assert.Equal(t, c.holds, r.First == nil)
			assert.Equal(t, len(c.plan.Blocks), r.Blocks)
			if c.wraps && c.drive.has%BlockBytes == 0 {
				assert.Zero(t, *r.Apart%c.drive.has, "a multiple of what it has")
			}
		})
	}
	d := &falseDrive{says: says, has: says / 8, wraps: true}
	r, err := Verify(t.Context(), d, Whole(says), 7, quiet)
	require.NoError(t, err)
	assert.EqualValues(t, says/8, *r.Apart, "of the whole the least is what it has")
	stopped, cancel := context.WithCancel(t.Context())
	cancel()
	d = &falseDrive{says: says, has: says}
	_, err = Verify(stopped, d, Whole(says), 7, quiet)
	require.ErrorIs(t, err, context.Canceled)
	assert.True(t, d.closed)
	_, err = Verify(t.Context(), d, Whole(BlockBytes-1), 7, quiet)
	assert.ErrorIs(t, err, drivetest.ErrNoRoom)
}

// Leftovers of an earlier test on the drive aren't mistaken for new blocks.
func TestAnEarlierMarkIsNone(t *testing.T) {
	buf := make([]byte, BlockBytes)
	whose := func(block int64, seed uint64) int { _, w := holds(buf, make([]byte, len(buf)), block, seed); return w }
	Mark(buf, 3, 1)
	assert.Equal(t, nobodys, whose(3, 2))
	assert.Equal(t, its, whose(3, 1))
	other, w := holds(buf, make([]byte, len(buf)), 4, 1)
	assert.Equal(t, []any{int64(3), anothers}, []any{other, w})
	buf[100_000]++
	assert.Equal(t, nobodys, whose(3, 1), "a single bit counts")
}

// A drive whose true size is no multiple of a block lays the end of one over the beginning of
// another: the sectors that are another's
// are found wherever they lie in the block.
func TestAPartOfABlockIsAnothers(t *testing.T) {
	other := make([]byte, BlockBytes)
	Mark(other, 8, 1)
	for name, at := range map[string]int{"the first sector": 0, "one in the middle": BlockBytes / 2,
		"the last": BlockBytes - 512} {
		buf := make([]byte, BlockBytes)
		Mark(buf, 3, 1)
		copy(buf[at:at+512], other[at:])
		b, whose := holds(buf, make([]byte, len(buf)), 3, 1)
		assert.Equal(t, []any{int64(8), anothers}, []any{b, whose}, name)
	}
}

func TestSamples(t *testing.T) {
	const file = 1 << 40
	over := func(p Plan) Plan { p.Of = file; return p } // the drive
	p := Sample(file, 1<<30, 3)
	assert.Len(t, p.Blocks, 4096)
	assert.Equal(t, 2048, p.Lead)
	seen := map[int64]bool{}
	for _, b := range p.Blocks {
		assert.False(t, seen[b], "no block twice")
		seen[b] = true
		assert.Less(t, b, p.Bytes/BlockBytes)
	}
	assert.Equal(t, p, Sample(file, 1<<30, 3))
	assert.NotEqual(t, p, Sample(file, 1<<30, 4))
	assert.True(t, Sample(file, file/2, 1).Whole)
	assert.Zero(t, over(Whole(file)).Missed())
	assert.InDelta(t, 1, Whole(file).Missed(), 1e-12, "of a drive that does not say what it has nothing is known")
	assert.InDelta(t, 1, (Plan{Bytes: file, Whole: true, Of: 2 * file}).Missed(), 1e-12,
		"half of the drive may be the true half")
	assert.Zero(t, Plan{Bytes: file, Whole: true, Of: file * 10 / 9}.Missed())
	assert.InDelta(t, 1, over(Sample(file, BlockBytes, 1)).Missed(), 0.01, "next to nothing tells next to nothing")
	last := 1.0
	for _, wanted := range []int64{1 << 28, 1 << 30, 1 << 32, 1 << 34} {
		m := over(Sample(file, wanted, 1)).Missed()
		assert.Less(t, m, last, "more tells more")
		last = m
	}
	assert.Less(t, last, 1e-12)
}

// The stated chance is never too small: of many drives with half of what they say or less, laid
// over their beginning at a size of
// chance, no more are missed. (Blocks that lie spread evenly miss less often than such by pure chance.)
func TestTheStatedChanceHolds(t *testing.T) {
	const says, wanted = 64 << 20, 6 << 20
	trials := testscale.Of(120, 20)
	p := Sample(says, wanted, 0)
	p.Of = says
	stated := p.Missed()
	require.Greater(t, stated, 0.1)
	require.Less(t, stated, 0.9)
	missed := 0
	chance := rand.New(rand.NewPCG(1, 2))
	for i := range trials {
		has := says/2 - chance.Int64N(says/2/BlockBytes-4)*BlockBytes
		r, err := Verify(t.Context(), &falseDrive{says: says, has: has, wraps: true}, Sample(says, wanted, uint64(i)), 7,
			quiet)
		require.NoError(t, err)
		if r.Holds() {
			missed++
		}
	}
	off := 3 * math.Sqrt(stated*(1-stated)/float64(trials))
	assert.LessOrEqual(t, float64(missed)/float64(trials), stated+off, "stated %.3f", stated)
	assert.Positive(t, missed, "a small sample does miss some")
}
