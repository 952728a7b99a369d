package server

import (
	_ "embed"
	"encoding/base64"
	"errors"
	"html/template"
	"math"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/skip2/go-qrcode"

	"nowthen/bench"
	"nowthen/bench/followup"
	"nowthen/bench/reporting"
	"nowthen/core/catalogue"
	"nowthen/core/message"
	"nowthen/core/words"
)

//go:embed homecheck.html
var lookHTML string

//go:embed card.html
var cardHTML string

var (
	lookForm = template.Must(template.New("look").Parse(lookHTML))
	cardForm = template.Must(template.New("card").Parse(cardHTML))
)

// lookPage is the page of the check at home. It works without script: the times so far are part of the form.
type lookPage struct {
	In              *words.Language
	Ask             string
	Test            string // that is timed
	Key, Times      string // of what is sent once all are there
	FromMS          int64  // when the one that runs began; 0: none runs
	Timed           []string
	N, Of           int
	Slots           []int
	Wrong, Thanks   bool
	Often, Complete bool
	QR              template.URL // of the card; "" where the bench cannot be reached from outside
}

// Say says one of the page's own words.
func (p lookPage) Say(key string) string { return p.In.Say("look." + key) }

// Nth reports which of the times is next.
func (p lookPage) Nth() string { return p.In.Say("look.nth", message.Values{"N": p.N, "Of": p.Of}) }

// maxLook bounds what a customer's form holds, bytes.
const maxLook = 4 << 10

// lookAddress is the address of a shared report's check at home, "" if there is nothing to time.
func (s *Server) lookAddress(c fiber.Ctx, token string) string {
	if _, err := s.desk.Later.HomeCheck(c.Context(), token); err != nil {
		return ""
	}
	return "/r/" + url.PathEscape(token) + "/look"
}

// secondLook serves the check at home.
func (s *Server) secondLook() {
	head := func(c fiber.Ctx) {
		c.Set("X-Robots-Tag", "noindex, nofollow")
		c.Set("Cache-Control", "private, no-store")
		c.Set("Content-Security-Policy",
			"default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; img-src data:; frame-ancestors 'none'")
		c.Set("Referrer-Policy", "no-referrer")
		c.Type("html", "utf-8")
	}
	page := func(c fiber.Ctx) (p lookPage, err error) {
		head(c)
		l, err := s.desk.Later.HomeCheck(c.Context(), param(c, "token"))
		if err != nil {
			return p, err
		}
		in, err := words.In(l.Lang)
		if err != nil {
			in = words.English
		}
		p = lookPage{In: in, Test: l.Test.ID, Key: bench.NewID(), N: 1, Of: followup.HomeRuns}
		if figure := in.Seconds(l.Seconds); l.Test.What == catalogue.WhatColdStart {
			p.Ask = in.Say("look.ask", message.Values{"Figure": figure})
		} else {
			p.Ask = in.Say("look.ask-test",
				message.Values{"Test": in.TestName(l.Test.What, l.Test.Name), "Figure": figure})
		}
		return p, nil
	}
	// Every reason for a missing page gets the same answer.
	gone := func(c fiber.Ctx, err error) error {
		var refused *bench.Refusal
		if errors.Is(err, reporting.ErrNoShare) || errors.As(err, &refused) && refused.Kind == bench.Missing {
			return c.Status(fiber.StatusNotFound).SendString(sharePage)
		}
		return err
	}
	s.app.Get("/r/:token/look", func(c fiber.Ctx) error {
		p, err := page(c)
		if err != nil {
			return gone(c, err)
		}
		p.Thanks, p.Often = c.Query("thanks") != "", c.Query("often") != ""
		// How far it is is in the address: whoever loads the page again neither begins again nor times longer.
		if key := c.Query("key"); key != "" && len(key) <= 100 {
			p.Key = key
		}
		if from, err := strconv.ParseInt(c.Query("from"), 10, 64); err == nil && from > 0 {
			p.FromMS = from
		}
		times, _ := lookTimes(c.Query("times"), nil)
		return lookForm.Execute(c.Response().BodyWriter(), p.with(times).ready())
	})
	// The card for the customer: the question, the way to the page, and lines to write on.
	s.app.Get("/r/:token/card", func(c fiber.Ctx) error {
		p, err := page(c)
		if err != nil {
			return gone(c, err)
		}
		if s.open() {
			png, err := qrcode.Encode(s.addresses()[0].URL+"/r/"+url.PathEscape(param(c, "token"))+"/look",
				qrcode.Medium, 320)
			if err != nil {
				return err
			}
			p.QR = template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(png))
		}
		return cardForm.Execute(c.Response().BodyWriter(), p)
	})
	s.app.Post("/r/:token/look", func(c fiber.Ctx) error {
		p, err := page(c)
		if err != nil {
			return gone(c, err)
		}
		sent, err := body(c, maxLook)
		if err != nil {
			return err
		}
		form, err := url.ParseQuery(string(sent))
		if err != nil {
			return fiber.NewError(fiber.StatusBadRequest, "That is no form.")
		}
		if key := form.Get("key"); key != "" && len(key) <= 100 {
			p.Key = key
		}
		times, wrong := lookTimes(form.Get("times"), form["typed"])
		if test := form.Get("test"); test != "" {
			p.Test = test
		}
		now := s.desk.Jobs.Now()
		at := "/r/" + url.PathEscape(param(c, "token")) + "/look?"
		goOn := func(from int64) error {
			q := url.Values{"key": {p.Key}, "times": {p.with(times).Times}}
			if from > 0 {
				q.Set("from", strconv.FormatInt(from, 10))
			}
			return c.Redirect().Status(fiber.StatusSeeOther).To(at + q.Encode())
		}
		switch form.Get("do") {
		case "start":
			return goOn(now.UnixMilli())
		case "stop":
			if from, err := strconv.ParseInt(form.Get("from"), 10, 64); err == nil {
				if took := now.Sub(time.UnixMilli(from)).Seconds(); took > 0 && took < 3600 &&
					len(times) < followup.HomeRuns {
					times = append(times, math.Round(took*10)/10)
				}
			}
			return goOn(0)
		case "send":
			if wrong || len(times) == 0 {
				p.Wrong = true
				c.Status(fiber.StatusUnprocessableEntity)
				break
			}
			var refused *bench.Refusal
			switch err := s.desk.Later.Take(c.Context(), param(c, "token"), p.Test, p.Key, times); {
			case errors.As(err, &refused) && refused.Kind == bench.Conflict:
				return c.Redirect().Status(fiber.StatusSeeOther).To(at + "often=1")
			case errors.As(err, &refused) && refused.Kind == bench.Invalid:
				p.Wrong = true
				c.Status(fiber.StatusUnprocessableEntity)
			case err != nil:
				return gone(c, err)
			default:
				return c.Redirect().Status(fiber.StatusSeeOther).To(at + "thanks=1")
			}
		}
		return lookForm.Execute(c.Response().BodyWriter(), p.with(times).ready())
	})
}

// lookTimes are the times that a form has so far, s, and those that were typed instead; wrong tells that one is none.
func lookTimes(soFar string, typed []string) (times []float64, wrong bool) {
	for _, text := range append(strings.Split(soFar, ";"), typed...) {
		text = strings.TrimSpace(strings.Replace(text, ",", ".", 1))
		if text == "" {
			continue
		}
		s, err := strconv.ParseFloat(strings.TrimSpace(strings.TrimSuffix(text, "s")), 64)
		if err != nil || !(s > 0) || s > 3600 || len(times) == followup.HomeRuns {
			wrong = true
			continue
		}
		times = append(times, s)
	}
	return times, wrong
}

// with is the page with what was timed so far.
func (p lookPage) with(times []float64) lookPage {
	var list []string
	for _, s := range times {
		list = append(list, strconv.FormatFloat(s, 'f', -1, 64))
		p.Timed = append(p.Timed,
			p.In.Say("look.timed", message.Values{"Figure": p.In.Number(strconv.FormatFloat(s, 'f', 1, 64)) + " s"}))
	}
	p.Times, p.N = strings.Join(list, ";"), len(times)+1
	return p
}

// ready is the page with what follows from its progress.
func (p lookPage) ready() lookPage {
	p.Complete = p.N > p.Of
	for n := p.N; n <= p.Of; n++ {
		p.Slots = append(p.Slots, n)
	}
	return p
}
