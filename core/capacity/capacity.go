// Package capacity checks whether a drive has the capacity that it reports. It writes marked
// blocks over the free space and reads them back. A drive that reports too much either loses
// the blocks beyond its real end or overwrites earlier ones; reading back shows both.
//
// It uses a [drivetest.Volume] and knows nothing of files or screens.
package capacity

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"nowthen/core/drivetest"
)

// BlockBytes is the size of a marked block.
const BlockBytes = 256 << 10

// magic begins each mark and distinguishes marks from other data.
const magic = 0x4e54436170616369

// Plan returns the numbers of a file's blocks to write, in order.
type Plan struct {
	// Bytes is the size of the file.
	Bytes  int64
	Blocks []int64
	// Lead is how many of the first blocks are contiguous from the beginning of the file.
	Lead  int
	Whole bool
	// Of is the capacity that the drive reports, bytes; 0 if not known.
	Of int64
}

// Whole is a plan of all blocks of a file.
func Whole(bytes int64) Plan {
	n := bytes / BlockBytes
	p := Plan{Bytes: n * BlockBytes, Blocks: make([]int64, n), Lead: int(n), Whole: true}
	for i := range p.Blocks {
		p.Blocks[i] = int64(i)
	}
	return p
}

// Sample is a plan that writes about as many bytes as wanted: half of them side by side, which what
// is laid over them would hit, and
// half one by one over the rest, each at a place of chance within its part. The seed makes it
// repeatable. A sample of more than
// half of the file is the whole.
func Sample(bytes, wanted int64, seed uint64) Plan {
	n, k := bytes/BlockBytes, max(wanted/BlockBytes, leastBlocks)
	if 2*k >= n {
		return Whole(bytes)
	}
	lead := k / 2
	p := Plan{Bytes: n * BlockBytes, Lead: int(lead)}
	for i := range lead {
		p.Blocks = append(p.Blocks, i)
	}
	chance := rand.New(rand.NewPCG(seed, magic))
	rest, parts := n-lead, k-lead
	for i := range parts {
		from, to := lead+rest*i/parts, lead+rest*(i+1)/parts
		p.Blocks = append(p.Blocks, from+chance.Int64N(to-from))
	}
	return p
}

// leastBlocks is the least number of blocks in a sample: one contiguous and one scattered.
const leastBlocks = 2

// worst is the largest share of what it says that a drive of the stated chance really has: sellers
// of false ones mostly take far
// less.
const worst = 0.5

// covers is the share of a drive that a file must take for what is found in it to say something of
// the drive: of a smaller one nobody
// knows where on the drive it lies.
const covers = 0.85

// Missed is the chance that a drive that has at most half of what it says is not found, where the
// file lies evenly over it: 0 of
// the whole, 1 where the file takes too little of the drive or nobody knows how much. What is lost
// beyond its end is always found, as each part has a block; what is laid over the beginning is
// found where
// it hits a block that was written. With a true size of s blocks, of n, and w of those below s
// written, the m blocks beyond it
// miss with a chance of (1 − w ÷ s)^m each on its own; s = n ÷ 2 is the worst case.
func (p Plan) Missed() float64 {
	if p.Of == 0 || float64(p.Bytes) < covers*float64(p.Of) {
		return 1
	}
	if p.Whole {
		return 0
	}
	n := float64(p.Bytes / BlockBytes)
	s := math.Floor(n * worst)
	below, beyond := 0.0, 0.0
	for _, b := range p.Blocks {
		if float64(b) < s {
			below++
		} else {
			beyond++
		}
	}
	if s == 0 || beyond == 0 {
		return 1
	}
	return math.Pow(1-min(1, below/s), beyond)
}

// Result is the result of reading back.
type Result struct {
	FileBytes int64 `json:"file_bytes"` // over which was looked
	Of        int64 `json:"of_bytes"`   // what the drive says that it has; 0 where that is not known
	Written   int64 `json:"written_bytes"`
	Whole     bool  `json:"whole"`
	// Blocks were read back; Lost of them hold nothing that was written or cannot be read, Overlaid
	// another block's mark.
	Blocks   int `json:"blocks"`
	Missing  int `json:"lost"`
	Overlaid int `json:"overlaid"`
	// First is the offset of the first wrong block in the file, bytes; nil if there is none.
	First *int64 `json:"first,omitzero"`
	// Apart is the least distance of a block and the one that was laid over it, bytes: about what
	// the drive has, or a part of it.
	Apart *int64 `json:"apart_bytes,omitzero"`
	// Missed is the chance that a drive with at most half its reported capacity would go undetected.
	Missed float64 `json:"missed"`
}

// Holds reports whether all blocks came back as written.
func (r *Result) Holds() bool { return r.Missing == 0 && r.Overlaid == 0 }

// Progress is how far the check is: 0 to 1, written and read back.
type Progress func(share float64)

// Verify carries out a plan on a volume: it makes a file, writes, makes durable, reads back, and
// removes the file. An error is about
// the file as a whole; a block that cannot be written or read is a lost one.
func Verify(ctx context.Context, v drivetest.Volume, p Plan, seed uint64, tell Progress) (r *Result, err error) {
	if len(p.Blocks) == 0 {
		return nil, fmt.Errorf("%w: there is no room for a single block", drivetest.ErrNoRoom)
	}
	create := v.Create
	if spread := v.Can().Spread; spread != nil {
		create = spread
	}
	f, err := create(ctx, p.Bytes)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	r = &Result{FileBytes: p.Bytes, Of: p.Of, Whole: p.Whole, Missed: p.Missed()}
	q := f.Queue(1)
	defer q.Close()
	buf, want := f.Buffer(BlockBytes), make([]byte, BlockBytes)
	wrong := func(block int64) {
		if at := block * BlockBytes; r.First == nil || at < *r.First {
			r.First = &at
		}
	}
	once := func(write bool, block int64) error {
		q.Start(&drivetest.Request{Write: write, Offset: block * BlockBytes, Data: buf})
		return q.Wait().Err
	}
	unwritten := map[int64]bool{}
	for i, b := range p.Blocks {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		Mark(buf, b, seed)
		if once(true, b) != nil {
			unwritten[b] = true
		}
		r.Written += BlockBytes
		tell(float64(i+1) / float64(2*len(p.Blocks)))
	}
	if err := f.Flush(); err != nil {
		return nil, fmt.Errorf("what was written is not durable: %w", err)
	}
	for i, b := range p.Blocks {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		clear(buf)
		err := once(false, b)
		r.Blocks++
		switch other, whose := holds(buf, want, b, seed); {
		case err != nil || unwritten[b] || whose == nobodys:
			r.Missing++
			wrong(b)
		case whose == anothers:
			r.Overlaid++
			wrong(b)
			if apart := (max(other, b) - min(other, b)) * BlockBytes; r.Apart == nil || apart < *r.Apart {
				r.Apart = &apart
			}
		}
		tell(0.5 + float64(i+1)/float64(2*len(p.Blocks)))
	}
	return r, nil
}

// Mark fills a block with its mark: its number, and from it and the seed a sequence that no drive
// can make smaller. Each sector
// carries the number, so that one that is laid over a part of another shows too.
func Mark(buf []byte, block int64, seed uint64) {
	chance := rand.NewPCG(seed, uint64(block)) // itself: asked through an interface it takes twice as long
	for sector := range slices.Chunk(buf, 512) {
		binary.LittleEndian.PutUint64(sector, magic)
		binary.LittleEndian.PutUint64(sector[8:], seed)
		binary.LittleEndian.PutUint64(sector[16:], uint64(block))
		for at := 24; at+8 <= len(sector); at += 8 {
			binary.LittleEndian.PutUint64(sector[at:], chance.Uint64())
		}
	}
}

// MarkOf reads from the first bytes of a block which number and seed its mark has; ok is false
// where they are none. Whether the rest
// is the mark's, it does not look.
func MarkOf(buf []byte) (block int64, seed uint64, ok bool) {
	if len(buf) < 24 || binary.LittleEndian.Uint64(buf) != magic {
		return 0, 0, false
	}
	return int64(binary.LittleEndian.Uint64(buf[16:])), binary.LittleEndian.Uint64(buf[8:]), true
}

// Owners of a block's content.
const (
	its      = iota // as it was written
	anothers        // at least a part of it is another block's
	nobodys         // damaged, or of another seed
)

// holds reports whether a buffer holds a block as it was written; of what another block was laid
// over, it returns which: the one of the
// first sector that is another's. want is overwritten: room for what should be there.
func holds(buf, want []byte, block int64, seed uint64) (other int64, whose int) {
	if Mark(want, block, seed); bytes.Equal(buf, want) {
		return block, its
	}
	for sector := range slices.Chunk(buf, 512) {
		if b, s, ok := MarkOf(sector); ok && s == seed && b != block {
			return b, anothers
		}
	}
	return block, nobodys
}

// Check returns what is wrong with a result from elsewhere, or nil.
func (r *Result) Check() error {
	for name, v := range map[string]int64{"file_bytes": r.FileBytes, "written_bytes": r.Written, "of_bytes": r.Of,
		"blocks": int64(r.Blocks), "lost": int64(r.Missing), "overlaid": int64(r.Overlaid)} {
		if v < 0 {
			return fmt.Errorf("%s is %d, which is no count", name, v)
		}
	}
	switch {
	case !(r.Missed >= 0 && r.Missed <= 1):
		return fmt.Errorf("missed is %g, which is no chance", r.Missed)
	case r.Missing+r.Overlaid > r.Blocks || r.Written > r.FileBytes:
		return errors.New("its counts do not add up")
	case r.First != nil && (*r.First < 0 || r.Holds()):
		return errors.New("it says where the first wrong block lies, and none is")
	}
	return nil
}
