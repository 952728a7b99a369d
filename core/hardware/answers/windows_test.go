package answers_test

import (
	"encoding/binary"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/hardware"
	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

// le lays values down one after the other as Windows does on its processors.
func le(values ...any) []byte {
	var b []byte
	for _, v := range values {
		if s, ok := v.(string); ok {
			b = append(append(b, s...), 0)
			continue
		}
		b, _ = binary.Append(b, binary.LittleEndian, v)
	}
	return b
}

// described is a STORAGE_DEVICE_DESCRIPTOR with its texts behind it; "" is a text that is not there.
func described(bus uint32, removable uint8, texts ...string) []byte {
	var offsets [4]uint32
	var behind []byte
	for i, t := range texts {
		if t != "" {
			offsets[i] = uint32(36 + len(behind))
			behind = append(append(behind, t...), 0)
		}
	}
	return append(le(uint32(40), uint32(36+len(behind)), uint8(0), uint8(0), removable, uint8(1), offsets, bus,
		uint32(0)), behind...)
}

func TestWindowsDevice(t *testing.T) {
	yes, no := true, false
	for _, c := range []struct {
		name  string
		bytes []byte
		turns *bool
		want  answers.Described
		kind  job.DriveKind
	}{
		{"a disk at a SATA port", described(11, 0, "ATA     ", "Veldt Slate 640      ", "QV12    ", "  VS640-0001"),
			&yes,
			answers.Described{Model: "Veldt Slate 640", Firmware: "QV12", Serial: "VS640-0001",
				Port: job.PortSATA}, job.HDD},
		{"an SSD with nothing told of its head", described(11, 0, "", "Orrery 960", "", ""), nil,
			answers.Described{Model: "Orrery 960", Port: job.PortSATA}, ""},
		{"an NVMe drive", described(17, 0, "NVMe", "Tern N2", "3.1", "0025_3851."), &no,
			answers.Described{Model: "Tern N2", Firmware: "3.1", Serial: "0025_3851.", Port: job.PortPCIe}, job.NVMe},
		{"a stick", described(7, 1, "Plover", "Pocket", "1.00", "77"), &no,
			answers.Described{Maker: "Plover", Model: "Pocket", Firmware: "1.00", Serial: "77", Port: job.PortUSB,
				Removable: true}, job.USBFlash},
		{"an SSD in a USB case", described(7, 0, "Plover", "Case", "", ""), &no,
			answers.Described{Maker: "Plover", Model: "Case", Port: job.PortUSB}, job.SataSSD},
		{"soldered flash", described(13, 0, "", "B032", "", "1"), nil,
			answers.Described{Model: "B032", Serial: "1", Port: job.PortMMC}, job.EMMC},
		{"a pool", described(16, 0, "Msft", "Space", "", ""), &no,
			answers.Described{Maker: "Msft", Model: "Space", Virtual: true}, job.SataSSD},
		{"behind a controller", described(8, 0, "", "Volume0", "", ""), &yes,
			answers.Described{Model: "Volume0", Grouped: true}, job.HDD},
	} {
		t.Run(c.name, func(t *testing.T) {
			d, err := answers.WindowsDevice(c.bytes)
			require.NoError(t, err)
			assert.Equal(t, c.kind, d.Kind(c.turns))
			assert.Equal(t, []any{c.want.Maker, c.want.Model, c.want.Firmware, c.want.Serial, c.want.Port,
				c.want.Removable, c.want.Virtual, c.want.Grouped},
				[]any{d.Maker, d.Model, d.Firmware, d.Serial, d.Port, d.Removable, d.Virtual, d.Grouped})
		})
	}
	_, err := answers.WindowsDevice(make([]byte, 35))
	assert.ErrorIs(t, err, answers.ErrAnswer)
	far := described(11, 0, "", "Orrery", "", "")
	binary.LittleEndian.PutUint32(far[16:], 4_000_000_000) // as one that has none says, or a broken bridge
	d, err := answers.WindowsDevice(far)
	require.NoError(t, err)
	assert.Empty(t, d.Model)
}

func TestWindowsTemperature(t *testing.T) {
	sensors := func(critical, warning int16, now ...int16) []byte {
		b := le(uint32(24), uint32(24+16*len(now)), critical, warning, uint16(len(now)), uint16(0), uint32(0),
			uint32(0))
		for i, c := range now {
			b = append(b, le(uint16(i), c, int16(0), int16(0), uint8(0), uint8(0), uint8(0), uint8(0), uint32(0))...)
		}
		return b
	}
	f := func(v float64) *float64 { return &v }
	for _, c := range []struct {
		name       string
		bytes      []byte
		now, limit *float64
	}{
		{"two sensors: the first is the drive's", sensors(84, 80, 41, 55), f(41), f(80)},
		{"no warning: what it gives up at", sensors(70, -0x8000, 33), f(33), f(70)},
		{"it does not tell", sensors(-0x8000, -0x8000, -0x8000), nil, nil},
		{"no limits were asked of it", sensors(0, 0, 29), f(29), nil},
		{"in the frost", sensors(60, 55, -4), f(-4), f(55)},
		{"no sensor", sensors(60, 55), nil, f(55)},
	} {
		t.Run(c.name, func(t *testing.T) {
			now, limit, err := answers.WindowsTemperature(c.bytes)
			require.NoError(t, err)
			assert.Equal(t, c.now, now)
			assert.Equal(t, c.limit, limit)
		})
	}
	_, _, err := answers.WindowsTemperature(sensors(60, 55, 40)[:30])
	assert.ErrorIs(t, err, answers.ErrAnswer)
}

// gptEntry is a PARTITION_INFORMATION_EX of a GPT.
func gptEntry(number uint32, start, size int64, kind [16]byte, name string) []byte {
	var letters [36]uint16
	copy(letters[:], utf16.Encode([]rune(name)))
	return le(uint32(1), uint32(0), start, size, number, uint8(0), uint8(0), uint16(0), kind, [16]byte{}, uint64(0),
		letters)
}

func mbrEntry(number uint32, start, size int64, kind uint8) []byte {
	return le(uint32(0), uint32(0), start, size, number, uint8(0), uint8(0), uint16(0), kind, uint8(0), uint8(1),
		uint8(0), uint32(0), [16]byte{}, [88]byte{})
}

func driveLayout(style uint32, entries ...[]byte) []byte {
	b := le(style, uint32(len(entries)), [40]byte{})
	for _, e := range entries {
		b = append(b, e...)
	}
	return b
}

// guidBytes are a GUID's as Windows keeps them.
var (
	efiBytes = [16]byte{0x28, 0x73, 0x2a, 0xc1, 0x1f, 0xf8, 0xd2, 0x11, 0xba, 0x4b, 0x00, 0xa0, 0xc9, 0x3e, 0xc9,
		0x3b}
	basicBytes = [16]byte{0xa2, 0xa0, 0xd0, 0xeb, 0xe5, 0xb9, 0x33, 0x44, 0x87, 0xc0, 0x68, 0xb6, 0xb7, 0x26, 0x99,
		0xc7}
)

func TestWindowsPartitions(t *testing.T) {
	const mib = 1 << 20
	list, err := answers.WindowsPartitions("disk0", driveLayout(1,
		gptEntry(1, mib, 100*mib, efiBytes, "EFI system partition"), gptEntry(2, 117*mib, 600_000*mib, basicBytes,
			"Basic data partition"), gptEntry(0, 0, 0, [16]byte{}, "")))
	require.NoError(t, err)
	assert.Equal(t, []hardware.Partition{
		{Drive: "disk0", Number: 1, Type: "c12a7328-f81f-11d2-ba4b-00a0c93ec93b", Name: "EFI system partition",
			StartBytes: mib, SizeBytes: 100 * mib},
		{Drive: "disk0", Number: 2, Type: "ebd0a0a2-b9e5-4433-87c0-68b6b72699c7", Name: "Basic data partition",
			StartBytes: 117 * mib, SizeBytes: 600_000 * mib},
	}, list)
	list, err = answers.WindowsPartitions("disk1",
		driveLayout(0, mbrEntry(1, mib, 500*mib, 7), mbrEntry(0, 600*mib, 200*mib, 15),
			mbrEntry(2, 601*mib, 100*mib, 0x27), mbrEntry(0, 0, 0, 0)))
	require.NoError(t, err)
	assert.Equal(t, []hardware.Partition{
		{Drive: "disk1", Number: 1, Type: "0x7", StartBytes: mib, SizeBytes: 500 * mib}, {Drive: "disk1", Number: 2,
			Type: "0x27", StartBytes: 601 * mib, SizeBytes: 100 * mib},
	}, list)
	list, err = answers.WindowsPartitions("disk2", driveLayout(2))
	require.NoError(t, err)
	assert.Empty(t, list, "a drive without a table")
	_, err = answers.WindowsPartitions("disk0", driveLayout(1, gptEntry(1, mib, mib, efiBytes, "x"))[:100])
	assert.ErrorIs(t, err, answers.ErrAnswer)
	huge := driveLayout(1)
	binary.LittleEndian.PutUint32(huge[4:], 0xFFFFFFFF)
	_, err = answers.WindowsPartitions("disk0", huge)
	assert.ErrorIs(t, err, answers.ErrAnswer)
}

func TestWindowsFigures(t *testing.T) {
	logical, physical, err := answers.WindowsSectors(le(uint32(28), uint32(28), uint32(64), uint32(0), uint32(512),
		uint32(4096), uint32(0)))
	require.NoError(t, err)
	assert.Equal(t, []int64{512, 4096}, []int64{logical, physical})
	capacity, err := answers.WindowsCapacity(le(int64(77), uint32(12), uint32(255), uint32(63), uint32(512),
		int64(640_135_028_736), uint64(0)))
	require.NoError(t, err)
	assert.Equal(t, int64(640_135_028_736), capacity)
	yes, err := answers.WindowsFlag(le(uint32(9), uint32(9), uint8(1)))
	require.NoError(t, err)
	assert.True(t, yes)
	drives, start, err := answers.WindowsExtents(le(uint32(2), uint32(0), uint32(1), uint32(0), int64(1<<20),
		int64(5<<30), uint32(3), uint32(0), int64(1<<21), int64(5<<30)))
	require.NoError(t, err)
	assert.Equal(t, []uint32{1, 3}, drives, "a volume on two drives")
	assert.Equal(t, int64(1<<20), start)
	page, err := answers.WindowsProtocol(append(le(uint32(48), uint32(48), uint32(3), uint32(2), uint32(2), uint32(0),
		uint32(40), uint32(4), uint32(0), uint32(0), uint32(0), uint32(0)), 1, 2, 3, 4))
	require.NoError(t, err)
	assert.Equal(t, []byte{1, 2, 3, 4}, page)
	_, err = answers.WindowsProtocol(le(uint32(48), uint32(48), uint32(3), uint32(2), uint32(2), uint32(0), uint32(40),
		uint32(4), uint32(0), uint32(0), uint32(0), uint32(0)))
	assert.ErrorIs(t, err, answers.ErrAnswer, "it lies beyond its end")
	for _, short := range []error{
		second(answers.WindowsFlag(nil)), third(answers.WindowsSectors(nil)), second(answers.WindowsCapacity(nil)),
		third(answers.WindowsExtents(nil)), third(answers.WindowsExtents(le(uint32(9),
			uint32(0)))), second(answers.WindowsProtocol(nil)),
	} {
		assert.ErrorIs(t, short, answers.ErrAnswer)
	}
}

func second[A any](_ A, err error) error        { return err }
func third[A, B any](_ A, _ B, err error) error { return err }

func TestATAIdentity(t *testing.T) {
	words := make([]uint16, answers.WordsOfIdentity)
	words[75], words[76], words[77], words[217] = 31, 1<<8|1<<3|1<<2|1<<1, 2<<1, 5400
	id, err := answers.ReadATAIdentity(words)
	require.NoError(t, err)
	assert.Equal(t, answers.ATAIdentity{Link: job.Link{Kind: "sata", Negotiated: "3 Gb/s", Drive: "6 Gb/s"}, RPM: 5400,
		QueueDepth: 32}, id)
	words[76], words[77], words[217] = 0xFFFF, 0, 1 // an old one that tells nothing, and does not turn
	id, err = answers.ReadATAIdentity(words)
	require.NoError(t, err)
	assert.Equal(t, answers.ATAIdentity{Link: job.Link{Kind: "sata"}}, id)
	_, err = answers.ReadATAIdentity(words[:255])
	assert.ErrorIs(t, err, answers.ErrPage)
}

func TestPCIeLink(t *testing.T) {
	assert.Equal(t, "3.0 x4", answers.PCIeLink(3, 4))
	assert.Equal(t, "4.0 x2", answers.PCIeLink(4, 2))
	assert.Equal(t, "6.0 x32", answers.PCIeLink(6, 32))
	for _, unknown := range [][2]uint32{{0, 4}, {3, 0}, {7, 4}, {3, 33}} {
		assert.Empty(t, answers.PCIeLink(unknown[0], unknown[1]))
	}
}

// FuzzWindows: whatever a drive, its bridge or its driver answers is taken or refused.
func FuzzWindows(f *testing.F) {
	f.Add(described(11, 0, "ATA", "Veldt", "1", "2"))
	f.Add(driveLayout(1, gptEntry(1, 1<<20, 1<<20, efiBytes, "x")))
	f.Fuzz(func(t *testing.T, b []byte) {
		if d, err := answers.WindowsDevice(b); err == nil {
			_ = d.Kind(nil)
		}
		if list, err := answers.WindowsPartitions("d", b); err == nil {
			for _, p := range list {
				if p.SizeBytes <= 0 || p.StartBytes < 0 || p.Number <= 0 {
					t.Fatal(p)
				}
			}
		}
		_, _, _ = answers.WindowsTemperature(b)
		_, _, _ = answers.WindowsExtents(b)
		_, _, _ = answers.WindowsSectors(b)
		_, _ = answers.WindowsProtocol(b)
		_, _ = answers.WindowsCapacity(b)
		_, _ = answers.WindowsFlag(b)
	})
}

func TestWindowsPower(t *testing.T) {
	const saver, balanced, better = "A1841308-3541-4FAB-BC81-F71556F20B4A", "381b4222-f694-41f0-9685-ff5bb260df2e",
		"961cc777-2547-4f9d-8174-7d86181b8a7a"
	pct := func(v float64) *float64 { return &v }
	for _, c := range []struct {
		name    string
		status  []byte
		schemes []string
		source  job.Power
		mode    job.PowerMode
		battery *float64
	}{
		{"a desktop", []byte{1, 128, 255, 0}, []string{balanced, ""}, job.Mains, job.NormalMode, nil},
		{"a laptop on its battery", []byte{0, 1, 71, 0}, []string{balanced, ""}, job.Battery, job.NormalMode,
			pct(71)},
		{"its saver is on", []byte{0, 2, 18, 1}, []string{balanced, ""}, job.Battery, job.SavingMode, pct(18)},
		{"a scheme that saves", []byte{1, 8, 99, 0}, []string{saver, ""}, job.Mains, job.SavingMode, pct(99)},
		{"the slider at the battery's end", []byte{1, 1, 100, 0}, []string{balanced, better}, job.Mains,
			job.SavingMode,
			pct(100)},
		{"nothing told", []byte{255, 255, 255, 0}, []string{"", ""}, "", "", nil},
		{"a battery that does not say how full it is", []byte{0, 0, 255, 0}, nil, job.Battery, "", nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			source, mode, battery, err := answers.WindowsPower(c.status, c.schemes...)
			require.NoError(t, err)
			assert.Equal(t, []any{c.source, c.mode, c.battery}, []any{source, mode, battery})
		})
	}
	_, _, _, err := answers.WindowsPower([]byte{1, 2, 3})
	assert.ErrorIs(t, err, answers.ErrAnswer)
}

func TestWindowsProtection(t *testing.T) {
	yes, no := true, false
	for state, want := range map[int][2]*bool{
		0: {nil, nil}, 1: {&yes, &no}, 2: {&no, &no}, 3: {&yes, &yes}, 4: {nil, &yes}, 5: {&yes, &no}, 6: {&yes,
			&no}, 7: {nil, nil}, 8: {&yes, &no}, -1: {nil, nil},
	} {
		encrypted, encrypting := answers.WindowsProtection(state)
		assert.Equal(t, want, [2]*bool{encrypted, encrypting}, "state %d", state)
	}
}

func TestWindowsName(t *testing.T) {
	assert.Equal(t, "Windows 10 Home", answers.WindowsName("Windows 10 Home", 21999))
	assert.Equal(t, "Windows 11 Home", answers.WindowsName("Windows 10 Home", 22000))
	assert.Equal(t, "Windows 7 Home", answers.WindowsName("Windows 7 Home", 7601))
}

func TestTold(t *testing.T) {
	for from, want := range map[string]string{
		"  Quillon   Works ": "Quillon Works", "To be filled by O.E.M.": "", "Default string": "", "System Product Name": "", "0": "", "00000000": "", " ": "", "None": "", "X-450": "X-450",
	} {
		assert.Equal(t, want, hardware.Given(from), "%q", from)
	}
}

func TestKindsOfWork(t *testing.T) {
	assert.Equal(t, job.BusyUpdate, answers.KindOfWork("TiWorker.exe"))
	assert.Equal(t, job.BusyIndexing, answers.KindOfWork("mds_stores"))
	assert.Equal(t, job.BusyScan, answers.KindOfWork("clamd"))
	assert.Empty(t, answers.KindOfWork("ledgerbook.exe"))
	assert.Empty(t, answers.KindOfWork("tar"), "it packs, unpacks and copies: nobody knows why")
	assert.Equal(t, []job.Busy{job.BusyIndexing, job.BusyUpdate},
		answers.Busy([]string{"dpkg", "ledgerbook", "baloo_file", "apt"}))
	assert.Nil(t, answers.Busy([]string{"ledgerbook"}), "what a person's own program does is not known")
	assert.Nil(t, answers.Busy(nil))
}

func TestWindowsUSB(t *testing.T) {
	connection := func(speed byte) []byte {
		b := make([]byte, 35)
		b[0], b[23] = 3, speed
		return b
	}
	v2 := func(port, flags byte) []byte {
		b := make([]byte, 16)
		b[0], b[4], b[8], b[12] = 3, 16, port, flags
		return b
	}
	for name, c := range map[string]struct {
		connection, v2 []byte
		want           *job.Link
	}{
		"nobody tells":                    {nil, nil, nil},
		"cut short":                       {make([]byte, 20), make([]byte, 15), nil},
		"an old system, a high-speed one": {connection(2), nil, &job.Link{Kind: "usb", Negotiated: "2.0"}},
		"at full speed of all": {connection(3), v2(7, 0b0011),
			&job.Link{Kind: "usb", Negotiated: "5 Gb/s", Drive: "5 Gb/s", Port: "5 Gb/s"}},
		"a quick one on an old port": {connection(2), v2(3, 0b0010),
			&job.Link{Kind: "usb", Negotiated: "2.0", Drive: "5 Gb/s", Port: "2.0"}},
		"a quick one through a bad cable": {connection(2), v2(7, 0b0010),
			&job.Link{Kind: "usb", Negotiated: "2.0", Drive: "5 Gb/s", Port: "5 Gb/s"}},
		"the quickest": {connection(3), v2(7, 0b1111),
			&job.Link{Kind: "usb", Negotiated: "10 Gb/s", Drive: "10 Gb/s", Port: "10 Gb/s"}},
		"a slower port for the quickest": {connection(3), v2(7, 0b1011),
			&job.Link{Kind: "usb", Negotiated: "5 Gb/s", Drive: "10 Gb/s", Port: "5 Gb/s"}},
		"not said how quick": {connection(9), v2(7, 0), nil},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, answers.WindowsUSB(c.connection, c.v2)) })
	}
}
