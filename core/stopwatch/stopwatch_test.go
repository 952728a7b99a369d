package stopwatch

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var start = []Phase{{ID: "login", Name: "to the sign-in", Counts: true}, {ID: "typing", Name: "password"}, {ID: "desktop", Name: "to a usable desktop", Counts: true}}

func TestAStartWithPhases(t *testing.T) {
	w := New(start)
	assert.Equal(t, Ready, w.State())
	for i, at := range []float64{100, 141.2, 149.2, 200.4} {
		require.NoError(t, w.Press(fmt.Sprint(i), at))
	}
	require.Equal(t, Stopped, w.State())
	timing, err := w.Timing()
	require.NoError(t, err)
	assert.InDelta(t, 92.4, timing.Value, 1e-9, "typing does not count")
	assert.InDelta(t, 41.2, timing.Phases["login"], 1e-9)
	assert.InDelta(t, 8.0, timing.Phases["typing"], 1e-9)
	assert.InDelta(t, 51.2, timing.Phases["desktop"], 1e-9)
}

func TestAWholeWithoutPhases(t *testing.T) {
	w := New(nil)
	require.NoError(t, w.Press("a", 5))
	require.NoError(t, w.Press("b", 12.5))
	timing, err := w.Timing()
	require.NoError(t, err)
	assert.Equal(t, 7.5, timing.Value)
	assert.Empty(t, timing.Phases)
}

func TestRefusals(t *testing.T) {
	w := New(nil)
	_, err := w.Timing()
	assert.ErrorContains(t, err, "ready")
	assert.ErrorIs(t, w.Undo(), ErrNotThere)
	assert.ErrorContains(t, w.Press("a", math.NaN()), "no time")
	require.NoError(t, w.Press("a", 10))
	assert.ErrorContains(t, w.Press("b", 9), "1.000 s before")
	assert.NoError(t, w.Press("a", 11), "the same key is the same press")
	assert.Len(t, w.Marks, 1)
	require.NoError(t, w.Press("b", 12))
	assert.ErrorIs(t, w.Press("c", 13), ErrStopped)
	require.NoError(t, w.Undo())
	assert.Equal(t, Running, w.State())
}

// Whatever is pressed in whatever order, no phase is negative, the value is the
// sum of what counts, and a press with a key that was seen changes nothing.
func TestAnySequence(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	for range 2000 {
		w := New(start)
		at := 0.0
		for i := range 12 {
			switch rng.IntN(5) {
			case 0:
				_ = w.Undo()
			case 1: // late: a time before the last
				_ = w.Press(fmt.Sprint("late", i), at-rng.Float64())
			case 2: // double
				if n := len(w.Marks); n > 0 {
					before := *w
					require.NoError(t, w.Press(w.Marks[n-1].Key, at+1))
					require.Equal(t, before, *w)
				}
			default:
				at += rng.Float64()
				_ = w.Press(fmt.Sprint(i), at)
			}
			timing, err := w.Timing()
			if err != nil {
				require.NotEqual(t, Stopped, w.State())
				continue
			}
			for _, d := range timing.Phases {
				require.GreaterOrEqual(t, d, 0.0)
			}
			require.InDelta(t, timing.Phases["login"]+timing.Phases["desktop"], timing.Value, 1e-9)
		}
	}
}

func TestUncertainties(t *testing.T) {
	assert.InDelta(t, 0.2828, ByHand(0), 1e-4)
	assert.InDelta(t, 0.1414, ByHand(0.1), 1e-4)
	assert.InDelta(t, 0.01/math.Sqrt(12), Automatic(0.01), 1e-12)
	assert.InDelta(t, 0.25, ByFinishLine(0.2, 0.3), 1e-12)
	assert.InDelta(t, math.Sqrt2/60/math.Sqrt(12), ByVideo(60), 1e-12)
	assert.Equal(t, 0.5, ByTyping(0.1, true))
	assert.InDelta(t, 5/math.Sqrt(3), ByTyping(10, false), 1e-12)
}
