package machine

import (
	"context"
	"math"
	"strings"
	"time"

	"github.com/shirou/gopsutil/v4/cpu"
	"github.com/shirou/gopsutil/v4/disk"
	"github.com/shirou/gopsutil/v4/host"
	"github.com/shirou/gopsutil/v4/mem"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

// ThisComputer returns what the operating system reports of this computer.
func ThisComputer(ctx context.Context) job.Computer {
	maker, model, _ := board()
	c := job.Computer{Maker: hardware.Given(maker), Model: hardware.Given(model)}
	if infos, err := cpu.InfoWithContext(ctx); err == nil && len(infos) > 0 {
		c.Processor = strings.Join(strings.Fields(infos[0].ModelName), " ")
	}
	if m, err := mem.VirtualMemoryWithContext(ctx); err == nil {
		c.MemoryBytes = int64(m.Total)
	}
	if h, err := host.InfoWithContext(ctx); err == nil {
		c.System = strings.TrimSpace(h.Platform + " " + h.PlatformVersion)
	}
	return c
}

// watched is how long the machine's activity is sampled.
const watched = 800 * time.Millisecond

// ConditionsAt measures the test conditions for a folder, for about a second. What the system doesn't report
// stays absent.
func ConditionsAt(ctx context.Context, dir string) job.Conditions {
	var c job.Conditions
	c.Power, c.PowerMode = power()
	_, _, version := board()
	f := job.Firmware{Version: hardware.Given(version)}
	f.QuickStart, f.StorageMode = firmwareSettings()
	if f.Version != "" || f.QuickStart != nil || f.StorageMode != "" {
		c.Firmware = &f
	}
	if dir != "" {
		if u, err := disk.UsageWithContext(ctx, dir); err == nil {
			c.FillPct = round(u.UsedPercent)
		}
		c.Encrypted, c.Encrypting = encryption(dir)
		if c.Pass = pass(dir); c.Pass != nil {
			yes := true
			c.Encrypting = &yes
		}
		if celsius, _ := newSensor(dir).read(); !math.IsNaN(celsius) {
			c.DriveTempC = round(celsius)
		}
		c.Attached = attached(dir)
	}
	before, errBefore := disk.IOCountersWithContext(ctx)
	if pct, err := cpu.PercentWithContext(ctx, watched, false); err == nil && len(pct) == 1 {
		c.CPUPct = round(pct[0])
	}
	if m, err := mem.VirtualMemoryWithContext(ctx); err == nil {
		c.MemoryPct = round(m.UsedPercent)
	}
	after, errAfter := disk.IOCountersWithContext(ctx)
	if errBefore == nil && errAfter == nil && len(after) > 0 {
		var bytes uint64
		for name, a := range after {
			if b, ok := before[name]; ok && wholeDrive(name) {
				bytes += a.ReadBytes - b.ReadBytes + a.WriteBytes - b.WriteBytes
			}
		}
		c.BackgroundMBs = round(float64(bytes) / watched.Seconds() / 1e6)
	}
	return c
}

// round keeps one decimal.
func round(v float64) *float64 {
	r := math.Round(v*10) / 10
	return &r
}
