package timing_test

import (
	"testing"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/planning"
	"nowthen/bench/timing"
	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/stopwatch"
	"nowthen/store"
)

// armed arms the timer of a job for a test and returns its word.
func armed(t *testing.T, b *desk.Desk, id, test, by string) (*timing.Timer, string) {
	t.Helper()
	v, err := b.Timers.Arm(t.Context(), nil, id, test, "s1", by)
	require.NoError(t, err)
	word := v.Finish[len("/f/"):]
	require.Regexp(t, `^([bdfgklmnprstvz][aeiou]){4}$`, word)
	return v, word
}

func TestAFinishLineStopsItsTimerAndNothingElse(t *testing.T) {
	b, st := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Real(t, b, 1)
	_, word := armed(t, b, id, catalogue.ColdStart, "")
	open := func(word string, page int) *timing.Finish {
		f, err := b.Timers.FinishLine(ctx, word, page)
		require.NoError(t, err)
		return f
	}
	assert.Equal(t, timing.FinishEarly, open(word, 1).State)
	assert.Equal(t, timing.FinishUnknown, open("nonsense", 1).State)
	assert.Equal(t, timing.FinishUnknown, open("", 1).State)
	assert.Equal(t, timing.FinishUnknown, open(word, 2).State, "the test has one page")

	shiftArmed(t, st, id, 60_000)
	base := b.Jobs.NowMS() - 60_000
	for i, at := range []float64{0, 20_000, 28_000} {
		_, err := b.Timers.Press(ctx, nil, id, timing.Press{Key: string(rune('a' + i)), AtMS: base + at, UMS: 20})
		require.NoError(t, err)
	}
	f := open(word, 1)
	require.Equal(t, timing.FinishStopped, f.State)
	assert.InDelta(t, 52, f.Seconds, 0.5, "without the 8 s of typing")
	require.NoError(t, b.Timers.FinishSeen(ctx, word, 1))
	again := open(word, 1)
	assert.Equal(t, f.Seconds, again.Seconds, "a second opening changes nothing")
	v, err := b.Timers.Timer(ctx, id)
	require.NoError(t, err)
	assert.True(t, v.Ended)
	assert.InDelta(t, stopwatch.ByHand(0, 3), v.U, 0.05, "three presses by hand, and next to nothing of the line")

	v, err = b.Timers.Undo(ctx, nil, id, "", "")
	require.NoError(t, err)
	assert.Equal(t, stopwatch.Running, v.State)
	assert.Zero(t, v.Opened)
	assert.Equal(t, timing.FinishStopped, open(word, 1).State, "after it was taken back, the line waits anew")

	view, err := b.Timers.Keep(ctx, nil, id,
		timing.Keeping{RunFacts: bench.RunFacts{Warmth: "cold", AppVersion: "7", Content: "the same save",
			SinceStart: 1}})
	require.NoError(t, err)
	run := view.Job.Runs[0]
	assert.Equal(t, job.FinishLine, run.Method)
	assert.Equal(t, "7", run.AppVersion)
	assert.Equal(t, 1, run.SinceStart)
	assert.Equal(t, timing.FinishUnknown, open(word, 1).State, "the word was for that once")
}

// shiftArmed makes a timer look as if it had been armed earlier.
func shiftArmed(t *testing.T, st *store.Store, id string, byMS float64) {
	t.Helper()
	body, err := st.Timer(t.Context(), id)
	require.NoError(t, err)
	var tm map[string]any
	require.NoError(t, json.Unmarshal(body, &tm))
	tm["armed_ms"] = tm["armed_ms"].(float64) - byMS
	body, err = json.Marshal(tm)
	require.NoError(t, err)
	require.NoError(t, st.SaveTimer(t.Context(), id, body))
}

func TestSeveralPages(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Real(t, b, 1)
	_, err := b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-browser"})
	require.NoError(t, err)
	_, word := armed(t, b, id, "t-browser", "")
	_, err = b.Timers.Press(ctx, nil, id, timing.Press{Key: "a", AtMS: b.Jobs.NowMS()})
	require.NoError(t, err)
	for _, page := range []int{2, 1, 1, 4} {
		f, err := b.Timers.FinishLine(ctx, word, page)
		require.NoError(t, err)
		assert.Equal(t, timing.FinishWaiting, f.State)
	}
	f, err := b.Timers.FinishLine(ctx, word, 3)
	require.NoError(t, err)
	assert.Equal(t, timing.FinishStopped, f.State)
	assert.Equal(t, 4, f.Opened)
	v, err := b.Timers.Keep(ctx, nil, id, timing.Keeping{})
	require.NoError(t, err)
	assert.Contains(t, v.Job.Runs[0].Note, "page 4 after")
}

func TestHoldsSeriesAndOwnReaction(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Real(t, b, 1)
	_, err := b.Timers.Calibrate(ctx, nil, timing.Reactions{Name: "Runa", Times: []float64{0.2, 0.3}})
	desktest.Refusal(t, err, bench.Invalid)
	runa, err := b.Timers.Calibrate(ctx, nil,
		timing.Reactions{Name: " Runa ", Times: []float64{0.21, 0.25, 0.23, 0.24, 0.22, 0.26, 0.2, 0.25}})
	require.NoError(t, err)
	assert.InDelta(t, 0.021, runa.SpreadS, 0.002)
	list, err := b.Timers.Technicians(ctx)
	require.NoError(t, err)
	require.Len(t, list, 1)

	v, _ := armed(t, b, id, catalogue.ColdStart, "runa")
	assert.True(t, v.Calibrated)
	base := b.Jobs.NowMS()
	at := func(key, kind string, ms, u float64) {
		_, err := b.Timers.Press(ctx, nil, id, timing.Press{Key: key, Kind: kind, AtMS: base + ms, UMS: u})
		require.NoError(t, err)
	}
	at("1", "press", 0, 30)
	at("2", "hold", 200, 30)
	at("3", "hold", 700, 30)
	at("4", "", 1000, 30)
	at("5", "press", 1500, 30)
	at("6", "press", 3000, 30)
	for _, bad := range []timing.Press{{Key: "x", Kind: "dance", AtMS: base}, {Key: "y", AtMS: base, UMS: 9000},
		{Key: "z", AtMS: base, UMS: -1}} {
		_, err := b.Timers.Press(ctx, nil, id, bad)
		desktest.Refusal(t, err, bench.Conflict)
	}
	two := 2
	_, err = b.Timers.Keep(ctx, nil, id, timing.Keeping{RunFacts: bench.RunFacts{Warmth: "tepid"}})
	desktest.Refusal(t, err, bench.Invalid)
	view, err := b.Timers.Keep(ctx, nil, id, timing.Keeping{Series: &two})
	require.NoError(t, err)
	run := view.Job.Runs[0]
	assert.InDelta(t, 2.0, run.Value, 1e-6, "1 s without half of it held, and 1.5 s")
	assert.InDelta(t, 0.5, run.Held, 1e-6)
	assert.Equal(t, "runa", run.By)
	assert.InDelta(t, 0.0624, *run.U, 0.004,
		"the own reaction six times, of which two are the hold, and 30 ms ÷ √3 four times")
	// The series arms the timer by itself, twice.
	for _, left := range []int{1, 0} {
		v, err := b.Timers.Timer(ctx, id)
		require.NoError(t, err)
		require.NotNil(t, v)
		assert.Equal(t, left, v.Series)
		base = b.Jobs.NowMS()
		for i, ms := range []float64{0, 100, 200, 300} {
			at(string(rune('a'+i)), "press", ms, 0)
		}
		_, err = b.Timers.Keep(ctx, nil, id, timing.Keeping{})
		require.NoError(t, err)
	}
	none, err := b.Timers.Timer(ctx, id)
	require.NoError(t, err)
	assert.Nil(t, none)

	// A run that went wrong is kept, set aside, and the timer is ready again.
	_, _ = armed(t, b, id, catalogue.ColdStart, "runa")
	base = b.Jobs.NowMS()
	for i, ms := range []float64{0, 100, 200, 300} {
		at(string(rune('e'+i)), "press", ms, 0)
	}
	spoilt, err := b.Timers.Keep(ctx, nil, id, timing.Keeping{SetAside: " the phone rang ", Again: true})
	require.NoError(t, err)
	last := spoilt.Job.Runs[len(spoilt.Job.Runs)-1]
	require.NotNil(t, last.SetAside)
	assert.Equal(t, "the phone rang", last.SetAside.Reason)
	assert.False(t, last.SetAside.At.IsZero())
	v, err = b.Timers.Timer(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, stopwatch.Ready, v.State)
}
