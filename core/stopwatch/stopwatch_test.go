package stopwatch

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var start = []Phase{{ID: "login", Name: "to the sign-in", Counts: true}, {ID: "typing", Name: "password"},
	{ID: "desktop", Name: "to a usable desktop", Counts: true}}

func TestAStartWithPhases(t *testing.T) {
	w := New(start)
	assert.Equal(t, Ready, w.State())
	for i, at := range []float64{100, 141.2, 149.2, 200.4} {
		require.NoError(t, w.Press(fmt.Sprint(i), at, 0))
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
	require.NoError(t, w.Press("a", 5, 0))
	require.NoError(t, w.Press("b", 12.5, 0))
	timing, err := w.Timing()
	require.NoError(t, err)
	assert.Equal(t, 7.5, timing.Value)
	assert.Empty(t, timing.Phases)
}

func TestRefusals(t *testing.T) {
	w := New(nil)
	_, err := w.Timing()
	assert.ErrorContains(t, err, "ready")
	assert.ErrorIs(t, w.Undo(""), ErrNotThere)
	assert.ErrorContains(t, w.Press("a", math.NaN(), 0), "no time")
	require.NoError(t, w.Press("a", 10, 0))
	assert.ErrorContains(t, w.Press("b", 9, 0), "1.000 s before")
	assert.NoError(t, w.Press("a", 11, 0), "the same key is the same press")
	assert.Len(t, w.Marks, 1)
	require.NoError(t, w.Press("b", 12, 0))
	assert.ErrorIs(t, w.Press("c", 13, 0), ErrStopped)
	require.NoError(t, w.Undo(""))
	assert.Equal(t, Running, w.State())
}

// Whatever two devices send in whatever order (start, split, hold, undo, stop, a
// finish, late, double), no phase is negative, the value is the sum of what
// counts, what was held lies within the whole, and a key that was seen changes
// nothing.
func TestAnySequence(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	stopped := 0
	for range 4000 {
		w := New(start)
		now := 0.0
		var seen []string
		for i := range 16 {
			now += rng.Float64()
			at := now
			if rng.IntN(4) == 0 {
				at -= 2 * rng.Float64() // from a device on a slow line
			}
			key := fmt.Sprintf("%d-%d", rng.IntN(2), i)
			switch rng.IntN(9) {
			case 0:
				_ = w.Undo("")
			case 1, 2:
				if w.Hold(key, at) == nil {
					seen = append(seen, key)
				}
			case 3:
				if w.Finish(key, at, 0.01) == nil {
					seen = append(seen, key)
				}
			case 4: // double
				if len(seen) > 0 && w.known(seen[len(seen)-1]) {
					before := fmt.Sprintf("%+v", *w)
					_ = w.Press(seen[len(seen)-1], at+5, 0)
					_ = w.Hold(seen[len(seen)-1], at+5)
					_ = w.Finish(seen[len(seen)-1], at+5, 0)
					require.Equal(t, before, fmt.Sprintf("%+v", *w))
				}
			default:
				if w.Press(key, at, 0.02) == nil {
					seen = append(seen, key)
				}
			}
			require.LessOrEqual(t, len(w.Marks), len(w.Phases)+1)
			timing, err := w.Timing()
			if err != nil {
				require.NotEqual(t, Stopped, w.State())
				continue
			}
			stopped++
			require.False(t, w.Paused(), "nothing is held any more")
			sum := 0.0
			for _, d := range timing.Phases {
				require.GreaterOrEqual(t, d, 0.0)
				sum += d
			}
			whole := w.Marks[len(w.Marks)-1].At - w.Marks[0].At
			require.InDelta(t, whole, sum+timing.Held, 1e-9)
			require.InDelta(t, timing.Phases["login"]+timing.Phases["desktop"], timing.Value, 1e-9)
			require.GreaterOrEqual(t, timing.Held, 0.0)
		}
	}
	require.Greater(t, stopped, 1000)
}

// A press, a hold and its release that were undone do not come again with a
// repeat that was on its way.
func TestWhatWasUndoneStaysUndone(t *testing.T) {
	w := New(nil)
	require.NoError(t, w.Press("start", 1, 0))
	require.NoError(t, w.Hold("hold", 2))
	require.NoError(t, w.Hold("release", 3))
	require.NoError(t, w.Undo(""))
	require.NoError(t, w.Hold("release", 3))
	assert.True(t, w.Paused())
	require.NoError(t, w.Undo(""))
	require.NoError(t, w.Hold("hold", 2))
	assert.Empty(t, w.Holds)
	require.NoError(t, w.Press("stop", 5, 0))
	require.NoError(t, w.Undo(""))
	require.NoError(t, w.Press("stop", 5, 0))
	assert.Equal(t, Running, w.State())
	require.NoError(t, w.Press("stop once more", 6, 0))
	assert.Equal(t, Stopped, w.State())
}

// Undo takes everything back, one by one, to the beginning.
func TestUndoGoesBackToTheBeginning(t *testing.T) {
	w := New(start)
	require.ErrorIs(t, w.Hold("early", 1), ErrNotYet)
	require.NoError(t, w.Press("a", 1, 0))
	require.NoError(t, w.Hold("h", 2))
	require.NoError(t, w.Press("b", 3, 0))
	require.NoError(t, w.Hold("r", 4))
	require.NoError(t, w.Hold("h2", 5))
	require.NoError(t, w.Finish("f", 6, 0.1))
	timing, err := w.Timing()
	require.NoError(t, err)
	assert.InDelta(t, 1, timing.Phases["login"], 1e-9, "1 to 3, without 2 to 3")
	assert.InDelta(t, 1, timing.Phases["typing"], 1e-9, "3 to 6, without 3 to 4 and 5 to 6")
	assert.NotContains(t, timing.Phases, "desktop", "the finish came before")
	assert.InDelta(t, 3, timing.Held, 1e-9)
	assert.InDelta(t, 1, timing.Value, 1e-9)
	assert.Zero(t, timing.U, "the finish ended a phase that does not count")
	require.NoError(t, w.Undo("taking back"))
	assert.Contains(t, w.Keys(), "taking back", "who asks again is told that it was done")
	require.NoError(t, w.Undo("taking back"))
	assert.True(t, w.Paused(), "the hold that the finish ended lasts again")
	for range 5 {
		require.NoError(t, w.Undo(""))
	}
	assert.Equal(t, Ready, w.State())
	assert.Empty(t, w.Holds)
	assert.ErrorIs(t, w.Undo(""), ErrNotThere)
	assert.ErrorIs(t, w.Finish("g", 9, 0), ErrNotYet)
}

func TestReaction(t *testing.T) {
	times := []float64{0.20, 0.22, 0.24, 0.26, 0.20, 0.22, 0.24, 0.26, 0.01, 9}
	mean, spread, n, err := Reaction(times)
	require.NoError(t, err)
	assert.Equal(t, 8, n, "one came before the light, one was asleep")
	assert.InDelta(t, 0.23, mean, 1e-9)
	assert.InDelta(t, 0.0239, spread, 1e-4)
	_, _, _, err = Reaction(times[:5])
	assert.ErrorContains(t, err, "only 5 presses")
}

func TestUncertainties(t *testing.T) {
	assert.InDelta(t, 0.2828, ByHand(0, 2), 1e-4)
	assert.InDelta(t, 0.1414, ByHand(0.1, 2), 1e-4)
	assert.InDelta(t, 0.01/math.Sqrt(12), Automatic(0.01), 1e-12)
	assert.InDelta(t, 0.25, ByFinishLine(0.2, 2, 0.3), 1e-12)
	assert.InDelta(t, math.Sqrt2/60/math.Sqrt(12), ByVideo(1.0/60, 1.0/60), 1e-12)
	assert.Equal(t, 0.5, ByTyping(0.1, true))
	assert.InDelta(t, 5/math.Sqrt(3), ByTyping(10, false), 1e-12)
}

func TestPressesThatEnterTheValue(t *testing.T) {
	tests := []struct {
		name   string
		counts []bool
		holds  int
		want   int
	}{
		{"a start and a stop", []bool{true}, 0, 2},
		{"two phases that count share a press", []bool{true, true}, 0, 2},
		{"a password in the middle adds two", []bool{true, false, true}, 0, 4},
		{"what does not count at an end adds none", []bool{false, true}, 0, 2},
		{"a hold adds two", []bool{true}, 1, 4},
		{"nothing counts", []bool{false}, 0, 0},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) { assert.Equal(t, tt.want, Presses(tt.counts, tt.holds)) })
	}
	w := New([]Phase{{ID: "a", Counts: true}, {ID: "b"}, {ID: "c", Counts: true}})
	assert.Equal(t, 4, w.Presses(), "as many as there will be")
	for i, at := range []float64{0, 10, 20, 30} {
		require.NoError(t, w.Press(string(rune('k'+i)), at, 0.1))
		if at == 0 {
			require.NoError(t, w.Hold("h", 2))
			require.NoError(t, w.Hold("r", 3))
		}
	}
	assert.Equal(t, 6, w.Presses())
	timing, err := w.Timing()
	require.NoError(t, err)
	assert.InDelta(t, 0.2, timing.U, 1e-12, "four clocks")
}
