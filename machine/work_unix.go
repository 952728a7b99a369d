//go:build unix

package machine

import (
	"time"

	"golang.org/x/sys/unix"
)

// used is the processor time that something has used, in its own code and in the
// system's.
func used(who int) time.Duration {
	var u unix.Rusage
	if err := unix.Getrusage(who, &u); err != nil {
		return 0
	}
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}
