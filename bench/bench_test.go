package bench_test

import (
	"database/sql"
	"errors"
	"path/filepath"
	"strconv"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/store"
)

// held returns the jobs of a new store, and one of them. Reading that job from the file fails, because it was
// damaged since.
func held(t *testing.T) (*store.Store, *bench.Jobs, string) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "x.db")
	s, err := store.Open(path, store.Options{Migrate: true})
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	b := bench.New(s, nil, nil)
	v, err := b.Add(t.Context(), nil, func(*bench.Change) (*job.Job, error) {
		return &job.Job{Head: job.Head{Number: "1"}, Computers: []job.Computer{{ID: "c1"}}}, nil
	})
	require.NoError(t, err)
	db, err := sql.Open("sqlite", "file:"+path)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("UPDATE computers SET body = 'x'")
	require.NoError(t, err)
	_, err = bench.New(s, nil, nil).Load(t.Context(), v.ID)
	require.Error(t, err, "it is damaged")
	return s, b, v.ID
}

// Concurrent changes each see the job as the one before left it, without reading it again.
func TestAChangeFindsTheJobHeld(t *testing.T) {
	_, b, id := held(t)
	var all sync.WaitGroup
	for i := range 40 {
		all.Go(func() {
			_, err := b.Change(t.Context(), nil, id, func(j *job.Job) error {
				j.Head.Reason += strconv.Itoa(i % 10)
				return nil
			})
			assert.NoError(t, err)
		})
	}
	all.Wait()
	s, err := b.Load(t.Context(), id)
	require.NoError(t, err)
	assert.Len(t, s.Job.Head.Reason, 40)
}

// A change nested in another that fails leaves nothing behind.
func TestAChangeWithinOneThatFails(t *testing.T) {
	_, b, id := held(t)
	err := b.Write(t.Context(), nil, func(ch *bench.Change) error {
		_, err := b.Change(t.Context(), ch, id, func(j *job.Job) error { j.Head.Reason = "never"; return nil })
		require.NoError(t, err)
		return errors.New("no")
	})
	require.Error(t, err)
	_, err = b.Change(t.Context(), nil, id, func(j *job.Job) error { j.Head.Reason += "slow"; return nil })
	require.NoError(t, err)
	s, err := b.Load(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, "slow", s.Job.Head.Reason)
}

// A change that is meant for another revision is refused, also within another change.
func TestAChangeForAnotherRevision(t *testing.T) {
	_, b, id := held(t)
	reason := func(ch *bench.Change) error {
		_, err := b.Change(t.Context(), ch, id, func(j *job.Job) error { j.Head.Reason += "x"; return nil })
		return err
	}
	first, old := int64(1), int64(0)
	var refused *bench.Refusal
	require.ErrorAs(t, reason(bench.NewChange(nil, &old)), &refused)
	assert.Equal(t, bench.Stale, refused.Kind)
	require.ErrorAs(t, b.Write(t.Context(), bench.NewChange(nil, &old), reason), &refused)
	require.NoError(t, reason(bench.NewChange(nil, &first)))
	require.ErrorAs(t, reason(bench.NewChange(nil, &first)), &refused)
	require.NoError(t, reason(nil))
}
