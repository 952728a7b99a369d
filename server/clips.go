package server

import (
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
)

// clipRoutes take video clips in, play them, and make runs of marks on them.
func (s *Server) clipRoutes(api fiber.Router) {
	b := s.bench
	api.Get("/jobs/:job/clips", func(c fiber.Ctx) error { return answer(c, 200)(b.ClipsOf(c.Context(), c.Params("job"))) })
	api.Post("/jobs/:job/clips", func(c fiber.Ctx) error {
		var in bench.NewClip
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.OpenClip(c.Context(), c.Params("job"), in))
	})
	api.Put("/jobs/:job/clips/:clip/bytes", func(c fiber.Ctx) error {
		offset, err := strconv.ParseInt(c.Query("offset", "0"), 10, 64)
		if err != nil {
			return fiber.NewError(fiber.StatusBadRequest, "The offset is a number of bytes.")
		}
		return answer(c, 200)(b.AppendClip(c.Context(), c.Params("job"), c.Params("clip"), offset, c.Body()))
	})
	api.Get("/jobs/:job/clips/:clip/file", func(c fiber.Ctx) error {
		path, kind, err := b.ClipFile(c.Context(), c.Params("job"), c.Params("clip"))
		if err != nil {
			return err
		}
		if err := c.SendFile(path, fiber.SendFile{ByteRange: true}); err != nil {
			return err
		}
		c.Set("Content-Type", kind)
		c.Set("Cache-Control", "private, max-age=3600")
		return nil
	})
	api.Patch("/jobs/:job/clips/:clip", func(c fiber.Ctx) error {
		var in struct {
			KeepUntil *time.Time `json:"keep_until"`
		}
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 200)(b.KeepClip(c.Context(), c.Params("job"), c.Params("clip"), in.KeepUntil))
	})
	api.Delete("/jobs/:job/clips/:clip", func(c fiber.Ctx) error {
		return answer(c, 200)(b.DropClip(c.Context(), c.Params("job"), c.Params("clip")))
	})
	api.Post("/jobs/:job/clips/:clip/runs", func(c fiber.Ctx) error {
		var in bench.Marking
		if err := read(c, &in); err != nil {
			return err
		}
		return answer(c, 201)(b.TimeByVideo(c.Context(), c.Params("job"), c.Params("clip"), in))
	})
	api.Post("/jobs/:job/stills", func(c fiber.Ctx) error {
		id, err := b.AddStill(c.Context(), c.Params("job"), c.Body())
		if err != nil {
			return err
		}
		return c.Status(fiber.StatusCreated).JSON(map[string]string{"id": id})
	})
}
