package machine

import (
	"fmt"
	"math"
	"path/filepath"
	"strconv"

	"golang.org/x/sys/unix"
)

// sensorOf finds the temperature sensor of the drive that holds a folder, or
// nil where there is none.
func sensorOf(dir string) func() (celsius, limit float64) {
	var st unix.Stat_t
	if unix.Stat(dir, &st) != nil {
		return nil
	}
	return sensorAt(fmt.Sprintf("/sys/dev/block/%d:%d", unix.Major(st.Dev), unix.Minor(st.Dev)))
}

// sensorAt looks for a sensor of a block device: its own, or that of the drive
// of which it is a part or a layer.
func sensorAt(dev string) func() (celsius, limit float64) {
	for _, p := range under(dev, 0) {
		for _, pattern := range []string{p + "/device/hwmon/hwmon*/temp1_input", p + "/device/hwmon*/temp1_input"} {
			if found, _ := filepath.Glob(pattern); len(found) > 0 {
				hwmon := filepath.Dir(found[0])
				return func() (float64, float64) { return thermometer(hwmon) }
			}
		}
	}
	return nil
}

// layersAtMost is how many layers of device mapping are looked through: encryption on
// a logical volume on a mirror is three.
const layersAtMost = 8

// under lists the folders of a block device, of the drive of which it is a part, and
// of those beneath it where it is a layer.
func under(dev string, depth int) []string {
	real, err := filepath.EvalSymlinks(dev)
	if err != nil || depth > layersAtMost {
		return nil
	}
	places := []string{real, filepath.Dir(real)}
	for _, layer := range places {
		lower, _ := filepath.Glob(layer + "/slaves/*")
		for _, l := range lower {
			places = append(places, under(l, depth+1)...)
		}
		if len(lower) > 0 {
			break
		}
	}
	return places
}

// thermometer reads a sensor; the system gives thousandths of °C.
func thermometer(hwmon string) (celsius, limit float64) {
	degrees := func(name string) float64 {
		v, err := strconv.ParseFloat(read(hwmon+"/"+name), 64)
		if err != nil {
			return math.NaN()
		}
		return v / 1000
	}
	celsius = degrees("temp1_input")
	for _, name := range []string{"temp1_max", "temp1_crit"} {
		if v := degrees(name); v > 0 && v < 150 {
			return celsius, v
		}
	}
	return celsius, 0
}
