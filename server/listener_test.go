package server

import (
	"context"
	"log/slog"
	"net"
	"net/http"
	"os"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// short is a listener whose first attempts fail.
type short struct {
	net.Listener
	errs []error
}

func (s *short) Accept() (net.Conn, error) {
	if len(s.errs) > 0 {
		err := s.errs[0]
		s.errs = s.errs[1:]
		return nil, &net.OpError{Op: "accept", Net: "tcp", Err: os.NewSyscallError("accept4", err)}
	}
	return s.Listener.Accept()
}

// now is a wait that is over at once, and notes how long it would have been.
func now(waited *[]time.Duration) func(time.Duration) <-chan time.Time {
	return func(d time.Duration) <-chan time.Time {
		*waited = append(*waited, d)
		c := make(chan time.Time, 1)
		c <- time.Time{}
		return c
	}
}

// A shortage is waited out with growing pauses; what does not pass ends the serving.
func TestAcceptWaitsOutAShortage(t *testing.T) {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer ln.Close()
	var waited []time.Duration
	all := []error{syscall.EMFILE, syscall.ENFILE, syscall.ENOBUFS, syscall.ENOMEM, syscall.ECONNABORTED,
		syscall.EMFILE, syscall.EMFILE, syscall.EMFILE, syscall.EMFILE, syscall.EMFILE}
	p := &patient{Listener: &short{ln, all}, log: slog.New(slog.DiscardHandler), wait: now(&waited)}
	go func() {
		if c, err := net.Dial("tcp", ln.Addr().String()); err == nil {
			c.Close()
		}
	}()
	c, err := p.Accept()
	require.NoError(t, err)
	c.Close()
	require.Len(t, waited, len(all))
	assert.Equal(t, firstWait, waited[0])
	assert.Equal(t, 2*firstWait, waited[1])
	assert.Equal(t, longWait, waited[len(waited)-1])

	p.Listener = &short{ln, []error{syscall.EBADF}}
	_, err = p.Accept()
	assert.ErrorIs(t, err, syscall.EBADF)
	p.Listener = ln
	ln.Close()
	_, err = p.Accept()
	assert.ErrorIs(t, err, net.ErrClosed)
}

// Serving that ends by itself is an error, whatever the reason.
func TestServingThatEndsIsAnError(t *testing.T) {
	s := newServer(t)
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	broken := &short{ln, []error{syscall.EBADF}}
	assert.ErrorIs(t, s.Serve(t.Context(), broken, func() {}), syscall.EBADF)
	ln.Close()

	s = newServer(t)
	ln, err = net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	assert.Error(t, s.Serve(t.Context(), ln, func() { ln.Close() }))
}

func TestAnAddressThatIsTaken(t *testing.T) {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer ln.Close()
	_, err = Bind(ln.Addr().String(), slog.New(slog.DiscardHandler))
	assert.ErrorIs(t, err, syscall.EADDRINUSE)
	assert.ErrorContains(t, err, ln.Addr().String())
}

// Event streams are refused above a limit, and everybody else is served.
func TestEventStreamsAreBounded(t *testing.T) {
	s := newServer(t)
	s.beat = 10 * time.Millisecond
	base, stop := listen(t, s)
	defer stop()
	ctx, leave := context.WithCancel(t.Context())
	defer leave()
	open := func() *http.Response {
		req, err := http.NewRequestWithContext(ctx, "GET", base+"/api/events", nil)
		require.NoError(t, err)
		res, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		return res
	}
	for range maxStreamsOfOne {
		res := open()
		defer res.Body.Close()
		require.Equal(t, 200, res.StatusCode)
	}
	for range 5 {
		res := open()
		assert.Equal(t, 429, res.StatusCode)
		assert.Equal(t, "5", res.Header.Get("Retry-After"))
		assert.True(t, res.Close, "the connection is not kept")
		res.Body.Close()
	}
	res, err := http.Get(base + "/api/jobs")
	require.NoError(t, err)
	defer res.Body.Close()
	assert.Equal(t, 200, res.StatusCode)
	leave() // the room is given back
	require.Eventually(t, func() bool { return s.streams.total() == 0 }, time.Hour, time.Millisecond)
	ctx = t.Context()
	res = open()
	res.Body.Close()
	assert.Equal(t, 200, res.StatusCode)
}
