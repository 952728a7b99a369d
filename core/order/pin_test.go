package order

import (
	"crypto/sha256"
	"encoding/hex"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestPins(t *testing.T) {
	key := []byte("a public key")
	sum := sha256.Sum256(key)
	whole := hex.EncodeToString(sum[:])
	pin := Pin(key)
	assert.GreaterOrEqual(t, len(pin)*4, 80, "bits")
	assert.True(t, strings.HasPrefix(whole, pin))
	flipped := "0" + pin[1:]
	if pin[0] == '0' {
		flipped = "1" + pin[1:]
	}
	for name, tt := range map[string]struct {
		pin       string
		read, fit bool
	}{
		"as it is shown":      {pin, true, true},
		"capitals":            {strings.ToUpper(pin), true, true},
		"in groups":           {pin[:4] + "-" + pin[4:8] + "-" + pin[8:], true, true},
		"with colons":         {pin[:2] + ":" + pin[2:], true, true},
		"all of it":           {whole, true, true},
		"another first digit": {flipped, true, false},
		"another last digit":  {whole[:63] + map[bool]string{true: "1", false: "0"}[whole[63] == '0'], true, false},
		"too short":           {pin[:18], false, false},
		"an odd digit":        {pin + "0", false, false},
		"none":                {"", false, false},
		"too long":            {whole + "00", false, false},
		"not a number":        {"zz" + pin[2:], false, false},
	} {
		t.Run(name, func(t *testing.T) {
			fits, err := ParsePin(tt.pin)
			require.Equal(t, tt.read, err == nil, "%v", err)
			if tt.read {
				assert.Equal(t, tt.fit, fits(key))
				assert.False(t, fits([]byte("another key")))
			}
		})
	}
}
