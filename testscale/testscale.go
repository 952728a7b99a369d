// Package testscale sets how much of a long test runs: all of it in `make test-all`, one in a
// hundred of its cases in `make test`.
//
// Only tests import it.
package testscale

import (
	"os"
	"testing"
)

// All reports whether everything is run.
func All() bool { return os.Getenv("NOWTHEN_ALL") != "" }

// Of is how many of n cases are run: one in a hundred, but at least a few.
func Of(all, few int) int {
	if All() {
		return all
	}
	return min(all, max(few, all/100))
}

// Slack is how much further a share counted over fewer cases may be from the expected one.
func Slack(slack float64) float64 {
	if All() {
		return 0
	}
	return slack
}

// Rare skips a test unless everything is run.
func Rare(t testing.TB) {
	t.Helper()
	if !All() {
		t.Skip("run by make test-all")
	}
}
