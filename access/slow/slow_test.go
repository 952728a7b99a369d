package slow

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var start = time.Date(2026, 3, 1, 8, 0, 0, 0, time.UTC)

// Each further attempt waits twice as long, and in time all is forgotten.
func TestOneClientIsSlowedDown(t *testing.T) {
	var l Limiter
	a, now := Client{Key: "a"}, start
	for range free {
		require.NoError(t, l.Begin(a, now))
	}
	for _, want := range []time.Duration{time.Second, 2 * time.Second, 4 * time.Second, 8 * time.Second} {
		var slow Error
		require.ErrorAs(t, l.Begin(a, now), &slow)
		assert.Equal(t, want, slow.Wait)
		now = now.Add(want)
		require.NoError(t, l.Begin(a, now))
	}
	for range 20 {
		now = now.Add(longestWait)
		require.NoError(t, l.Begin(a, now), "never longer than that")
	}
	require.NoError(t, l.Begin(a, now.Add(forgotten+longestWait)))
	l.Forget(a)
	require.NoError(t, l.Begin(a, now))
	for range 2 * free {
		_ = l.Begin(a, now)
	}
	l.Reset()
	require.NoError(t, l.Begin(a, now))
}

// Nobody waits because of others, however many they are.
func TestOthersAreNotHeldUp(t *testing.T) {
	var l Limiter
	for i := range 3 * mostClients {
		for range free + 3 {
			_ = l.Begin(Client{Key: fmt.Sprint("x", i)}, start)
		}
	}
	require.NoError(t, l.Begin(Client{Key: "owner"}, start))
	assert.LessOrEqual(t, len(l.failed), mostClients)
}

// On the bench's own computer nobody waits longer than a second.
func TestHere(t *testing.T) {
	var l Limiter
	here, now := Client{Key: "here", Here: true}, start
	for range 1000 {
		var slow Error
		if err := l.Begin(here, now); err != nil {
			require.ErrorAs(t, err, &slow)
			require.LessOrEqual(t, slow.Wait, time.Second)
			now = now.Add(slow.Wait)
			require.NoError(t, l.Begin(here, now))
		}
	}
}
