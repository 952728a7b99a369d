//go:build !linux

package bench

import "time"

// steady is how long the program has run.
func steady() time.Duration { return time.Since(begun) }
