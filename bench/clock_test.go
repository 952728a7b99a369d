package bench

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// While the computer sleeps, its time of day and its steady clock continue; correcting the clock takes effect
// at once and doesn't affect running timers.
func TestClock(t *testing.T) {
	wall, up := time.Date(2026, 11, 3, 22, 0, 0, 0, time.UTC), 5*time.Hour
	c := newClock(func() time.Time { return wall }, func() time.Duration { return up }, 0)
	started := c.NowMS()
	pass := func(d time.Duration) { wall, up = wall.Add(d), up+d }

	pass(9 * time.Hour) // a night asleep
	assert.Equal(t, time.Date(2026, 11, 4, 7, 0, 0, 0, time.UTC), c.Now())
	assert.InDelta(t, (9 * time.Hour).Milliseconds(), c.NowMS()-started, 1e-3)
	assert.Equal(t, time.Date(2026, 11, 3, 22, 0, 0, 0, time.UTC), c.TimeOf(started))

	wall = wall.Add(-20 * time.Minute) // it was wrong, and is corrected
	assert.Equal(t, time.Date(2026, 11, 4, 6, 40, 0, 0, time.UTC), c.Now())
	assert.InDelta(t, (9 * time.Hour).Milliseconds(), c.NowMS()-started, 1e-3, "what is timed goes on")
	assert.Equal(t, c.Now(), c.TimeOf(c.NowMS()), "and is dated by the corrected clock")

	c.Shift(-24 * time.Hour)
	assert.Equal(t, time.Date(2026, 11, 3, 6, 40, 0, 0, time.UTC), c.Now())
	assert.Equal(t, c.Now(), c.TimeOf(c.NowMS()))
	assert.InDelta(t, (9 * time.Hour).Milliseconds(), c.NowMS()-started, 1e-3)
}

// The steady clock is the system's, and never goes back.
func TestSteady(t *testing.T) {
	before := steady()
	for range 1000 {
		now := steady()
		assert.GreaterOrEqual(t, now, before)
		before = now
	}
}
