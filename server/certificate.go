package server

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/sha256"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"
)

// renewBefore is how long before its end a certificate is renewed, and lasts how long
// it is good for.
const (
	renewBefore = 30 * 24 * time.Hour
	lasts       = 10 * 365 * 24 * time.Hour
)

// Certificate is the bench's own: for this computer's names and addresses, and those
// that it was given. It is made at first use, and anew when it runs out or the
// addresses have changed.
type Certificate struct {
	dir   string
	hosts []string
	now   func() time.Time
	own   func() []net.IP // this computer's addresses
	tell  func(fingerprint string)

	mu     sync.Mutex
	looked time.Time
	pair   *tls.Certificate
	leaf   *x509.Certificate
}

// LoadCertificate loads the bench's own certificate from a folder, or makes one. tell
// is told the fingerprint whenever one is made.
func LoadCertificate(dir string, hosts []string, tell func(fingerprint string)) (*Certificate, error) {
	c := &Certificate{dir: dir, hosts: hosts, now: time.Now, own: machineAddresses, tell: tell}
	return c, c.renew()
}

// TLS is how to serve under it.
func (c *Certificate) TLS() *tls.Config {
	return &tls.Config{MinVersion: tls.VersionTLS12, GetCertificate: func(*tls.ClientHelloInfo) (*tls.Certificate, error) {
		if err := c.renew(); err != nil {
			return nil, err
		}
		c.mu.Lock()
		defer c.mu.Unlock()
		return c.pair, nil
	}}
}

// Fingerprint is its SHA-256 in pairs, as browsers show it.
func (c *Certificate) Fingerprint() string {
	c.mu.Lock()
	defer c.mu.Unlock()
	sum := sha256.Sum256(c.pair.Certificate[0])
	hex := make([]string, len(sum))
	for i, b := range sum {
		hex[i] = fmt.Sprintf("%02X", b)
	}
	return strings.Join(hex, ":")
}

// lookEvery is how often it is looked whether it still fits.
const lookEvery = time.Minute

// renew loads the certificate, and makes a new one where it does not fit any more.
func (c *Certificate) renew() error {
	c.mu.Lock()
	if c.pair != nil && c.now().Sub(c.looked) < lookEvery {
		c.mu.Unlock()
		return nil
	}
	made, err := c.look()
	c.mu.Unlock()
	if err != nil {
		return fmt.Errorf("the bench's certificate in %s: %w", c.dir, err)
	}
	if made {
		c.tell(c.Fingerprint())
	}
	return nil
}

func (c *Certificate) look() (made bool, err error) {
	certFile, keyFile := filepath.Join(c.dir, "certificate.pem"), filepath.Join(c.dir, "certificate-key.pem")
	c.looked = c.now()
	if c.pair == nil {
		pair, err := tls.LoadX509KeyPair(certFile, keyFile)
		switch {
		case err == nil:
			c.pair = &pair
			if c.leaf, err = x509.ParseCertificate(pair.Certificate[0]); err != nil {
				return false, err
			}
		case !errors.Is(err, os.ErrNotExist):
			return false, err
		}
	}
	if c.pair != nil && c.fits() {
		return false, nil
	}
	names, addresses := c.subjects()
	if err := makeCertificate(certFile, keyFile, c.now(), names, addresses); err != nil {
		return false, err
	}
	pair, err := tls.LoadX509KeyPair(certFile, keyFile)
	if err != nil {
		return false, err
	}
	c.pair = &pair
	c.leaf, err = x509.ParseCertificate(pair.Certificate[0])
	return true, err
}

// fits tells whether the certificate is good for a while, for all names and addresses.
func (c *Certificate) fits() bool {
	if c.leaf.NotAfter.Sub(c.now()) < renewBefore || c.now().Before(c.leaf.NotBefore) {
		return false
	}
	names, addresses := c.subjects()
	for _, n := range names {
		if c.leaf.VerifyHostname(n) != nil {
			return false
		}
	}
	for _, a := range addresses {
		if c.leaf.VerifyHostname(a.String()) != nil {
			return false
		}
	}
	return true
}

// subjects are the names and addresses that it is for.
func (c *Certificate) subjects() (names []string, addresses []net.IP) {
	names, addresses = []string{"localhost"}, []net.IP{net.IPv4(127, 0, 0, 1), net.IPv6loopback}
	if name, err := os.Hostname(); err == nil && name != "" {
		names = append(names, name, name+".local")
	}
	for _, h := range c.hosts {
		if ip := net.ParseIP(h); ip != nil {
			addresses = append(addresses, ip)
		} else {
			names = append(names, h)
		}
	}
	for _, ip := range c.own() {
		if !ip.IsLoopback() && !ip.IsLinkLocalUnicast() {
			addresses = append(addresses, ip)
		}
	}
	return names, addresses
}

func makeCertificate(certFile, keyFile string, now time.Time, names []string, addresses []net.IP) error {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return err
	}
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120))
	if err != nil {
		return err
	}
	c := &x509.Certificate{SerialNumber: serial, Subject: pkix.Name{CommonName: "Now Then bench"}, NotBefore: now.Add(-time.Hour),
		NotAfter: now.Add(lasts), KeyUsage: x509.KeyUsageDigitalSignature, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth},
		DNSNames: names, IPAddresses: addresses, BasicConstraintsValid: true}
	der, err := x509.CreateCertificate(rand.Reader, c, c, &key.PublicKey, key)
	if err != nil {
		return err
	}
	secret, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return err
	}
	if err := os.WriteFile(keyFile, pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: secret}), 0o600); err != nil {
		return err
	}
	return os.WriteFile(certFile, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o600)
}
