//go:build !linux && !windows

package machine

import (
	"context"

	"github.com/shirou/gopsutil/v4/cpu"
	"github.com/shirou/gopsutil/v4/disk"
	"github.com/shirou/gopsutil/v4/host"

	"nowthen/core/hardware"
)

// board: this system does not tell what the board's maker wrote into it.
func board() (maker, model, bios string) { return "", "", "" }

// Hardware says what the system tells of this computer; of its drives it is not asked yet.
func Hardware(ctx context.Context) *hardware.Facts {
	f := &hardware.Facts{Drives: []hardware.Drive{}, Volumes: []hardware.Volume{}, Partitions: []hardware.Partition{}, Absent: []hardware.Absence{}}
	c := ThisComputer(ctx)
	f.Computer = hardware.Computer{Maker: c.Maker, Model: c.Model, Processor: c.Processor, MemoryBytes: c.MemoryBytes}
	if n, err := cpu.CountsWithContext(ctx, false); err == nil {
		f.Computer.Cores = n
	}
	if h, err := host.InfoWithContext(ctx); err == nil {
		f.System = hardware.System{Name: h.Platform, Version: h.PlatformVersion, Build: h.KernelVersion}
	} else {
		f.Lacks("system", "it does not tell")
	}
	if list, err := disk.PartitionsWithContext(ctx, false); err == nil {
		for _, p := range list {
			v := hardware.Volume{Mount: p.Mountpoint, FileSystem: p.Fstype}
			if u, err := disk.UsageWithContext(ctx, p.Mountpoint); err == nil {
				v.SizeBytes, v.UsedBytes = int64(u.Total), int64(u.Used)
			}
			f.Volumes = append(f.Volumes, v)
		}
	}
	for _, what := range []string{"drives", "partitions", "links", "temperatures", "health", "encryption", "graphics", "maker and model"} {
		f.Lacks(what, "this version does not ask this system for it yet")
	}
	addStarts(ctx, f)
	return f
}
