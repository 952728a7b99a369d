package job

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestTiersFromResponseTimes(t *testing.T) {
	spread := func(counts ...int64) *Spread { return &Spread{FromMS: 0.1, PerDecade: 10, Counts: counts} }
	two := spread(10, 300, 290, 20, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 2, 40, 250, 80, 7)
	tiers, ok := two.Tiers()
	require.True(t, ok)
	assert.InDelta(t, 0.621, tiers.QuickShare, 0.001)
	assert.InDelta(t, 1, tiers.QuickShare+tiers.SlowShare, 1e-12)
	assert.InDelta(t, 0.178, tiers.QuickMS, 0.001)
	assert.InDelta(t, 5.62, tiers.SlowMS, 0.01)
	for name, one := range map[string]*Spread{
		"one hump":         spread(1, 20, 100, 400, 420, 100, 30, 4),
		"a wide hump":      spread(50, 80, 120, 150, 160, 150, 160, 155, 120, 90, 70, 40),
		"a few stragglers": spread(500, 400, 90, 0, 0, 0, 0, 0, 0, 0, 0, 3),
		"close together":   spread(300, 2, 0, 300),
		"nothing":          spread(0, 0, 0),
		"all in one":       spread(0, 900, 0),
	} {
		_, ok := one.Tiers()
		assert.False(t, ok, name)
	}
}
