package server

import (
	"bufio"
	"context"
	"fmt"
	"regexp"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/core/job"
)

// routes are those of api/openapi.yaml, in its order.
func (s *Server) routes() {
	b, api := s.bench, s.app.Group("/api")

	s.accessRoutes(api)
	api.Get("/clock", func(c fiber.Ctx) error { return c.JSON(map[string]float64{"ms": b.NowMS()}) })
	api.Get("/events", s.events)
	api.Get("/computer", func(c fiber.Ctx) error { return c.JSON(b.Computer(c.Context())) })
	api.Get("/conditions", func(c fiber.Ctx) error { return c.JSON(b.ConditionsHere(c.Context(), c.Query("dir"))) })
	api.Get("/folders", func(c fiber.Ctx) error { return answer(c, 200)(b.Folders(c.Query("path"))) })

	api.Get("/technicians", func(c fiber.Ctx) error { return answer(c, 200)(b.Technicians(c.Context())) })
	api.Post("/technicians", func(c fiber.Ctx) error {
		var in bench.Reactions
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.Calibrate(c.Context(), in))
	})

	api.Get("/jobs", func(c fiber.Ctx) error {
		return answer(c, 200)(b.Board(c.Context(), c.Query("state"), c.Query("q")))
	})
	api.Post("/jobs", func(c fiber.Ctx) error {
		var in bench.Intake
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.Open(c.Context(), in))
	})
	api.Post("/jobs/import", func(c fiber.Ctx) error {
		return answer(c, 201)(b.Import(c.Context(), c.Query("name", "the file"), c.Body()))
	})
	api.Get("/jobs/:job", func(c fiber.Ctx) error { return answer(c, 200)(b.Job(c.Context(), c.Params("job"))) })
	api.Patch("/jobs/:job", func(c fiber.Ctx) error {
		var in bench.Change
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.Amend(c.Context(), c.Params("job"), in))
	})
	api.Get("/jobs/:job/export", s.export)
	api.Post("/jobs/:job/gates", func(c fiber.Ctx) error {
		var in bench.Passing
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.PassGate(c.Context(), c.Params("job"), in))
	})
	s.planRoutes(api)

	api.Post("/jobs/:job/sittings", func(c fiber.Ctx) error {
		var in struct {
			Setup      string         `json:"setup"`
			Conditions job.Conditions `json:"conditions"`
		}
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.Sit(c.Context(), c.Params("job"), in.Setup, in.Conditions))
	})
	api.Put("/jobs/:job/sittings/:sitting", func(c fiber.Ctx) error {
		var in job.Conditions
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.AmendSitting(c.Context(), c.Params("job"), c.Params("sitting"), in))
	})
	api.Post("/jobs/:job/runs", func(c fiber.Ctx) error {
		var in bench.Type
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.TypeIn(c.Context(), c.Params("job"), in))
	})
	api.Post("/jobs/:job/table", func(c fiber.Ctx) error {
		name := c.Query("name", "the file")
		if c.Query("take") == "" {
			return answer(c, 200)(b.PreviewTable(c.Context(), c.Params("job"), name, c.Body()))
		}
		return answer(c, 200)(b.TakeTable(c.Context(), c.Params("job"), name, c.Body(), c.Query("take") == "sure"))
	})
	api.Put("/jobs/:job/runs/:run/set-aside", func(c fiber.Ctx) error {
		var in struct {
			Reason string `json:"reason"`
		}
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.SetAside(c.Context(), c.Params("job"), c.Params("run"), in.Reason))
	})
	api.Delete("/jobs/:job/runs/:run/set-aside", func(c fiber.Ctx) error {
		return answer(c, 200)(b.TakeBack(c.Context(), c.Params("job"), c.Params("run")))
	})

	api.Post("/jobs/:job/perform", func(c fiber.Ctx) error {
		var in testAndSitting
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.Perform(c.Context(), c.Params("job"), in.Test, in.Sitting))
	})
	api.Get("/jobs/:job/tests/:test/closer", func(c fiber.Ctx) error {
		return answer(c, 200)(b.Closer(c.Context(), c.Params("job"), c.Params("test")))
	})
	api.Get("/jobs/:job/measuring", func(c fiber.Ctx) error { return c.JSON(b.Measuring(c.Params("job"))) })
	api.Post("/jobs/:job/measuring", func(c fiber.Ctx) error {
		var in bench.MeasureRequest
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 202)(b.Measure(c.Context(), c.Params("job"), in))
	})
	api.Delete("/jobs/:job/measuring", func(c fiber.Ctx) error {
		return answer(c, 200)(b.CancelMeasuring(c.Context(), c.Params("job")))
	})

	s.clipRoutes(api)
	api.Get("/jobs/:job/timer", func(c fiber.Ctx) error { return answer(c, 200)(b.Timer(c.Context(), c.Params("job"))) })
	api.Put("/jobs/:job/timer", func(c fiber.Ctx) error {
		var in struct {
			testAndSitting
			By string `json:"by"`
		}
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.ArmTimer(c.Context(), c.Params("job"), in.Test, in.Sitting, in.By))
	})
	api.Delete("/jobs/:job/timer", func(c fiber.Ctx) error {
		if err := b.DiscardTimer(c.Context(), c.Params("job")); err != nil {
			return err
		}
		return c.SendStatus(fiber.StatusNoContent)
	})
	api.Post("/jobs/:job/timer/presses", func(c fiber.Ctx) error {
		var in bench.Press
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.PressTimer(c.Context(), c.Params("job"), in))
	})
	api.Delete("/jobs/:job/timer/presses", func(c fiber.Ctx) error {
		return answer(c, 200)(b.UndoTimer(c.Context(), c.Params("job")))
	})
	api.Post("/jobs/:job/timer/keep", func(c fiber.Ctx) error {
		var in bench.Keeping
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.KeepTimer(c.Context(), c.Params("job"), in))
	})

	api.Get("/jobs/:job/ledger", func(c fiber.Ctx) error {
		return answer(c, 200)(b.Compare(c.Context(), c.Params("job"), c.Query("then"), c.Query("with")))
	})
	api.Get("/jobs/:job/report", func(c fiber.Ctx) error { return answer(c, 200)(b.Report(c.Context(), c.Params("job"))) })
	api.Post("/jobs/:job/report", func(c fiber.Ctx) error { return answer(c, 201)(b.Issue(c.Context(), c.Params("job"))) })
}

type testAndSitting struct {
	Test    string `json:"test"`
	Sitting string `json:"sitting"`
}

// read reads a request's body. What it does not know it refuses, so that a
// misspelt member is not silently without effect.
func read(c fiber.Ctx, v any) error {
	if err := json.Unmarshal(c.Body(), v, json.RejectUnknownMembers(true)); err != nil {
		return &bench.Refusal{Kind: bench.Invalid, Message: "The request cannot be read: " + err.Error(), Kept: "Nothing was changed."}
	}
	return nil
}

// answer returns a function that answers with a value or hands its error on.
func answer(c fiber.Ctx, status int) func(v any, err error) error {
	return func(v any, err error) error {
		if err != nil {
			return err
		}
		return c.Status(status).JSON(v)
	}
}

var unsafeInNames = regexp.MustCompile(`[^A-Za-z0-9._-]+`)

func (s *Server) export(c fiber.Ctx) error {
	number, data, err := s.bench.Export(c.Context(), c.Params("job"))
	if err != nil {
		return err
	}
	name := unsafeInNames.ReplaceAllString(number, "_")
	if name == "" {
		name = "job"
	}
	c.Set("Content-Type", "application/octet-stream")
	c.Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s.nowthen.json"`, name))
	return c.Send(data)
}

// heartbeat keeps event streams from being taken for dead, and is how long one may
// outlive its session.
const heartbeat = 5 * time.Second

// events streams what happens, for as long as who asked is signed in.
func (s *Server) events(c fiber.Ctx) error {
	token := c.Cookies(sessionCookie)
	c.Set("Content-Type", "text/event-stream")
	c.Set("Cache-Control", "no-store")
	c.Set("X-Accel-Buffering", "no")
	return c.SendStreamWriter(func(w *bufio.Writer) {
		ctx, cancel := context.WithCancel(s.ctx)
		defer cancel()
		happened := s.bench.Listen(ctx)
		beat := time.NewTicker(heartbeat)
		defer beat.Stop()
		_, _ = fmt.Fprint(w, "retry: 1000\n: welcome\n\n")
		for w.Flush() == nil { // an error: the page is gone
			select {
			case <-ctx.Done():
				return
			case <-beat.C:
				if ok, err := s.admitted(ctx, token); !ok || err != nil {
					return
				}
				_, _ = fmt.Fprint(w, ": beat\n\n")
			case e, open := <-happened:
				if ok, err := s.admitted(ctx, token); !open || !ok || err != nil {
					return
				}
				data, err := json.Marshal(e)
				if err != nil {
					s.log.Error("an event could not be written", "error", err)
					continue
				}
				_, _ = fmt.Fprintf(w, "event: %s\ndata: %s\n\n", e.Type, data)
			}
		}
	})
}
