package token

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestSecrets(t *testing.T) {
	seen := map[string]bool{}
	for range 100 {
		s := New(24)
		assert.Regexp(t, `^[A-Za-z0-9_-]{32}$`, s)
		assert.False(t, seen[s])
		seen[s] = true
		assert.NotContains(t, Hash(s), s)
	}
	assert.Equal(t, "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad", Hash("abc"),
		"as databases of earlier versions have it")
}
