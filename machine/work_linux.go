package machine

import (
	"time"

	"golang.org/x/sys/unix"
)

// processorTime is what the calling thread and the whole program have used.
func processorTime() (thread, program time.Duration) {
	return used(unix.RUSAGE_THREAD), used(unix.RUSAGE_SELF)
}
