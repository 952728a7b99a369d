// Package server serves the bench over HTTP: the routes of api/openapi.yaml,
// live events, and the front end.
//
// It turns requests into calls of the bench and refusals into answers; it
// decides nothing itself.
package server

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/helmet"
	"github.com/gofiber/fiber/v3/middleware/idempotency"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/static"

	"nowthen/bench"
	"nowthen/core/jobfile"
)

// Server serves a bench.
type Server struct {
	app    *fiber.App
	bench  *bench.Bench
	o      Options
	addr   string // that is listened on
	log    *slog.Logger
	ctx    context.Context // ends with the server; event streams listen to it
	cancel context.CancelFunc
}

// New returns a server for a bench with the built front end.
func New(b *bench.Bench, front fs.FS, log *slog.Logger, o Options) *Server {
	s := &Server{bench: b, log: log, o: o}
	s.ctx, s.cancel = context.WithCancel(context.Background())
	s.app = fiber.New(fiber.Config{
		AppName:       "Now Then",
		Immutable:     true, // ids outlive their request in the background
		CaseSensitive: true, // one spelling of each address
		BodyLimit:     jobfile.MaxBytes + 1,
		ReadTimeout:   time.Minute,
		IdleTimeout:   2 * time.Minute,
		ErrorHandler:  s.fail,
		JSONEncoder:   func(v any) ([]byte, error) { return json.Marshal(v) },
	})
	opener := "same-origin"
	if o.Open && o.TLS == nil {
		opener = "unsafe-none" // browsers take no other under a plain address
	}
	s.app.Use(recover.New(), helmet.New(helmet.Config{
		CrossOriginOpenerPolicy: opener,
		ContentSecurityPolicy:   "default-src 'self'; img-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; form-action 'none'",
		XFrameOptions:           "DENY",
	}), s.ownPagesOnly)
	s.app.Use("/api", s.signedIn)
	s.app.Use(compress.New(compress.Config{Next: func(c fiber.Ctx) bool {
		return c.Path() == "/api/events" || strings.HasSuffix(c.Path(), "/file") // a stream, and what is small already
	}}))
	// The middleware's own validation wants a fixed length; any short key does.
	s.app.Use("/api", idempotency.New(idempotency.Config{KeyHeader: "Idempotency-Key", KeyHeaderValidate: func(k string) error {
		if len(k) > 200 {
			return fiber.NewError(fiber.StatusBadRequest, fmt.Sprintf("The Idempotency-Key has %d characters; 200 are taken.", len(k)))
		}
		return nil
	}}))
	s.routes()
	s.finish()
	s.front(front)
	return s
}

// Listen serves on an address until the context ends; ready is told the
// address once requests are taken. It returns when all requests have ended.
func (s *Server) Listen(ctx context.Context, addr string, ready func(addr string)) error {
	ln, err := net.Listen("tcp", addr)
	if err != nil {
		return fmt.Errorf("listening on %s: %w", addr, err)
	}
	stopped := make(chan error, 1)
	stop := context.AfterFunc(ctx, func() {
		s.cancel() // ends the event streams, which would never end by themselves
		stopped <- s.app.ShutdownWithTimeout(5 * time.Second)
	})
	defer stop()
	s.addr = ln.Addr().String()
	if s.o.TLS != nil {
		ln = tls.NewListener(ln, s.o.TLS)
	}
	ready(s.addr)
	if err := s.app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}); err != nil {
		return err
	}
	if ctx.Err() != nil {
		return <-stopped
	}
	return nil
}

// Loopback tells whether an address to listen on is reached from this computer
// alone.
func Loopback(addr string) bool {
	host, _, err := net.SplitHostPort(addr)
	return err == nil && loopbackHost(host)
}

func loopbackHost(host string) bool {
	ip := net.ParseIP(strings.Trim(host, "[]"))
	return host == "localhost" || ip != nil && ip.IsLoopback()
}

// front serves the built front end; every path that is not a file is a page of it.
func (s *Server) front(files fs.FS) {
	s.app.Use("/api", func(fiber.Ctx) error {
		return fiber.NewError(fiber.StatusNotFound, "There is nothing at this address.")
	})
	s.app.Use("/", static.New("", static.Config{FS: files, MaxAge: 3600, Next: func(c fiber.Ctx) bool {
		return !strings.HasPrefix(c.Path(), "/assets/")
	}}))
	s.app.Get("/*", func(c fiber.Ctx) error {
		if strings.HasPrefix(c.Path(), "/assets/") {
			return fiber.NewError(fiber.StatusNotFound, "There is nothing at this address.")
		}
		page, err := fs.ReadFile(files, "index.html")
		if err != nil {
			return fiber.NewError(fiber.StatusServiceUnavailable, "The front end is not built. Run: make build")
		}
		c.Set("Cache-Control", "no-cache")
		return c.Type("html", "utf-8").Send(page)
	})
}

// fail turns an error into an answer.
func (s *Server) fail(c fiber.Ctx, err error) error {
	var refused *bench.Refusal
	if errors.As(err, &refused) {
		status := map[bench.Kind]int{bench.Invalid: fiber.StatusUnprocessableEntity, bench.Conflict: fiber.StatusConflict, bench.Missing: fiber.StatusNotFound}[refused.Kind]
		return c.Status(status).JSON(refused)
	}
	var coded *fiber.Error
	if errors.As(err, &coded) {
		return c.Status(coded.Code).JSON(&bench.Refusal{Message: coded.Message})
	}
	s.log.Error("request failed", "method", c.Method(), "path", c.Path(), "error", err)
	return c.Status(fiber.StatusInternalServerError).JSON(&bench.Refusal{Message: "Something went wrong on the bench's side.",
		Kept: "Everything that was stored before is kept.", Do: "Try it again; if it stays so, look into the program's log."})
}
