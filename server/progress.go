package server

import (
	"net"
	"sync"
	"time"
)

// silence is how long a client may send nothing of a request that it has begun.
const silence = 30 * time.Second

// progressing is a connection on which a request may take as long as it likes, as long as something of it
// comes: a slow line is no reason to cut it off. The server's own deadlines, as for a connection that waits
// for its next request, go before.
type progressing struct {
	net.Conn
	silence time.Duration

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

// NetConn returns the connection below.
func (c *progressing) NetConn() net.Conn { return c.Conn }

// progress is a listener whose connections last as long as something comes.
type progress struct {
	net.Listener
	silence time.Duration
}

// Accept implements [net.Listener].
func (p *progress) Accept() (net.Conn, error) {
	c, err := p.Listener.Accept()
	if err != nil {
		return nil, err
	}
	return &progressing{Conn: c, silence: p.silence}, nil
}
