package server

import (
	_ "embed"

	"github.com/gofiber/fiber/v3"
)

//go:embed load.html
var loadHTML string

//go:embed load.js
var loadScript string

// load serves the page that keeps the graphics of the computer busy on which it is open. It says nothing of the shop's and asks
// nothing.
func (s *Server) load() {
	s.app.Get("/load", func(c fiber.Ctx) error {
		c.Set("Content-Security-Policy", "default-src 'none'; script-src 'self'; style-src 'unsafe-inline'; frame-ancestors 'none'")
		return c.Type("html", "utf-8").SendString(loadHTML)
	})
	s.app.Get("/load.js", func(c fiber.Ctx) error { return c.Type("js", "utf-8").SendString(loadScript) })
}
