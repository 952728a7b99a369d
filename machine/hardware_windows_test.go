package machine

import (
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

// What stands in for Windows here answers some of the questions; whatever it does not answer has to be named.
func TestFactsOfThisWindows(t *testing.T) {
	f := Hardware(context.Background())
	b, err := json.Marshal(f)
	require.NoError(t, err)
	t.Logf("%s", b)
	assert.NotEmpty(t, f.System.Name)
	assert.NotEmpty(t, f.System.Build)
	assert.Positive(t, f.Computer.MemoryBytes)
	var system *hardware.Volume
	for i := range f.Volumes {
		if f.Volumes[i].System {
			system = &f.Volumes[i]
		}
	}
	require.NotNil(t, system, "the system lies on a volume")
	assert.Positive(t, system.SizeBytes)
	assert.LessOrEqual(t, system.UsedBytes, system.SizeBytes)
	lacks := func(what string) bool {
		for _, a := range f.Absent {
			if strings.HasPrefix(a.What, what) && a.Why != "" {
				return true
			}
		}
		return false
	}
	named := func(missing bool, what string) {
		t.Helper()
		assert.True(t, !missing || lacks(what), "%s is not there, and that is not said", what)
	}
	named(system.Encrypted == nil, "encryption of "+system.Mount)
	named(system.Drive == "", "drive of "+system.Mount)
	named(len(f.Drives) == 0, "drives")
	named(f.Computer.Graphics == "", "graphics")
	for _, d := range f.Drives {
		named(d.Kind == "", "kind of "+d.ID)
		named(d.Link == nil, "link of "+d.ID)
		named(d.Health == nil, "health of "+d.ID)
		named(d.CapacityBytes == 0, "capacity of "+d.ID)
		named(d.TemperatureC == nil, "temperature of "+d.ID)
	}
}

func TestConditionsOfThisWindows(t *testing.T) {
	dir := os.TempDir()
	c := ConditionsAt(context.Background(), dir)
	require.NotNil(t, c.FillPct)
	assert.True(t, *c.FillPct >= 0 && *c.FillPct <= 100)
	assert.Contains(t, []job.Power{"", job.Mains, job.Battery}, c.Power)
	assert.Contains(t, []job.PowerMode{"", job.NormalMode, job.SavingMode}, c.PowerMode)
	if pct, ok := Battery(); ok {
		assert.True(t, pct >= 0 && pct <= 100)
	}
	encrypted, encrypting := encryption(filepath.Join(dir, "deeper"))
	assert.Equal(t, c.Encrypted, encrypted)
	assert.Equal(t, c.Encrypting, encrypting)
}
