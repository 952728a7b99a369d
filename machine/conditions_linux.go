package machine

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

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
// A computer without a battery is on mains; one that tells neither stays unknown.
func power() (source, mode string) { return powerAt("/sys") }

func powerAt(sys string) (source, mode string) {
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

// encrypted tells whether the folder's file system lies on an encrypting
// layer, or nil where the device is not known.
func encrypted(dir string) *bool {
	var st unix.Stat_t
	if unix.Stat(dir, &st) != nil {
		return nil
	}
	dev := fmt.Sprintf("/sys/dev/block/%d:%d", unix.Major(st.Dev), unix.Minor(st.Dev))
	if _, err := os.Stat(dev); err != nil {
		return nil // no block device of its own: a network, layered or virtual file system
	}
	yes := crypt(dev, 0)
	return &yes
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

// wholeDrive tells whether a block device is a drive and not a part or a layer of
// one, so that nothing is counted twice.
func wholeDrive(name string) bool {
	_, err := os.Stat("/sys/block/" + name + "/device")
	return err == nil
}
