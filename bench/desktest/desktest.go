// Package desktest sets up complete benches for tests.
package desktest

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/measuring"
	"nowthen/bench/visit"
	"nowthen/core/job"
	"nowthen/store"
)

// New returns a bench over a new store; both end with the test.
func New(t testing.TB, o desk.Options) (*desk.Desk, *store.Store) {
	t.Helper()
	s, err := store.Open(filepath.Join(t.TempDir(), "x.db"), store.Options{Migrate: true})
	require.NoError(t, err)
	d := desk.New(s, o)
	require.NoError(t, d.Start(t.Context()))
	t.Cleanup(func() { Close(t, d); _ = s.Close() })
	return d, s
}

// Close ends a bench.
func Close(t testing.TB, d *desk.Desk) {
	t.Helper()
	ctx, stop := context.WithTimeout(context.Background(), time.Minute)
	defer stop()
	assert.NoError(t, d.Close(ctx))
}

// Refusal requires an error to be a refusal and returns it.
func Refusal(t testing.TB, err error, kind bench.Kind) *bench.Refusal {
	t.Helper()
	var r *bench.Refusal
	require.ErrorAs(t, err, &r)
	assert.Equal(t, kind, r.Kind, r.Message)
	return r
}

// Simulated opens a job on a simulated laptop and returns its id.
func Simulated(t testing.TB, d *desk.Desk) string {
	t.Helper()
	v, err := d.Visits.Open(t.Context(), nil,
		visit.Intake{Customer: bench.Customer{Name: "Ottilie"}, Relation: job.JoinsReplacing,
			Simulated: "laptop"})
	require.NoError(t, err)
	return v.ID
}

// Measured waits for the end of a job's round.
func Measured(t testing.TB, d *desk.Desk, id string) *measuring.Measuring {
	t.Helper()
	ctx, stop := context.WithTimeout(t.Context(), time.Minute)
	defer stop()
	m, err := d.Rounds.Wait(ctx, id)
	require.NoError(t, err)
	return m
}

// Cards are the cards of a board.
func Cards(t testing.TB, d *desk.Desk, state, query string) []visit.Card {
	t.Helper()
	b, err := d.Visits.Board(t.Context(), visit.Ask{State: state, Query: query})
	require.NoError(t, err)
	return b.Cards
}

// Real opens a job on this computer with a small test file, and a sitting on it. Drive
// tests last so many seconds.
func Real(t testing.TB, d *desk.Desk, seconds float64) string {
	t.Helper()
	v, err := d.Visits.Open(t.Context(), nil,
		visit.Intake{Customer: bench.Customer{Name: "Real"}, OldDrive: bench.Drive{Kind: job.SataSSD},
			TestFileBytes: 16 << 20, TestSeconds: seconds})
	require.NoError(t, err)
	_, err = d.Sittings.Sit(t.Context(), nil, v.ID, "then", bench.Conditions{Power: job.Mains})
	require.NoError(t, err)
	return v.ID
}

// Here is a folder on the drive that the test runs from; what tests write into a
// temporary folder may lie in memory.
func Here(t testing.TB) string {
	t.Helper()
	dir, err := os.MkdirTemp(".", "measured-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	dir, err = filepath.Abs(dir)
	require.NoError(t, err)
	return dir
}
