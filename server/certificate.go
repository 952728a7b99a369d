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
	"time"
)

// Certificate loads the bench's own certificate from a folder, or makes one at
// first use: ten years, for this computer's names and addresses. The fingerprint
// is its SHA-256 in pairs, as browsers show it.
func Certificate(dir string) (config *tls.Config, fingerprint string, err error) {
	certFile, keyFile := filepath.Join(dir, "certificate.pem"), filepath.Join(dir, "certificate-key.pem")
	pair, err := tls.LoadX509KeyPair(certFile, keyFile)
	if errors.Is(err, os.ErrNotExist) {
		if err = makeCertificate(certFile, keyFile); err == nil {
			pair, err = tls.LoadX509KeyPair(certFile, keyFile)
		}
	}
	if err != nil {
		return nil, "", fmt.Errorf("the bench's certificate in %s: %w", dir, err)
	}
	sum := sha256.Sum256(pair.Certificate[0])
	hex := make([]string, len(sum))
	for i, b := range sum {
		hex[i] = fmt.Sprintf("%02X", b)
	}
	return &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12}, strings.Join(hex, ":"), nil
}

func makeCertificate(certFile, keyFile string) error {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return err
	}
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120))
	if err != nil {
		return err
	}
	c := &x509.Certificate{SerialNumber: serial, Subject: pkix.Name{CommonName: "Now Then bench"}, NotBefore: time.Now().Add(-time.Hour),
		NotAfter: time.Now().AddDate(10, 0, 0), KeyUsage: x509.KeyUsageDigitalSignature, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth},
		DNSNames: []string{"localhost"}, IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1), net.IPv6loopback}, BasicConstraintsValid: true}
	if name, err := os.Hostname(); err == nil {
		c.DNSNames = append(c.DNSNames, name, name+".local")
	}
	found, _ := net.InterfaceAddrs() // none is none
	for _, a := range found {
		if n, ok := a.(*net.IPNet); ok && !n.IP.IsLoopback() {
			c.IPAddresses = append(c.IPAddresses, n.IP)
		}
	}
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
	return os.WriteFile(certFile, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o644)
}
