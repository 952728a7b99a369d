package drivetest

import (
	"context"
	"errors"
	"fmt"
	"time"
)

// Volume is a place where a test file can be made. A real one is a folder on a
// file system; a simulated one is a model of a drive.
type Volume interface {
	// Facts says what the volume is.
	Facts() Facts
	// Create makes a test file of size bytes, not readable until it is written.
	Create(ctx context.Context, size int64) (File, error)
	// Now is the volume's clock, from an origin of its own.
	Now() time.Duration
	// Can says what else it can do.
	Can() Capabilities
}

// Capabilities are what else a volume can do; what it can't do is nil.
type Capabilities struct {
	// Grow makes a file that grows as it is written, as a recording does, without room that was reserved for it.
	Grow func(ctx context.Context, most int64) (File, error)
	// Spread makes a file of which a place far from its beginning is written without what lies before, as far as the
	// file system takes that.
	Spread func(ctx context.Context, size int64) (File, error)
	// Trim tells the drive that what removed test files held is free. The error says why it was not done.
	Trim func() error
	// Existing opens span bytes of files that are there, read-only; they are never written and stay when it is closed.
	Existing func(ctx context.Context, span int64) (File, error)
	// Sample opens a sample of the files that are there, read-only, of at most that many bytes. The same seed gives the
	// same files where they are the same, also on another drive. The file has the bytes of the list.
	Sample func(ctx context.Context, seed uint64, most int64) (File, []SampleFile, error)
	// Temperature is the drive's, and its limit, °C: NaN and 0 where they are not known. It must be quick: it is asked
	// while requests run.
	Temperature func() (celsius, limit float64)
	// Rest lets time pass on the volume's clock and leaves the drive alone, or returns the context's error.
	Rest func(ctx context.Context, d time.Duration) error
	// WatchWork begins to watch the calling goroutine; what it returns ends that, called from the
	// same one, and reports how
	// busy the program kept the core that it works most and all of them in the meantime, %.
	WatchWork func() (end func() (core, all float64))
	// Load keeps all cores of the computer's processor at work until end is called.
	Load func() (end func())
	// Placement returns the first and the last place of a file of the volume, as shares of the
	// drive's capacity, 0…1; ok
	// is false if the system does not report it.
	Placement func(f File) (from, to float64, ok bool)
	// Slept is how long the computer has slept, from an origin of its own: what a clock that counts
	// sleep is ahead of one
	// that does not. It must be quick.
	Slept func() time.Duration
}

// SampleFile is a file of a sample: a digest of its path below the folder, which tells
// nothing but whether it is the same, and how many of its bytes are read.
type SampleFile struct {
	Path  string
	Bytes int64
}

// Why freed blocks are not trimmed.
var (
	ErrNoTrim        = errors.New("the drive or its file system does not take it")
	ErrTrimForbidden = errors.New("that needs administrator rights")
)

// sleptNotable is what two clocks may be apart that are not read at the same moment.
const sleptNotable = 500 * time.Millisecond

// Wakefulness reports whether a volume's computer stayed awake.
type Wakefulness struct {
	asleep func() time.Duration
	before time.Duration
}

// WatchSleep begins to watch whether a computer sleeps; slept is [Capabilities.Slept].
func WatchSleep(slept func() time.Duration) Wakefulness {
	if slept == nil {
		return Wakefulness{}
	}
	return Wakefulness{slept, slept()}
}

// Check returns an error that wraps [ErrClock] if the computer has slept since.
func (w Wakefulness) Check() error {
	if w.asleep == nil {
		return nil
	}
	if slept := w.asleep() - w.before; slept > sleptNotable {
		return fmt.Errorf("%w: the computer slept for %.0f s", ErrClock, slept.Seconds())
	}
	return nil
}

// Facts says what a volume is.
type Facts struct {
	FileSystem string
	TotalBytes int64
	FreeBytes  int64
	AlignBytes int64 // offsets, lengths and buffers of direct I/O are multiples of this
	Simulated  bool
}

// File is a test file. Close removes it.
type File interface {
	// Buffer returns n bytes that direct I/O accepts.
	Buffer(n int64) []byte
	// Queue opens a queue for up to depth requests at once.
	Queue(depth int) Queue
	// Flush makes everything written durable.
	Flush() error
	// Close ends the file and removes it from the volume.
	Close() error
}

// Queue takes requests and gives them back when they have ended. It is used by
// one goroutine; at most the depth it was opened with may be in flight.
type Queue interface {
	// Start begins a request.
	Start(r *Request)
	// Wait returns a request that has ended; one must be in flight.
	Wait() *Request
	// Close ends the queue; none may be in flight.
	Close()
}

// Request is one read or write of a whole buffer.
type Request struct {
	Write  bool
	Offset int64
	Data   []byte
	// Started and Ended are on the volume's clock, set by the queue.
	Started, Ended time.Duration
	// Err is nil when all of Data was read or written.
	Err error
}

// ErrNoDirectIO means that a volume can't do I/O bypassing the page cache, which makes its readings useless.
var ErrNoDirectIO = errors.New("this file system does not do direct I/O")

// ErrTooSlow means that laying out the test file took longer than it may.
var ErrTooSlow = errors.New("laying out the test file takes too long")

// ErrNoRoom means that the volume has not enough free space for the test file.
var ErrNoRoom = errors.New("not enough free space")
