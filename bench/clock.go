package bench

import (
	"sync/atomic"
	"time"

	"github.com/oklog/ulid/v2"
)

// Clock is the bench's time. The time of day is the computer's own: a clock that is corrected, or a night in
// which the computer slept, shows at once in dates and expiries. What is timed goes by a steady clock beside
// it, which nobody sets and which, where the system has such a one, continues while the computer sleeps.
type Clock struct {
	wall   func() time.Time
	steady func() time.Duration
	origin time.Time     // the time of day at the beginning
	began  time.Duration // the steady clock then
	// shift moves the time of day, so that made-up jobs lie in the past.
	shift atomic.Int64 // ns
}

// begun is when the program was started, with a monotonic reading.
var begun = time.Now()

// NewClock returns a clock that shows the time of day, moved by shift.
func NewClock(shift time.Duration) *Clock { return newClock(time.Now, steady, shift) }

func newClock(wall func() time.Time, steady func() time.Duration, shift time.Duration) *Clock {
	c := &Clock{wall: wall, steady: steady, origin: wall(), began: steady()}
	c.Shift(shift)
	return c
}

// Now is the time of day.
func (c *Clock) Now() time.Time {
	return c.wall().Round(0).Add(time.Duration(c.shift.Load())).Truncate(time.Millisecond)
}

// NowMS is the time in milliseconds since 1970 by the steady clock, which timers are timed by.
func (c *Clock) NowMS() float64 {
	return float64(c.origin.Add(c.steady()-c.began).UnixMicro()) / 1000
}

// TimeOf is the time of day of a moment on the clock of [Clock.NowMS].
func (c *Clock) TimeOf(ms float64) time.Time {
	ago := time.Duration((c.NowMS() - ms) * float64(time.Millisecond))
	return c.wall().Round(0).Add(time.Duration(c.shift.Load()) - ago).Truncate(time.Millisecond)
}

// Shift moves the time of day further.
func (c *Clock) Shift(by time.Duration) { c.shift.Add(int64(by)) }

// NewID returns an id that no other thing has; later ones sort behind earlier ones.
func NewID() string { return ulid.Make().String() }
