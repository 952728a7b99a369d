package server

import (
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/followup"
)

// followUpRoutes are what was promised for later.
func (s *Server) followUpRoutes(api fiber.Router) {
	d := s.desk
	api.Get("/due", get(func(ctx ctx, _ fiber.Ctx) ([]followup.Due, error) { return d.Later.Due(ctx) }))
	api.Post("/jobs/:job/promises",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in followup.Promising) (view, error) {
			return d.Later.Promise(ctx, ch, id(c), in)
		}))
	api.Delete("/jobs/:job/promises/:promise",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Later.Drop(ctx, ch, id(c), param(c, "promise"))
		}))
	api.Put("/jobs/:job/promises/:promise/answer",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in followup.Answering) (view, error) {
			return d.Later.Answer(ctx, ch, id(c), param(c, "promise"), in)
		}))
}
