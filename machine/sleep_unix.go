//go:build linux || darwin

package machine

import (
	"time"

	"golang.org/x/sys/unix"
)

func clocks(counting, not int32) (time.Duration, time.Duration, bool) {
	var a, b unix.Timespec
	if unix.ClockGettime(counting, &a) != nil || unix.ClockGettime(not, &b) != nil {
		return 0, 0, false
	}
	return time.Duration(a.Nano()), time.Duration(b.Nano()), true
}
