package server

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/skip2/go-qrcode"

	"nowthen/access"
	"nowthen/access/slow"
	"nowthen/backup"
	"nowthen/bench"
)

// Options configure a server.
type Options struct {
	// Guard keeps the shop password and the sessions.
	Guard *access.Guard
	// Open says that other computers can reach the server: then every caller but
	// those of a finish line must be signed in.
	Open bool
	// Hosts are further names and addresses under which the server answers:
	// those of forwarded ports, or a name in the shop's network.
	Hosts []string
	// Certificate is the bench's own; nil has none, and takes no probes of other computers.
	Certificate *Certificate
	// TLS says that pages are served under the certificate; else over plain HTTP.
	TLS bool
	// ProbePorts are where probes join, under the certificate; they share one port.
	ProbePorts []net.Listener
	// Probes is the folder of the probes for download; "" for none.
	Probes string
	// OpenAt is the host at which the bench was open to the shop when it ended, "" where it was not.
	OpenAt string
	// KeepOpen stores at which host the bench was opened to the shop, "" where it was closed again; nil stores nothing.
	KeepOpen func(ctx context.Context, host string) error
	// Backups are the automatic backups; nil makes none.
	Backups *backup.Daily
}

// sessionCookie holds a signed-in browser's token.
const sessionCookie = "nowthen_session"

// signedIn refuses callers who are not signed in, where others can reach the
// server. The router sets it before all of /api, by the same rules by which it
// finds the routes; what lies elsewhere (the pages' own files, finish lines) holds
// no data of the shop. Signing in itself is free, and a probe has a token of its own.
func (s *Server) signedIn(c fiber.Ctx) error {
	if c.Path() == "/api/session" || strings.HasPrefix(c.Path(), probePaths) {
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

// forwarding are the headers in which a proxy names its client.
var forwarding = []string{fiber.HeaderXForwardedFor, fiber.HeaderForwarded, "X-Real-Ip", "Cf-Connecting-Ip",
	fiber.HeaderVia}

// client identifies the sender of a request for rate limits. A request through a proxy on this computer is not
// local; the last hop that it names is the one it has seen itself.
func client(c fiber.Ctx) slow.Client {
	ip := net.ParseIP(c.IP())
	if ip == nil || !ip.IsLoopback() {
		return slow.Client{Key: network(ip, c.IP())}
	}
	for _, name := range forwarding {
		if v := c.Get(name); v != "" {
			hops := strings.Split(v, ",")
			return slow.Client{Key: "through a proxy: " + strings.TrimSpace(hops[len(hops)-1])}
		}
	}
	return slow.Client{Key: "here", Here: true}
}

// network is the network of one customer of a provider: an IPv6 address is one of very many that one
// computer has.
func network(ip net.IP, text string) string {
	if ip == nil || ip.To4() != nil {
		return text
	}
	const prefix = 64
	return ip.Mask(net.CIDRMask(prefix, 128)).String()
}

// deviceCookie identifies a browser, whoever is signed in on it.
const deviceCookie = "nowthen-device"

// device gives each browser an id that outlives its sessions. Idempotency keys belong to it: a command repeated
// after a new sign-in is still executed once.
func (s *Server) device(c fiber.Ctx) error {
	if c.Cookies(deviceCookie) == "" && c.Method() == fiber.MethodGet {
		c.Cookie(&fiber.Cookie{Name: deviceCookie, Value: rand.Text(), Path: "/api", HTTPOnly: true,
			SameSite: fiber.CookieSameSiteStrictMode,
			Secure:   s.secure(c), Expires: time.Now().AddDate(2, 0, 0)})
	}
	return c.Next()
}

// caller identifies the sender for idempotency keys: the device, or the session of a program without that
// cookie.
func (s *Server) caller(c fiber.Ctx) string {
	return cmp.Or(c.Cookies(deviceCookie), c.Cookies(sessionCookie))
}

// admitted reports whether the holder of a token is admitted: on an open server whoever is signed in; else
// everybody.
func (s *Server) admitted(ctx context.Context, token string) (bool, error) {
	if !s.open() {
		return true, nil
	}
	return s.o.Guard.SignedIn(ctx, token)
}

// session reports whether signing in is needed, and whether it was done.
type session struct {
	Needed   bool `json:"needed"`
	SignedIn bool `json:"signed_in"`
}

// reach is how the bench can be reached.
type reach struct {
	Open        bool      `json:"open"` // beyond this computer
	Password    bool      `json:"password"`
	TLS         bool      `json:"tls"`
	Fingerprint string    `json:"fingerprint"` // SHA-256 of the certificate
	Addresses   []address `json:"addresses"`
	// Opened is the host at which the bench was opened to the shop, "" where it was not; Choices where it can be.
	Opened  string   `json:"opened"`
	Choices []string `json:"choices"`
	// System is that of the bench's computer, whose firewall may ask.
	System string `json:"system"`
	// Probes: those of other computers can join.
	Probes bool `json:"probes"`
}

type address struct {
	URL      string `json:"url"`
	Loopback bool   `json:"loopback"`
}

type password struct {
	Password string `json:"password"`
}

type newPassword struct {
	Current  string `json:"current"`
	Password string `json:"password"`
}

// accessRoutes are about access. Their changes are no stored commands: nobody else may get the same answer.
func (s *Server) accessRoutes(api fiber.Router) {
	g := s.o.Guard
	api.Get("/session", func(c fiber.Ctx) error {
		ok, err := s.admitted(c.Context(), c.Cookies(sessionCookie))
		if err != nil {
			return err
		}
		return answer(c, 200, session{Needed: s.open(), SignedIn: ok})
	})
	api.Post("/session", func(c fiber.Ctx) error {
		in, _, err := input[password](s, c, maxSignIn)
		if err != nil {
			return err
		}
		token, err := g.SignIn(c.Context(), in.Password, client(c))
		if err != nil {
			return passwordRefusal(c, err, "password")
		}
		s.cookie(c, token, signedInFor())
		return answer(c, 200, session{Needed: s.open(), SignedIn: true})
	})
	api.Delete("/session", func(c fiber.Ctx) error {
		err := g.End(c.Context(), c.Cookies(sessionCookie))
		s.cookie(c, "", time.Unix(1, 0))
		if err != nil {
			return err
		}
		return answer(c, 204, none{})
	})
	api.Delete("/sessions", func(c fiber.Ctx) error {
		s.cookie(c, "", time.Unix(1, 0))
		if err := g.EndAll(c.Context()); err != nil {
			return err
		}
		return answer(c, 204, none{})
	})
	api.Put("/password", s.setPassword)
	api.Get("/reach", s.sayReach)
	api.Put("/reach", s.openToShop)
	api.Delete("/reach", s.closeToShop)
	api.Get("/reach/qr.png", func(c fiber.Ctx) error {
		// Only for addresses on the bench itself.
		path := c.Query("path", "/")
		if !strings.HasPrefix(path, "/") || strings.HasPrefix(path, "//") || len(path) > 300 {
			return fiber.NewError(fiber.StatusBadRequest,
				"A path on this bench begins with one slash and has up to 300 characters.")
		}
		png, err := qrcode.Encode(s.addresses()[0].URL+path, qrcode.Medium, 320)
		if err != nil {
			return err
		}
		return c.Type("png").Send(png)
	})
}

// maxSignIn bounds what somebody who is not signed in may send, bytes.
const maxSignIn = 4 << 10

// setPassword sets the shop password: the first one from this computer alone, a
// further one by whoever knows the present one.
func (s *Server) setPassword(c fiber.Ctx) error {
	in, _, err := input[newPassword](s, c, maxSignIn)
	if err != nil {
		return err
	}
	set, err := s.o.Guard.Set(c.Context())
	if err != nil {
		return err
	}
	if set {
		if err := s.o.Guard.Verify(c.Context(), in.Current, client(c)); err != nil {
			return passwordRefusal(c, err, "current")
		}
	} else if ip := net.ParseIP(c.IP()); ip == nil || !ip.IsLoopback() {
		return fiber.NewError(fiber.StatusForbidden, "The first shop password is set on the bench's own computer.")
	}
	if err := s.o.Guard.SetPassword(c.Context(), in.Password); err != nil {
		return passwordRefusal(c, err, "password")
	}
	s.cookie(c, "", time.Unix(1, 0))
	return answer(c, 204, none{})
}

func (s *Server) cookie(c fiber.Ctx, token string, until time.Time) {
	c.Cookie(&fiber.Cookie{Name: sessionCookie, Value: token, Path: "/", Expires: until, HTTPOnly: true,
		Secure: s.secure(c), SameSite: fiber.CookieSameSiteStrictMode})
}

// secure reports whether what is set in a browser must not travel over plain HTTP.
func (s *Server) secure(c fiber.Ctx) bool { return s.o.TLS || c.RequestCtx().IsTLS() }

// signedInFor is until when a browser stays signed in.
func signedInFor() time.Time { return time.Now().Add(30 * 24 * time.Hour) }

func passwordRefusal(c fiber.Ctx, err error, field string) error {
	var tooOften slow.Error
	refusal := func(status int, kept, do string) error {
		message := bench.Sentence(err)
		known := statuses[status]
		return &problem{Type: typeOf(known.name), Title: known.title, Status: status, Detail: message, Kept: kept,
			Do: do, Fields: map[string]string{field: message}}
	}
	switch {
	case errors.As(err, &tooOften):
		c.Set("Retry-After", fmt.Sprint(int(tooOften.Wait.Seconds()+0.999)))
		return refusal(fiber.StatusTooManyRequests, "",
			"Then try it once more. The password can be set anew on the bench's own computer: nowthen passwd.")
	case errors.Is(err, access.ErrWrong):
		return refusal(fiber.StatusForbidden, "", "Check the keyboard layout and Caps Lock, then try again.")
	case errors.Is(err, access.ErrShort):
		return refusal(fiber.StatusUnprocessableEntity, "Nothing was changed.",
			"A few words in a row are long and easy to keep in mind.")
	case errors.Is(err, access.ErrNoneSet):
		return refusal(fiber.StatusConflict, "", "Set it on the bench's own computer: nowthen passwd.")
	}
	return err
}

// addresses are those under which the server is reached, those that others reach
// first.
func (s *Server) addresses() []address {
	scheme := "http"
	if s.o.TLS {
		scheme = "https"
	}
	list := reachedAt(s.addr, scheme, s.o.Open)
	if host := s.opened(); host != "" {
		_, port, _ := net.SplitHostPort(s.addr)
		list = append([]address{{URL: "https://" + net.JoinHostPort(host, port)}}, list...)
	}
	return list
}

// reachedAt are the addresses under which what is listened on is reached, those that others reach first.
func reachedAt(addr, scheme string, open bool) []address {
	host, port, err := net.SplitHostPort(addr)
	if err != nil {
		host, port = "127.0.0.1", "7117"
	}
	at := func(host string) string { return scheme + "://" + net.JoinHostPort(host, port) }
	if !open {
		return []address{{URL: at(host), Loopback: true}}
	}
	if ip := net.ParseIP(host); ip != nil && !ip.IsUnspecified() {
		return []address{{URL: at(host), Loopback: ip.IsLoopback()}}
	}
	list := []address{}
	for _, ip := range machineAddresses() {
		if ip.To4() != nil && !ip.IsLoopback() && !ip.IsLinkLocalUnicast() {
			list = append(list, address{URL: at(ip.String())})
		}
	}
	return append(list, address{URL: at("127.0.0.1"), Loopback: true})
}

// Addresses are those under which the server is reached, those that others reach
// first.
func (s *Server) Addresses() []string {
	var list []string
	for _, a := range s.addresses() {
		list = append(list, a.URL+"/")
	}
	return list
}

// machineAddresses are this computer's own.
func machineAddresses() []net.IP {
	found, _ := net.InterfaceAddrs() // none is none
	var list []net.IP
	for _, a := range found {
		if n, ok := a.(*net.IPNet); ok {
			list = append(list, n.IP)
		}
	}
	return list
}

// ownAddresses remembers this computer's addresses for a moment: asking the system
// at every request would take longer than most answers.
type ownAddresses struct {
	mu   sync.Mutex
	at   time.Time
	list []net.IP
}

func (o *ownAddresses) has(ip net.IP) bool {
	o.mu.Lock()
	defer o.mu.Unlock()
	if time.Since(o.at) > 5*time.Second {
		o.at, o.list = time.Now(), machineAddresses()
	}
	return slices.ContainsFunc(o.list, ip.Equal)
}

// ownHost reports whether a request's host is one that the server answers under: its
// own addresses and names, and those it was given. A name that somebody made to point
// here is not.
func (s *Server) ownHost(host string) bool {
	given := func(h string) bool { return strings.EqualFold(h, host) || strings.EqualFold("["+h+"]", host) }
	if loopbackHost(host) || slices.ContainsFunc(s.o.Hosts, given) {
		return true
	}
	if !s.open() {
		return false
	}
	if ip := net.ParseIP(strings.Trim(host, "[]")); ip != nil {
		return s.own.has(ip)
	}
	own, err := os.Hostname()
	return err == nil && own != "" && (strings.EqualFold(host, own) || strings.EqualFold(host, own+".local"))
}

// ownHostOnly refuses requests under a foreign name, such as one that was made to
// point at this computer.
func (s *Server) ownHostOnly(c fiber.Ctx) error {
	if s.ownHost(c.Hostname()) {
		return c.Next()
	}
	return fiber.NewError(fiber.StatusMisdirectedRequest,
		"This bench answers under its own addresses alone. Another name can be given to it: nowthen serve --host NAME.")
}

var fromOutside = http.NewCrossOriginProtection()

// ownPagesOnly refuses what other pages of a browser send to the bench's data, by
// whatever method. Its pages, and finish lines, may be opened from anywhere.
func (s *Server) ownPagesOnly(c fiber.Ctx) error {
	// Every method is treated as one that changes something.
	r := &http.Request{Method: http.MethodPost, Host: c.Host(), URL: &url.URL{Path: c.Path()}, Header: http.Header{}}
	for _, name := range []string{"Origin", "Sec-Fetch-Site"} {
		if v := c.Get(name); v != "" {
			r.Header.Set(name, v)
		}
	}
	if err := fromOutside.Check(r); err != nil {
		return fiber.NewError(fiber.StatusForbidden, "The bench's data is for its own pages alone.")
	}
	return c.Next()
}
