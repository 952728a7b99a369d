package bench

import (
	"sync/atomic"
	"time"

	"github.com/oklog/ulid/v2"
)

// Clock is the bench's time, which never jumps: it goes on steadily whatever is
// done to the computer's time of day while the program runs.
type Clock struct {
	origin time.Time // with a monotonic reading
	// shift moves the time of day, so that made-up jobs lie in the past.
	shift atomic.Int64 // ns
}

// NewClock returns a clock that shows the time of day, moved by shift.
func NewClock(shift time.Duration) *Clock {
	c := &Clock{origin: time.Now()}
	c.Shift(shift)
	return c
}

// Now is the time of day.
func (c *Clock) Now() time.Time {
	return c.origin.Add(time.Since(c.origin) + time.Duration(c.shift.Load())).Truncate(time.Millisecond)
}

// NowMS is the time in milliseconds since 1970, which timers are timed by.
func (c *Clock) NowMS() float64 {
	return float64(c.origin.Add(time.Since(c.origin)).UnixMicro()) / 1000
}

// TimeOf is the time of day of a moment on the clock of [Clock.NowMS].
func (c *Clock) TimeOf(ms float64) time.Time {
	return time.UnixMicro(int64(ms * 1000)).Add(time.Duration(c.shift.Load())).In(c.origin.Location()).Truncate(time.Millisecond)
}

// Shift moves the time of day further.
func (c *Clock) Shift(by time.Duration) { c.shift.Add(int64(by)) }

// NewID returns an id that no other thing has; later ones sort behind earlier ones.
func NewID() string { return ulid.Make().String() }
