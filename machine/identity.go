package machine

import (
	"net"
	"slices"
	"strings"

	"nowthen/core/hardware"
)

// Identity is a digest that identifies this computer, whatever drive it starts from: of its maker's names and
// the permanent addresses of its network ports. It is "" if it has none.
func Identity() string {
	found, err := net.Interfaces()
	if err != nil {
		return ""
	}
	maker, model, _ := board()
	return identity(maker, model, found)
}

func identity(maker, model string, ports []net.Interface) string {
	var burnt []string
	for _, p := range ports {
		// The second bit of the first byte says that somebody chose the address.
		if len(p.HardwareAddr) >= 6 && p.HardwareAddr[0]&2 == 0 &&
			!slices.Equal(p.HardwareAddr, make(net.HardwareAddr, len(p.HardwareAddr))) {
			burnt = append(burnt, p.HardwareAddr.String())
		}
	}
	if len(burnt) == 0 {
		return ""
	}
	// The lowest is the board's own more often than a dongle's.
	slices.Sort(burnt)
	return hardware.Digest(maker, model, "computer "+strings.ToLower(burnt[0]))
}
