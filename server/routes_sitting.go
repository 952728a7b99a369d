package server

import (
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/sittings"
	"nowthen/core/figures"
	"nowthen/core/job"
	"nowthen/core/jobfile"
)

// sittingRoutes are about sittings, their conditions and their runs.
func (s *Server) sittingRoutes(api fiber.Router) {
	d := s.desk
	type sit struct {
		Setup      string           `json:"setup"`
		Conditions bench.Conditions `json:"conditions"`
	}
	type aside struct {
		Reason string `json:"reason"`
	}
	api.Post("/jobs/:job/sittings",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in sit) (view, error) {
			return d.Sittings.Sit(ctx, ch, id(c), in.Setup, in.Conditions)
		}))
	api.Get("/jobs/:job/sittings/:sitting", get(func(ctx ctx, c fiber.Ctx) (*job.Sitting, error) {
		return item(ctx, s, c, "sitting", func(j *job.Job, id string) *job.Sitting { return j.Sitting(id) })
	}))
	api.Put("/jobs/:job/sittings/:sitting/purpose",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in sittings.Purpose) (view, error) {
			return d.Sittings.SetPurpose(ctx, ch, id(c), param(c, "sitting"), in)
		}))
	api.Put("/jobs/:job/sittings/:sitting",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in bench.Conditions) (view, error) {
			return d.Sittings.Amend(ctx, ch, id(c), param(c, "sitting"), in)
		}))
	api.Get("/jobs/:job/runs", get(func(ctx ctx, c fiber.Ctx) ([]job.Run, error) {
		after, limit, err := paging(c)
		if err != nil {
			return nil, err
		}
		runs, next, err := d.Sittings.Runs(ctx, id(c),
			sittings.Which{Test: c.Query("test"), Setup: c.Query("setup"), After: after, Limit: limit})
		nextPage(c, next)
		return runs, err
	}))
	api.Post("/jobs/:job/runs",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in sittings.Typed) (view, error) {
			return d.Sittings.TypeIn(ctx, ch, id(c), in)
		}))
	api.Get("/jobs/:job/runs/:run",
		get(func(ctx ctx, c fiber.Ctx) (*job.Run, error) { return d.Reports.Run(ctx, id(c), param(c, "run")) }))
	api.Put("/jobs/:job/runs/:run/set-aside",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in aside) (view, error) {
			return d.Sittings.SetAside(ctx, ch, id(c), param(c, "run"), in.Reason)
		}))
	api.Delete("/jobs/:job/runs/:run/set-aside",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Sittings.TakeBack(ctx, ch, id(c), param(c, "run"))
		}))
	api.Post("/jobs/:job/waiting/:run/accept",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Sittings.Accept(ctx, ch, id(c), param(c, "run"))
		}))
	api.Delete("/jobs/:job/waiting/:run",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (view, error) {
			return d.Sittings.Discard(ctx, ch, id(c), param(c, "run"))
		}))
	api.Post("/jobs/:job/table",
		change(s, 200, figures.MaxCSV+1,
			func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (*sittings.Table, error) {
				name := c.Query("name", "the file")
				if c.Query("take") == "" {
					return d.Sittings.PreviewTable(ctx, id(c), name, in)
				}
				return d.Sittings.TakeTable(ctx, ch, id(c), name, in, c.Query("take") == "sure")
			}))
	api.Post("/jobs/:job/setups/:setup/sitting-file",
		change(s, 201, jobfile.MaxBytes, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (view, error) {
			return d.Sittings.TakeSitting(ctx, ch, id(c), param(c, "setup"), c.Query("name", "the file"), in,
				c.Query("sure") == "1")
		}))
}
