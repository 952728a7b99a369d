package access

import (
	"sync"
	"time"
)

// Attempts that are free before each further one has to wait, twice as long
// every time: for one address, and for all of them together.
const (
	freeByAddress = 4
	freeTogether  = 20
	longestWait   = 5 * time.Minute
	forgotten     = time.Hour
	mostAddresses = 4096
)

// limiter slows attempts down. An attempt counts when it begins, so that many at
// once are not free.
type limiter struct {
	mu       sync.Mutex
	failed   map[string]attempts // by address
	together attempts
}

type attempts struct {
	n    int
	last time.Time
}

// wait is how long after the last attempt the next one may come.
func (a attempts) wait(free int) time.Duration {
	over := a.n - free
	if over < 0 {
		return 0
	}
	return min(longestWait, time.Second<<min(over, 10))
}

// begin counts an attempt, or says how long it has to wait.
func (l *limiter) begin(address string, now time.Time) error {
	l.mu.Lock()
	defer l.mu.Unlock()
	if now.Sub(l.together.last) > forgotten {
		l.together = attempts{}
	}
	one := l.failed[address]
	if now.Sub(one.last) > forgotten {
		one = attempts{}
	}
	left := max(one.wait(freeByAddress)-now.Sub(one.last), l.together.wait(freeTogether)-now.Sub(l.together.last))
	if left > 0 && one.n+l.together.n > 0 {
		return SlowError{left}
	}
	if len(l.failed) >= mostAddresses {
		for a, t := range l.failed {
			if now.Sub(t.last) > forgotten || len(l.failed) >= mostAddresses {
				delete(l.failed, a)
			}
		}
	}
	l.failed[address] = attempts{one.n + 1, now}
	l.together = attempts{l.together.n + 1, now}
	return nil
}

// forget takes back what a good attempt had counted.
func (l *limiter) forget(address string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	delete(l.failed, address)
	l.together = attempts{}
}
