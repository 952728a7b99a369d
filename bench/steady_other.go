//go:build !linux

package bench

import "time"

// steady is the time since the program started.
func steady() time.Duration { return time.Since(begun) }
