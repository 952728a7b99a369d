package answers

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"nowthen/core/hardware"
)

// What of the firmware's table is read (DMTF DSP0134, System Management BIOS, 7.10 System Slots).
const (
	smbiosSlot = 9
	smbiosEnd  = 127
	mostSlots  = 64
	mostName   = 64 // bytes
)

var m2Keys = map[byte]string{0x14: "A", 0x15: "E", 0x16: "B", 0x17: "M"}

// slotLanes are by the table's width of a slot, which for PCIe counts lanes.
var slotLanes = map[byte]int{0x08: 1, 0x09: 2, 0x0a: 4, 0x0b: 8, 0x0c: 12, 0x0d: 16, 0x0e: 32}

// Slots reads the slots for drives and cards from a board's firmware table; empty where it tells of
// none. A table that ends in the
// middle of a structure is refused.
func Slots(table []byte) ([]hardware.Slot, error) {
	list := []hardware.Slot{}
	for at := 0; at < len(table); {
		if len(table)-at < 4 || int(table[at+1]) < 4 || len(table)-at < int(table[at+1]) {
			return nil, fmt.Errorf("the firmware's table breaks off at byte %d of %d", at, len(table))
		}
		kind, body := table[at], table[at:at+int(table[at+1])]
		texts := table[at+len(body):]
		end := bytes.Index(texts, []byte{0, 0})
		if end < 0 {
			return nil, fmt.Errorf("the firmware's table breaks off in the texts from byte %d on", at+len(body))
		}
		at += len(body) + end + 2
		if kind == smbiosEnd {
			break
		}
		if s, ok := slotOf(kind, body, texts[:end]); ok && len(list) < mostSlots {
			list = append(list, s)
		}
	}
	return list, nil
}

// slotOf reads a structure of the table; ok is false where it is none of a slot that takes drives or cards of today.
func slotOf(kind byte, body, texts []byte) (s hardware.Slot, ok bool) {
	if kind != smbiosSlot || len(body) < 8 {
		return s, false
	}
	what := body[5]
	switch key, m2 := m2Keys[what]; {
	case m2:
		s.Kind, s.Key = hardware.SlotM2, key
	case what >= 0xa5 && what <= 0xc6:
		s.Kind = hardware.SlotPCIe
	default:
		return s, false
	}
	s.Lanes = slotLanes[body[6]]
	switch body[7] {
	case 3, 4:
		used := body[7] == 4
		s.Used = &used
	}
	if n := int(body[4]); n > 0 {
		if all := bytes.Split(texts, []byte{0}); n <= len(all) {
			s.Name = hardware.Given(string(bytes.ToValidUTF8(all[n-1][:min(len(all[n-1]), mostName)], nil)))
		}
	}
	return s, true
}

// rawSMBIOS is how long the head is that a system puts before the table it hands out: version and length.
const rawSMBIOS = 8

// TableOf takes the head off the firmware's table as Windows hands it out (GetSystemFirmwareTable).
func TableOf(raw []byte) ([]byte, error) {
	if len(raw) < rawSMBIOS {
		return nil, fmt.Errorf("%d bytes are no table of the firmware", len(raw))
	}
	n := binary.LittleEndian.Uint32(raw[4:])
	if uint64(n) > uint64(len(raw)-rawSMBIOS) {
		return nil, fmt.Errorf("the table says that it has %d bytes, and has %d", n, len(raw)-rawSMBIOS)
	}
	return raw[rawSMBIOS : rawSMBIOS+int(n)], nil
}
