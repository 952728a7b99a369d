package server

import (
	"context"
	"net"
	"time"

	"github.com/gofiber/fiber/v3"
)

// Bounds of work that somebody waits for.
const (
	longestWork = time.Minute
	leaveEvery  = 200 * time.Millisecond // whether the client is still there
)

// whileWaited returns a context that ends when the client has left, or has waited long enough. The HTTP library
// reports neither while a request is running.
func (s *Server) whileWaited(c fiber.Ctx) (ctx context.Context, stop context.CancelFunc) {
	ctx, cancel := context.WithTimeout(c.Context(), longestWork)
	conn := c.RequestCtx().Conn()
	over := make(chan struct{})
	ended := make(chan struct{})
	go func() {
		defer close(ended)
		tick := time.NewTicker(leaveEvery)
		defer tick.Stop()
		for {
			select {
			case <-over:
				return
			case <-tick.C:
			}
			if hasLeft(conn) {
				cancel()
				return
			}
		}
	}()
	return ctx, func() {
		cancel()
		close(over)
		<-ended
	}
}

// under returns the connection below others that are wrapped around it, or nil.
func under(conn net.Conn) net.Conn {
	for {
		w, ok := conn.(interface{ NetConn() net.Conn })
		if !ok {
			return conn
		}
		conn = w.NetConn()
	}
}
