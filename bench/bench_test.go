package bench_test

import (
	"context"
	"errors"
	"path/filepath"
	"runtime"
	"strconv"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/store"
)

// counting counts how often a job is read whole.
type counting struct {
	*store.Store
	whole atomic.Int64
}

func (c *counting) Job(ctx context.Context, id string) (*job.Job, int64, error) {
	c.whole.Add(1)
	return c.Store.Job(ctx, id)
}

// Write comes back a moment after it is done, as it may: others go on meanwhile.
func (c *counting) Write(ctx context.Context, do func(context.Context) error) error {
	err := c.Store.Write(ctx, do)
	for range 1000 {
		runtime.Gosched()
	}
	return err
}

func held(t *testing.T) (*counting, *bench.Jobs, string) {
	t.Helper()
	s, err := store.Open(filepath.Join(t.TempDir(), "x.db"), store.Options{Migrate: true})
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	c := &counting{Store: s}
	b := bench.New(c, nil, nil)
	v, err := b.Add(t.Context(),
		func(context.Context) (*job.Job, error) { return &job.Job{Head: job.Head{Number: "1"}}, nil })
	require.NoError(t, err)
	return c, b, v.ID
}

// However many changes come at once, each finds the job as the one before has left it, without reading it whole again.
func TestAChangeFindsTheJobHeld(t *testing.T) {
	c, b, id := held(t)
	var all sync.WaitGroup
	for i := range 40 {
		all.Go(func() {
			_, err := b.Change(t.Context(), id, func(_ context.Context, j *job.Job) error {
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
	assert.Zero(t, c.whole.Load())
}

// A change within another that fails in the end leaves nothing behind: what is found then is what is stored.
func TestAChangeWithinOneThatFails(t *testing.T) {
	c, b, id := held(t)
	err := b.Write(t.Context(), func(ctx context.Context) error {
		_, err := b.Change(ctx, id, func(_ context.Context, j *job.Job) error { j.Head.Reason = "never"; return nil })
		require.NoError(t, err)
		_, err = b.Load(ctx, id)
		require.NoError(t, err)
		return errors.New("no")
	})
	require.Error(t, err)
	// Another program changes it next, to the revision that the failed one would have had.
	_, err = bench.New(c, nil, nil).Change(t.Context(), id,
		func(_ context.Context, j *job.Job) error { j.Head.Reason += "slow"; return nil })
	require.NoError(t, err)
	s, err := b.Load(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, "slow", s.Job.Head.Reason)
}
