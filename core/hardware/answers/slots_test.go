package answers

import (
	"nowthen/core/hardware"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// structure is one of the firmware's table.
func structure(kind byte, body []byte, texts ...string) []byte {
	s := append([]byte{kind, byte(4 + len(body)), 0, 0}, body...)
	for _, t := range texts {
		s = append(append(s, t...), 0)
	}
	if len(texts) == 0 {
		s = append(s, 0)
	}
	return append(s, 0)
}

// slot is a structure of a slot: its text, kind, width and usage.
func slot(name string, kind, width, usage byte) []byte {
	return structure(smbiosSlot, []byte{1, kind, width, usage, 3, 0, 0, 0x0c, 1}, name)
}

func TestSlotsOfABoard(t *testing.T) {
	yes, no := true, false
	var table []byte
	for _, s := range [][]byte{
		structure(0, make([]byte, 20), "Thicket", "1.07"),
		structure(2, []byte{0, 0}),
		slot("M2_1", 0x17, 0x0a, 4),
		slot("M2_2", 0x17, 0x0a, 3),
		slot("WLAN", 0x15, 0x08, 2),
		slot("J_OLD", 0x06, 0x05, 3), // a kind that takes no drive of today
		slot("PCIE 1", 0xb6, 0x0d, 3),
		slot("Default string", 0x16, 0x02, 5),
		structure(smbiosSlot, []byte{9, 0x17, 0x0a, 3}, "short"), // its text is not there
		structure(smbiosEnd, nil),
		slot("after the end", 0x17, 0x0a, 3),
	} {
		table = append(table, s...)
	}
	list, err := Slots(table)
	require.NoError(t, err)
	assert.Equal(t, []hardware.Slot{
		{Name: "M2_1", Kind: hardware.SlotM2, Key: "M", Lanes: 4, Used: &yes},
		{Name: "M2_2", Kind: hardware.SlotM2, Key: "M", Lanes: 4, Used: &no},
		{Name: "WLAN", Kind: hardware.SlotM2, Key: "E", Lanes: 1},
		{Name: "PCIE 1", Kind: hardware.SlotPCIe, Lanes: 16, Used: &no},
		{Kind: hardware.SlotM2, Key: "B"},
		{Kind: hardware.SlotM2, Key: "M", Lanes: 4, Used: &no},
	}, list)

	empty, err := Slots(nil)
	require.NoError(t, err)
	assert.Equal(t, []hardware.Slot{}, empty, "it tells, and of none")
	for name, broken := range map[string][]byte{
		"in its head":     table[:3],
		"in its body":     table[:10],
		"in its texts":    table[:30],
		"of no length":    {9, 0, 0, 0, 0, 0},
		"longer than all": {9, 200, 0, 0, 0, 0},
	} {
		_, err := Slots(broken)
		assert.ErrorContains(t, err, "breaks off", name)
	}
}

func TestTheTableAsWindowsHandsItOut(t *testing.T) {
	table, err := TableOf(append([]byte{0, 3, 2, 0, 2, 0, 0, 0}, 7, 8, 9))
	require.NoError(t, err)
	assert.Equal(t, []byte{7, 8}, table)
	for _, raw := range [][]byte{nil, make([]byte, 7), {0, 3, 2, 0, 9, 0, 0, 0, 1}, {0, 3, 2, 0, 255, 255, 255, 255}} {
		_, err := TableOf(raw)
		assert.Error(t, err)
	}
}

func FuzzSlots(f *testing.F) {
	f.Add(append(slot("M2_1", 0x17, 0x0a, 4), structure(smbiosEnd, nil)...))
	f.Add([]byte{9, 8, 0, 0, 1, 0x17})
	f.Fuzz(func(t *testing.T, table []byte) {
		list, err := Slots(table)
		if err != nil {
			return
		}
		assert.LessOrEqual(t, len(list), mostSlots)
		facts := hardware.Facts{Slots: list}
		for _, s := range list {
			assert.Contains(t, []string{hardware.SlotM2, hardware.SlotPCIe}, s.Kind)
		}
		assert.NoError(t, facts.Check())
	})
}
