package server

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/measuring"
	"nowthen/bench/reporting"
	"nowthen/bench/timing"
	"nowthen/bench/visit"
	"nowthen/core/job"
)

type (
	ctx  = context.Context
	view = *bench.View
)

// routes are those of api/openapi.yaml, by what they are about.
func (s *Server) routes() {
	api := s.app.Group("/api")
	s.accessRoutes(api)
	s.shopRoutes(api)
	s.jobRoutes(api)
	s.planRoutes(api)
	s.sittingRoutes(api)
	s.measuringRoutes(api)
	s.probeRoutes(api)
	s.stickRoutes(api)
	s.timerRoutes(api)
	s.evidenceRoutes(api)
	s.reportRoutes(api)
	s.quoteRoutes(api)
	s.swapRoutes(api)
	s.followUpRoutes(api)
}

// param is a decoded part of a path: fiber passes on percent-encoded parts unchanged.
func param(c fiber.Ctx, name string) string {
	part := c.Params(name)
	if whole, err := url.PathUnescape(part); err == nil {
		return whole
	}
	return part
}

func id(c fiber.Ctx) string { return param(c, "job") }

// item returns one item of a job.
func item[T any](ctx ctx, s *Server, c fiber.Ctx, kind string, find func(*job.Job, string) *T) (*T, error) {
	snap, err := s.desk.Jobs.Load(ctx, id(c))
	if err != nil {
		return nil, err
	}
	if v := find(snap.Job, param(c, kind)); v != nil {
		return v, nil
	}
	return nil, bench.Refuse(bench.Missing, "There is no %s %q in this job.", kind, param(c, kind))
}

// board is the start page with the running rounds.
type board struct {
	*visit.Board
	Measuring *measuring.Measuring   `json:"measuring"` // the first of Rounds, or null
	Rounds    []*measuring.Measuring `json:"rounds"`
	Timers    []timing.Going         `json:"timers"`  // that run
	Backups   *notice                `json:"backups"` // null where nothing is backed up
}

// notice is what the start page says about the daily backups.
type notice struct {
	Problem string `json:"problem"` // why the last one was not made or what is damaged in it, or ""
	Good    string `json:"good"`    // the newest one without damage, or ""
	Waiting bool   `json:"waiting"` // until measuring on this computer has ended
}

// first is the first of a list, or nil.
func first[T any](list []*T) *T {
	if len(list) == 0 {
		return nil
	}
	return list[0]
}

// shared is a new link.
type shared struct {
	*reporting.Share
	URL string `json:"url"`
	// Open: other computers can reach the bench.
	Open bool `json:"open"`
}

var unsafeInNames = regexp.MustCompile(`[^A-Za-z0-9._-]+`)

// export answers with a job as a job file, or as a zip with its pictures and clips.
func (s *Server) export(c fiber.Ctx) error {
	switch with := c.Query("with"); with {
	case "":
		number, data, err := s.desk.Files.Export(c.Context(), id(c))
		if err != nil {
			return err
		}
		attach(c, number, ".nowthen.json", fiber.MIMEOctetStream)
		return c.Send(data)
	case "media":
		z, err := s.desk.Files.ExportZip(c.Context(), id(c))
		if err != nil {
			return err
		}
		attach(c, z.Number, ".nowthen.zip", "application/zip")
		ctx := s.ctx // the request's own is used again while it is written
		return c.SendStreamWriter(func(w *bufio.Writer) {
			if err := errors.Join(z.Write(ctx, w), w.Flush()); err != nil {
				s.log.Error("an export with its media was cut off", "job", z.Number, "error", err)
			}
		})
	default:
		return bench.Refuse(bench.Invalid, "%q is not one of %s.", with, "media")
	}
}

// attach marks an answer as a file named after a job's number.
func attach(c fiber.Ctx, number, ending, kind string) {
	name := unsafeInNames.ReplaceAllString(number, "_")
	if name == "" {
		name = "job"
	}
	c.Set(fiber.HeaderContentType, kind)
	c.Set(fiber.HeaderContentDisposition, fmt.Sprintf(`attachment; filename="%s%s"`, name, ending))
}

// sizesOf parses the partition sizes in a query: "3:512000000000,4:1000000", by number and bytes.
func sizesOf(text string) (map[int]int64, error) {
	sizes := map[int]int64{}
	const most = 128
	for part := range strings.SplitSeq(text, ",") {
		number, bytes, _ := strings.Cut(part, ":")
		n, errNumber := strconv.Atoi(number)
		b, errBytes := strconv.ParseInt(bytes, 10, 64)
		if text != "" && (errNumber != nil || errBytes != nil || n < 1 || b < 0) || len(sizes) >= most {
			return nil, bench.Refuse(bench.Invalid, "Give sizes as partition:bytes, such as 3:512000000000.")
		}
		if text != "" {
			sizes[n] = b
		}
	}
	return sizes, nil
}
