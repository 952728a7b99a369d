package launch

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"

	"github.com/shirou/gopsutil/v4/process"

	"nowthen/machine"
)

// What this system lets be seen.
const (
	canForget = true
	seesIO    = true
)

// apart starts a program in a group of its own, so that a key pressed for the probe does
// not reach it.
func apart(cmd *exec.Cmd) { cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true} }

func ask(p *process.Process) error { return p.Terminate() }

// queued is how long the threads of a process that live have waited for a processor, s
// (/proc/PID/task/TID/schedstat, second figure, ns).
func queued(pid int32) (seconds float64) {
	all, err := filepath.Glob(fmt.Sprintf("/proc/%d/task/*/schedstat", pid))
	if err != nil {
		return 0
	}
	for _, path := range all {
		text, err := os.ReadFile(path)
		if err != nil {
			continue // it has just ended
		}
		if f := strings.Fields(string(text)); len(f) > 1 {
			ns, _ := strconv.ParseFloat(f[1], 64)
			seconds += ns / 1e9
		}
	}
	return seconds
}

// ticks are how many a second has in what the kernel tells of processes (USER_HZ, which is 100 on every
// architecture that Go knows).
const ticks = 100.0

// reaped is how long the children of a process that have ended and were waited for used the processor, s
// (/proc/PID/stat, figures 16 and 17): of a script that starts one short program after another, most of it.
func reaped(pid int32) float64 {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	if err != nil {
		return 0 // it has just ended
	}
	// a name may hold blanks
	_, rest, _ := strings.Cut(string(text[max(0, strings.LastIndex(string(text), ")")):]), " ")
	const user, system = 13, 14 // after the name
	f := strings.Fields(rest)
	if len(f) <= system {
		return 0
	}
	u, _ := strconv.ParseFloat(f[user], 64)
	k, _ := strconv.ParseFloat(f[system], 64)
	return (u + k) / ticks
}

// filesOf are the regular files outside of the system's own views that a process has open
// or runs from.
func filesOf(pid int32) []string {
	root := "/proc/" + strconv.Itoa(int(pid))
	list := mapped(root)
	open, err := os.ReadDir(root + "/fd")
	if err != nil {
		return list
	}
	for _, e := range open {
		if to, err := os.Readlink(filepath.Join(root, "fd", e.Name())); err == nil {
			if to = cleaned(to); to != "" {
				list = append(list, to)
			}
		}
	}
	return list
}

// mapped are the files that a process runs from (proc_pid_maps(5)).
func mapped(root string) []string {
	data, err := os.ReadFile(root + "/maps")
	if err != nil {
		return nil
	}
	var list []string
	for line := range strings.Lines(string(data)) {
		if i := strings.IndexByte(line, '/'); i >= 0 {
			if path := cleaned(strings.TrimSuffix(line[i:], "\n")); path != "" {
				list = append(list, path)
			}
		}
	}
	return list
}

// forget drops files from memory and reports whether they are gone; else why not. Files that
// other programs run from are the system's: they are in memory after a cold start too.
func forget(files []string) (bool, string) {
	others := map[string]bool{}
	all, err := filepath.Glob("/proc/[0-9]*")
	if err != nil {
		return false, err.Error()
	}
	for _, root := range all {
		for _, path := range mapped(root) {
			others[path] = true
		}
	}
	own := 0
	for _, path := range files {
		info, err := os.Stat(path)
		if others[path] || err != nil || !info.Mode().IsRegular() || info.Size() == 0 || inMemory(path) {
			continue
		}
		own++
		if err := machine.Forget(path); err != nil {
			return false, fmt.Sprintf("not cold: %v", err)
		}
	}
	if own == 0 {
		return false, "not cold: other programs use all the files that this one was seen to use"
	}
	return true, ""
}

// inMemory reports whether a path lies in a file system that has no drive.
func inMemory(path string) bool {
	for _, root := range []string{"/proc/", "/sys/", "/dev/", "/run/"} {
		if strings.HasPrefix(path, root) {
			return true
		}
	}
	return false
}

// cleaned is a path as the system shows it, without what it says of removed files; "" where
// it is none.
func cleaned(path string) string {
	if !strings.HasPrefix(path, "/") || strings.HasSuffix(path, " (deleted)") {
		return ""
	}
	return path
}
