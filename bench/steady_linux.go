package bench

import (
	"time"

	"golang.org/x/sys/unix"
)

// steady is the time since the computer started, including sleep (clock_gettime(2), CLOCK_BOOTTIME).
func steady() time.Duration {
	var t unix.Timespec
	if err := unix.ClockGettime(unix.CLOCK_BOOTTIME, &t); err != nil {
		return time.Since(begun)
	}
	return time.Duration(t.Nano())
}
