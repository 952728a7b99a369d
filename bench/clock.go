package bench

import (
	"sync/atomic"
	"time"

	"github.com/oklog/ulid/v2"
)

// Clock is the bench's time. The time of day is the computer's own: dates and expiries follow at once when it
// is corrected or the computer has slept. Timers use a steady clock that nobody can set. If the system has such
// a clock, it continues while the computer sleeps.
type Clock struct {
	wall   func() time.Time
	steady func() time.Duration
	origin time.Time     // the time of day at the beginning
	began  time.Duration // the steady clock then
	// shift moves the time of day, to put made-up jobs into the past.
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

// NowMS is the time in milliseconds since 1970 by the steady clock that timers use.
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

// NewID returns a unique id. Later ids sort after earlier ones.
func NewID() string { return ulid.Make().String() }
