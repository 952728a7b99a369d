package server

import (
	"crypto/tls"
	"errors"
	"net"
	"runtime"
	"slices"
	"strconv"
	"sync"

	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
)

// doors are by which other computers reach a bench that was started for its own computer alone: its pages and the
// probes, always under the bench's own certificate. They open and close while the bench serves.
type doors struct {
	mu     sync.RWMutex
	host   string // that is listened on, "" while they are closed
	pages  *door
	probes *door // nil where other computers' probes join at another port
}

// door is a listener that may be closed twice: when it is shut, and when the server ends.
type door struct {
	net.Listener
	once sync.Once
	err  error
}

// Close implements [net.Listener].
func (d *door) Close() error {
	d.once.Do(func() { d.err = d.Listener.Close() })
	return d.err
}

// openDoor takes an address to listen on.
func (s *Server) openDoor(host, port string) (*door, error) {
	ln, err := Bind(net.JoinHostPort(host, port), s.log)
	if err != nil {
		r := bench.Because(bench.Conflict, err)
		r.Do = "Another program uses that port. Close it, or start the bench at another port with --listen."
		return nil, r
	}
	return &door{Listener: ln}, nil
}

// opened is the host by which other computers reach the bench since its doors were opened, "" where they were not.
func (s *Server) opened() string {
	s.doors.mu.RLock()
	defer s.doors.mu.RUnlock()
	return s.doors.host
}

// open reports whether other computers can reach the bench: then every caller but those of a finish line must be signed
// in.
func (s *Server) open() bool { return s.o.Open || s.opened() != "" }

// choices are the addresses of this computer at which the bench can be opened to the shop.
func (s *Server) choices() []string {
	list := []string{}
	if s.o.Open || s.o.Certificate == nil {
		return list
	}
	for _, ip := range machineAddresses() {
		if ip.To4() != nil && !ip.IsLoopback() && !ip.IsLinkLocalUnicast() {
			list = append(list, ip.String())
		}
	}
	return list
}

// reopen opens the bench to the shop again, as it was when it ended.
func (s *Server) reopen() {
	if s.o.OpenAt == "" || s.o.Open {
		return
	}
	set, err := s.o.Guard.Set(s.ctx)
	if err == nil && !set {
		err = errors.New("there is no shop password")
	}
	if err == nil {
		err = s.openAt(s.o.OpenAt)
	}
	if err != nil {
		s.log.Error("the bench could not be opened to the shop again; open it on the page Open on a phone", "address",
			s.o.OpenAt, "error", err)
	}
}

// openAt listens on an address of this computer, at the ports at which the bench is reached from within.
func (s *Server) openAt(host string) error {
	s.doors.mu.Lock()
	defer s.doors.mu.Unlock()
	if s.doors.host == host {
		return nil
	}
	if !slices.Contains(s.choices(), host) {
		return bench.Refuse(bench.Conflict, "This computer has no address %q in a network.", host)
	}
	_, port, err := net.SplitHostPort(s.addr)
	if err != nil {
		return err
	}
	pages, err := s.openDoor(host, port)
	if err != nil {
		return err
	}
	var probes *door
	if len(s.o.ProbePorts) > 0 && Loopback(s.o.ProbePorts[0].Addr().String()) {
		port := strconv.Itoa(s.o.ProbePorts[0].Addr().(*net.TCPAddr).Port)
		if probes, err = s.openDoor(host, port); err != nil {
			_ = pages.Close()
			return err
		}
	}
	s.shut()
	s.doors.host, s.doors.pages, s.doors.probes = host, pages, probes
	for _, ln := range []*door{pages, probes} {
		if ln != nil {
			s.serveTLS(ln)
		}
	}
	s.log.Info("the bench is open to the shop", "address", pages.Addr())
	return nil
}

// shut closes the doors. Connections that are there end with their requests. The caller holds the lock.
func (s *Server) shut() {
	for _, ln := range []*door{s.doors.pages, s.doors.probes} {
		if ln != nil {
			_ = ln.Close()
		}
	}
	s.doors.host, s.doors.pages, s.doors.probes = "", nil, nil
}

// serveTLS serves a listener under the bench's certificate until it is closed.
func (s *Server) serveTLS(ln net.Listener) {
	go func() {
		err := s.app.Server().Serve(tls.NewListener(newProgress(ln, s.silence, maxConnsOfOne), s.o.Certificate.TLS()))
		if err != nil && !errors.Is(err, net.ErrClosed) {
			s.log.Error("an address is no longer listened on; start the bench again", "address", ln.Addr(), "error", err)
		}
	}()
}

// probePorts are where probes join, those that other computers reach first.
func (s *Server) probePorts() []net.Listener {
	s.doors.mu.RLock()
	defer s.doors.mu.RUnlock()
	if s.doors.probes == nil {
		return s.o.ProbePorts
	}
	return append([]net.Listener{s.doors.probes}, s.o.ProbePorts...)
}

// opening asks to open the bench to the shop.
type opening struct {
	Host string `json:"host"`
	// Password is the shop's: a new one where there is none yet.
	Password string `json:"password"`
}

// openToShop opens the bench to the shop's network, and signs in the browser that asked for it.
func (s *Server) openToShop(c fiber.Ctx) error {
	if !client(c).Here {
		return fiber.NewError(fiber.StatusForbidden, "The bench is opened to the shop on its own computer.")
	}
	in, _, err := input[opening](s, c, maxSignIn)
	if err != nil {
		return err
	}
	if !slices.Contains(s.choices(), in.Host) {
		return bench.Refuse(bench.Conflict, "This computer has no address %q in a network.", in.Host)
	}
	g := s.o.Guard
	if set, err := g.Set(c.Context()); err != nil {
		return err
	} else if !set {
		if err := g.SetPassword(c.Context(), in.Password); err != nil {
			return passwordRefusal(c, err, "password")
		}
	}
	token, err := g.SignIn(c.Context(), in.Password, client(c))
	if err != nil {
		return passwordRefusal(c, err, "password")
	}
	if err := s.openAt(in.Host); err != nil {
		return err
	}
	s.cookie(c, token, signedInFor())
	return s.reached(c)
}

// closeToShop closes the bench to the shop's network again.
func (s *Server) closeToShop(c fiber.Ctx) error {
	if !client(c).Here {
		return fiber.NewError(fiber.StatusForbidden, "The bench is closed to the shop on its own computer.")
	}
	s.doors.mu.Lock()
	s.shut()
	s.doors.mu.Unlock()
	return s.reached(c)
}

// reached keeps how the bench is open, for its next start, and answers how it is reached.
func (s *Server) reached(c fiber.Ctx) error {
	if s.o.KeepOpen != nil {
		if err := s.o.KeepOpen(c.Context(), s.opened()); err != nil {
			return err
		}
	}
	return s.sayReach(c)
}

// sayReach answers how the bench is reached.
func (s *Server) sayReach(c fiber.Ctx) error {
	set, err := s.o.Guard.Set(c.Context())
	if err != nil {
		return err
	}
	r := reach{Open: s.open(), Password: set, TLS: s.o.TLS, Addresses: s.addresses(), Opened: s.opened(),
		Choices: s.choices(), System: runtime.GOOS, Probes: s.joinedFromOutside()}
	if s.o.Certificate != nil && (r.TLS || r.Opened != "") {
		r.Fingerprint = s.o.Certificate.Fingerprint()
	}
	return answer(c, 200, r)
}
