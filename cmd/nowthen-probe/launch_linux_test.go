package main

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestLaunch(t *testing.T) {
	code, out, errs := run1(t, t.Context(), "launch", "--until", "line:ready", "--runs", "3", "--json", "--", "sh",
		"-c", "sleep 0.2; echo ready; exec sleep 60")
	require.Zero(t, code, errs)
	runs := value(t, out)["runs"].([]any)
	require.Len(t, runs, 3)
	for _, r := range runs {
		r := r.(map[string]any)
		assert.GreaterOrEqual(t, r["value"], 0.2)
		assert.Positive(t, r["u"])
		assert.Equal(t, "warm", r["warmth"])
		assert.Equal(t, false, r["cold_checked"])
		assert.Equal(t, "when asked", r["ended"])
	}
	code, out, errs = run1(t, t.Context(), "launch", "--until", "exit", "--", "sh", "-c", "exit 0")
	require.Zero(t, code, errs)
	assert.Regexp(t, `^  1  0\.\d{3} s \(u 0\.\d{4} s\), warm, ended by itself\n$`, out)
}

// What was finished is printed also where a later run fails, or somebody presses Ctrl-C.
func TestFinishedLaunchesAreKept(t *testing.T) {
	been := filepath.Join(t.TempDir(), "been")
	code, out, errs := run1(t, t.Context(), "launch", "--until", "exit", "--runs", "3", "--json", "--", "sh", "-c",
		`[ ! -e "$1" ] && touch "$1"`, "sh", been)
	assert.Equal(t, exitFailed, code)
	assert.Len(t, value(t, out)["runs"], 1)
	assert.Contains(t, errs, "exit status 1")

	ctx, cancel := context.WithCancel(t.Context())
	again := filepath.Join(t.TempDir(), "again")
	go func() {
		defer cancel()
		assert.Eventually(t, func() bool { _, err := os.Stat(again); return err == nil }, time.Hour, time.Millisecond)
	}()
	code, out, _ = run1(t, ctx, "launch", "--until", "exit", "--runs", "2", "--json", "--", "sh", "-c",
		`[ -e "$1" ] || { touch "$1"; exit 0; }; touch "$2"; exec sleep 60`, "sh", been+"2", again)
	assert.Equal(t, exitStopped, code)
	assert.Len(t, value(t, out)["runs"], 1)
}

func TestLaunchUsedWrongly(t *testing.T) {
	for _, args := range [][]string{
		{"launch"}, {"launch", "--until", "exit"}, {"launch", "--", "true"}, {"launch", "--until", "soon", "--",
			"true"},
		{"launch", "--until", "port:x", "--", "true"}, {"launch", "--until", "exit", "--runs", "0", "--", "true"},
		{"launch", "--until", "exit", "--runs", "1001", "--", "true"}, {"launch", "--until", "exit", "--give-up", "0s",
			"--", "true"},
	} {
		code, out, errs := run1(t, t.Context(), args...)
		assert.Equal(t, exitRefused, code, args)
		assert.Empty(t, out)
		assert.NotEmpty(t, errs)
	}
	t.Setenv("DISPLAY", "")
	code, out, errs := run1(t, t.Context(), "launch", "--until", "window", "--json", "--", "true")
	assert.Equal(t, exitRefused, code)
	assert.Empty(t, out)
	assert.Contains(t, errs, "no X11 display")
	code, _, errs = run1(t, t.Context(), "launch", "--until", "exit", "--", "no-such-program-anywhere")
	assert.Equal(t, exitRefused, code)
	assert.Contains(t, errs, "cannot be started")
}
