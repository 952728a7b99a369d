package machine

import (
	"time"

	"golang.org/x/sys/unix"
)

// processorTime is what the whole program has used; the system does not tell of threads.
func processorTime() (thread, program time.Duration) { return -1, used(unix.RUSAGE_SELF) }
