package machine

import (
	"context"
	"os/exec"
	"time"

	"golang.org/x/sys/unix"

	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

// toldBy is the output of one of the system's tools, "" if it doesn't answer within a few seconds.
func toldBy(tool string, args ...string) string {
	ctx, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	out, err := exec.CommandContext(ctx, tool, args...).Output()
	if err != nil {
		return ""
	}
	return string(out)
}

func power() (source job.Power, mode job.PowerMode) {
	source, mode, _ = answers.PowerManaged(toldBy("pmset", "-g", "batt"), toldBy("pmset", "-g"))
	return source, mode
}

// Battery is how full the computer's own battery is, %; ok is false where it has none or the system does not report it.
func Battery() (pct float64, ok bool) {
	if _, _, p := answers.PowerManaged(toldBy("pmset", "-g", "batt"), ""); p != nil {
		return *p, true
	}
	return 0, false
}

// encryption reports whether the volume that holds a folder is encrypted, and whether a pass over it
// is running. The system
// tells it of its own volume.
func encryption(dir string) (encrypted, encrypting *bool) {
	var at, system unix.Statfs_t
	// The user's files are on a separate volume in the same container, under the same encryption.
	const users = "/System/Volumes/Data"
	if unix.Statfs(dir, &at) != nil {
		return nil, nil
	}
	for _, own := range []string{"/", users} {
		if unix.Statfs(own, &system) == nil && at.Fsid == system.Fsid {
			return answers.VaultStatus(toldBy("fdesetup", "status"))
		}
	}
	return nil, nil
}

// passOver is a pass over the system's own volume.
func passOver(dir string) *job.Pass {
	if _, encrypting := encryption(dir); encrypting == nil || !*encrypting {
		return nil
	}
	return answers.VaultPass(toldBy("fdesetup", "status"))
}

// firmwareSettings: the system reports none.
func firmwareSettings() (quickStart *bool, storageMode string) { return nil, "" }

// wholeDrive: this system counts by drive.
func wholeDrive(string) bool { return true }

// sensorOf is nil: the system doesn't report a drive's temperature.
func sensorOf(string) func() (celsius, limit float64) { return nil }
