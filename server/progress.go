package server

import (
	"net"
	"sync"
	"time"
)

// silence is how long a client may pause in the middle of a request.
const silence = 30 * time.Second

// progressing is a connection on which a request may take as long as it likes, as long as something of it
// comes: a slow line is no reason to cut it off. The server's own deadlines, as for a connection that waits
// for its next request, go before.
type progressing struct {
	net.Conn
	silence time.Duration
	leave   func() // counts the connection out
	closed  sync.Once

	mu  sync.Mutex
	own bool // the server has set a deadline of its own
}

// SetReadDeadline implements [net.Conn]. No time gives the deadline back to the progress.
func (c *progressing) SetReadDeadline(t time.Time) error {
	c.mu.Lock()
	c.own = !t.IsZero()
	c.mu.Unlock()
	return c.Conn.SetReadDeadline(t)
}

// SetDeadline implements [net.Conn].
func (c *progressing) SetDeadline(t time.Time) error {
	c.mu.Lock()
	c.own = !t.IsZero()
	c.mu.Unlock()
	return c.Conn.SetDeadline(t)
}

// Read implements [net.Conn].
func (c *progressing) Read(p []byte) (int, error) {
	c.mu.Lock()
	own := c.own
	c.mu.Unlock()
	if !own {
		if err := c.Conn.SetReadDeadline(time.Now().Add(c.silence)); err != nil {
			return 0, err
		}
	}
	return c.Conn.Read(p)
}

// Close implements [net.Conn].
func (c *progressing) Close() error {
	c.closed.Do(c.leave)
	return c.Conn.Close()
}

// NetConn returns the connection below.
func (c *progressing) NetConn() net.Conn { return c.Conn }

// progress is a listener whose connections last as long as something comes. It takes at most
// ofOne connections of one address at once and closes what comes beyond.
type progress struct {
	net.Listener
	silence time.Duration
	ofOne   int

	mu   sync.Mutex
	open map[string]int // connections by address
}

func newProgress(ln net.Listener, silence time.Duration, ofOne int) *progress {
	return &progress{Listener: ln, silence: silence, ofOne: ofOne, open: map[string]int{}}
}

// Accept implements [net.Listener].
func (p *progress) Accept() (net.Conn, error) {
	for {
		c, err := p.Listener.Accept()
		if err != nil {
			return nil, err
		}
		host, _, err := net.SplitHostPort(c.RemoteAddr().String())
		if err != nil {
			host = c.RemoteAddr().String()
		}
		if !p.enter(host) {
			_ = c.Close() // whoever it was has its answers on its other connections
			continue
		}
		return &progressing{Conn: c, silence: p.silence, leave: func() { p.leave(host) }}, nil
	}
}

// enter counts a new connection of an address, unless it has too many.
func (p *progress) enter(host string) bool {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.open[host] >= p.ofOne {
		return false
	}
	p.open[host]++
	return true
}

// leave counts a closed connection of an address.
func (p *progress) leave(host string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.open[host]--; p.open[host] <= 0 {
		delete(p.open, host)
	}
}
