package machine

import (
	"time"

	"golang.org/x/sys/unix"
)

// bootClocks reads the clock that counts sleep and the one that does not
// (clock_gettime(3) of macOS).
func bootClocks() (counting, not time.Duration, ok bool) {
	return clocks(unix.CLOCK_MONOTONIC_RAW, unix.CLOCK_UPTIME_RAW)
}
