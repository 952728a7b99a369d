// Package slow limits attempts to guess secrets, for each client separately.
//
// It doesn't know what is guessed, and knows nothing of HTTP.
package slow

import (
	"fmt"
	"sync"
	"time"
)

// free attempts come before each further one has to wait, twice as long every time.
const (
	free        = 4
	longestWait = 5 * time.Minute
	// longestHere is the longest wait on the bench's own computer.
	longestHere = time.Second
	forgotten   = time.Hour
	mostClients = 4096
)

// Client is whoever makes the attempts.
type Client struct {
	Key string // tells it from others
	// Here: it is on the bench's own computer, and never locked out.
	Here bool
}

// Error says that there were too many attempts and how long to wait.
type Error struct{ Wait time.Duration }

func (e Error) Error() string {
	return fmt.Sprintf("too many attempts; wait %d s", int(e.Wait.Seconds()+0.999))
}

// Limiter slows attempts down. An attempt counts when it begins; otherwise many at once would be free.
// The zero value is ready.
type Limiter struct {
	mu     sync.Mutex
	failed map[string]attempts // by client
}

type attempts struct {
	n    int
	last time.Time
}

// wait is how long after the last attempt the next one may come.
func (a attempts) wait(longest time.Duration) time.Duration {
	over := a.n - free
	if over < 0 {
		return 0
	}
	return min(longest, time.Second<<min(over, 10))
}

// Begin counts an attempt, or returns an [Error] that says how long it has to wait.
func (l *Limiter) Begin(c Client, now time.Time) error {
	l.mu.Lock()
	defer l.mu.Unlock()
	one := l.failed[c.Key]
	if now.Sub(one.last) > forgotten {
		one = attempts{}
	}
	longest := longestWait
	if c.Here {
		longest = longestHere
	}
	if left := one.wait(longest) - now.Sub(one.last); left > 0 && one.n > 0 {
		return Error{left}
	}
	if l.failed == nil {
		l.failed = map[string]attempts{}
	}
	l.makeRoom(now)
	l.failed[c.Key] = attempts{one.n + 1, now}
	return nil
}

// makeRoom forgets clients whose last attempt was long ago, and if that isn't enough, any clients.
func (l *Limiter) makeRoom(now time.Time) {
	if len(l.failed) < mostClients {
		return
	}
	for key, a := range l.failed {
		if now.Sub(a.last) > forgotten {
			delete(l.failed, key)
		}
	}
	for key := range l.failed {
		if len(l.failed) < mostClients*3/4 {
			break
		}
		delete(l.failed, key)
	}
}

// Forget clears the attempts of a client after a successful one.
func (l *Limiter) Forget(c Client) {
	l.mu.Lock()
	defer l.mu.Unlock()
	delete(l.failed, c.Key)
}

// Reset forgets all attempts.
func (l *Limiter) Reset() {
	l.mu.Lock()
	defer l.mu.Unlock()
	clear(l.failed)
}
