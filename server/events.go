package server

import (
	"bufio"
	"context"
	"fmt"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
)

// heartbeat keeps event streams alive, and is how long one may outlive its session.
const heartbeat = 5 * time.Second

// streams are the event streams that are open, by the address that they go to.
type streams struct {
	mu   sync.Mutex
	open map[string]int
	all  int
}

// take reserves a stream for an address, if there is room.
func (s *streams) take(to string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.all >= maxStreams || s.open[to] >= maxStreamsOfOne {
		return false
	}
	if s.open == nil {
		s.open = map[string]int{}
	}
	s.open[to]++
	s.all++
	return true
}

// leave releases a stream.
func (s *streams) leave(to string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.all--
	if s.open[to]--; s.open[to] == 0 {
		delete(s.open, to)
	}
}

// total is how many streams are open.
func (s *streams) total() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.all
}

// events streams events for as long as the client is signed in.
func (s *Server) events(c fiber.Ctx) error {
	token, from := c.Cookies(sessionCookie), c.IP()
	if !s.streams.take(from) {
		c.RequestCtx().SetConnectionClose()
		c.Set(fiber.HeaderRetryAfter, "5")
		return fiber.NewError(fiber.StatusTooManyRequests,
			"Too many pages are open at once. Close some, or wait a moment.")
	}
	c.Set(fiber.HeaderContentType, "text/event-stream")
	c.Set(fiber.HeaderCacheControl, "no-store")
	c.Set("X-Accel-Buffering", "no")
	return c.SendStreamWriter(func(w *bufio.Writer) {
		defer s.streams.leave(from)
		ctx, cancel := context.WithCancel(s.ctx)
		defer cancel()
		heard := s.desk.Jobs.Listen(ctx)
		beat := time.NewTicker(s.beat)
		defer beat.Stop()
		_, _ = fmt.Fprint(w, "retry: 1000\n: welcome\n\n")
		for w.Flush() == nil { // an error: the page is gone
			select {
			case <-ctx.Done():
				return
			case <-beat.C:
				_, _ = fmt.Fprint(w, ": beat\n\n")
			case <-heard.Wake():
			}
			if ok, err := s.admitted(ctx, token); !ok || err != nil {
				return
			}
			for _, t := range heard.Fetch() {
				_, _ = fmt.Fprintf(w, "event: %s\ndata: %s\n\n", t.Type, t.JSON)
			}
		}
	})
}
