package capacity

import (
	"bytes"
	"compress/flate"
	"encoding/binary"
	"io"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// blocks is so many of them, bytes.
func blocks(n int64) int64 { return n * BlockBytes }

func TestHowASampleIsCut(t *testing.T) {
	for name, c := range map[string]struct {
		bytes, wanted int64
		whole         bool
		n, lead       int
	}{
		"half of it is the whole":      {blocks(10), blocks(5), true, 10, 10},
		"less than half is a sample":   {blocks(11), blocks(5), false, 5, 2},
		"what is left over is left":    {blocks(11) + 7, blocks(4) + 9, false, 4, 2},
		"two at least":                 {blocks(100), 0, false, 2, 1},
		"three are three":              {blocks(100), blocks(3), false, 3, 1},
		"more than there is":           {blocks(4), blocks(40), true, 4, 4},
		"of two blocks all":            {blocks(2), 0, true, 2, 2},
		"a sample of five at least":    {blocks(5), 0, false, 2, 1},
		"a single block":               {blocks(1), 0, true, 1, 1},
		"not a whole block is nothing": {blocks(1) - 1, 0, true, 0, 0},
	} {
		t.Run(name, func(t *testing.T) {
			p := Sample(c.bytes, c.wanted, 1)
			assert.Equal(t, []any{c.whole, c.n, c.lead, c.bytes / BlockBytes * BlockBytes},
				[]any{p.Whole, len(p.Blocks), p.Lead, p.Bytes})
		})
	}
}

// The chance of missing a drive, worked out by hand.
func TestTheChanceByHand(t *testing.T) {
	for name, c := range map[string]struct {
		plan Plan
		want float64
	}{
		"two of ten below, two beyond": {Plan{Bytes: blocks(20), Of: blocks(20), Blocks: []int64{0, 1, 10, 15}},
			0.8 * 0.8},
		"the first beyond is the half":   {Plan{Bytes: blocks(20), Of: blocks(20), Blocks: []int64{0, 9, 10}}, 0.8},
		"nothing beyond":                 {Plan{Bytes: blocks(20), Of: blocks(20), Blocks: []int64{0, 1}}, 1},
		"all below, and one beyond":      {Plan{Bytes: blocks(4), Of: blocks(4), Blocks: []int64{0, 1, 2}}, 0},
		"a drive of one block":           {Plan{Bytes: blocks(1), Of: blocks(1), Blocks: []int64{0}}, 1},
		"just enough of the drive":       {Plan{Bytes: blocks(85), Of: blocks(100), Whole: true}, 0},
		"a little too little of it":      {Plan{Bytes: blocks(85) - 1, Of: blocks(100), Whole: true}, 1},
		"nobody knows how much there is": {Plan{Bytes: blocks(85), Whole: true}, 1},
	} {
		assert.InDelta(t, c.want, c.plan.Missed(), 1e-12, name)
	}
}

// A block is filled to its last byte with what no drive can make smaller, and each byte counts.
func TestAMarkFillsItsBlock(t *testing.T) {
	buf := make([]byte, BlockBytes)
	Mark(buf, 5, 9)
	for sector := range slices.Chunk(buf, 512) {
		for at := 0; at+8 <= len(sector); at += 8 {
			if at == 16 { // the number, which is small
				continue
			}
			require.NotZero(t, binary.LittleEndian.Uint64(sector[at:]), "byte %d of a sector", at)
		}
	}
	var small bytes.Buffer
	z, err := flate.NewWriter(&small, flate.BestCompression)
	require.NoError(t, err)
	_, err = io.Copy(z, bytes.NewReader(buf))
	require.NoError(t, err)
	require.NoError(t, z.Close())
	assert.Greater(t, float64(small.Len()), 0.93*BlockBytes, "its head is 24 of 512 bytes")
	for _, at := range []int{0, 8, 16, 24, 504, 511, BlockBytes - 1} {
		buf[at] ^= 1
		_, whose := holds(buf, make([]byte, len(buf)), 5, 9)
		assert.NotEqual(t, its, whose, "byte %d", at)
		buf[at] ^= 1
	}
}

func TestMarkOf(t *testing.T) {
	buf := make([]byte, 512)
	Mark(buf, 5, 9)
	block, seed, ok := MarkOf(buf[:24])
	assert.Equal(t, []any{int64(5), uint64(9), true}, []any{block, seed, ok})
	for name, b := range map[string][]byte{"too short": buf[:23], "nothing": nil, "something else": make([]byte, 24)} {
		block, seed, ok := MarkOf(b)
		assert.Equal(t, []any{int64(0), uint64(0), false}, []any{block, seed, ok}, name)
	}
}

func TestWhatComesFromElsewhereIsChecked(t *testing.T) {
	at := func(n int64) *int64 { return &n }
	for name, c := range map[string]struct {
		r    Result
		fine bool
	}{
		"nothing at all": {Result{}, true},
		"all of it":      {Result{FileBytes: 9, Written: 9, Of: 9, Blocks: 3, Missed: 1}, true},
		"all of it wrong": {Result{FileBytes: 9, Written: 9, Blocks: 3, Missing: 1, Overlaid: 2, First: at(0),
			Missed: 0}, true},
		"more wrong than were read":    {Result{Blocks: 3, Missing: 2, Overlaid: 2, First: at(0)}, false},
		"more written than the file":   {Result{FileBytes: 8, Written: 9}, false},
		"a chance above one":           {Result{Missed: 1.0001}, false},
		"a chance below nothing":       {Result{Missed: -0.0001}, false},
		"a first, and all came back":   {Result{Blocks: 3, First: at(4)}, false},
		"a first before the beginning": {Result{Blocks: 3, Missing: 1, First: at(-1)}, false},
		"less than no bytes":           {Result{FileBytes: -1}, false},
		"less than nothing written":    {Result{Written: -1}, false},
		"less than no drive":           {Result{Of: -1}, false},
		"less than no blocks":          {Result{Blocks: -1}, false},
		"less than none lost":          {Result{Blocks: 3, Missing: -1}, false},
		"less than none overlaid":      {Result{Blocks: 3, Overlaid: -1}, false},
	} {
		assert.Equal(t, c.fine, c.r.Check() == nil, name)
	}
}

// Where the first wrong block lies and how far wrong ones lie apart, and its progress: written is
// one half, read back the other.
func TestWhatIsSaidOfAFalseDrive(t *testing.T) {
	var shares []float64
	r, err := Verify(t.Context(), &falseDrive{says: blocks(8), has: blocks(4), wraps: true}, Whole(blocks(8)), 7,
		func(share float64) { shares = append(shares, share) })
	require.NoError(t, err)
	assert.Equal(t, []any{4, 0, int64(0), blocks(4), blocks(8)},
		[]any{r.Overlaid, r.Missing, *r.First, *r.Apart, r.Written})
	assert.InDeltaSlice(t,
		[]float64{1. / 16, 2. / 16, 3. / 16, 4. / 16, 5. / 16, 6. / 16, 7. / 16, .5, 9. / 16, 10. / 16, 11. / 16,
			12. / 16, 13. / 16, 14. / 16, 15. / 16, 1}, shares, 1e-12)

	r, err = Verify(t.Context(), &falseDrive{says: blocks(8), has: blocks(6)}, Whole(blocks(8)), 7, quiet)
	require.NoError(t, err)
	assert.Equal(t, []any{0, 2, blocks(6)}, []any{r.Overlaid, r.Missing, *r.First})
	assert.Nil(t, r.Apart)
}
