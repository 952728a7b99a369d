package e2e

import (
	"crypto/tls"
	"net"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// ownAddress is an address of this computer in a network, "" where it is in none.
func ownAddress() string {
	list, _ := net.InterfaceAddrs()
	for _, a := range list {
		if n, ok := a.(*net.IPNet); ok && n.IP.To4() != nil && !n.IP.IsLoopback() && !n.IP.IsLinkLocalUnicast() {
			return n.IP.String()
		}
	}
	return ""
}

// A bench for one computer is opened to the shop by a button, without a restart: over TLS, behind the shop password. It
// is open again after a restart, until it is closed.
func TestTheBenchIsOpenedToTheShop(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	s := serve(t, data, "serve")
	host := ownAddress()
	p := open(t, s.base, 1280, 800)
	p.goTo("/reach")
	if host == "" {
		p.see("This computer is in no network")
		return
	}
	port := s.base[strings.LastIndex(s.base, ":")+1:]
	at := "https://" + net.JoinHostPort(host, port)
	client := &http.Client{Transport: &http.Transport{DisableKeepAlives: true, TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}}
	status := func() int {
		res, err := client.Get(at + "/api/jobs")
		if err != nil {
			return 0
		}
		defer res.Body.Close()
		return res.StatusCode
	}
	assert.Zero(t, status(), "only its own computer reaches it")
	p.see("firewall")
	p.accessible()
	p.fill("New shop password (10 characters or more)", "short")
	p.press("Open to the shop")
	p.see("at least 10 characters")
	assert.Zero(t, status())
	p.fill("New shop password (10 characters or more)", "a long shop password")
	p.press("Open to the shop")
	p.see(at)
	p.see("Close to the shop")
	p.see("SHA-256 fingerprint")
	p.accessible()
	assert.Equal(t, http.StatusUnauthorized, status(), "nobody without the password")
	p.goTo("/") // who opened it is signed in
	p.see("Check the first one in")
	var pair struct {
		Open bool
	}
	p.goTo("/settings")
	p.see("Shop sticks")
	p.gone("Customers’ computers can’t reach the bench yet")

	address := strings.TrimPrefix(s.base, "http://")
	s.stop()
	s = serve(t, data, "serve", "--listen", address)
	p.until("the bench to be open again", func() bool { return status() == http.StatusUnauthorized })
	p.goTo("/reach")
	p.press("Close to the shop")
	p.see("Open to the shop")
	assert.Zero(t, status())
	s.ask("GET", "/api/reach", nil, &pair)
	assert.False(t, pair.Open)
}
