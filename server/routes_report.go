package server

import (
	"strconv"

	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/reporting"
)

// reportRoutes are about a job's ledger and reports.
func (s *Server) reportRoutes(api fiber.Router) {
	d := s.desk
	api.Get("/jobs/:job/candidates", get(func(ctx ctx, c fiber.Ctx) (*reporting.Candidates, error) {
		return d.Reports.Candidates(ctx, id(c), c.Query("base"))
	}))
	api.Get("/jobs/:job/reference", get(func(ctx ctx, c fiber.Ctx) (*reporting.Reference, error) {
		return d.Reports.Reference(ctx, id(c), c.Query("number"), c.Query("setup"))
	}))
	api.Get("/jobs/:job/ledger", get(func(ctx ctx, c fiber.Ctx) (*reporting.Ledger, error) {
		return d.Reports.Compare(ctx, id(c), c.Query("then"), c.Query("with"), c.Query("intended"))
	}))
	api.Get("/jobs/:job/tests/:test/closer", get(func(ctx ctx, c fiber.Ctx) (*reporting.Closer, error) {
		return d.Reports.Closer(ctx, id(c), param(c, "test"))
	}))
	api.Get("/jobs/:job/report", get(func(ctx ctx, c fiber.Ctx) (*reporting.Report, error) {
		return d.Reports.Report(ctx, id(c), c.Query("lang"))
	}))
	api.Get("/jobs/:job/report/file", s.reportFile)
	type sharing struct {
		Days int `json:"days"`
	}
	api.Delete("/jobs/:job/reports/:revision",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			n, err := strconv.Atoi(param(c, "revision"))
			if err != nil {
				n = 0 // there is none such
			}
			return d.Reports.Withdraw(ctx, ch, id(c), n)
		}))
	api.Get("/jobs/:job/reports",
		get(func(ctx ctx, c fiber.Ctx) ([]reporting.Revision, error) { return d.Reports.Revisions(ctx, id(c)) }))
	api.Put("/jobs/:job/report/draft",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in reporting.Draft) (*bench.View, error) {
			return d.Reports.Choose(ctx, ch, id(c), in)
		}))
	api.Get("/jobs/:job/shares",
		get(func(ctx ctx, c fiber.Ctx) ([]reporting.Share, error) { return d.Reports.Shares(ctx, id(c)) }))
	api.Post("/jobs/:job/shares",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in sharing) (shared, error) {
			made, err := d.Reports.MakeShare(ctx, ch, id(c), in.Days)
			if err != nil {
				return shared{}, err
			}
			return shared{made, s.addresses()[0].URL + "/r/" + made.Token, s.open()}, nil
		}))
	api.Delete("/jobs/:job/shares/:share",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) ([]reporting.Share, error) {
			return d.Reports.Revoke(ctx, ch, id(c), param(c, "share"))
		}))
	api.Post("/jobs/:job/report",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (*reporting.Report, error) {
			return d.Reports.Issue(ctx, ch, id(c), c.Query("lang"))
		}))

}
