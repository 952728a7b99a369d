package machine

import (
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"nowthen/core/hardware/answers"
	"nowthen/core/job"

	"golang.org/x/sys/unix"
)

func read(path string) string {
	b, err := os.ReadFile(path)
	if err != nil {
		return ""
	}
	return strings.TrimSpace(string(b))
}

// power says where the computer's power comes from and in which mode it runs.
// A computer without a battery is on mains; if the system reports neither, power is unknown.
func power() (source job.Power, mode job.PowerMode) { return powerAt("/sys") }

// Battery is how full the computer's own battery is, %; ok is false where it has none or the
// system does not tell.
func Battery() (pct float64, ok bool) { return batteryAt("/sys") }

func batteryAt(sys string) (pct float64, ok bool) {
	supplies, _ := filepath.Glob(sys + "/class/power_supply/*")
	for _, s := range supplies {
		if read(s+"/type") != "Battery" || read(s+"/scope") == "Device" {
			continue // a mouse's battery
		}
		// The charge itself is finer than the whole percents of "capacity".
		for _, of := range []string{"energy", "charge"} {
			now, errNow := strconv.ParseFloat(read(s+"/"+of+"_now"), 64)
			full, errFull := strconv.ParseFloat(read(s+"/"+of+"_full"), 64)
			if errNow == nil && errFull == nil && full > 0 {
				return min(100, now/full*100), true
			}
		}
		if pct, err := strconv.ParseFloat(read(s+"/capacity"), 64); err == nil {
			return pct, true
		}
	}
	return 0, false
}

func powerAt(sys string) (source job.Power, mode job.PowerMode) {
	supplies, _ := filepath.Glob(sys + "/class/power_supply/*")
	battery := false
	for _, s := range supplies {
		switch read(s + "/type") {
		case "Mains", "USB", "Wireless": // a charger of whichever plug
			if read(s+"/online") == "1" {
				source = "mains"
			}
		case "Battery":
			if scope := read(s + "/scope"); scope == "Device" {
				continue // a mouse's battery
			}
			battery = true
			if read(s+"/status") == "Charging" { // whatever charges it is not told everywhere
				source = "mains"
			}
		}
	}
	if source == "" && battery {
		source = "battery"
	}
	switch read(sys + "/firmware/acpi/platform_profile") {
	case "":
	case "low-power", "quiet", "cool":
		mode = "saving"
	default:
		mode = "normal"
	}
	return source, mode
}

// encryption reports whether the folder's file system is on an encrypting layer, nil where the
// device is not known; whether
// a pass over it is running, this system does not report it.
func encryption(dir string) (encrypted, encrypting *bool) {
	var st unix.Stat_t
	if unix.Stat(dir, &st) != nil {
		return nil, nil
	}
	dev := fmt.Sprintf("/sys/dev/block/%d:%d", unix.Major(st.Dev), unix.Minor(st.Dev))
	if _, err := os.Stat(dev); err != nil {
		return nil, nil // no block device of its own: a network, layered or virtual file system
	}
	yes := crypt(dev, 0)
	return &yes, nil
}

// passOver is what goes over one of the computer's arrays of drives; of encryption passes this
// system does not tell. Whichever
// array it is, it keeps drives busy.
func passOver(string) *job.Pass { return root("/").arrayPass() }

func (t root) arrayPass() *job.Pass {
	var longest *job.Pass
	for _, md := range t.glob("/sys/block/*/md") {
		p := answers.ArrayPass(read(md+"/sync_action"), read(md+"/sync_completed"), read(md+"/sync_speed"))
		if p == nil {
			continue
		}
		if longest == nil || p.MinutesLeft != nil &&
			(longest.MinutesLeft == nil || *p.MinutesLeft > *longest.MinutesLeft) {
			longest = p
		}
	}
	return longest
}

// crypt looks for an encrypting layer in a block device and those under it.
func crypt(dev string, depth int) bool {
	if strings.HasPrefix(read(dev+"/dm/uuid"), "CRYPT-") {
		return true
	}
	if depth > layersAtMost {
		return false
	}
	under, _ := filepath.Glob(dev + "/slaves/*")
	for _, u := range under {
		if crypt(u, depth+1) {
			return true
		}
	}
	return false
}

// wholeDrive reports whether a block device is a drive and not a part or a layer of
// one, so that nothing is counted twice.
func wholeDrive(name string) bool {
	_, err := os.Stat("/sys/block/" + name + "/device")
	return err == nil
}
