package server

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"net/url"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/skip2/go-qrcode"

	"nowthen/access"
	"nowthen/bench"
)

// Options say how a server is reached.
type Options struct {
	// Guard keeps the shop password and the sessions.
	Guard *access.Guard
	// Open says that other computers can reach the server: then every caller but
	// those of a finish line must be signed in.
	Open bool
	// TLS is the certificate it serves under; nil is plain HTTP. Fingerprint is its
	// SHA-256, for people to compare.
	TLS         *tls.Config
	Fingerprint string
}

// sessionCookie holds a signed-in browser's token.
const sessionCookie = "nowthen_session"

// signedIn refuses callers who are not signed in, where others can reach the
// server. The router sets it before all of /api, by the same rules by which it
// finds the routes; what lies elsewhere (the pages' own files, finish lines) holds
// no data of the shop. Signing in itself is free.
func (s *Server) signedIn(c fiber.Ctx) error {
	if c.Path() == "/api/session" {
		return c.Next()
	}
	ok, err := s.admitted(c.Context(), c.Cookies(sessionCookie))
	if err != nil {
		return err
	}
	if !ok {
		return fiber.NewError(fiber.StatusUnauthorized, "Sign in with the shop's password first.")
	}
	return c.Next()
}

// admitted tells whether who has that token is answered: on a server that others
// reach, whoever is signed in; else everybody.
func (s *Server) admitted(ctx context.Context, token string) (bool, error) {
	if !s.o.Open {
		return true, nil
	}
	return s.o.Guard.SignedIn(ctx, token)
}

// session says whether signing in is needed, and whether it was done.
type session struct {
	Needed   bool `json:"needed"`
	SignedIn bool `json:"signed_in"`
}

// reach is by which addresses the bench can be opened.
type reach struct {
	Open        bool      `json:"open"` // beyond this computer
	Password    bool      `json:"password"`
	TLS         bool      `json:"tls"`
	Fingerprint string    `json:"fingerprint"` // SHA-256 of the certificate
	Addresses   []address `json:"addresses"`
}

type address struct {
	URL      string `json:"url"`
	Loopback bool   `json:"loopback"`
}

func (s *Server) accessRoutes(api fiber.Router) {
	g := s.o.Guard
	api.Get("/session", func(c fiber.Ctx) error {
		ok, err := s.admitted(c.Context(), c.Cookies(sessionCookie))
		if err != nil {
			return err
		}
		return c.JSON(session{Needed: s.o.Open, SignedIn: ok})
	})
	api.Post("/session", func(c fiber.Ctx) error {
		var in struct {
			Password string `json:"password"`
		}
		if err := read(c, &in); err != nil {
			return err
		}
		token, err := g.SignIn(c.Context(), in.Password, c.IP())
		if err != nil {
			return passwordRefusal(c, err, "password")
		}
		s.cookie(c, token, time.Now().Add(30*24*time.Hour))
		return c.JSON(session{Needed: s.o.Open, SignedIn: true})
	})
	api.Delete("/session", func(c fiber.Ctx) error {
		err := g.End(c.Context(), c.Cookies(sessionCookie))
		s.cookie(c, "", time.Unix(1, 0))
		if err != nil {
			return err
		}
		return c.SendStatus(fiber.StatusNoContent)
	})
	api.Delete("/sessions", func(c fiber.Ctx) error {
		s.cookie(c, "", time.Unix(1, 0))
		if err := g.EndAll(c.Context()); err != nil {
			return err
		}
		return c.SendStatus(fiber.StatusNoContent)
	})
	api.Put("/password", s.setPassword)
	api.Get("/reach", func(c fiber.Ctx) error {
		set, err := g.Set(c.Context())
		if err != nil {
			return err
		}
		return c.JSON(reach{Open: s.o.Open, Password: set, TLS: s.o.TLS != nil, Fingerprint: s.o.Fingerprint, Addresses: s.addresses()})
	})
	api.Get("/reach/qr.png", func(c fiber.Ctx) error {
		// A picture of the bench's own address alone, wherever on it.
		path := c.Query("path", "/")
		if !strings.HasPrefix(path, "/") || strings.HasPrefix(path, "//") || len(path) > 300 {
			return fiber.NewError(fiber.StatusBadRequest, "A path on this bench begins with one slash and has up to 300 characters.")
		}
		list := s.addresses()
		to := list[0]
		if i := slices.IndexFunc(list, func(a address) bool { return !a.Loopback }); i >= 0 {
			to = list[i]
		}
		png, err := qrcode.Encode(to.URL+path, qrcode.Medium, 320)
		if err != nil {
			return err
		}
		return c.Type("png").Send(png)
	})
}

// setPassword sets the shop password: the first one from this computer alone, a
// further one by whoever knows the present one.
func (s *Server) setPassword(c fiber.Ctx) error {
	var in struct {
		Current  string `json:"current"`
		Password string `json:"password"`
	}
	if err := read(c, &in); err != nil {
		return err
	}
	set, err := s.o.Guard.Set(c.Context())
	if err != nil {
		return err
	}
	if set {
		if err := s.o.Guard.Verify(c.Context(), in.Current, c.IP()); err != nil {
			return passwordRefusal(c, err, "current")
		}
	} else if ip := net.ParseIP(c.IP()); ip == nil || !ip.IsLoopback() {
		return fiber.NewError(fiber.StatusForbidden, "The first shop password is set on the bench's own computer.")
	}
	if err := s.o.Guard.SetPassword(c.Context(), in.Password); err != nil {
		return passwordRefusal(c, err, "password")
	}
	s.cookie(c, "", time.Unix(1, 0))
	return c.SendStatus(fiber.StatusNoContent)
}

func (s *Server) cookie(c fiber.Ctx, token string, until time.Time) {
	c.Cookie(&fiber.Cookie{Name: sessionCookie, Value: token, Path: "/", Expires: until, HTTPOnly: true, Secure: s.o.TLS != nil, SameSite: fiber.CookieSameSiteStrictMode})
}

func passwordRefusal(c fiber.Ctx, err error, field string) error {
	var slow access.SlowError
	refusal := func(status int, kept, do string) error {
		message := strings.ToUpper(err.Error()[:1]) + err.Error()[1:] + "."
		return c.Status(status).JSON(&bench.Refusal{Message: message, Kept: kept, Do: do, Fields: map[string]string{field: message}})
	}
	switch {
	case errors.As(err, &slow):
		c.Set("Retry-After", fmt.Sprint(int(slow.Wait.Seconds()+0.999)))
		return refusal(fiber.StatusTooManyRequests, "", "Then try it once more. The password can be set anew on the bench's own computer: nowthen passwd.")
	case errors.Is(err, access.ErrWrong):
		return refusal(fiber.StatusForbidden, "", "Look at the keyboard's layout and at capitals, then try again.")
	case errors.Is(err, access.ErrShort):
		return refusal(fiber.StatusUnprocessableEntity, "Nothing was changed.", "A few words in a row are long and easy to keep in mind.")
	case errors.Is(err, access.ErrNoneSet):
		return refusal(fiber.StatusConflict, "", "Set it on the bench's own computer: nowthen passwd.")
	}
	return err
}

// addresses are those under which the server is reached, this computer's own
// last where there are others.
func (s *Server) addresses() []address {
	scheme := "http"
	if s.o.TLS != nil {
		scheme = "https"
	}
	host, port, err := net.SplitHostPort(s.addr)
	if err != nil {
		host, port = "127.0.0.1", "7117"
	}
	at := func(host string) string { return scheme + "://" + net.JoinHostPort(host, port) }
	if !s.o.Open {
		return []address{{URL: at(host), Loopback: true}}
	}
	list := []address{}
	if ip := net.ParseIP(host); ip != nil && !ip.IsUnspecified() {
		return append(list, address{URL: at(host), Loopback: ip.IsLoopback()})
	}
	found, _ := net.InterfaceAddrs() // none is none
	for _, a := range found {
		n, ok := a.(*net.IPNet)
		if !ok || n.IP.IsLoopback() || n.IP.IsLinkLocalUnicast() || n.IP.To4() == nil {
			continue
		}
		list = append(list, address{URL: at(n.IP.String())})
	}
	return append(list, address{URL: at("127.0.0.1"), Loopback: true})
}

// ownHost tells whether a request's host is one that the server answers under.
// A name that somebody made to point here is not: only numbers, and this
// computer's own name.
func (s *Server) ownHost(host string) bool {
	if loopbackHost(host) {
		return true
	}
	if !s.o.Open {
		return false
	}
	if net.ParseIP(strings.Trim(host, "[]")) != nil {
		return true
	}
	own, err := os.Hostname()
	return err == nil && own != "" && (strings.EqualFold(host, own) || strings.EqualFold(host, own+".local"))
}

// ownPagesOnly refuses what other pages of a browser send here: requests under
// a foreign name (a name that was made to point at this computer), and commands
// from another origin.
func (s *Server) ownPagesOnly(c fiber.Ctx) error {
	if !s.ownHost(c.Hostname()) {
		return fiber.NewError(fiber.StatusMisdirectedRequest, "This bench answers on its own computer's address alone.")
	}
	if fiber.IsMethodSafe(c.Method()) {
		return c.Next()
	}
	switch c.Get("Sec-Fetch-Site") {
	case "", "same-origin", "none":
	default:
		return fiber.NewError(fiber.StatusForbidden, "Commands are taken from the bench's own pages alone.")
	}
	if origin := c.Get("Origin"); origin != "" {
		if u, err := url.Parse(origin); err != nil || u.Host != c.Host() {
			return fiber.NewError(fiber.StatusForbidden, "Commands are taken from the bench's own pages alone.")
		}
	}
	return c.Next()
}
