// Package token makes secrets that give access, and the digests of them that are stored.
package token

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
)

// New returns a secret of so many random bytes, as text that is in an address.
func New(bytes int) string {
	raw := make([]byte, bytes)
	_, _ = rand.Read(raw) // never fails (crypto/rand)
	return base64.RawURLEncoding.EncodeToString(raw)
}

// Hash is stored in place of a secret, and finds it again. Reading the database gives no access.
func Hash(secret string) string {
	sum := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(sum[:])
}
