package machine

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestSameBoot(t *testing.T) {
	for name, c := range map[string]struct {
		a, b string
		want bool
	}{
		"one id":                {"6b1e-11", "6b1e-11", true},
		"another id":            {"6b1e-11", "6b1e-12", false},
		"a second apart":        {"1790000000", "1790000001", true},
		"a restart apart":       {"1790000000", "1790000041", false},
		"an id and a time":      {"6b1e-11", "1790000000", false},
		"ids that are numbers?": {"11", "12", true}, // none is: they are as long as a UUID
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, SameBoot(c.a, c.b)) })
	}
	a, err := Boot()
	require.NoError(t, err)
	b, err := Boot()
	require.NoError(t, err)
	assert.NotEmpty(t, a)
	assert.True(t, SameBoot(a, b), "this system has not restarted in between")
}
