package machine

import (
	"context"
	"os/exec"
	"time"

	"github.com/shirou/gopsutil/v4/cpu"

	"nowthen/core/hardware"
	"nowthen/core/hardware/answers"
)

// profilerWait bounds how long the system's profiler is waited for: it asks every port.
const profilerWait = time.Minute

// Hardware says what the system reports of this computer and its drives.
func Hardware(ctx context.Context) *hardware.Facts {
	asked, cancel := context.WithTimeout(ctx, profilerWait)
	defer cancel()
	out, err := exec.CommandContext(asked, "system_profiler",
		append([]string{"-json"}, answers.ProfilerTypes...)...).Output()
	var f *hardware.Facts
	if err == nil {
		f, err = answers.Profiled(out)
	}
	if err != nil {
		f = &hardware.Facts{Drives: []hardware.Drive{}, Volumes: []hardware.Volume{},
			Partitions: []hardware.Partition{}, Absent: []hardware.Absence{}}
		f.Lacks("computer, drives and volumes", "the system's profiler does not answer: "+err.Error())
	}
	if n, err := cpu.CountsWithContext(ctx, false); err == nil {
		f.Computer.Cores = n
	}
	for i := range f.Volumes {
		if v := &f.Volumes[i]; v.System {
			v.Encrypted, _ = encryption(v.Mount)
			v.EncryptingPct = encryptingPct(v.Mount)
		}
	}
	f.Lacks("installed", "the system does not say when it was")
	addStarts(ctx, f)
	return f
}

// board: this system does not tell what the board's maker wrote into it, but in its profiler's answer.
func board() (maker, model, bios string) { return "", "", "" }

// attached is nil: asking for what else is attached takes this system too long to do it before each test.
func attached(string) []string { return nil }
