package server

import (
	"bufio"
	"context"
	"fmt"
	"time"

	"github.com/gofiber/fiber/v3"
)

// heartbeat keeps event streams from being taken for dead, and is how long one may
// outlive its session.
const heartbeat = 5 * time.Second

// events streams what happens, for as long as who asked is signed in.
func (s *Server) events(c fiber.Ctx) error {
	token := c.Cookies(sessionCookie)
	c.Set(fiber.HeaderContentType, "text/event-stream")
	c.Set(fiber.HeaderCacheControl, "no-store")
	c.Set("X-Accel-Buffering", "no")
	return c.SendStreamWriter(func(w *bufio.Writer) {
		ctx, cancel := context.WithCancel(s.ctx)
		defer cancel()
		heard := s.desk.Jobs.Listen(ctx)
		beat := time.NewTicker(heartbeat)
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
