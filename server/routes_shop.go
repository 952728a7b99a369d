package server

import (
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/reporting"
	"nowthen/bench/timing"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/machine"
)

// shopRoutes are about the bench itself.
func (s *Server) shopRoutes(api fiber.Router) {
	d := s.desk
	api.Get("/clock", func(c fiber.Ctx) error { return answer(c, 200, map[string]float64{"ms": d.Jobs.NowMS()}) })
	api.Get("/events", s.events)
	api.Get("/computer", get(func(ctx ctx, c fiber.Ctx) (job.Computer, error) { return d.Rounds.Computer(ctx), nil }))
	api.Get("/conditions", get(func(ctx ctx, c fiber.Ctx) (job.Conditions, error) {
		return d.Rounds.ConditionsHere(ctx, c.Query("dir"))
	}))
	api.Get("/folders", get(func(_ ctx, c fiber.Ctx) (*machine.Listing, error) {
		return d.Rounds.Folders(c.Query("path"))
	}))
	api.Get("/settings/usual",
		get(func(ctx ctx, _ fiber.Ctx) (*reporting.Usual, error) { return s.desk.Reports.Usual(ctx) }))
	api.Post("/settings/usual",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, _ fiber.Ctx, _ none) (*reporting.Usual, error) {
			return s.desk.Reports.Learn(ctx, ch)
		}))
	api.Get("/settings/shop", get(func(ctx ctx, _ fiber.Ctx) (bench.Shop, error) { return d.Reports.Shop(ctx) }))
	api.Put("/settings/shop",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, _ fiber.Ctx, in bench.Shop) (bench.Shop, error) {
			return d.Reports.SetShop(ctx, ch, in)
		}))
	api.Get("/settings", get(func(ctx ctx, _ fiber.Ctx) (settings, error) { return s.settings(ctx) }))

	api.Get("/technicians", get(func(ctx ctx, c fiber.Ctx) ([]timing.Technician, error) {
		list, err := d.Timers.Technicians(ctx)
		if err != nil {
			return nil, err
		}
		return page(c, list, func(t timing.Technician) string { return t.Name })
	}))
	api.Post("/technicians",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx,
			in timing.Reactions) (*timing.Technician, error) {
			return d.Timers.Calibrate(ctx, ch, in)
		}))
	api.Get("/technicians/:technician", get(func(ctx ctx, c fiber.Ctx) (*timing.Technician, error) {
		return d.Timers.Technician(ctx, param(c, "technician"))
	}))

	api.Get("/catalogue", get(func(ctx, fiber.Ctx) ([]plan.Offer, error) { return plan.Offers(), nil }))
	api.Get("/templates", get(func(ctx ctx, c fiber.Ctx) ([]plan.Template, error) {
		list, err := d.Plans.Templates(ctx)
		if err != nil {
			return nil, err
		}
		return page(c, list, func(t plan.Template) string { return t.ID })
	}))
	api.Get("/templates/:template",
		get(func(ctx ctx, c fiber.Ctx) (plan.Template, error) { return d.Plans.Template(ctx, param(c, "template")) }))
	type naming struct {
		Job  string `json:"job"`
		Name string `json:"name"`
	}
	api.Post("/templates",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in naming) ([]plan.Template, error) {
			return d.Plans.SaveTemplate(ctx, ch, in.Job, in.Name)
		}))
	api.Delete("/templates/:template",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) ([]plan.Template, error) {
			return d.Plans.DropTemplate(ctx, ch, param(c, "template"))
		}))
}
