package order

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"strings"
)

// pinDigits are the hexadecimal digits that a pin has at least: 80 bits, so that nobody can search for another
// key with the same digits.
const pinDigits = 20

// Pin is how the line to type names a bench's key: the first 80 bits of the SHA-256 of its public key
// (SubjectPublicKeyInfo in DER, RFC 5280, section 4.1), in hexadecimal. It stays the same as long as the key does.
func Pin(publicKey []byte) string {
	sum := sha256.Sum256(publicKey)
	return hex.EncodeToString(sum[:])[:pinDigits]
}

// errPin means that a pin isn't one.
var errPin = errors.New("the fingerprint in the address is not whole; copy the line from the job's page again")

// ParsePin reads a pin as somebody typed it: capitals, colons and hyphens don't matter. It may have more
// digits than [Pin] gives, and never fewer.
func ParsePin(s string) (func(publicKey []byte) bool, error) {
	digits := strings.NewReplacer(":", "", "-", "").Replace(s)
	want, err := hex.DecodeString(digits)
	if err != nil || len(digits) < pinDigits || len(want) > sha256.Size {
		return nil, errPin
	}
	return func(publicKey []byte) bool {
		sum := sha256.Sum256(publicKey)
		return bytes.HasPrefix(sum[:], want)
	}, nil
}
