//go:build !windows

package startup

import (
	"errors"
	"os"
	"runtime"
)

// Here is this system; folder is one whose programs it starts, or "".
func Here(folder string) System {
	home, _ := os.UserHomeDir()
	_, err := os.Stat("/run/systemd/system")
	return System{OS: runtime.GOOS, Home: home, Root: os.Geteuid() == 0, Folder: folder, Systemd: err == nil}
}

func putValue(Entry) error { return errors.New("this system has no registry") }

func removeValue(Entry) error { return nil }

// restarts are the commands that restart this system, the first that is there.
func restarts() [][]string {
	if runtime.GOOS == "darwin" {
		return [][]string{{"osascript", "-e", `tell application "System Events" to restart`}, {"shutdown", "-r", "now"}}
	}
	return [][]string{{"systemctl", "reboot"}, {"reboot"}}
}
