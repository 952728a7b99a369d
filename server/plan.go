package server

import (
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/core/catalogue"
	"nowthen/core/job"
)

// planRoutes are those of a job's plan: templates, tests, steps, setups.
func (s *Server) planRoutes(api fiber.Router) {
	b := s.bench

	api.Get("/catalogue", func(c fiber.Ctx) error { return c.JSON(catalogue.All()) })
	api.Get("/templates", func(c fiber.Ctx) error { return answer(c, 200)(b.Templates(c.Context())) })
	api.Post("/templates", func(c fiber.Ctx) error {
		var in struct {
			Job  string `json:"job"`
			Name string `json:"name"`
		}
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.SaveTemplate(c.Context(), in.Job, in.Name))
	})
	api.Delete("/templates/:template", func(c fiber.Ctx) error {
		return answer(c, 200)(b.DropTemplate(c.Context(), c.Params("template")))
	})

	api.Put("/jobs/:job/template", func(c fiber.Ctx) error {
		var in struct {
			Template string `json:"template"`
		}
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.UseTemplate(c.Context(), c.Params("job"), in.Template))
	})
	api.Put("/jobs/:job/answers", func(c fiber.Ctx) error {
		var in map[string]float64
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.Answer(c.Context(), c.Params("job"), in))
	})
	api.Post("/jobs/:job/tests", func(c fiber.Ctx) error {
		var in job.Test
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.AddTest(c.Context(), c.Params("job"), in))
	})
	api.Patch("/jobs/:job/tests/:test", func(c fiber.Ctx) error {
		var in bench.TestChange
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.ChangeTest(c.Context(), c.Params("job"), c.Params("test"), in))
	})
	api.Delete("/jobs/:job/tests/:test", func(c fiber.Ctx) error {
		return answer(c, 200)(b.TakeOut(c.Context(), c.Params("job"), c.Params("test")))
	})
	api.Put("/jobs/:job/excuses", func(c fiber.Ctx) error {
		var in job.Excuse
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.Excuse(c.Context(), c.Params("job"), in.Test, in.Setup, in.Why))
	})
	api.Post("/jobs/:job/work", func(c fiber.Ctx) error {
		var in job.Work
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.NoteWork(c.Context(), c.Params("job"), in))
	})

	api.Post("/jobs/:job/steps", func(c fiber.Ctx) error {
		var in struct {
			Text string `json:"text"`
			When string `json:"when"`
		}
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.AddStep(c.Context(), c.Params("job"), in.Text, in.When))
	})
	api.Put("/jobs/:job/steps/:step", func(c fiber.Ctx) error {
		var in struct {
			Done bool   `json:"done"`
			By   string `json:"by"`
		}
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.Tick(c.Context(), c.Params("job"), c.Params("step"), in.Done, in.By))
	})
	api.Delete("/jobs/:job/steps/:step", func(c fiber.Ctx) error {
		return answer(c, 200)(b.DropStep(c.Context(), c.Params("job"), c.Params("step")))
	})
	api.Post("/jobs/:job/steps/:step/photos", func(c fiber.Ctx) error {
		return answer(c, 201)(b.AddPhoto(c.Context(), c.Params("job"), c.Params("step"), c.Query("name"), c.Body()))
	})
	api.Get("/jobs/:job/photos/:photo", func(c fiber.Ctx) error {
		kind, data, err := b.Photo(c.Context(), c.Params("job"), c.Params("photo"))
		if err != nil {
			return err
		}
		c.Set("Content-Type", kind)
		c.Set("Cache-Control", "private, max-age=86400, immutable")
		return c.Send(data)
	})

	api.Post("/jobs/:job/setups", func(c fiber.Ctx) error {
		var in struct {
			Name  string    `json:"name"`
			Drive job.Drive `json:"drive"`
		}
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.AddTrial(c.Context(), c.Params("job"), in.Name, in.Drive))
	})
	api.Put("/jobs/:job/setups/:setup/stays", func(c fiber.Ctx) error {
		return answer(c, 200)(b.Stay(c.Context(), c.Params("job"), c.Params("setup")))
	})
	api.Post("/jobs/:job/setups/:setup/sitting-file", func(c fiber.Ctx) error {
		return answer(c, 201)(b.TakeSitting(c.Context(), c.Params("job"), c.Params("setup"), c.Query("name", "the file"), c.Body()))
	})
	api.Put("/jobs/:job/setups/:setup/used", func(c fiber.Ctx) error {
		var in struct {
			Bytes int64 `json:"bytes"`
		}
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.NoteUsed(c.Context(), c.Params("job"), c.Params("setup"), in.Bytes))
	})
}
