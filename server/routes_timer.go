package server

import (
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/timing"
)

// timerRoutes are about timing by hand.
func (s *Server) timerRoutes(api fiber.Router) {
	d := s.desk
	type arm struct {
		Test    string `json:"test"`
		Sitting string `json:"sitting"`
		By      string `json:"by"`
	}
	api.Get("/jobs/:job/timer",
		get(func(ctx ctx, c fiber.Ctx) (*timing.Timer, error) { return d.Timers.Timer(ctx, id(c)) }))
	api.Put("/jobs/:job/timer",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in arm) (*timing.Timer, error) {
			return d.Timers.Arm(ctx, ch, id(c), in.Test, in.Sitting, in.By)
		}))
	api.Delete("/jobs/:job/timer",
		change(s, 204, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (none, error) {
			return none{}, d.Timers.Discard(ctx, ch, id(c))
		}))
	api.Post("/jobs/:job/timer/presses",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in timing.Press) (*timing.Timer, error) {
			return d.Timers.Press(ctx, ch, id(c), in)
		}))
	api.Delete("/jobs/:job/timer/presses",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (*timing.Timer, error) {
			return d.Timers.Undo(ctx, ch, id(c), c.Query("timer"), c.Query("key"))
		}))
	api.Post("/jobs/:job/timer/keep",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in timing.Keeping) (view, error) {
			return d.Timers.Keep(ctx, ch, id(c), in)
		}))
}
