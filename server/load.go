package server

import (
	_ "embed"
	"sync"
	"time"

	"nowthen/core/order"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/limiter"
)

//go:embed load.html
var loadHTML string

//go:embed load.js
var loadScript string

// load serves the page that loads the graphics of the computer on which it is open. It contains no data of the
// shop. While the graphics processor draws it, it reports so every loadMark.
func (s *Server) load() {
	s.app.Get("/load", func(c fiber.Ctx) error {
		c.Set("Content-Security-Policy",
			"default-src 'none'; script-src 'self'; style-src 'unsafe-inline'; connect-src 'self'; frame-ancestors "+
				"'none'")
		return c.Type("html", "utf-8").SendString(loadHTML)
	})
	s.app.Get("/load.js", func(c fiber.Ctx) error { return c.Type("js", "utf-8").SendString(loadScript) })
	s.app.Use("/load/seen", s.ownPagesOnly,
		limiter.New(limiter.Config{Max: 60, Expiration: time.Minute, LimitReached: func(fiber.Ctx) error {
			return fiber.NewError(fiber.StatusTooManyRequests, "Too many requests. Wait a minute.")
		}}))
	s.app.Post("/load/seen", func(c fiber.Ctx) error {
		s.loads.mark(c.IP(), time.Now())
		return c.SendStatus(fiber.StatusNoContent)
	})
}

const (
	// loadMark is how often a page says that it draws.
	loadMark = 5 * time.Second
	// mostMarks bounds what is kept of a computer, and mostLoads of how many: what is older is forgotten.
	mostMarks = 400
	mostLoads = 200
)

// loads are the computers on which the graphics have been loaded lately, by their addresses.
type loads struct {
	mu    sync.Mutex
	marks map[string][]time.Time
}

// mark notes that the graphics of a computer work.
func (l *loads) mark(address string, at time.Time) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.marks == nil {
		l.marks = map[string][]time.Time{}
	}
	if _, known := l.marks[address]; !known && len(l.marks) >= mostLoads {
		oldest := ""
		for a, m := range l.marks {
			if oldest == "" || m[len(m)-1].Before(l.marks[oldest][len(l.marks[oldest])-1]) {
				oldest = a
			}
		}
		delete(l.marks, oldest)
	}
	m := append(l.marks[address], at)
	l.marks[address] = m[max(0, len(m)-mostMarks):]
}

// during reports whether the graphics of a computer worked for most of a time.
func (l *loads) during(address string, from, to time.Time) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	n := 0
	for _, t := range l.marks[address] {
		if !t.Before(from) && !t.After(to) {
			n++
		}
	}
	return time.Duration(n)*loadMark >= to.Sub(from)*3/4
}

// noteGraphics adds to a drive's sustained writing under processor load whether its computer's graphics were
// loaded as well, as far as a page there has reported it: a probe can't see that. Without a page it is unknown.
func (s *Server) noteGraphics(address string, c *order.Checked) {
	if c.Sustained == nil {
		return
	}
	for _, p := range c.Sustained.Parts {
		if now := time.Now(); p.Loaded &&
			s.loads.during(address, now.Add(-time.Duration(p.Seconds*float64(time.Second))), now) {
			worked := true
			c.Sustained.Graphics = &worked
		}
	}
}
