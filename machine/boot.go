package machine

import (
	"strconv"

	"github.com/shirou/gopsutil/v4/host"
)

// bootApart is how far two readings of the moment of the same start may lie apart where a system
// tells it by how long it has
// been up, s.
const bootApart = 30

// Boot identifies the current start of the system; see [SameBoot].
func Boot() (string, error) {
	if id := bootID(); id != "" {
		return id, nil
	}
	at, err := host.BootTime()
	return strconv.FormatUint(at, 10), err
}

// SameBoot reports whether two names are of the same start.
func SameBoot(a, b string) bool {
	x, errX := strconv.ParseInt(a, 10, 64)
	y, errY := strconv.ParseInt(b, 10, 64)
	if errX != nil || errY != nil {
		return a == b
	}
	return max(x-y, y-x) < bootApart
}
