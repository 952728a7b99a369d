// Package server serves the bench over HTTP: the routes of api/openapi.yaml,
// live events, and the front end.
//
// It turns requests into calls of the bench and refusals into answers, and makes no decisions.
package server

import (
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"runtime/debug"
	"strings"
	"time"

	"nowthen/bench/desk"
	"nowthen/store"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/helmet"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/static"
)

// Server serves a bench.
type Server struct {
	app      *fiber.App
	desk     *desk.Desk
	commands Commands
	o        Options
	addr     string // that is listened on
	log      *slog.Logger
	ctx      context.Context // ends with the server; event streams listen to it
	cancel   context.CancelFunc
	own      ownAddresses
	streams  streams
	beat     time.Duration // of event streams
	silence  time.Duration // of a client that has begun a request
	doors    doors
	loads    loads // computers whose graphics a page loads
}

// Commands recognises repeated commands.
type Commands interface {
	Done(ctx context.Context, c *store.Command) error
}

// stream is the size from which a body is streamed, bytes.
const stream = 8 << 10

// New returns a server for a bench with the built front end.
func New(d *desk.Desk, commands Commands, front fs.FS, log *slog.Logger, o Options) *Server {
	s := &Server{desk: d, commands: commands, log: log, o: o, beat: heartbeat, silence: silence}
	s.ctx, s.cancel = context.WithCancel(context.Background())
	s.app = fiber.New(fiber.Config{
		AppName:       "Now Then",
		Immutable:     true, // ids outlive their request in the background
		CaseSensitive: true, // one spelling of each address
		// Each route reads its body itself, up to its own limit, after sign-in.
		StreamRequestBody:            true,
		DisablePreParseMultipartForm: true,
		BodyLimit:                    stream,
		Concurrency:                  maxConns,
		IdleTimeout:                  2 * time.Minute,
		ErrorHandler:                 s.fail,
	})
	opener := "same-origin"
	if o.Open && !o.TLS {
		opener = "unsafe-none" // browsers take no other under a plain address
	}
	s.app.Use(recover.New(), helmet.New(helmet.Config{
		CrossOriginOpenerPolicy: opener,
		ContentSecurityPolicy: "default-src 'self'; img-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; " +
			"form-action 'none'",
		XFrameOptions: "DENY",
	}), s.probePort)
	s.app.Use("/api", s.ownPagesOnly, s.device, s.signedIn)
	s.app.Use(probePaths, s.safeOnly)
	s.app.Use(compress.New(compress.Config{Level: compress.LevelBestSpeed, Next: func(c fiber.Ctx) bool {
		// Streams, compressed files, and local connections.
		return c.Path() == "/api/events" || strings.HasSuffix(c.Path(), "/file") || loopbackHost(c.IP())
	}}))
	s.routes()
	s.finish()
	s.load()
	s.download()
	s.shared()
	s.secondLook()
	s.front(front)
	return s
}

const (
	// collectAt is by how many % the heap may grow before it is collected: a job of ten
	// thousand runs is held as it is, and going through all of it often is what an
	// answer would wait for.
	collectAt = 400
	// memoryLimit is where it is collected all the same, bytes: a shop's computer has other things to do.
	memoryLimit = 200 << 20
)

// Tune sets this process's memory limits for serving.
func Tune() {
	debug.SetGCPercent(collectAt)
	debug.SetMemoryLimit(memoryLimit)
}

// Serve serves on a listener until the context ends; ready is called once requests are accepted. It returns
// when all requests have ended, with an error if the context hasn't ended.
func (s *Server) Serve(ctx context.Context, ln net.Listener, ready func()) error {
	defer s.cancel()
	stopped := make(chan error, 1)
	stop := context.AfterFunc(ctx, func() {
		s.cancel() // ends the event streams, which would never end by themselves
		err := s.app.ShutdownWithTimeout(5 * time.Second)
		// A shutdown before the first accept finds no listener to close.
		if cerr := ln.Close(); cerr != nil && !errors.Is(cerr, net.ErrClosed) {
			err = errors.Join(err, cerr)
		}
		stopped <- err
	})
	defer stop()
	s.addr = ln.Addr().String()
	ln = newProgress(ln, s.silence, maxConnsOfOne)
	if s.o.TLS {
		ln = tls.NewListener(ln, s.o.Certificate.TLS())
	}
	ready()
	err := s.app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true, BeforeServeFunc: func(*fiber.App) error {
		s.serveProbes()
		s.reopen()
		return nil
	}})
	if ctx.Err() != nil {
		return <-stopped
	}
	return fmt.Errorf("serving has ended: %w", cmp.Or(err, net.ErrClosed))
}

// allowed are the methods that an address takes.
func (s *Server) allowed(path string) map[string]bool {
	if !strings.HasPrefix(path, "/api/") {
		return nil
	}
	methods := map[string]bool{}
	for _, r := range s.app.GetRoutes(true) {
		if strings.HasPrefix(r.Path, "/api/") &&
			fiber.RoutePatternMatch(path, r.Path, fiber.Config{CaseSensitive: true}) {
			methods[r.Method] = true
		}
	}
	return methods
}

// Loopback reports whether an address to listen on is reached from this computer
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
	s.app.Use("/", static.New("", static.Config{FS: files, MaxAge: 3600, Next: func(c fiber.Ctx) bool {
		return !strings.HasPrefix(c.Path(), "/assets/")
	}}))
	s.app.Get("/*", func(c fiber.Ctx) error {
		if strings.HasPrefix(c.Path(), "/assets/") || c.Path() == "/api" || strings.HasPrefix(c.Path(), "/api/") {
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
