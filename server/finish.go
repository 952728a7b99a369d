package server

import (
	"encoding/base64"
	"fmt"
	"html/template"
	"strconv"
	"strings"
	"time"

	"nowthen/bench/timing"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/limiter"
)

// finishPage is plain HTML for very old browsers: no script, no style sheet, one
// picture. It says the time and nothing else of the shop's.
var finishPage = template.Must(template.New("finish").Parse(`<!DOCTYPE html PUBLIC "-//W3C//DTD HTML 4.01 Transitional//EN" "http://www.w3.org/TR/html4/loose.dtd">
<html lang="en">
<head>
<meta http-equiv="Content-Type" content="text/html; charset=utf-8">
<meta name="viewport" content="width=device-width">
<meta name="robots" content="noindex">
<title>{{.Title}}</title>
</head>
<body bgcolor="#fbf8f1" text="#22282b">
<center>
<br><br>
<font size="5">{{.Above}}</font><br><br>
{{if .Figure}}<font size="7"><big><big><big><b>{{.Figure}}</b></big></big></big></font><br><br>{{end}}
<font size="4">{{.Below}}</font>
{{if .Seen}}<br><img src="{{.Seen}}" width="1" height="1" alt="">{{end}}
</center>
</body>
</html>
`))

// dot is a transparent picture of one pixel.
// a constant that decodes
var dot, _ = base64.StdEncoding.DecodeString("R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7")

// finishPerMinute is how many finish lines an address may ask for in a minute: many
// more than any test has pages, and few for guessing a word among millions.
const finishPerMinute = 120

type finishWords struct{ Title, Above, Figure, Below, Seen string }

// finish serves the pages of finish lines.
func (s *Server) finish() {
	open := func(c fiber.Ctx) error {
		page, err := pageOf(c)
		if err != nil {
			return err
		}
		if aheadOfTime(c) {
			return c.SendStatus(fiber.StatusNoContent)
		}
		f, err := s.desk.Timers.FinishLine(c.Context(), param(c, "word"), page)
		if err != nil {
			return err
		}
		w := finishInWords(f)
		if f.State == timing.FinishStopped || f.State == timing.FinishWaiting {
			w.Seen = fmt.Sprintf("/f/%s/%d/seen.gif", param(c, "word"), page)
		}
		c.Set("Content-Security-Policy", "default-src 'none'; img-src 'self'; frame-ancestors 'none'")
		c.Set("Cache-Control", "no-store")
		c.Type("html", "utf-8")
		if f.State == timing.FinishUnknown {
			c.Status(fiber.StatusNotFound)
		}
		return finishPage.Execute(c.Response().BodyWriter(), w)
	}
	// Somebody types it with capitals, because that is how the keyboard stands.
	s.app.Use("/F", func(c fiber.Ctx) error {
		c.Path("/f" + strings.TrimPrefix(c.Path(), "/F"))
		return c.RestartRouting()
	})
	// Words are short to type; guessing them is made slow.
	s.app.Use("/f", limiter.New(limiter.Config{Max: finishPerMinute, Expiration: time.Minute,
		LimitReached: func(fiber.Ctx) error {
			return fiber.NewError(fiber.StatusTooManyRequests, "Too many pages were asked for; wait a minute.")
		}}))
	s.app.Get("/f/:word", open)
	s.app.Get("/f/:word/:page", open)
	s.app.Get("/f/:word/:page/seen.gif", func(c fiber.Ctx) error {
		page, err := pageOf(c)
		if err == nil {
			err = s.desk.Timers.FinishSeen(c.Context(), param(c, "word"), page)
		}
		if err != nil {
			return err
		}
		c.Set("Cache-Control", "no-store")
		return c.Type("gif").Send(dot)
	})
}

// aheadOfTime reports whether nobody sees the page yet: a browser fetches what it
// guesses will be opened, or something checks whether the address answers.
func aheadOfTime(c fiber.Ctx) bool {
	purpose := strings.ToLower(c.Get("Sec-Purpose") + c.Get("Purpose") + c.Get("X-Moz") + c.Get("X-Purpose"))
	return c.Method() == fiber.MethodHead || strings.Contains(purpose, "prefetch") ||
		strings.Contains(purpose, "preview")
}

func pageOf(c fiber.Ctx) (int, error) {
	n, err := strconv.Atoi(c.Params("page", "1"))
	if err != nil || n < 1 || n > 99 {
		return 0, fiber.NewError(fiber.StatusNotFound, "There is no such page.")
	}
	return n, nil
}

func finishInWords(f *timing.Finish) finishWords {
	switch f.State {
	case timing.FinishStopped:
		return finishWords{Title: "Finish", Above: "From the start to this page",
			Figure: fmt.Sprintf("%.1f s", f.Seconds), Below: "The timer has stopped. This window can be closed."}
	case timing.FinishWaiting:
		return finishWords{Title: "Finish", Above: "Pages that are open",
			Figure: fmt.Sprintf("%d of %d", f.Opened, f.Pages), Below: "The timer runs until all of them are."}
	case timing.FinishEarly:
		return finishWords{Title: "Not started", Above: "The timer does not run yet.",
			Below: "Start it together with the power button, then let this page open by itself."}
	}
	return finishWords{Title: "Nothing waits here", Above: "No timer waits for this address.",
		Below: "It may have been kept already, or the address was mistyped."}
}
