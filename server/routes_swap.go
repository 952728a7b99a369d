package server

import (
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/probes"
	"nowthen/bench/swap"
	"nowthen/core/capacity"
	"nowthen/core/job"
)

// swapRoutes are the work on the new drive: checks, fit, layout, tasks.
func (s *Server) swapRoutes(api fiber.Router) {
	d := s.desk
	api.Put("/jobs/:job/checks/:check",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in swap.CheckByHand) (view, error) {
			return d.Swaps.TickCheck(ctx, ch, id(c), param(c, "check"), in)
		}))
	api.Get("/jobs/:job/layout", get(func(ctx ctx, c fiber.Ctx) (*swap.Way, error) {
		sizes, err := sizesOf(c.Query("sizes"))
		if err != nil {
			return nil, err
		}
		return d.Swaps.Own(ctx, id(c), sizes)
	}))
	api.Put("/jobs/:job/held",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in capacity.Result) (view, error) {
			return d.Swaps.Hold(ctx, ch, id(c), in)
		}))
	api.Post("/jobs/:job/sustained",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in job.Sustained) (view, error) {
			return d.Swaps.Sustain(ctx, ch, id(c), in)
		}))
	api.Get("/jobs/:job/fitting",
		get(func(ctx ctx, c fiber.Ctx) (*swap.Fitting, error) { return d.Swaps.Fitting(ctx, id(c)) }))
	api.Put("/jobs/:job/fitting",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in swap.Noting) (view, error) {
			return d.Swaps.Note(ctx, ch, id(c), in)
		}))
	api.Post("/jobs/:job/tasks",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in swap.Tasking) (view, error) {
			return d.Swaps.Begin(ctx, ch, id(c), in)
		}))
	api.Put("/jobs/:job/tasks/:task",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in swap.Tasking) (view, error) {
			return d.Swaps.Describe(ctx, ch, id(c), param(c, "task"), in)
		}))
	api.Put("/jobs/:job/tasks/:task/clock",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in swap.Clocking) (view, error) {
			return d.Swaps.Clock(ctx, ch, id(c), param(c, "task"), in)
		}))
	api.Post("/jobs/:job/probes/:probe/weigh",
		change(s, 200, 0, func(ctx ctx, _ *bench.Change, c fiber.Ctx, _ none) ([]probes.Probe, error) {
			return d.Probes.Weigh(ctx, id(c), param(c, "probe"))
		}))
}
