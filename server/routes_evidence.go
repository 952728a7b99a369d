package server

import (
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/evidence"
)

// evidenceRoutes are about clips and photos.
func (s *Server) evidenceRoutes(api fiber.Router) {
	d := s.desk
	type until struct {
		KeepUntil *time.Time `json:"keep_until"`
	}
	api.Get("/jobs/:job/clips", get(func(ctx ctx, c fiber.Ctx) (*evidence.Clips, error) {
		list, err := d.Evidence.ClipsOf(ctx, id(c))
		if err != nil {
			return nil, err
		}
		list.Clips, err = page(c, list.Clips, func(k evidence.Clip) string { return k.ID })
		return list, err
	}))
	api.Post("/jobs/:job/clips",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in evidence.NewClip) (*evidence.Clip, error) {
			return d.Evidence.OpenClip(ctx, ch, id(c), in)
		}))
	api.Get("/jobs/:job/clips/:clip", get(func(ctx ctx, c fiber.Ctx) (*evidence.Clip, error) {
		return d.Evidence.Clip(ctx, id(c), param(c, "clip"))
	}))
	api.Put("/jobs/:job/clips/:clip/bytes",
		change(s, 200, evidence.MaxPieceBytes,
			func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (*evidence.Clip, error) {
				offset, err := strconv.ParseInt(c.Query("offset", "0"), 10, 64)
				if err != nil {
					return nil, fiber.NewError(fiber.StatusBadRequest, "The offset is a number of bytes.")
				}
				return d.Evidence.AppendClip(ctx, ch, id(c), param(c, "clip"), offset, in)
			}))
	api.Get("/jobs/:job/clips/:clip/file", func(c fiber.Ctx) error {
		dir, name, kind, err := d.Evidence.ClipFile(c.Context(), id(c), param(c, "clip"))
		if err != nil {
			return err
		}
		if err := c.SendFile(name, fiber.SendFile{FS: dir, ByteRange: true}); err != nil {
			return err
		}
		c.Set(fiber.HeaderContentType, kind)
		c.Set(fiber.HeaderCacheControl, "private, max-age=3600")
		return nil
	})
	api.Patch("/jobs/:job/clips/:clip",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in until) (*evidence.Clips, error) {
			return d.Evidence.KeepClip(ctx, ch, id(c), param(c, "clip"), in.KeepUntil)
		}))
	api.Delete("/jobs/:job/clips/:clip",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) (*evidence.Clips, error) {
			return d.Evidence.DropClip(ctx, ch, id(c), param(c, "clip"))
		}))
	api.Post("/jobs/:job/clips/:clip/runs",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in evidence.Marking) (view, error) {
			return d.Evidence.TimeByVideo(ctx, ch, id(c), param(c, "clip"), in)
		}))
	api.Post("/jobs/:job/stills",
		change(s, 201, evidence.MaxPhotoBytes,
			func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (*evidence.Still, error) {
				return d.Evidence.AddStill(ctx, ch, id(c), in)
			}))
	api.Post("/jobs/:job/steps/:step/photos",
		change(s, 201, evidence.MaxPhotoBytes, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (view, error) {
			return d.Evidence.AddPhoto(ctx, ch, id(c), evidence.Pictured{Step: param(c, "step")}, c.Query("name"), in)
		}))
	api.Post("/jobs/:job/sittings/:sitting/photos",
		change(s, 201, evidence.MaxPhotoBytes, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (view, error) {
			return d.Evidence.AddPhoto(ctx, ch, id(c), evidence.Pictured{Sitting: param(c, "sitting")}, c.Query("name"),
				in)
		}))
	api.Post("/jobs/:job/runs/:run/photos",
		change(s, 201, evidence.MaxPhotoBytes, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in file) (view, error) {
			return d.Evidence.AddPhoto(ctx, ch, id(c), evidence.Pictured{Run: param(c, "run")}, c.Query("name"), in)
		}))
	api.Get("/jobs/:job/photos/:photo", func(c fiber.Ctx) error {
		of := d.Evidence.Photo
		if c.Query("size") == "thumbnail" {
			of = d.Evidence.Thumbnail
		}
		kind, data, err := of(c.Context(), id(c), param(c, "photo"))
		if err != nil {
			return err
		}
		c.Set(fiber.HeaderContentType, kind)
		c.Set(fiber.HeaderCacheControl, "private, max-age=86400, immutable")
		return c.Send(data)
	})
}
