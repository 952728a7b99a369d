package server

import (
	"io"
	"net"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A line on which a byte comes every 29 s is not cut off, one on which nothing comes for 30 s is, and so is one at
// the deadline that the server has set.
func TestAConnectionLastsAsLongAsSomethingComes(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		near, far := net.Pipe()
		c := &progressing{Conn: far, silence: silence}
		go func() {
			for range 20 {
				time.Sleep(29 * time.Second)
				_, _ = near.Write([]byte("x"))
			}
		}()
		began, b := time.Now(), make([]byte, 1)
		for range 20 {
			_, err := c.Read(b)
			require.NoError(t, err)
		}
		assert.Equal(t, 20*29*time.Second, time.Since(began))
		began = time.Now()
		_, err := c.Read(b)
		var timeout net.Error
		require.ErrorAs(t, err, &timeout)
		assert.True(t, timeout.Timeout())
		assert.Equal(t, silence, time.Since(began))

		require.NoError(t, c.SetReadDeadline(time.Now().Add(2*time.Minute)))
		began = time.Now()
		_, err = c.Read(b)
		require.ErrorAs(t, err, &timeout)
		assert.Equal(t, 2*time.Minute, time.Since(began), "a connection that waits for its next request")
		require.NoError(t, c.SetReadDeadline(time.Time{}))
		began = time.Now()
		_, err = c.Read(b)
		require.Error(t, err)
		assert.Equal(t, silence, time.Since(began))
	})
}

// A client that begins a request and sends no more of it is cut off; nothing else bounds how long one may take.
func TestAClientThatFallsSilent(t *testing.T) {
	s := newServer(t)
	assert.Zero(t, s.app.Config().ReadTimeout)
	s.silence = 10 * time.Millisecond
	base, stop := listen(t, s)
	defer stop()
	c, err := net.Dial("tcp", base[len("http://"):])
	require.NoError(t, err)
	defer c.Close()
	_, err = c.Write([]byte("POST /api/jobs HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: " +
		"application/json\r\nContent-Length: 1000\r\n\r\n{"))
	require.NoError(t, err)
	_, err = io.ReadAll(c) // until it is cut off
	assert.NoError(t, err)
}

// An address that holds all its connections gets no more until one of them is closed, however often.
func TestConnectionsOfOneAddress(t *testing.T) {
	inner, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	ln := newProgress(inner, silence, 2)
	t.Cleanup(func() { assert.NoError(t, ln.Close()) })
	accepted := make(chan net.Conn, 3)
	go func() {
		for {
			c, err := ln.Accept()
			if err != nil {
				return
			}
			accepted <- c
		}
	}()
	dial := func() net.Conn {
		c, err := net.Dial("tcp", inner.Addr().String())
		require.NoError(t, err)
		t.Cleanup(func() { _ = c.Close() })
		return c
	}
	dial()
	dial()
	first, second := <-accepted, <-accepted
	_, err = dial().Read(make([]byte, 1))
	assert.Error(t, err, "the third is closed")
	assert.Empty(t, accepted)

	require.NoError(t, first.Close())
	_ = first.Close() // as a caller may
	dial()
	third := <-accepted
	_, err = dial().Read(make([]byte, 1))
	assert.Error(t, err, "closing one twice has made room for one")
	require.NoError(t, second.Close())
	require.NoError(t, third.Close())
	assert.Empty(t, ln.open)
}
