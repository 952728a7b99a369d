package answers

import (
	"cmp"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"strings"
	"unicode/utf16"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

// ErrAnswer is of bytes that are not the answer that was asked for: too short, or with places beyond their end.
var ErrAnswer = errors.New("that is no such answer of the system")

// answer are the bytes in which Windows answers a question about storage, in the order of the processor's bytes.
type answer []byte

// least refuses an answer that is shorter than what it should hold.
func (a answer) least(bytes int, what string) error {
	if len(a) < bytes {
		return fmt.Errorf("%w: %s has %d bytes, not %d", ErrAnswer, what, bytes, len(a))
	}
	return nil
}

func (a answer) u16(at int) uint16 { return binary.LittleEndian.Uint16(a[at:]) }
func (a answer) u32(at int) uint32 { return binary.LittleEndian.Uint32(a[at:]) }
func (a answer) i64(at int) int64  { return int64(binary.LittleEndian.Uint64(a[at:])) }

// text is the one that begins at a place and ends with a zero; "" where the place is none.
func (a answer) text(at uint32) string {
	if at == 0 || int64(at) >= int64(len(a)) {
		return ""
	}
	s, _, _ := strings.Cut(string(a[at:]), "\x00")
	return strings.ToValidUTF8(strings.Join(strings.Fields(s), " "), "")
}

// Buses by which Windows says that a drive is attached there (STORAGE_BUS_TYPE, ntddstor.h).
const (
	busATA  = 3
	busUSB  = 7
	busRAID = 8
	busSATA = 11
	busSD   = 12
	busMMC  = 13
	busNVMe = 17
)

// virtualBuses are those of drives that are none of their own: images and pools.
var virtualBuses = map[uint32]bool{14: true, 15: true, 16: true}

// Described is what Windows knows a drive by.
type Described struct {
	Maker, Model, Firmware, Serial string
	// Port is as a job's setup has it, "" where the bus does not say.
	Port job.Port
	// Removable: its medium can be taken out, or it says so.
	Removable bool
	// Virtual: an image or a pool, no drive.
	Virtual bool
	// Grouped: a controller makes it from drives that the system does not see.
	Grouped bool
	bus     uint32
}

// WindowsDevice reads what a drive is called and how it is attached (STORAGE_DEVICE_DESCRIPTOR, ntddstor.h).
func WindowsDevice(b []byte) (Described, error) {
	a := answer(b)
	if err := a.least(36, "the description of a drive"); err != nil {
		return Described{}, err
	}
	d := Described{Removable: a[10] != 0, Maker: a.text(a.u32(12)), Model: a.text(a.u32(16)),
		Firmware: a.text(a.u32(20)), Serial: a.text(a.u32(24)), bus: a.u32(28)}
	switch d.bus {
	case busATA, busSATA:
		d.Port = job.PortSATA
	case busUSB:
		d.Port = job.PortUSB
	case busSD, busMMC:
		d.Port = job.PortMMC
	case busNVMe:
		d.Port = job.PortPCIe
	}
	if d.Maker == "ATA" || d.Maker == "NVMe" {
		d.Maker = "" // the way it hangs there
	}
	d.Virtual, d.Grouped = virtualBuses[d.bus], d.bus == busRAID
	return d, nil
}

// Kind is what kind of drive it is, as a job's drive has it; "" where that is not known. turns says
// whether a head has to
// move, nil if the drive does not report it.
func (d Described) Kind(turns *bool) job.DriveKind {
	switch {
	case d.bus == busNVMe:
		return job.NVMe
	case d.bus == busSD, d.bus == busMMC:
		return job.EMMC
	case turns == nil:
		return ""
	case *turns:
		return job.HDD
	case d.bus == busUSB && d.Removable:
		return job.USBFlash
	}
	return job.SataSSD
}

// WindowsFlag reads an answer that says yes or no: whether a head has to move
// (DEVICE_SEEK_PENALTY_DESCRIPTOR), whether freed
// blocks are told (DEVICE_TRIM_DESCRIPTOR).
func WindowsFlag(b []byte) (bool, error) {
	if err := answer(b).least(9, "a yes or no"); err != nil {
		return false, err
	}
	return b[8] != 0, nil
}

// WindowsSectors reads a drive's sectors as it answers and as it keeps them, bytes
// (STORAGE_ACCESS_ALIGNMENT_DESCRIPTOR).
func WindowsSectors(b []byte) (logical, physical int64, err error) {
	a := answer(b)
	if err := a.least(28, "the sizes of sectors"); err != nil {
		return 0, 0, err
	}
	return int64(a.u32(16)), int64(a.u32(20)), nil
}

// WindowsCapacity reads a drive's capacity, bytes (DISK_GEOMETRY_EX).
func WindowsCapacity(b []byte) (int64, error) {
	a := answer(b)
	if err := a.least(32, "the geometry of a drive"); err != nil {
		return 0, err
	}
	return a.i64(24), nil
}

// WindowsTemperature reads a drive's temperature and the one at which it warns, °C, each nil where
// the drive does not tell
// (STORAGE_TEMPERATURE_DATA_DESCRIPTOR). The first of several sensors is the drive's own.
func WindowsTemperature(b []byte) (celsius, limit *float64, err error) {
	a := answer(b)
	if err := a.least(24, "the temperatures of a drive"); err != nil {
		return nil, nil, err
	}
	degrees := func(at int) *float64 {
		const notTold = -0x8000
		v := int16(a.u16(at))
		if v == notTold || v == 0 {
			return nil // a drive that was never asked about its limits says 0
		}
		c := float64(v)
		return &c
	}
	limit = cmp.Or(degrees(10), degrees(8))
	if a.u16(12) == 0 {
		return nil, limit, nil
	}
	if err := a.least(24+16, "a temperature"); err != nil {
		return nil, nil, err
	}
	return degrees(24 + 2), limit, nil
}

// Sizes of what Windows says of partitions, bytes.
const (
	layoutHead     = 48
	partitionEntry = 144
)

// WindowsPartitions reads a drive's partitions (DRIVE_LAYOUT_INFORMATION_EX), with their types as
// the table has them: a GUID,
// or a number such as 0x7.
func WindowsPartitions(drive string, b []byte) ([]hardware.Partition, error) {
	a := answer(b)
	if err := a.least(8, "the table of a drive's partitions"); err != nil {
		return nil, err
	}
	const styleMBR, styleGPT = 0, 1
	style, count := a.u32(0), int64(a.u32(4))
	list := []hardware.Partition{}
	if style != styleMBR && style != styleGPT {
		return list, nil // the drive has no table
	}
	if count > (math.MaxInt32-layoutHead)/partitionEntry || int64(len(a)) < layoutHead+count*partitionEntry {
		return nil, fmt.Errorf("%w: of %d partitions there are %d bytes", ErrAnswer, count, len(a))
	}
	for i := range int(count) {
		e := a[layoutHead+i*partitionEntry:][:partitionEntry]
		p := hardware.Partition{Drive: drive, Number: int(e.u32(24)), StartBytes: e.i64(8), SizeBytes: e.i64(16)}
		if style == styleGPT {
			p.Type, p.Name = guid(e[32:48]), wide(e[72:144])
		} else if p.Type = fmt.Sprintf("%#x", e[32]); e[32] == 0 || e[32] == 5 || e[32] == 15 {
			continue // an empty place of the table, or one that holds others
		}
		if p.StartBytes < 0 || p.SizeBytes <= 0 || p.Number <= 0 {
			continue // a place that no partition has
		}
		list = append(list, p)
	}
	return list, nil
}

// guid writes 16 bytes as Windows keeps them in the order in which a GUID is written.
func guid(b answer) string {
	return fmt.Sprintf("%08x-%04x-%04x-%x-%x", b.u32(0), b.u16(4), b.u16(6), []byte(b[8:10]), []byte(b[10:16]))
}

// wide reads a text of two bytes a letter, up to its zero.
func wide(b answer) string {
	letters := make([]uint16, 0, len(b)/2)
	for at := 0; at+1 < len(b) && b.u16(at) != 0; at += 2 {
		letters = append(letters, b.u16(at))
	}
	return string(utf16.Decode(letters))
}

// WindowsExtents reads on which drives a volume lies, and where it begins on the first, bytes (VOLUME_DISK_EXTENTS).
func WindowsExtents(b []byte) (drives []uint32, startBytes int64, err error) {
	a := answer(b)
	if err := a.least(8, "the extents of a volume"); err != nil {
		return nil, 0, err
	}
	const head, each = 8, 24
	n := int64(a.u32(0))
	if n == 0 || n > (math.MaxInt32-head)/each || int64(len(a)) < head+n*each {
		return nil, 0, fmt.Errorf("%w: of %d extents there are %d bytes", ErrAnswer, n, len(a))
	}
	for i := range int(n) {
		drives = append(drives, a.u32(head+i*each))
	}
	return drives, a.i64(head + 8), nil
}

// WindowsProtocol takes what a drive itself answered out of what Windows puts around it
// (STORAGE_PROTOCOL_DATA_DESCRIPTOR).
func WindowsProtocol(b []byte) ([]byte, error) {
	a := answer(b)
	if err := a.least(48, "the answer of a drive"); err != nil {
		return nil, err
	}
	const itself = 8 // offsets count from the data that is specific to the protocol
	from, bytes := int64(a.u32(itself+16)), int64(a.u32(itself+20))
	if from < 40 || itself+from+bytes > int64(len(a)) {
		return nil, fmt.Errorf("%w: it lies beyond its end", ErrAnswer)
	}
	return a[itself+from:][:bytes], nil
}

// PCIeLink names a link by its generation and its lanes: "3.0 x4"; "" where one of the two is not known.
func PCIeLink(generation, lanes uint32) string {
	if generation == 0 || generation > 6 || lanes == 0 || lanes > 32 {
		return ""
	}
	return fmt.Sprintf("%d.0 x%d", generation, lanes)
}

// ATAIdentity is what an ATA drive says of itself that a system does not pass on.
type ATAIdentity struct {
	Link       job.Link // negotiated and what the drive can do
	RPM        int      // 0 where it does not turn or does not tell
	QueueDepth int      // 0 where it does not tell
}

// WordsOfIdentity is how many words of 16 bits an ATA drive's identification has.
const WordsOfIdentity = 256

// ReadATAIdentity reads an ATA drive's identification (IDENTIFY DEVICE, ATA Command Set 4, 7.13).
func ReadATAIdentity(words []uint16) (ATAIdentity, error) {
	if len(words) < WordsOfIdentity {
		return ATAIdentity{},
			fmt.Errorf("%w: an identification has %d words, not %d", ErrPage, WordsOfIdentity, len(words))
	}
	id := ATAIdentity{Link: job.Link{Kind: "sata"}}
	rates := []string{"", "1.5 Gb/s", "3 Gb/s", "6 Gb/s"}
	told := func(word uint16) bool { return word != 0 && word != 0xFFFF }
	if can := words[76]; told(can) {
		for generation := len(rates) - 1; generation > 0; generation-- {
			if can&(1<<generation) != 0 {
				id.Link.Drive = rates[generation]
				break
			}
		}
		const queues = 1 << 8
		if depth := words[75]; can&queues != 0 {
			id.QueueDepth = int(depth&0x1F) + 1
		}
	}
	if now := words[77]; told(now) {
		if generation := now >> 1 & 7; int(generation) < len(rates) {
			id.Link.Negotiated = rates[generation]
		}
	}
	if turns := words[217]; turns >= 0x0401 && turns <= 0xFFFE {
		id.RPM = int(turns)
	}
	return id, nil
}

// WindowsProtection says what the shell's property System.Volume.BitLockerProtection means: whether
// what is on the volume is
// encrypted, and whether a pass over it is running; nil where the number says neither.
func WindowsProtection(state int) (encrypted, encrypting *bool) {
	yes, no := true, false
	switch state {
	case 1, 5, 6, 8: // on; suspended; locked; waiting to be activated: encrypted all the same
		return &yes, &no
	case 2:
		return &no, &no
	case 3:
		return &yes, &yes
	case 4: // being decrypted
		return nil, &yes
	}
	return nil, nil
}

// Power schemes and overlays with which Windows saves, by their GUIDs.
var savingSchemes = map[string]bool{"a1841308-3541-4fab-bc81-f71556f20b4a": true,
	"961cc777-2547-4f9d-8174-7d86181b8a7a": true}

// WindowsPower reads a SYSTEM_POWER_STATUS and the schemes in force ("" where one is not known)
// into where the power comes from,
// how it is used, and how full the battery is, %, nil where there is none or it does not tell.
func WindowsPower(status []byte,
	schemes ...string) (source job.Power, mode job.PowerMode, batteryPct *float64, err error) {
	if err := answer(status).least(4, "the state of the power"); err != nil {
		return "", "", nil, err
	}
	switch status[0] {
	case 0:
		source = job.Battery
	case 1:
		source = job.Mains
	}
	for _, s := range schemes {
		switch {
		case savingSchemes[strings.ToLower(s)]:
			mode = job.SavingMode
		case s != "" && mode == "":
			mode = job.NormalMode
		}
	}
	if status[3] == 1 {
		mode = job.SavingMode
	}
	const none, unknown = 1 << 7, 255
	if flag, pct := status[1], status[2]; flag != unknown && flag&none == 0 && pct <= 100 {
		full := float64(pct)
		batteryPct = &full
	}
	return source, mode, batteryPct, nil
}

// WindowsName is what Windows is called: its entry kept the name of the edition before after the
// one that begins at build 22000.
func WindowsName(product string, build int) string {
	const eleven = 22000
	if build >= eleven {
		return strings.Replace(product, "Windows 10", "Windows 11", 1)
	}
	return product
}

// WindowsUSB reads how a port of a hub and the attached device communicate, as Windows
// tells it in the two structures of a
// connection (USB_NODE_CONNECTION_INFORMATION_EX, whose speed is 0 low, 1 full, 2 high, 3 super;
// and its _V2, of usbioctl.h). A port
// that can more than 5 Gb/s says no more than that it can those. Nil where neither tells.
func WindowsUSB(connection, v2 []byte) *job.Link {
	const (
		speedAt    = 23 // behind the port's number, the device's descriptor and the configuration
		protocols  = 8
		flags      = 12
		usb3       = 1 << 2
		atSuper    = 1 << 0
		canSuper   = 1 << 1
		atSuperUp  = 1 << 2
		canSuperUp = 1 << 3
	)
	const (
		full      = "12 Mb/s"
		high      = "2.0"
		super     = "5 Gb/s"
		superPlus = "10 Gb/s"
	)
	l := &job.Link{Kind: "usb"}
	if len(connection) > speedAt {
		switch connection[speedAt] {
		case 1:
			l.Negotiated = full
		case 2:
			l.Negotiated = high
		case 3:
			l.Negotiated = super
		}
	}
	if len(v2) >= flags+4 {
		port, is := binary.LittleEndian.Uint32(v2[protocols:]), binary.LittleEndian.Uint32(v2[flags:])
		switch {
		case is&atSuperUp != 0:
			l.Negotiated = superPlus
		case is&atSuper != 0:
			l.Negotiated = super
		}
		switch {
		case is&canSuperUp != 0:
			l.Drive = superPlus
		case is&canSuper != 0:
			l.Drive = super
		}
		switch {
		case l.Negotiated == superPlus:
			l.Port = superPlus
		case port&usb3 != 0:
			l.Port = super
		case port != 0:
			l.Port = high
		}
	}
	if l.Negotiated == "" {
		return nil
	}
	return l
}
