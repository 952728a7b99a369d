// Package drivetest says what I/O a drive test does and does it on any volume:
// a real folder with direct I/O or a simulated drive on a virtual clock.
//
// It knows nothing of operating systems, jobs, screens or files of ours: a
// [Volume] is all it sees of the world, and time is what the volume says it is.
package drivetest

import (
	"fmt"

	"github.com/go-json-experiment/json/jsontext"
)

// Patterns, operations, data and flush policies of a workload.
const (
	Sequential = "sequential"
	Random     = "random"

	Read  = "read"
	Write = "write"

	Incompressible = "incompressible"
	Zero           = "zero"

	FlushAtEnd = "at-end" // one flush when the last write has ended; its time counts
	FlushNone  = "none"
)

// Bounds of a workload. A test file is small enough to be written in minutes
// and a test short enough to stand beside.
const (
	MinBlock   = 512
	MaxBlock   = 64 << 20
	MaxDepth   = 256
	MaxSpan    = 1 << 40
	MaxSeconds = 600

	DefaultSeconds = 8
)

// Workload is what a drive test asks of a volume. Two tests with equal
// workloads can be compared; sizes are bytes.
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

	Unknown jsontext.Value `json:",embed"`
}

// Seconds is the time bound that applies.
func (w Workload) Seconds() float64 {
	if w.MaxSeconds > 0 {
		return w.MaxSeconds
	}
	return DefaultSeconds
}

// Writes tells whether the workload writes to the volume.
func (w Workload) Writes() bool { return w.Op == Write }

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

// Check tells what is wrong with a workload, or nil.
func (w Workload) Check() error {
	switch {
	case w.Pattern != Sequential && w.Pattern != Random:
		return fmt.Errorf("pattern %q is neither %s nor %s", w.Pattern, Sequential, Random)
	case w.Op != Read && w.Op != Write:
		return fmt.Errorf("op %q is neither %s nor %s", w.Op, Read, Write)
	case w.BlockBytes < MinBlock || w.BlockBytes > MaxBlock || w.BlockBytes%MinBlock != 0:
		return fmt.Errorf("block_bytes %d is not a multiple of %d between %d and %d", w.BlockBytes, MinBlock, MinBlock, MaxBlock)
	case w.Depth < 1 || w.Depth > MaxDepth:
		return fmt.Errorf("depth %d is not between 1 and %d", w.Depth, MaxDepth)
	case w.SpanBytes < w.BlockBytes*int64(w.Depth) || w.SpanBytes > MaxSpan:
		return fmt.Errorf("span_bytes %d is not between %d (block × depth) and %d", w.SpanBytes, w.BlockBytes*int64(w.Depth), int64(MaxSpan))
	case w.Data != "" && w.Data != Incompressible && w.Data != Zero:
		return fmt.Errorf("data %q is neither %s nor %s", w.Data, Incompressible, Zero)
	case w.Flush != "" && w.Flush != FlushAtEnd && w.Flush != FlushNone:
		return fmt.Errorf("flush %q is neither %s nor %s", w.Flush, FlushAtEnd, FlushNone)
	case w.MaxSeconds < 0 || w.MaxSeconds > MaxSeconds:
		return fmt.Errorf("max_seconds %g is not between 0 and %d", w.MaxSeconds, MaxSeconds)
	case w.MaxBytes < 0:
		return fmt.Errorf("max_bytes %d is negative", w.MaxBytes)
	}
	return nil
}

// The standard workloads, over a test file of span bytes.

// LongRead reads one after another, 1 MiB at a time, 8 in flight.
func LongRead(span int64) Workload {
	return Workload{Pattern: Sequential, Op: Read, BlockBytes: 1 << 20, Depth: 8, SpanBytes: span, Data: Incompressible}
}

// LongWrite writes one after another, 1 MiB at a time, 8 in flight, flushed at the end.
func LongWrite(span int64) Workload {
	return Workload{Pattern: Sequential, Op: Write, BlockBytes: 1 << 20, Depth: 8, SpanBytes: span, Data: Incompressible,
		Flush: FlushAtEnd, MaxBytes: 8 * span}
}

// ScatteredWrite writes 4 KiB at random places, one at a time, flushed at the end.
func ScatteredWrite(span int64) Workload {
	return Workload{Pattern: Random, Op: Write, BlockBytes: 4 << 10, Depth: 1, SpanBytes: span, Data: Incompressible,
		Flush: FlushAtEnd, MaxBytes: span}
}

// Busy returns the workload with 32 requests at once.
func Busy(w Workload) Workload {
	w.Depth = 32
	return w
}

// ScatteredRead reads 4 KiB at random places, one at a time.
func ScatteredRead(span int64) Workload {
	return Workload{Pattern: Random, Op: Read, BlockBytes: 4 << 10, Depth: 1, SpanBytes: span, Data: Incompressible}
}
