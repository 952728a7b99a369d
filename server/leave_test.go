//go:build !windows

package server

import (
	"net"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A client that has closed its connection is known to have left; one that waits, or has sent the
// next request already, is not.
func TestHasLeft(t *testing.T) {
	ln := bound(t)
	defer ln.Close()
	near, err := net.Dial("tcp", ln.Addr().String())
	require.NoError(t, err)
	far, err := ln.Accept()
	require.NoError(t, err)
	defer far.Close()
	assert.False(t, hasLeft(far))
	_, err = near.Write([]byte("G"))
	require.NoError(t, err)
	require.NoError(t, far.SetReadDeadline(time.Time{}))
	assert.False(t, hasLeft(far))
	b := make([]byte, 1)
	_, err = far.Read(b)
	require.NoError(t, err)
	assert.Equal(t, "G", string(b), "nothing was taken away")
	require.NoError(t, near.Close())
	require.Eventually(t, func() bool { return hasLeft(far) }, time.Hour, time.Millisecond)
}
