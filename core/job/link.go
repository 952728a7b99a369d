package job

import (
	"strconv"
	"strings"
)

// carries is what links carry after encoding, MB/s, by their kind and name.
var carries = map[Port]map[string]float64{
	PortSATA: {"1.5 Gb/s": 150, "3 Gb/s": 300, "6 Gb/s": 600},
	PortUSB:  {"2.0": 53, "480 Mb/s": 53, "5 Gb/s": 500, "10 Gb/s": 1212, "20 Gb/s": 2424},
	PortMMC:  {"HS200": 200, "HS400": 400},
}

// perLane is what a PCIe lane carries, MB/s, by generation.
var perLane = map[string]float64{"1.0": 250, "1.1": 250, "2.0": 500, "3.0": 984.6, "4.0": 1969.2, "5.0": 3938.5}

// Carries returns what a link of a kind carries after encoding, MB/s, by its name: "6
// Gb/s", "4.0 x2", "HS400"; 0 where the name is not known.
func Carries(kind Port, name string) float64 {
	name = strings.TrimSpace(name)
	if kind != PortPCIe {
		return carries[kind][name]
	}
	generation, lanes, ok := strings.Cut(name, "x")
	n, err := strconv.Atoi(strings.TrimSpace(lanes))
	if !ok || err != nil || n < 1 || n > 32 {
		return 0
	}
	return perLane[strings.TrimSpace(generation)] * float64(n)
}

// LinkMBs is what the setup's negotiated link carries, MB/s: as it was given, else by
// its name; 0 where neither is known.
func (s *Setup) LinkMBs() float64 {
	if s.Attached.LinkMBs > 0 || s.Link == nil {
		return s.Attached.LinkMBs
	}
	return Carries(s.Link.Kind, s.Link.Negotiated)
}

// CapableMBs is what drive and port both could do, MB/s; 0 where it is not known of
// both.
func (s *Setup) CapableMBs() float64 {
	if s.Attached.CapableMBs > 0 || s.Link == nil {
		return s.Attached.CapableMBs
	}
	return min(Carries(s.Link.Kind, s.Link.Drive), Carries(s.Link.Kind, s.Link.Port))
}

// OverUSB reports whether the setup's drive is attached by USB, as far as known.
func (s *Setup) OverUSB() bool {
	return s.Attached.Port == PortUSB || s.Link != nil && s.Link.Kind == PortUSB
}
