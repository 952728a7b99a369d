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
	// Create makes a test file of size bytes, not readable until it is laid out.
	Create(ctx context.Context, size int64) (File, error)
	// Now is the volume's clock, from an origin of its own.
	Now() time.Duration
}

// Growing is a volume where a file can be made that grows as it is written, as a
// recording does, without room that was reserved for it.
type Growing interface {
	CreateGrowing(ctx context.Context, most int64) (File, error)
}

// Trimmer is a volume that can tell its drive that what removed test files held is free.
type Trimmer interface {
	// Trim does so for all test files that were removed since. The error says why it was
	// not done.
	Trim() error
}

// Why freed blocks are not trimmed.
var (
	ErrNoTrim        = errors.New("the drive or its file system does not take it")
	ErrTrimForbidden = errors.New("that needs administrator rights")
)

// ExistingFiles is a volume whose own files can be read, for drives that must
// not be written to.
type ExistingFiles interface {
	// Existing opens span bytes of files that are there, read-only; they are
	// never written and stay when it is closed.
	Existing(ctx context.Context, span int64) (File, error)
}

// SampledFiles is a volume of whose own files a sample can be read.
type SampledFiles interface {
	// Sample opens a sample of the files that are there, read-only, of at most that many
	// bytes. The same seed gives the same files where they are the same, also on another
	// drive. The file that it returns is a [Sized].
	Sample(ctx context.Context, seed uint64, most int64) (File, []SampleFile, error)
}

// SampleFile is a file of a sample: a digest of its path below the folder, which tells
// nothing but whether it is the same, and how many of its bytes are read.
type SampleFile struct {
	Path  string
	Bytes int64
}

// Sized is a file that tells its size.
type Sized interface{ Size() int64 }

// Thermometer is a volume that tells its drive's temperature and the limit of
// it, °C. The temperature is NaN and the limit 0 where they are not known. It
// must be quick: it is asked while requests run.
type Thermometer interface {
	Temperature() (celsius, limit float64)
}

// Rester is a volume whose drive can be left alone for a while.
type Rester interface {
	// Rest lets time pass on the volume's clock, or returns the context's error.
	Rest(ctx context.Context, d time.Duration) error
}

// Worker is a volume on a computer that tells how much its processor works.
type Worker interface {
	// WatchWork begins to watch the calling goroutine; what it returns ends that, called
	// from the same one, and tells how busy the program kept the core that it works most
	// and all of them meanwhile, %.
	WatchWork() (end func() (core, all float64))
}

// Placed is a file that tells where on its drive it lies.
type Placed interface {
	// Placement returns the first and the last place, as shares of the drive's capacity,
	// 0…1; ok is false where the system does not tell.
	Placement() (from, to float64, ok bool)
}

// Sleeper is a volume on a computer that can sleep.
type Sleeper interface {
	// Slept is how long the computer has slept, from an origin of its own: what a
	// clock that counts sleep is ahead of one that does not. It must be quick.
	Slept() time.Duration
}

// sleptNotable is what two clocks may be apart that are not read at the same moment.
const sleptNotable = 500 * time.Millisecond

// Wakefulness tells whether a volume's computer stayed awake.
type Wakefulness struct {
	of    Sleeper
	slept time.Duration
}

// WatchSleep begins to watch a place; one that is no [Sleeper] never sleeps.
func WatchSleep(place any) Wakefulness {
	w := Wakefulness{}
	if s, ok := place.(Sleeper); ok {
		w.of, w.slept = s, s.Slept()
	}
	return w
}

// Check returns an error that wraps [ErrClock] if the computer has slept since.
func (w Wakefulness) Check() error {
	if w.of == nil {
		return nil
	}
	if slept := w.of.Slept() - w.slept; slept > sleptNotable {
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

// ErrNoDirectIO says that a volume cannot do I/O past the page cache, so that
// nothing it reads would say anything of the drive.
var ErrNoDirectIO = errors.New("this file system does not do direct I/O")

// ErrTooSlow says that laying out the test file took longer than it may.
var ErrTooSlow = errors.New("laying out the test file takes too long")

// ErrNoRoom says that the volume has not enough free space for the test file.
var ErrNoRoom = errors.New("not enough free space")
