package bench

import (
	"time"

	"golang.org/x/sys/unix"
)

// steady is how long the computer has been on, its sleep included (clock_gettime(2), CLOCK_BOOTTIME).
func steady() time.Duration {
	var t unix.Timespec
	if err := unix.ClockGettime(unix.CLOCK_BOOTTIME, &t); err != nil {
		return time.Since(begun)
	}
	return time.Duration(t.Nano())
}
