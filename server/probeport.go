package server

import (
	"net"
	"strings"

	"github.com/gofiber/fiber/v3"
)

// safe reports whether nobody on the network could read or change what is sent: over TLS, on this computer, or
// without any network.
func (s *Server) safe(c fiber.Ctx) bool {
	ip := net.ParseIP(c.IP())
	return c.RequestCtx().IsTLS() || client(c).Here || ip != nil && ip.IsUnspecified()
}

// onProbePort reports whether a request came to the port for probes.
func (s *Server) onProbePort(c fiber.Ctx) bool {
	if len(s.o.ProbePorts) == 0 {
		return false
	}
	at, ok := c.RequestCtx().LocalAddr().(*net.TCPAddr)
	return ok && at.Port == s.o.ProbePorts[0].Addr().(*net.TCPAddr).Port
}

// probePort restricts the port for probes to what they need: their program and their API. A probe identifies
// the bench by its key, so the bench answers under any name there.
func (s *Server) probePort(c fiber.Ctx) error {
	if !s.onProbePort(c) {
		return s.ownHostOnly(c)
	}
	p := c.Path()
	file, ofProbe := strings.CutPrefix(p, "/probe/")
	if p == "/probe" || ofProbe && probeNames.MatchString(file) || strings.HasPrefix(p, probePaths) {
		return c.Next()
	}
	return fiber.NewError(fiber.StatusNotFound,
		"This port is for probes. The bench's pages are at "+s.addresses()[0].URL+".")
}

// safeOnly refuses probes on connections where somebody on the network could give orders. It doesn't end older
// probes: they keep their results and show why.
func (s *Server) safeOnly(c fiber.Ctx) error {
	if s.safe(c) {
		return c.Next()
	}
	return &problem{Type: typeOf("join-again"), Title: "Join again over TLS", Status: fiber.StatusUpgradeRequired,
		Detail: "Over plain HTTP somebody else could answer for the bench. Join again with the line from the job's page.",
		Kept:   "What the probe measured is kept beside it.", Do: "Copy the line from the job's page, on the bench's " +
			"own computer."}
}

// serveProbes serves the ports at which probes join until they are closed.
func (s *Server) serveProbes() {
	for _, ln := range s.o.ProbePorts {
		s.serveTLS(ln)
	}
}

// JoinAddresses are those that a probe joins, as it is told them: other computers' first. Beyond this computer
// each carries the fingerprint of the bench's key.
func (s *Server) JoinAddresses() []string {
	list := []string{}
	if s.o.Certificate != nil {
		pin := "#" + s.o.Certificate.Pin()
		for _, ln := range s.probePorts() {
			for _, a := range reachedAt(ln.Addr().String(), "https", !Loopback(ln.Addr().String())) {
				list = append(list, a.URL+pin)
			}
		}
		if len(list) == 0 && s.o.TLS {
			for _, a := range s.addresses() {
				list = append(list, a.URL+pin)
			}
		}
	}
	if !s.o.TLS {
		for _, a := range s.addresses() {
			if a.Loopback {
				list = append(list, a.URL)
			}
		}
	}
	return list
}

// joinedFromOutside reports whether other computers reach a port at which probes join.
func (s *Server) joinedFromOutside() bool {
	for _, ln := range s.probePorts() {
		if !Loopback(ln.Addr().String()) {
			return true
		}
	}
	return s.o.Open && s.o.TLS
}

// probePage is the address of the probe's download page.
func (s *Server) probePage() string {
	at := s.addresses()[0].URL
	if s.joinedFromOutside() {
		at, _, _ = strings.Cut(s.JoinAddresses()[0], "#")
	}
	return at + "/probe"
}
