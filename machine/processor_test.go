package machine

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTheWorkIsTheSameOnAnyNumberOfCores(t *testing.T) {
	last := 0.0
	a, err := workProcessor(t.Context(), 4, 3, func(share float64) { last = max(last, share) })
	require.NoError(t, err)
	b, err := workProcessor(t.Context(), 4, 1, func(float64) {})
	require.NoError(t, err)
	assert.Equal(t, a.Digest, b.Digest)
	assert.Equal(t, 1.0, last)
	assert.Positive(t, a.OneS)
	assert.Positive(t, a.AllS)
	c, err := workProcessor(t.Context(), 5, 1, func(float64) {})
	require.NoError(t, err)
	assert.NotEqual(t, a.Digest, c.Digest, "another amount is other work")
}

func TestItCanBeStopped(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	_, err := workProcessor(ctx, 1000, 2, func(float64) { cancel() })
	assert.ErrorIs(t, err, context.Canceled)
}
