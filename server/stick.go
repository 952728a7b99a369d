package server

import (
	"archive/zip"
	"bufio"
	"compress/flate"
	"errors"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/stick"
	"nowthen/core/order"
)

// stickRoutes are about the shop's sticks and the computers that wait to be admitted.
func (s *Server) stickRoutes(api fiber.Router) {
	d := s.desk
	type admission struct {
		Job string `json:"job"` // "" opens a new one
	}
	api.Get("/sticks", get(func(ctx ctx, _ fiber.Ctx) ([]stick.Key, error) { return d.Sticks.Keys(ctx) }))
	api.Post("/sticks", s.prepareStick)
	api.Delete("/sticks/:stick",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, _ none) ([]stick.Key, error) {
			return d.Sticks.Revoke(ctx, ch, param(c, "stick"))
		}))
	api.Get("/offers", get(func(ctx, fiber.Ctx) ([]stick.Waiting, error) { return d.Sticks.Offers(), nil }))
	api.Post("/offers/:offer/admit",
		change(s, 201, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in admission) (view, error) {
			return d.Sticks.Admit(ctx, ch, param(c, "offer"), in.Job)
		}))
	api.Delete("/offers/:offer",
		change(s, 200, 0, func(_ ctx, _ *bench.Change, c fiber.Ctx, _ none) ([]stick.Waiting, error) {
			return d.Sticks.Dismiss(param(c, "offer")), nil
		}))

	api.Post("/probe/announce", func(c fiber.Ctx) error {
		in, err := said[order.Announcement](c, maxCommand)
		if err != nil {
			return err
		}
		o, err := d.Sticks.Announce(c.Context(), in, client(c))
		if err != nil {
			return slowed(c, err)
		}
		return answer(c, 201, o)
	})
	api.Get("/probe/admission", func(c fiber.Ctx) error {
		secret, _ := strings.CutPrefix(c.Get(fiber.HeaderAuthorization), "Bearer ")
		return s.hold(c, func(ctx ctx) (any, error) {
			w, err := d.Sticks.Await(ctx, secret)
			if w == nil {
				return nil, err
			}
			return w, err
		})
	})
}

// stickFile is the name of what a stick tells the probe.
const stickFile = "nowthen-stick.json"

const stickReadMe = `Now Then: the probe, for customers' computers

1. Copy this folder onto a USB stick. Then write-protect the stick if it has a switch.
2. On the customer's computer, open the folder on the stick and double-click the start file for its system:
   start-windows.cmd, start-mac.command or start-linux.sh.
3. Two digits appear. Press the same digits on the bench's screen.

The key on this stick announces computers to one bench and does nothing else. It expires on `

// prepareStick answers with a zip for a stick: the probes, their start files, the bench's addresses and a new key. It is
// no command that is kept for repeats, since a key is told once.
func (s *Server) prepareStick(c fiber.Ctx) error {
	if !s.safe(c) {
		return fiber.NewError(fiber.StatusForbidden, "This page came over plain HTTP, where somebody in the network could "+
			"replace the programs. Prepare the stick on the bench's own computer, or over TLS.")
	}
	files := s.probeFiles()
	if !slices.ContainsFunc(files, func(f string) bool { return strings.HasPrefix(f, "nowthen-probe-") }) {
		r := bench.Refuse(bench.Conflict, "There are no probes beside this bench.")
		r.Kept, r.Do = "No key was made.", "Build them with make probes, or use a packaged bench."
		return r
	}
	addresses := s.JoinAddresses()
	if len(addresses) == 0 {
		return bench.Refuse(bench.Conflict, "Probes can't join this bench: it listens for none.")
	}
	k, secret, err := s.desk.Sticks.Prepare(c.Context())
	if err != nil {
		return err
	}
	shop, err := s.desk.Reports.Shop(c.Context())
	if err != nil {
		return err
	}
	told, err := json.Marshal(order.Stick{Format: order.StickFormat, Version: order.StickVersion, Shop: shop.Name,
		Addresses: addresses, Key: secret, Until: k.Until}, jsontext.WithIndent("  "))
	if err != nil {
		return err
	}
	attach(c, "nowthen-stick", ".zip", "application/zip")
	c.Set(fiber.HeaderCacheControl, "no-store")
	return c.Status(fiber.StatusCreated).SendStreamWriter(func(w *bufio.Writer) {
		err := writeStick(w, s.o.Probes, files, map[string][]byte{
			stickFile:     append(told, '\n'),
			"read-me.txt": []byte(stickReadMe + k.Until.Format(time.DateOnly) + ".\n"),
		})
		if err := errors.Join(err, w.Flush()); err != nil {
			s.log.Error("a stick's zip was cut off", "error", err)
		}
	})
}

// writeStick writes the zip of a stick: what it tells, then files of the folder with the probes.
func writeStick(to io.Writer, folder string, files []string, told map[string][]byte) error {
	z := zip.NewWriter(to)
	z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) {
		return flate.NewWriter(w, flate.BestSpeed)
	})
	add := func(name string, mode os.FileMode, from io.Reader) error {
		h := &zip.FileHeader{Name: "nowthen/" + name, Method: zip.Deflate, Modified: time.Now()}
		h.SetMode(mode)
		w, err := z.CreateHeader(h)
		if err == nil {
			_, err = io.Copy(w, from)
		}
		return err
	}
	for _, name := range slices.Sorted(maps.Keys(told)) {
		if err := add(name, 0o644, strings.NewReader(string(told[name]))); err != nil {
			return err
		}
	}
	for _, name := range files {
		f, err := os.Open(filepath.Join(folder, name))
		if err != nil {
			return err
		}
		if err := errors.Join(add(name, 0o755, f), f.Close()); err != nil {
			return err
		}
	}
	return z.Close()
}
