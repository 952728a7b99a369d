package stick

import "time"

// MoveOn moves the steady clock by which offers expire.
func (x *Sticks) MoveOn(by time.Duration) {
	x.mu.Lock()
	defer x.mu.Unlock()
	before := x.now
	x.now = func() time.Time { return before().Add(by) }
}
