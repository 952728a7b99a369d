package server

import (
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/planning"
	"nowthen/bench/visit"
	"nowthen/core/job"
)

// planRoutes are about what is measured.
func (s *Server) planRoutes(api fiber.Router) {
	d := s.desk
	type use struct {
		Template string `json:"template"`
	}
	type excuse struct {
		Test  string `json:"test"`
		Setup string `json:"setup"`
		Why   string `json:"why"`
	}
	api.Put("/jobs/:job/template",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in use) (view, error) {
			return d.Plans.UseTemplate(ctx, ch, id(c), in.Template)
		}))
	api.Delete("/jobs/:job/template",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Plans.UndoTemplate(ctx, ch, id(c))
		}))
	api.Put("/jobs/:job/bill",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in visit.BillIn) (view, error) {
			return d.Visits.Bill(ctx, ch, id(c), in)
		}))
	api.Put("/jobs/:job/answers",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in map[string]float64) (view, error) {
			return d.Plans.Answer(ctx, ch, id(c), in)
		}))
	api.Patch("/jobs/:job/plan",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in planning.PlanChange) (*planning.Changed, error) {
			return d.Plans.Save(ctx, ch, id(c), in)
		}))
	api.Post("/jobs/:job/tests",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in planning.NewTest) (view, error) {
			return d.Plans.AddTest(ctx, ch, id(c), in)
		}))
	api.Get("/jobs/:job/tests/:test", get(func(ctx ctx, c fiber.Ctx) (*job.Test, error) {
		return item(ctx, s, c, "test", func(j *job.Job, id string) *job.Test { return j.Test(id) })
	}))
	api.Patch("/jobs/:job/tests/:test",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in planning.TestChange) (*planning.Changed, error) {
			return d.Plans.ChangeTest(ctx, ch, id(c), param(c, "test"), in)
		}))
	api.Delete("/jobs/:job/tests/:test",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (*planning.Changed, error) {
			return d.Plans.TakeOut(ctx, ch, id(c), param(c, "test"))
		}))
	api.Put("/jobs/:job/excuses",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in excuse) (view, error) {
			return d.Plans.Excuse(ctx, ch, id(c), in.Test, in.Setup, in.Why)
		}))
}
