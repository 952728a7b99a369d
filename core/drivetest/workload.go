// Package drivetest defines the I/O of each drive test and runs it on any volume: a real folder
// with direct I/O, or a simulated drive on a virtual clock.
//
// It knows nothing of operating systems, jobs, screens or file formats. A [Volume] is its only
// access to the outside, including the time.
package drivetest

import (
	"cmp"
	"errors"
	"fmt"

	"github.com/go-json-experiment/json/jsontext"
)

// Patterns, operations, data and flush policies of a workload.
const (
	Sequential = "sequential"
	Random     = "random" // every place as likely as any other
	Hot        = "hot"    // random, most of it within a part

	Read  = "read"
	Write = "write"
	Mix   = "mix" // reads and writes, by ReadShare

	Incompressible = "incompressible"
	Compressible   = "compressible" // by CompressTo
	Zero           = "zero"

	FlushAtEnd = "at-end" // one flush when the last write has ended; its time counts
	FlushEach  = "each"   // a flush after every write, in the write's own time
	FlushNone  = "none"
)

// Bounds of a workload. A test file is small enough to be written in minutes, and a test short enough to wait
// for.
const (
	MinBlock   = 512
	MaxBlock   = 64 << 20
	MaxDepth   = 256
	MaxSpan    = 1 << 40
	MaxSeconds = 600

	DefaultSeconds = 8
)

// Workload is the I/O of a drive test. Tests with equal workloads can be compared; sizes are in bytes.
type Workload struct {
	Pattern    string  `json:"pattern"`
	Op         string  `json:"op"`
	BlockBytes int64   `json:"block_bytes"`
	Depth      int     `json:"depth"`
	SpanBytes  int64   `json:"span_bytes"`
	Data       string  `json:"data,omitzero"`
	Flush      string  `json:"flush,omitzero"`
	MaxSeconds float64 `json:"max_seconds,omitzero"` // 0: DefaultSeconds
	MaxBytes   int64   `json:"max_bytes,omitzero"`   // 0: no bound but time

	// ReadShare is the share of reads of a mix, 0…1.
	ReadShare float64 `json:"read_share,omitzero"`
	// Blocks mixes block sizes; BlockBytes is then the largest of them.
	Blocks []BlockShare `json:"blocks,omitempty"`
	// HotPart is the share of the span that gets HotShare of the requests, both
	// 0…1, of a hot pattern.
	HotPart  float64 `json:"hot_part,omitzero"`
	HotShare float64 `json:"hot_share,omitzero"`
	// CompressTo is to what share compressible data can be made smaller, 0…1.
	CompressTo float64 `json:"compress_to,omitzero"`
	// StopHalfWidth ends a run early: once the half-width of the 95 % interval of
	// its rate is under this share of it, but not before MinSeconds. 0: never.
	StopHalfWidth float64 `json:"stop_half_width,omitzero"`

	// WarmSeconds pass before measuring begins.
	WarmSeconds float64 `json:"warm_seconds,omitzero"`
	// Sweep repeats a sequential workload over these block sizes, bounded as a
	// whole; BlockBytes is then the largest of them.
	Sweep []int64 `json:"sweep,omitempty"`
	// Fresh writes a file of its own that was never written, so that a drive's
	// write cache is met as it is.
	Fresh bool `json:"fresh,omitzero"`
	// Existing reads files that are there instead of a test file, so that
	// nothing is written.
	Existing bool `json:"existing,omitzero"`
	// Sample reads a sample of them that reaches over the whole folder; SpanBytes is then
	// the most that it takes.
	Sample bool `json:"sample,omitzero"`
	// Streams splits a sequential workload into several side by side, and says
	// what they need.
	Streams *Streams `json:"streams,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// OwnFile reports whether the workload does without the file that a session lays out.
func (w Workload) OwnFile() bool { return w.Fresh || w.Existing }

// sizes are the block sizes of the workload.
func (w Workload) sizes() []int64 {
	list := append([]int64{w.BlockBytes}, w.Sweep...)
	for _, b := range w.Blocks {
		list = append(list, b.Bytes)
	}
	return list
}

// Seconds is the time bound that applies.
func (w Workload) Seconds() float64 {
	if w.MaxSeconds > 0 {
		return w.MaxSeconds
	}
	return DefaultSeconds
}

// BlockShare is one block size of a mix and how often it comes.
type BlockShare struct {
	Bytes int64   `json:"bytes"`
	Share float64 `json:"share"`
}

// MinSeconds is how long a run lasts at least before its stop rule may end it.
const MinSeconds = 5

// UsualStop is the stop rule of the standard workloads.
const UsualStop = 0.02

// Writes reports whether the workload writes to the volume.
func (w Workload) Writes() bool { return w.Op == Write || w.Op == Mix }

// WritesAtMost is the largest number of bytes one run writes beyond laying out
// the test file, on a drive that writes mbs MB/s.
func (w Workload) WritesAtMost(mbs float64) int64 {
	if !w.Writes() {
		return 0
	}
	n := int64(w.Seconds() * mbs * 1e6)
	if w.MaxBytes > 0 {
		n = min(n, w.MaxBytes)
	}
	return n
}

// Check reports what is wrong with a workload, or nil.
func (w Workload) Check() error {
	switch {
	case w.Pattern != Sequential && w.Pattern != Random && w.Pattern != Hot:
		return fmt.Errorf("pattern %q is none of %s, %s and %s", w.Pattern, Sequential, Random, Hot)
	case w.Op != Read && w.Op != Write && w.Op != Mix:
		return fmt.Errorf("op %q is none of %s, %s and %s", w.Op, Read, Write, Mix)
	case w.BlockBytes < MinBlock || w.BlockBytes > MaxBlock || w.BlockBytes%MinBlock != 0:
		return fmt.Errorf("block_bytes %d is not a multiple of %d between %d and %d", w.BlockBytes, MinBlock, MinBlock,
			MaxBlock)
	case w.Depth < 1 || w.Depth > MaxDepth:
		return fmt.Errorf("depth %d is not between 1 and %d", w.Depth, MaxDepth)
	case w.SpanBytes < w.BlockBytes*int64(w.Depth) || w.SpanBytes > MaxSpan:
		return fmt.Errorf("span_bytes %d is not between %d (block × depth) and %d", w.SpanBytes,
			w.BlockBytes*int64(w.Depth), int64(MaxSpan))
	case w.Data != "" && w.Data != Incompressible && w.Data != Compressible && w.Data != Zero:
		return fmt.Errorf("data %q is none of %s, %s and %s", w.Data, Incompressible, Compressible, Zero)
	case w.Flush != "" && w.Flush != FlushAtEnd && w.Flush != FlushEach && w.Flush != FlushNone:
		return fmt.Errorf("flush %q is none of %s, %s and %s", w.Flush, FlushAtEnd, FlushEach, FlushNone)
	case !share(w.ReadShare) || w.Op == Mix && (w.ReadShare == 0 || w.ReadShare == 1):
		return fmt.Errorf("read_share %g of a mix is not between 0 and 1", w.ReadShare)
	case !share(w.HotPart) || !share(w.HotShare) || w.Pattern == Hot && (w.HotPart == 0 || w.HotShare == 0):
		return fmt.Errorf("hot_part %g and hot_share %g of a hot pattern are not between 0 and 1", w.HotPart,
			w.HotShare)
	case !share(w.CompressTo):
		return fmt.Errorf("compress_to %g is not between 0 and 1", w.CompressTo)
	case !share(w.StopHalfWidth):
		return fmt.Errorf("stop_half_width %g is not between 0 and 1", w.StopHalfWidth)
	case len(w.Blocks) > 0 && w.Pattern == Sequential:
		return fmt.Errorf("blocks of several sizes are for random places")
	case !(w.MaxSeconds >= 0 && w.MaxSeconds <= MaxSeconds):
		return fmt.Errorf("max_seconds %g is not between 0 and %d", w.MaxSeconds, MaxSeconds)
	case w.MaxBytes < 0:
		return fmt.Errorf("max_bytes %d is negative", w.MaxBytes)
	}
	return cmp.Or(w.checkBlocks(), w.checkSweep(), w.checkFile())
}

func (w Workload) checkSweep() error {
	if len(w.Sweep) == 0 {
		return nil
	}
	largest := int64(0)
	for _, b := range w.Sweep {
		if b < MinBlock || b > MaxBlock || b%MinBlock != 0 {
			return fmt.Errorf("sweep: %d bytes is not a multiple of %d between %d and %d", b, MinBlock, MinBlock,
				MaxBlock)
		}
		largest = max(largest, b)
	}
	switch {
	case len(w.Sweep) > 32:
		return fmt.Errorf("sweep: %d sizes; 32 are taken", len(w.Sweep))
	case w.Pattern != Sequential || w.Op == Mix:
		return errors.New("sweep: block sizes are swept sequentially, reading or writing")
	case largest != w.BlockBytes:
		return fmt.Errorf("block_bytes %d is not the largest of the sweep, %d", w.BlockBytes, largest)
	case w.Fresh || w.Streams != nil:
		return errors.New("sweep: block sizes are swept over a file that is laid out, in one stream")
	}
	return nil
}

func (w Workload) checkFile() error {
	switch {
	case w.WarmSeconds < 0 || w.WarmSeconds > w.Seconds():
		return fmt.Errorf("warm_seconds %g is not between 0 and the seconds of the test", w.WarmSeconds)
	case w.Sample && (!w.Existing || w.Pattern != Random):
		return errors.New("sample: existing files are sampled, at random places")
	case w.Existing && w.Writes():
		return errors.New("existing files are only read, never written")
	case w.Fresh && w.Op != Write:
		return errors.New("fresh: a file that was never laid out can only be written")
	case w.Fresh && w.Pattern != Sequential:
		return errors.New("fresh: a file that was never laid out is written sequentially")
	case w.Streams == nil:
		return nil
	case w.Pattern != Sequential || w.Op == Mix:
		return errors.New("streams: streams are read or written sequentially")
	case w.Streams.Plays > 0 && !w.Fresh:
		return errors.New("streams: what is played back is recorded in the same run")
	case w.SpanBytes/int64(max(1, w.Streams.Count)) < w.BlockBytes+4096:
		return fmt.Errorf("span_bytes %d is too small for %d streams of blocks of %d", w.SpanBytes, w.Streams.Count,
			w.BlockBytes)
	}
	return w.Streams.check()
}

func (w Workload) checkBlocks() error {
	if len(w.Blocks) == 0 {
		return nil
	}
	sum, largest := 0.0, int64(0)
	for _, b := range w.Blocks {
		if b.Bytes < MinBlock || b.Bytes > w.BlockBytes || b.Bytes%MinBlock != 0 || !(b.Share > 0) {
			return fmt.Errorf("blocks: %d bytes with a share of %g is not a multiple of %d up to block_bytes %d with "+
				"a share above 0", b.Bytes, b.Share, MinBlock, w.BlockBytes)
		}
		sum += b.Share
		largest = max(largest, b.Bytes)
	}
	switch {
	case len(w.Blocks) > 16:
		return fmt.Errorf("blocks: %d sizes; 16 are taken", len(w.Blocks))
	case sum < 0.999 || sum > 1.001:
		return fmt.Errorf("blocks: the shares add up to %g, not to 1", sum)
	case largest != w.BlockBytes:
		return fmt.Errorf("block_bytes %d is not the largest of the blocks, %d", w.BlockBytes, largest)
	}
	return nil
}

// share reports whether v is a share, 0…1.
func share(v float64) bool { return v >= 0 && v <= 1 }

// The standard workloads, over a test file of span bytes.

// Sizes of the long tests: pieces as large as a copy reads them, and as many under way
// as keep a drive busy without hiding how it works through them.
const (
	longBlock = 2 << 20
	longDepth = 4
	// busyDepth is how many requests several programs at once have under way.
	busyDepth = 16
	// deskReads is the share of reads in office work: five reads to three writes.
	deskReads = 5.0 / 8
)

// LongRead reads one after another, 2 MiB at a time, 4 in flight.
func LongRead(span int64) Workload {
	return Workload{Pattern: Sequential, Op: Read, BlockBytes: longBlock, Depth: longDepth, SpanBytes: span,
		Data: Incompressible}
}

// LongWrite writes one after another, 2 MiB at a time, 4 in flight, flushed at the end.
func LongWrite(span int64) Workload {
	return Workload{Pattern: Sequential, Op: Write, BlockBytes: longBlock, Depth: longDepth, SpanBytes: span,
		Data:  Incompressible,
		Flush: FlushAtEnd, MaxBytes: 2 * span}
}

// ScatteredWrite writes 4 KiB at random places, one at a time, flushed at the end.
func ScatteredWrite(span int64) Workload {
	return Workload{Pattern: Random, Op: Write, BlockBytes: 4 << 10, Depth: 1, SpanBytes: span, Data: Incompressible,
		Flush: FlushAtEnd, MaxBytes: span}
}

// DeskMix is the I/O of office work: 65 % reads in blocks of mixed
// sizes at random places, most of them within a tenth of the span, 4 at once.
func DeskMix(span int64) Workload {
	return Workload{Pattern: Hot, HotPart: 0.1, HotShare: 0.8, Op: Mix, ReadShare: deskReads, BlockBytes: 64 << 10,
		Depth: 4, SpanBytes: span,
		Blocks: []BlockShare{{4 << 10, 0.55}, {16 << 10, 0.25},
			{64 << 10, 0.2}}, Data: Incompressible, Flush: FlushAtEnd, MaxBytes: 2 * span}
}

// Busy returns the workload with 16 requests at once.
func Busy(w Workload) Workload {
	w.Depth = busyDepth
	return w
}

// ScatteredRead reads 4 KiB at random places, one at a time.
func ScatteredRead(span int64) Workload {
	return Workload{Pattern: Random, Op: Read, BlockBytes: 4 << 10, Depth: 1, SpanBytes: span, Data: Incompressible}
}

// ResponseTime reads 4 KiB at random places one at a time, for as long as it
// takes to see the rare long waits.
func ResponseTime(span int64) Workload { return ScatteredRead(span) }

// sweepSizes are 4 KiB to 16 MiB, each twice the one before.
func sweepSizes() []int64 {
	var sizes []int64
	for b := int64(4 << 10); b <= 16<<20; b *= 2 {
		sizes = append(sizes, b)
	}
	return sizes
}

// SizeSweep reads or writes one after another in blocks of 4 KiB to 16 MiB, one
// at a time.
func SizeSweep(op string, span int64) Workload {
	w := Workload{Pattern: Sequential, Op: op, BlockBytes: 16 << 20, Depth: 1, SpanBytes: span, Data: Incompressible,
		Sweep: sweepSizes()}
	if op == Write {
		w.Flush, w.MaxBytes = FlushAtEnd, 4*span
	}
	return w
}

// SustainedWrite writes span bytes that were never written, once, one after
// another.
func SustainedWrite(span int64) Workload {
	return Workload{Pattern: Sequential, Op: Write, BlockBytes: longBlock, Depth: longDepth, SpanBytes: span,
		MaxBytes: span, Data: Incompressible,
		Flush: FlushAtEnd, Fresh: true}
}

// KeepUp writes streams side by side into a file that is new and grows, as fast as the
// drive takes them: nothing is written twice. Playbacks read beside them what was written. It ends with the file.
func KeepUp(span int64, s Streams) Workload {
	return Workload{Pattern: Sequential, Op: Write, BlockBytes: 1 << 20, Depth: 8, SpanBytes: span, MaxBytes: span,
		Data:  Incompressible,
		Flush: FlushAtEnd, Fresh: true, Streams: &s}
}
