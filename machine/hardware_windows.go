package machine

import (
	"cmp"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io/fs"
	"math/bits"
	"strconv"
	"strings"
	"time"
	"unsafe"

	"github.com/shirou/gopsutil/v4/cpu"
	"golang.org/x/sys/windows"
	"golang.org/x/sys/windows/registry"

	"nowthen/core/hardware"
	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

// Hardware says what the system reports of this computer and its drives.
func Hardware(ctx context.Context) *hardware.Facts {
	f := drives(true)
	computerFacts(ctx, f)
	systemFacts(f)
	f.Driverless = driverless()
	addStarts(ctx, f)
	return f
}

// attached are the other drives that hang on this computer while a folder is measured in. It is nil
// where there is none, too:
// docks are not looked for.
func attached(dir string) []string {
	if names, _ := drives(false).Beside(dir); len(names) > 0 {
		return names
	}
	return nil
}

// drives are what the system knows of its drives and volumes, and with logs what the drives say of their own.
func drives(logs bool) *hardware.Facts {
	f := &hardware.Facts{Drives: []hardware.Drive{}, Volumes: []hardware.Volume{}, Partitions: []hardware.Partition{},
		Absent: []hardware.Absence{}}
	links := treeLinks()
	for n := range mostDrives {
		driveFacts(f, n, links, logs)
	}
	if len(f.Drives) == 0 {
		f.Lacks("drives", "the system shows none that it answers for")
	}
	volumeFacts(f)
	return f
}

// board is what the board's maker wrote into it, as it is there.
func board() (maker, model, bios string) {
	k, err := registry.OpenKey(registry.LOCAL_MACHINE, `HARDWARE\DESCRIPTION\System\BIOS`, registry.QUERY_VALUE)
	if err != nil {
		return "", "", ""
	}
	defer k.Close()
	text := func(name string) string { s, _, _ := k.GetStringValue(name); return s }
	return text("SystemManufacturer"), text("SystemProductName"), text("BIOSVersion")
}

func computerFacts(ctx context.Context, f *hardware.Facts) {
	c := ThisComputer(ctx)
	_, _, bios := board()
	f.Computer = hardware.Computer{Maker: c.Maker, Model: c.Model, Firmware: hardware.Given(bios),
		Processor: c.Processor, MemoryBytes: c.MemoryBytes, Graphics: graphics()}
	if n, err := cpu.CountsWithContext(ctx, false); err == nil {
		f.Computer.Cores = n
	}
	lacking := func(missing bool, what string) {
		if missing {
			f.Lacks(what, "the system does not name it")
		}
	}
	lacking(c.Maker == "" && c.Model == "", "maker and model")
	lacking(c.Processor == "", "processor")
	lacking(f.Computer.Graphics == "", "graphics")
	table, err := firmwareTable()
	slotsFrom(f, table, err)
}

var (
	systemFirmwareTable = windows.NewLazySystemDLL("kernel32.dll").NewProc("GetSystemFirmwareTable")
	firmwareType        = windows.NewLazySystemDLL("kernel32.dll").NewProc("GetFirmwareType")
)

// firmwareTable is what the board's firmware reports of its parts.
func firmwareTable() ([]byte, error) {
	const rsmb = 0x52534d42 // "RSMB", System Management BIOS
	if err := systemFirmwareTable.Find(); err != nil {
		return nil, err
	}
	n, _, _ := systemFirmwareTable.Call(rsmb, 0, 0, 0)
	if n == 0 || n > mostTable {
		return nil, fs.ErrNotExist
	}
	raw := make([]byte, n)
	if n, _, _ = systemFirmwareTable.Call(rsmb, 0, uintptr(unsafe.Pointer(&raw[0])), n); n == 0 || int(n) > len(raw) {
		return nil, fs.ErrNotExist
	}
	return answers.TableOf(raw[:n])
}

// mostTable bounds what a firmware's table holds, bytes.
const mostTable = 1 << 20

// startMode is by which the firmware started the system, "" where that is not told.
func startMode() string {
	if firmwareType.Find() != nil {
		return ""
	}
	var kind uint32
	if ok, _, _ := firmwareType.Call(uintptr(unsafe.Pointer(&kind))); ok == 0 {
		return ""
	}
	return map[uint32]string{1: hardware.BIOS, 2: hardware.UEFI}[kind]
}

// graphics are the names of the display adapters that the system has drivers for.
func graphics() string {
	const class = `SYSTEM\CurrentControlSet\Control\Class\{4d36e968-e325-11ce-bfc1-08002be10318}`
	var names []string
	for n := range 8 {
		k, err := registry.OpenKey(registry.LOCAL_MACHINE, fmt.Sprintf(`%s\%04d`, class, n), registry.QUERY_VALUE)
		if err != nil {
			break
		}
		if s, _, err := k.GetStringValue("DriverDesc"); err == nil && s != "" {
			names = append(names, s)
		}
		k.Close()
	}
	return strings.Join(names, ", ")
}

// driverless are the devices that the system has no driver for; nil if it does not report it.
func driverless() []string {
	set, err := windows.SetupDiGetClassDevsEx(nil, "", 0, windows.DIGCF_ALLCLASSES|windows.DIGCF_PRESENT, 0, "")
	if err != nil {
		return nil
	}
	defer func() { _ = set.Close() }()
	const (
		notConfigured = 1 // CM_PROB_NOT_CONFIGURED
		notInstalled  = 28
	)
	list := []string{}
	for n := 0; ; n++ {
		info, err := set.EnumDeviceInfo(n)
		if err != nil {
			return list
		}
		var status, problem uint32
		if windows.CM_Get_DevNode_Status(&status, &problem, info.DevInst, 0) != nil ||
			status&windows.DN_HAS_PROBLEM == 0 || problem != notConfigured && problem != notInstalled {
			continue
		}
		name := "a device that does not say what it is"
		for _, property := range []windows.SPDRP{windows.SPDRP_FRIENDLYNAME, windows.SPDRP_DEVICEDESC} {
			if v, err := set.DeviceRegistryProperty(info, property); err == nil {
				if s, ok := v.(string); ok && s != "" {
					name = s
					break
				}
			}
		}
		list = append(list, name)
	}
}

func systemFacts(f *hardware.Facts) {
	k, err := registry.OpenKey(registry.LOCAL_MACHINE, `SOFTWARE\Microsoft\Windows NT\CurrentVersion`,
		registry.QUERY_VALUE|registry.WOW64_64KEY)
	if err != nil {
		f.Lacks("system", "its own entry cannot be read")
		return
	}
	defer k.Close()
	text := func(name string) string { s, _, _ := k.GetStringValue(name); return s }
	number := func(name string) uint64 { n, _, _ := k.GetIntegerValue(name); return n }
	build := text("CurrentBuildNumber")
	n, _ := strconv.Atoi(build)
	f.System = hardware.System{Name: answers.WindowsName(text("ProductName"), n),
		Version: cmp.Or(text("DisplayVersion"), text("ReleaseId"), text("CurrentVersion")), Build: build}
	if fix := number("UBR"); fix > 0 && build != "" {
		f.System.Build += "." + strconv.FormatUint(fix, 10)
	}
	if s := number("InstallDate"); s > 0 {
		f.System.Installed = time.Unix(int64(s), 0)
	} else {
		f.Lacks("installed", "the system does not say when it was")
	}
	f.System.StartMode = startMode()
}

// mostDrives bounds the numbers at which drives are looked for.
const mostDrives = 32

// device is a device that can be queried.
type device struct{ h windows.Handle }

// openDevice opens a device by its path, only for queries unless access says more.
func openDevice(path string, access uint32) (device, error) {
	p16, err := windows.UTF16PtrFromString(path)
	if err != nil {
		return device{}, err
	}
	h, err := windows.CreateFile(p16, access, windows.FILE_SHARE_READ|windows.FILE_SHARE_WRITE, nil,
		windows.OPEN_EXISTING, 0, 0)
	return device{h}, err
}

func (d device) close() { _ = windows.CloseHandle(d.h) }

// ask sends a query with a buffer of that many bytes for the answer.
func (d device) ask(code uint32, question []byte, most int) ([]byte, error) {
	answer := make([]byte, most)
	var n uint32
	var in *byte
	if len(question) > 0 {
		in = &question[0]
	}
	if err := windows.DeviceIoControl(d.h, code, in, uint32(len(question)), &answer[0], uint32(most), &n,
		nil); err != nil {
		return nil, err
	}
	return answer[:n], nil
}

// Questions (winioctl.h).
const (
	ioctlStorageQueryProperty   = 0x002D1400
	ioctlStorageGetDeviceNumber = 0x002D1080
	ioctlDiskGetDriveLayoutEx   = 0x00070050
	ioctlATAPassThrough         = 0x0004D02C
)

// Properties of a drive (STORAGE_PROPERTY_ID, ntddstor.h).
const (
	propertyDevice      = 0
	propertyAlignment   = 6
	propertySeekPenalty = 7
	propertyTrim        = 8
	propertyProtocol    = 50
	propertyTemperature = 52
)

// property asks for one of a drive's properties.
func (d device) property(id uint32) ([]byte, error) {
	query := struct{ id, kind, more uint32 }{id: id}
	return d.ask(ioctlStorageQueryProperty, bytesOf(&query), 4096)
}

// bytesOf are the bytes of a structure as the system takes it.
func bytesOf[T any](v *T) []byte {
	return unsafe.Slice((*byte)(unsafe.Pointer(v)), unsafe.Sizeof(*v))
}

// flag asks for a property that says yes or no; nil if the drive does not report it.
func (d device) flag(id uint32) *bool {
	b, err := d.property(id)
	if err != nil {
		return nil
	}
	if yes, err := answers.WindowsFlag(b); err == nil {
		return &yes
	}
	return nil
}

// drivePath is the path by which a drive is asked, and driveName how the facts call it.
func drivePath(n int) string { return `\\.\` + driveName(n) }
func driveName(n int) string { return fmt.Sprintf("PhysicalDrive%d", n) }

// driveFacts adds what the system knows of one of its drives, and what the drive says of its own.
func driveFacts(f *hardware.Facts, n int, links map[int]*job.Link, logs bool) {
	dev, err := openDevice(drivePath(n), 0)
	if err != nil {
		return
	}
	defer dev.close()
	name := driveName(n)
	b, err := dev.property(propertyDevice)
	if err != nil {
		f.Lacks(name, "the system does not say what it is: "+err.Error())
		return
	}
	is, err := answers.WindowsDevice(b)
	if err != nil || is.Virtual {
		return
	}
	d := hardware.Drive{ID: name, Maker: is.Maker, Model: is.Model, Firmware: is.Firmware,
		Kind: is.Kind(dev.flag(propertySeekPenalty)), Trim: dev.flag(propertyTrim),
		SerialDigest: hardware.Digest(is.Maker, is.Model, is.Serial)}
	if b, err := dev.ask(ioctlDiskGetDriveGeometryEx, nil, 4096); err == nil {
		d.CapacityBytes, _ = answers.WindowsCapacity(b)
	}
	if b, err := dev.property(propertyAlignment); err == nil {
		d.LogicalBytes, d.PhysicalBytes, _ = answers.WindowsSectors(b)
	}
	d.TemperatureC, d.MaxTempC = dev.temperature()
	if !logs {
		d.Attached = hardware.AttachedBy(nil, is.Port)
		f.Drives = append(f.Drives, d)
		return
	}
	identity, log, err := dev.itself(n, is, d.LogicalBytes)
	if err == nil {
		d.Health, d.RPM, d.QueueDepth = &log.Health, identity.RPM, identity.QueueDepth
		d.TemperatureC, d.MaxTempC = cmp.Or(d.TemperatureC, log.TemperatureC), cmp.Or(d.MaxTempC, log.MaxTempC)
	} else {
		f.Lacks("health of "+name, err.Error())
	}
	switch {
	case links[n] != nil:
		d.Link = links[n]
	case identity.Link.Negotiated != "":
		d.Link = &identity.Link
	default:
		f.Lacks("link of "+name, "the system does not tell how fast it is, or not without administrator rights")
	}
	d.Attached = hardware.AttachedBy(d.Link, is.Port)
	if is.Grouped {
		f.Lacks("drives behind "+name, "a controller makes it from drives that the system does not see")
	}
	lacking := func(missing bool, what string) {
		if missing {
			f.Lacks(what+" of "+name, "the drive or its bridge does not tell")
		}
	}
	lacking(d.Kind == "", "kind")
	lacking(d.SerialDigest == "", "serial number")
	lacking(d.CapacityBytes == 0, "capacity")
	lacking(d.TemperatureC == nil, "temperature")
	f.Drives = append(f.Drives, d)
	if b, err := dev.ask(ioctlDiskGetDriveLayoutEx, nil, 64<<10); err != nil {
		f.Lacks("partitions of "+name, err.Error())
	} else if list, err := answers.WindowsPartitions(name, b); err != nil {
		f.Lacks("partitions of "+name, err.Error())
	} else {
		f.Partitions = append(f.Partitions, list...)
	}
}

// temperature is a drive's, and the one at which it warns, °C; nil if it does not report it.
func (d device) temperature() (celsius, limit *float64) {
	b, err := d.property(propertyTemperature)
	if err != nil {
		return nil, nil
	}
	celsius, limit, _ = answers.WindowsTemperature(b)
	return celsius, limit
}

// why explains why a drive wasn't queried.
func why(err error) error {
	switch {
	case errors.Is(err, windows.ERROR_ACCESS_DENIED):
		return errors.New("that needs administrator rights")
	case errors.Is(err, windows.ERROR_INVALID_FUNCTION), errors.Is(err, windows.ERROR_NOT_SUPPORTED),
		errors.Is(err, windows.ERROR_INVALID_PARAMETER), errors.Is(err, windows.ERROR_IO_DEVICE):
		return errNoLog
	}
	return err
}

// itself asks a drive for its own log, and an ATA one for what it says of itself, without writing anything to it.
func (d device) itself(n int, is answers.Described, logicalBytes int64) (answers.ATAIdentity, answers.Log, error) {
	switch is.Port {
	case job.PortPCIe:
		l, err := d.nvmeLog()
		return answers.ATAIdentity{}, l, err
	case job.PortSATA:
		// Commands to the drive itself want more than questions about it.
		direct, err := openDevice(drivePath(n), windows.GENERIC_READ|windows.GENERIC_WRITE)
		if err != nil {
			return answers.ATAIdentity{}, answers.Log{}, why(err)
		}
		defer direct.close()
		return direct.ataLog(logicalBytes)
	}
	return answers.ATAIdentity{}, answers.Log{}, errNoLog
}

// protocolQuery is STORAGE_PROPERTY_QUERY with STORAGE_PROTOCOL_SPECIFIC_DATA.
type protocolQuery struct {
	id, kind                                uint32
	protocol, data, request, sub            uint32
	offset, length, fixed, sub2, sub3, sub4 uint32
}

const (
	protocolNVMe      = 3
	nvmeIdentify      = 1
	nvmeLogPage       = 2
	nvmeHealth        = 2
	nvmeOfController  = 1
	protocolSpecifics = 40 // bytes of STORAGE_PROTOCOL_SPECIFIC_DATA
	protocolHead      = 8
)

func (d device) nvme(data, request uint32, bytes int) ([]byte, error) {
	query := protocolQuery{id: propertyProtocol, protocol: protocolNVMe, data: data, request: request,
		offset: protocolSpecifics, length: uint32(bytes)}
	// The system wants room for the answer behind the question too.
	question := append(bytesOf(&query), make([]byte, bytes)...)
	b, err := d.ask(ioctlStorageQueryProperty, question, protocolHead+protocolSpecifics+bytes)
	if err != nil {
		return nil, why(err)
	}
	return answers.WindowsProtocol(b)
}

func (d device) nvmeLog() (answers.Log, error) {
	page, err := d.nvme(nvmeLogPage, nvmeHealth, answers.NVMeHealthPage)
	if err != nil {
		return answers.Log{}, err
	}
	itself, err := d.nvme(nvmeIdentify, nvmeOfController, answers.NVMeIdentifyPage)
	if err != nil {
		itself = nil // its limit is not known then
	}
	return answers.NVMeLog(page, itself)
}

// ataPass is ATA_PASS_THROUGH_EX.
type ataPass struct {
	length, flags            uint16
	path, target, lun, _     uint8
	bytes, timeoutSeconds, _ uint32
	offset                   uintptr
	previous, command        [8]byte // features, count, number, cylinder low and high, device, command
}

// How a command is passed on (ATA_PASS_THROUGH_EX).
const (
	flagReady  = 1 << 0
	flagDataIn = 1 << 1
	flag48Bit  = 1 << 3
)

// ata has an ATA drive send one block.
func (d device) ata(command, feature byte, lba uint64) ([]byte, error) {
	pass := ataPass{flags: flagReady | flagDataIn, bytes: answers.ATAPage, timeoutSeconds: 3,
		command: [8]byte{feature, 1, byte(lba), byte(lba >> 8), byte(lba >> 16), 0, command}}
	if command == ataReadLogExt {
		pass.flags |= flag48Bit
		pass.command[5] = 1 << 6
		pass.previous = [8]byte{2: byte(lba >> 24), 3: byte(lba >> 32), 4: byte(lba >> 40)}
	}
	head := int(unsafe.Sizeof(pass))
	pass.length, pass.offset = uint16(head), uintptr(head)
	b, err := d.ask(ioctlATAPassThrough, append(bytesOf(&pass), make([]byte, answers.ATAPage)...),
		head+answers.ATAPage)
	if err != nil {
		return nil, why(err)
	}
	if len(b) < head+answers.ATAPage {
		return nil, fmt.Errorf("it answers command %#x with too little", command)
	}
	const failed = 1 << 0
	// its status stands where the command stood
	if after := (*ataPass)(unsafe.Pointer(&b[0])); after.command[6]&failed != 0 {
		return nil, fmt.Errorf("it refuses command %#x", command)
	}
	return b[head:], nil
}

func (d device) ataLog(logicalBytes int64) (answers.ATAIdentity, answers.Log, error) {
	var identity answers.ATAIdentity
	if page, err := d.ata(ataIdentify, 0, 0); err == nil {
		words := make([]uint16, answers.WordsOfIdentity)
		for i := range words {
			words[i] = binary.LittleEndian.Uint16(page[2*i:])
		}
		identity, _ = answers.ReadATAIdentity(words)
	}
	l, err := ataLogBy(d.ata, logicalBytes)
	return identity, l, err
}

// volumeFacts adds the volumes that have a letter, with the drive on which they lie.
func volumeFacts(f *hardware.Facts) {
	letters, err := windows.GetLogicalDrives()
	if err != nil {
		f.Lacks("volumes", err.Error())
		return
	}
	system := ""
	if dir, err := windows.GetSystemDirectory(); err == nil && len(dir) > 1 {
		system = strings.ToUpper(dir[:2])
	}
	for ; letters != 0; letters &= letters - 1 {
		mount := string(rune('A'+bits.TrailingZeros32(letters))) + ":"
		root, _ := windows.UTF16PtrFromString(mount + `\`)
		if kind := windows.GetDriveType(root); kind != windows.DRIVE_FIXED && kind != windows.DRIVE_REMOVABLE {
			continue
		}
		v := hardware.Volume{Mount: mount, System: mount == system}
		var name [64]uint16
		if windows.GetVolumeInformation(root, nil, 0, nil, nil, nil, &name[0], uint32(len(name))) != nil {
			continue // nothing lies in it
		}
		v.FileSystem = strings.ToLower(windows.UTF16ToString(name[:]))
		var free, total uint64
		if windows.GetDiskFreeSpaceEx(root, nil, &total, &free) == nil {
			v.SizeBytes, v.UsedBytes = int64(total), int64(total-free)
		}
		v.Encrypted, _ = protection(mount)
		v.EncryptingPct = encryptingPct(mount + `\`)
		if v.Encrypted == nil {
			f.Lacks("encryption of "+mount, "the system does not tell")
		}
		if drives, start, err := extentsOf(mount); err != nil {
			f.Lacks("drive of "+mount, "the system does not say on which it lies")
		} else {
			v.Drive = driveName(int(drives[0]))
			for i := range f.Partitions {
				if p := &f.Partitions[i]; p.Drive == v.Drive && p.StartBytes == start {
					v.Partition, p.UsedBytes = p.Number, v.UsedBytes
				}
			}
			if len(drives) > 1 {
				f.Lacks("drive of "+mount, fmt.Sprintf("it lies on %d of them", len(drives)))
			}
		}
		f.Volumes = append(f.Volumes, v)
	}
}

// extentsOf tells on which drives a volume lies, and where on the first it begins.
func extentsOf(mount string) ([]uint32, int64, error) {
	v, err := openDevice(`\\.\`+mount, 0)
	if err != nil {
		return nil, 0, err
	}
	defer v.close()
	b, err := v.ask(ioctlVolumeGetDiskExtents, nil, 8+24*mostDrives)
	if err != nil {
		return nil, 0, err
	}
	return answers.WindowsExtents(b)
}
