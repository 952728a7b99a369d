package server

import (
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/measuring"
)

// measuringRoutes are about what the program runs automatically.
func (s *Server) measuringRoutes(api fiber.Router) {
	d := s.desk
	type perform struct {
		Test    string `json:"test"`
		Sitting string `json:"sitting"`
	}
	api.Post("/jobs/:job/perform",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in perform) (view, error) {
			return d.Rounds.Perform(ctx, ch, id(c), in.Test, in.Sitting)
		}))
	api.Get("/jobs/:job/measuring",
		get(func(ctx ctx, c fiber.Ctx) (*measuring.Measuring, error) { return d.Rounds.Measuring(ctx, id(c)) }))
	api.Post("/jobs/:job/measuring",
		change(s, 202, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in measuring.MeasureRequest) (*measuring.Measuring, error) {
			return d.Rounds.Measure(ctx, ch, id(c), in)
		}))
	api.Post("/jobs/:job/restarts",
		change(s, 202, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in measuring.RestartRequest) (*measuring.Measuring, error) {
			return d.Rounds.Restart(ctx, ch, id(c), in)
		}))
	api.Post("/jobs/:job/launches",
		change(s, 202, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in measuring.LaunchRequest) (*measuring.Measuring, error) {
			return d.Rounds.Launch(ctx, ch, id(c), in)
		}))
	api.Delete("/jobs/:job/measuring",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (*measuring.Measuring, error) {
			return d.Rounds.Cancel(ctx, ch, id(c))
		}))
}
