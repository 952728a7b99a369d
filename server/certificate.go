package server

import (
	"context"
	"crypto"
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

	"nowthen/core/order"
	"nowthen/store"
)

// renewBefore is how long before its end a certificate is renewed, and lasts how long
// it is good for.
const (
	renewBefore = 30 * 24 * time.Hour
	lasts       = 10 * 365 * 24 * time.Hour
)

// Keeper stores the bench's identity, which backups include.
type Keeper interface {
	// Setting returns a setting; its absence is [store.ErrNotFound].
	Setting(ctx context.Context, name string) (string, error)
	SaveSetting(ctx context.Context, name, body string) error
}

// Settings that hold the certificate and its key, as PEM.
const (
	certificateSetting = "certificate"
	keySetting         = "certificate-key"
)

// Certificate is the bench's own: for this computer's names and addresses, and those
// that it was given. It is made at first use, and again when it runs out or the
// addresses have changed. Its key stays the same: probes know the bench by it.
type Certificate struct {
	keeper Keeper
	hosts  []string
	now    func() time.Time
	own    func() []net.IP // this computer's addresses
	tell   func(fingerprint string)

	mu     sync.Mutex
	looked time.Time
	pair   *tls.Certificate
	leaf   *x509.Certificate
}

// LoadCertificate loads the bench's own certificate, or makes one. tell is told the fingerprint
// whenever one is made. Files in which earlier versions kept it in a folder are taken up.
func LoadCertificate(keeper Keeper, dir string, hosts []string, tell func(fingerprint string)) (*Certificate, error) {
	c := &Certificate{keeper: keeper, hosts: hosts, now: time.Now, own: machineAddresses, tell: tell}
	if err := c.takeUp(dir); err != nil {
		return nil, fmt.Errorf("the bench's certificate in %s: %w", dir, err)
	}
	return c, c.renew()
}

// takeUp migrates the files of an earlier version to the settings.
func (c *Certificate) takeUp(dir string) error {
	certFile, keyFile := filepath.Join(dir, "certificate.pem"), filepath.Join(dir, "certificate-key.pem")
	pair, err := tls.LoadX509KeyPair(certFile, keyFile)
	switch {
	case errors.Is(err, os.ErrNotExist):
		return nil
	case err != nil:
		return fmt.Errorf("%w; if it can't be mended, remove %s and %s, and a new one is made", err, certFile, keyFile)
	}
	if err := c.save(&pair); err != nil {
		return err
	}
	return errors.Join(os.Remove(keyFile), os.Remove(certFile))
}

// TLS is how to serve under it.
func (c *Certificate) TLS() *tls.Config {
	return &tls.Config{MinVersion: tls.VersionTLS12,
		GetCertificate: func(*tls.ClientHelloInfo) (*tls.Certificate, error) {
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

// Pin is how the line to type names its key ([order.Pin]).
func (c *Certificate) Pin() string {
	c.mu.Lock()
	defer c.mu.Unlock()
	return order.Pin(c.leaf.RawSubjectPublicKeyInfo)
}

// lookEvery is how often it is checked whether it still fits.
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
		return fmt.Errorf("the bench's certificate: %w", err)
	}
	if made {
		c.tell(c.Fingerprint())
	}
	return nil
}

func (c *Certificate) look() (made bool, err error) {
	c.looked = c.now()
	if c.pair == nil {
		if err := c.load(); err != nil {
			return false, err
		}
	}
	if c.leaf != nil && c.fits() {
		return false, nil
	}
	var key crypto.Signer
	if c.pair != nil {
		key = c.pair.PrivateKey.(crypto.Signer)
	} else if key, err = ecdsa.GenerateKey(elliptic.P256(), rand.Reader); err != nil {
		return false, err
	}
	names, addresses := c.subjects()
	pair, err := makeCertificate(key, c.now(), names, addresses)
	if err != nil {
		return false, err
	}
	if err := c.save(pair); err != nil {
		return false, err
	}
	c.pair, c.leaf = pair, pair.Leaf
	return true, nil
}

// load reads the certificate and its key, where there are any.
func (c *Certificate) load() error {
	ctx := context.Background()
	key, err := c.keeper.Setting(ctx, keySetting)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	cert, err := c.keeper.Setting(ctx, certificateSetting)
	if err != nil {
		return err
	}
	pair, err := tls.X509KeyPair([]byte(cert), []byte(key))
	if err != nil {
		return err
	}
	c.pair, c.leaf = &pair, pair.Leaf
	return nil
}

// save keeps a certificate and its key.
func (c *Certificate) save(pair *tls.Certificate) error {
	secret, err := x509.MarshalPKCS8PrivateKey(pair.PrivateKey)
	if err != nil {
		return err
	}
	text := func(kind string, der []byte) string {
		return string(pem.EncodeToMemory(&pem.Block{Type: kind, Bytes: der}))
	}
	ctx := context.Background()
	if err := c.keeper.SaveSetting(ctx, certificateSetting, text("CERTIFICATE", pair.Certificate[0])); err != nil {
		return err
	}
	return c.keeper.SaveSetting(ctx, keySetting, text("PRIVATE KEY", secret))
}

// fits reports whether the certificate is good for a while, for all names and addresses.
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

// makeCertificate makes a certificate that signs itself.
func makeCertificate(key crypto.Signer, now time.Time, names []string, addresses []net.IP) (*tls.Certificate, error) {
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120))
	if err != nil {
		return nil, err
	}
	c := &x509.Certificate{SerialNumber: serial, Subject: pkix.Name{CommonName: "Now Then bench"},
		NotBefore: now.Add(-time.Hour),
		NotAfter:  now.Add(lasts), KeyUsage: x509.KeyUsageDigitalSignature, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth},
		DNSNames: names, IPAddresses: addresses, BasicConstraintsValid: true}
	der, err := x509.CreateCertificate(rand.Reader, c, c, key.Public(), key)
	if err != nil {
		return nil, err
	}
	leaf, err := x509.ParseCertificate(der)
	return &tls.Certificate{Certificate: [][]byte{der}, PrivateKey: key, Leaf: leaf}, err
}
