//go:build !linux && !windows

package launch

import (
	"os/exec"

	"github.com/shirou/gopsutil/v4/process"
)

// What this system lets be seen.
const (
	canForget = false
	seesIO    = false
)

func apart(*exec.Cmd) {}

// ask asks a process to end.
func ask(p *process.Process) error { return p.Terminate() }

func filesOf(int32) []string { return nil }

func forget([]string) (bool, string) {
	return false, "not cold: this system does not let files be dropped from memory"
}

// queued is not told by this system.
func queued(int32) float64 { return 0 }

// reaped is not told by this system.
func reaped(int32) float64 { return 0 }
