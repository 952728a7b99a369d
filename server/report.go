package server

import (
	"bytes"
	"errors"
	"fmt"
	"html"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/limiter"

	"nowthen/bench"
	"nowthen/bench/reporting"
	"nowthen/core/words"
	"nowthen/report/forms"
)

// formTypes are the media types of a report's forms, by their endings.
var formTypes = map[string]string{".pdf": "application/pdf", ".html": fiber.MIMETextHTMLCharsetUTF8,
	".txt":  fiber.MIMETextPlainCharsetUTF8,
	".json": fiber.MIMEApplicationJSON, ".csv": "text/csv; charset=utf-8", ".png": "image/png"}

// reportFile answers with a report as a file: the one that was issued last, one of those before,
// or how it would be issued now.
func (s *Server) reportFile(c fiber.Ctx) error {
	ending := "." + c.Query("form", "pdf")
	o := forms.Options{Length: c.Query("length"), Paper: c.Query("paper")}
	if !forms.Known(ending) {
		return bench.Refuse(bench.Invalid, "A report can’t be saved as %q. Choose %s.", c.Query("form"),
			strings.Join(forms.Endings, ", "))
	}
	if err := o.Check(); err != nil {
		return bench.Because(bench.Invalid, err)
	}
	if c.Query("paper") == "" {
		shop, err := s.desk.Reports.Shop(c.Context())
		if err != nil {
			return err
		}
		o.Paper = shop.Paper
	}
	draft := c.Query("draft")
	if draft != "" && draft != "1" {
		return bench.Refuse(bench.Invalid, "%q is not one of %s.", draft, "1")
	}
	d, err := s.desk.Reports.File(c.Context(), id(c), c.Query("lang"), draft == "1", fiber.Query(c, "revision", 0))
	if err != nil {
		return err
	}
	if o.Length == "" { // as it was chosen with the report
		o.Length = string(d.Length)
	}
	var b bytes.Buffer
	ctx, stop := s.whileWaited(c)
	defer stop()
	if err := forms.Write(ctx, &b, ending, d, o); err != nil {
		return err
	}
	name := unsafeInNames.ReplaceAllString(d.Number, "_")
	if name == "" {
		name = "report"
	}
	c.Set(fiber.HeaderContentType, formTypes[ending])
	// Text typed by others is never shown as one of the bench's own pages.
	c.Set(fiber.HeaderContentDisposition, fmt.Sprintf(`attachment; filename="%s%s"`, name, ending))
	return c.Send(b.Bytes())
}

// quoteFile answers a quote as a file: one page.
func (s *Server) quoteFile(c fiber.Ctx) error {
	ending := "." + c.Query("form", "pdf")
	if ending != ".pdf" && ending != ".txt" {
		return bench.Refuse(bench.Invalid, "A report can’t be saved as %q. Choose %s.", c.Query("form"), ".pdf, .txt")
	}
	f, err := s.desk.Forecasts.Offered(c.Context(), id(c))
	if err != nil {
		return err
	}
	d, err := s.desk.Reports.Quote(c.Context(), id(c), c.Query("lang"), f)
	if err != nil {
		return err
	}
	shop, err := s.desk.Reports.Shop(c.Context())
	if err != nil {
		return err
	}
	var b bytes.Buffer
	ctx, stop := s.whileWaited(c)
	defer stop()
	if err := forms.Write(ctx, &b, ending, d, forms.Options{Length: forms.One, Paper: shop.Paper}); err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, formTypes[ending])
	c.Set(fiber.HeaderContentDisposition,
		fmt.Sprintf(`attachment; filename="%s-quote%s"`, unsafeInNames.ReplaceAllString(d.Number, "_"), ending))
	return c.Send(b.Bytes())
}

// sharePage says in all languages that a link doesn't work: the visitor is a customer of unknown language.
var sharePage = func() string {
	var b strings.Builder
	b.WriteString(`<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><meta name="robots" content="noindex"><title>Now Then</title></head><body bgcolor="#ffffff" text="#1c2126">`)
	for _, in := range []*words.Language{words.English, words.German} {
		fmt.Fprintf(&b, `<div lang="%s"><h1>%s</h1><p>%s</p></div>`, in.Tag, html.EscapeString(in.Say("share.nothing")),
			html.EscapeString(in.Say("share.ask")))
	}
	return b.String() + "</body></html>"
}()

// sharedPerMinute is how many shared reports an address may ask for in a minute.
const sharedPerMinute = 60

// shared serves a report to customers with a link: that report and nothing else.
func (s *Server) shared() {
	s.app.Use("/r", limiter.New(limiter.Config{Max: sharedPerMinute, Expiration: time.Minute,
		LimitReached: func(c fiber.Ctx) error {
			return fiber.NewError(fiber.StatusTooManyRequests, "That was too often; wait a minute.")
		}}))
	s.app.Get("/r/:token", func(c fiber.Ctx) error {
		c.Set("X-Robots-Tag", "noindex, nofollow")
		c.Set("Cache-Control", "private, no-store")
		c.Set("Content-Security-Policy",
			"default-src 'none'; style-src 'unsafe-inline'; img-src data:; frame-ancestors 'none'")
		c.Set("Referrer-Policy", "no-referrer")
		c.Type("html", "utf-8")
		d, err := s.desk.Reports.Shared(c.Context(), param(c, "token"))
		if errors.Is(err, reporting.ErrNoShare) {
			return c.Status(fiber.StatusNotFound).SendString(sharePage)
		}
		if err != nil {
			return err
		}
		in, err := words.In(d.Lang)
		if err != nil {
			in = words.English
		}
		return forms.HTML(c.Response().BodyWriter(), d,
			forms.Options{Length: forms.Two, Look: s.lookAddress(c, param(c, "token")), LookWords: in.Say("look.from")})
	})
}
