package answers

import (
	"nowthen/core/hardware"
	"strings"
)

// MappedCache reads what the device mapper's table says of a cache, as `dmsetup table` prints it, and returns what its
// devices are in it, by their numbers ("8:2"): [AsData] or [AsCache]. It is empty where the table is of anything else.
//
// Source: the kernel's documentation of the targets cache ("cache <metadata dev> <cache dev> <origin dev> …") and
// writecache ("writecache <p|s> <origin dev> <cache dev> …").
func MappedCache(table string) map[string]string {
	roles := map[string]string{}
	for line := range strings.Lines(table) {
		switch f := strings.Fields(line); { // start, length, target, arguments
		case len(f) >= 6 && f[2] == "cache":
			roles[f[3]], roles[f[4]], roles[f[5]] = hardware.AsCache, hardware.AsCache, hardware.AsData
		case len(f) >= 6 && f[2] == "writecache":
			roles[f[4]], roles[f[5]] = hardware.AsData, hardware.AsCache
		}
	}
	return roles
}
