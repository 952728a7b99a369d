package machine

import (
	"context"
	"os"
	"runtime"
	"sort"
	"time"

	"github.com/shirou/gopsutil/v4/process"

	"nowthen/core/hardware"
	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

// Cause is a program that used the drive or the processor while the machine was watched.
type Cause struct {
	Program string  `json:"program"`
	CPUPct  float64 `json:"cpu_pct"` // of all cores
	MBs     float64 `json:"mb_s"`    // read and written, MB/s; 0 where the system does not tell
}

// mostCauses bounds how many programs are named.
const mostCauses = 5

// least is what a program must use to be named.
const (
	leastCPU = 1.0 // % of all cores
	leastMBs = 0.1
)

// Watched are the test conditions with the programs that cause them.
type Watched struct {
	job.Conditions
	Causes []Cause            `json:"causes"`
	Absent []hardware.Absence `json:"absent"`
}

// lacks names what couldn't be determined.
func (w *Watched) lacks(dir string) {
	w.Absent = []hardware.Absence{}
	lacking := func(missing bool, what, why string) {
		if missing {
			w.Absent = append(w.Absent, hardware.Absence{What: what, Why: why})
		}
	}
	const silent = "the system does not tell"
	lacking(w.Power == "", "power", silent)
	lacking(w.PowerMode == "", "power_mode", silent)
	lacking(w.BackgroundMBs == nil, "background_mb_s", silent)
	lacking(w.CPUPct == nil, "cpu_pct", silent)
	lacking(w.MemoryPct == nil, "memory_pct", silent)
	onDrive := silent
	if dir == "" {
		onDrive = "no folder on the drive was named"
	}
	lacking(w.FillPct == nil, "fill_pct", onDrive)
	lacking(w.Encrypted == nil, "encrypted", onDrive)
	lacking(w.DriveTempC == nil, "drive_temp_c", onDrive)
	lacking(w.Busy == nil, "busy", "of no program that works it is known what kind of work it does; causes names them")
	lacking(w.Encrypting == nil, "encrypting", onDrive)
	lacking(w.Firmware == nil, "firmware", silent)
	lacking(w.Attached == nil, "attached", onDrive)
}

// Watch measures the conditions in a folder for at least two seconds, and which programs
// use the drive or the processor most in the meantime. This program itself is none of them.
func Watch(ctx context.Context, dir string) (*Watched, error) {
	before := programs(ctx)
	began := time.Now()
	w := &Watched{Conditions: ConditionsAt(ctx, dir), Causes: []Cause{}}
	select {
	case <-time.After(time.Until(began.Add(2 * time.Second))):
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	w.Causes = causes(before, programs(ctx), time.Since(began), cores())
	names := make([]string, len(w.Causes))
	for i, c := range w.Causes {
		names[i] = c.Program
	}
	w.Busy = answers.Busy(names)
	w.lacks(dir)
	return w, nil
}

// usage is what a program has used since it began.
type usage struct {
	name    string
	seconds float64
	bytes   uint64
}

func programs(ctx context.Context) map[int32]usage {
	all := map[int32]usage{}
	list, err := process.ProcessesWithContext(ctx)
	if err != nil {
		return all
	}
	for _, p := range list {
		if p.Pid == self {
			continue
		}
		u := usage{}
		if u.name, err = p.NameWithContext(ctx); err != nil {
			continue // it has ended, or is somebody else's
		}
		if t, err := p.TimesWithContext(ctx); err == nil {
			u.seconds = t.User + t.System
		}
		if io, err := p.IOCountersWithContext(ctx); err == nil {
			u.bytes = io.ReadBytes + io.WriteBytes
		}
		all[p.Pid] = u
	}
	return all
}

// causes are the programs with the highest use between two readings, highest first; several processes of one
// program count as one.
func causes(before, after map[int32]usage, watched time.Duration, cores int) []Cause {
	by := map[string]Cause{}
	for pid, a := range after {
		b, ok := before[pid]
		if !ok || b.name != a.name || a.bytes < b.bytes {
			continue // it began meanwhile, or is another one
		}
		c := by[a.name]
		c.Program = a.name
		c.CPUPct += (a.seconds - b.seconds) / watched.Seconds() / float64(max(1, cores)) * 100
		c.MBs += float64(a.bytes-b.bytes) / watched.Seconds() / 1e6
		by[a.name] = c
	}
	list := []Cause{}
	for _, c := range by {
		if c.CPUPct >= leastCPU || c.MBs >= leastMBs {
			c.CPUPct, c.MBs = *round(c.CPUPct), *round(c.MBs)
			list = append(list, c)
		}
	}
	sort.Slice(list, func(i, j int) bool {
		if list[i].MBs != list[j].MBs {
			return list[i].MBs > list[j].MBs
		}
		if list[i].CPUPct != list[j].CPUPct {
			return list[i].CPUPct > list[j].CPUPct
		}
		return list[i].Program < list[j].Program
	})
	return list[:min(mostCauses, len(list))]
}

var self = int32(os.Getpid())

func cores() int { return runtime.NumCPU() }
