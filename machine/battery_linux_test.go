package machine

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestBatteryFromTheSystem(t *testing.T) {
	tests := map[string]struct {
		files map[string]string // below power_supply
		pct   float64
		ok    bool
	}{
		"none":            {nil, 0, false},
		"a charger alone": {map[string]string{"AC/type": "Mains", "AC/online": "1"}, 0, false},
		"by its energy": {map[string]string{"BAT0/type": "Battery", "BAT0/energy_now": "20150000",
			"BAT0/energy_full": "40300000", "BAT0/capacity": "49"}, 50, true},
		"by its charge": {map[string]string{"BAT0/type": "Battery", "BAT0/charge_now": "3000000",
			"BAT0/charge_full": "4000000"}, 75, true},
		"in whole percents": {map[string]string{"BAT0/type": "Battery", "BAT0/capacity": "81"}, 81, true},
		"fuller than full": {map[string]string{"BAT0/type": "Battery", "BAT0/energy_now": "41",
			"BAT0/energy_full": "40"}, 100, true},
		"a mouse's": {map[string]string{"hid/type": "Battery", "hid/scope": "Device",
			"hid/capacity": "30"}, 0, false},
		"one that tells no figure": {map[string]string{"BAT0/type": "Battery", "BAT0/energy_now": "?",
			"BAT0/energy_full": "0"}, 0, false},
	}
	for name, tc := range tests {
		t.Run(name, func(t *testing.T) {
			sys := t.TempDir()
			for file, text := range tc.files {
				path := filepath.Join(sys, "class/power_supply", file)
				require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
				require.NoError(t, os.WriteFile(path, []byte(text+"\n"), 0o600))
			}
			pct, ok := batteryAt(sys)
			assert.Equal(t, tc.ok, ok)
			assert.InDelta(t, tc.pct, pct, 1e-9)
		})
	}
}
