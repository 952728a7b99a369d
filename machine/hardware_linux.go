package machine

import (
	"cmp"
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"golang.org/x/sys/unix"

	"nowthen/core/hardware"
	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

// Hardware says what the system reports of this computer and its drives.
func Hardware(ctx context.Context) *hardware.Facts {
	f := root("/").facts(statfs, driveLog)
	addStarts(ctx, f)
	return f
}

// board is what the board's maker wrote into it, as it is there.
func board() (maker, model, bios string) {
	const dmi = "/sys/class/dmi/id/"
	return read(dmi + "sys_vendor"), read(dmi + "product_name"), read(dmi + "bios_version")
}

// attached are the other drives, sticks and docks that hang on this computer while a folder is
// measured in; nil where the
// folder's own drive is not known.
func attached(dir string) []string { return root("/").attached(dir, statfs) }

func (t root) attached(dir string, size func(string) (int64, int64)) []string {
	f := t.facts(size, func(*hardware.Drive) (answers.Log, error) { return answers.Log{}, errNoLog })
	names, ok := f.Beside(dir)
	if !ok {
		return nil
	}
	const hub = "09"
	for _, d := range t.glob("/sys/bus/usb/devices/*") {
		// A removable hub is a dock; the others are on the board.
		if read(d+"/bDeviceClass") == hub && read(d+"/removable") == "removable" {
			names = append(names,
				cmp.Or(strings.TrimSpace(read(d+"/manufacturer")+" "+read(d+"/product")), "a dock")+" (USB)")
		}
	}
	slices.Sort(names)
	return names
}

// firmwareSettings are those of the firmware that the system sees; this one has no quick start of its own.
func firmwareSettings() (quickStart *bool, storageMode string) { return nil, root("/").storageMode() }

// storageModes are in which a SATA controller shows itself, by its class of PCI.
var storageModes = map[string]string{"0x0101": "IDE", "0x0104": "RAID", "0x0106": "AHCI"}

// storageMode is how the firmware has set the SATA controllers, "" where there is none.
func (t root) storageMode() string {
	var modes []string
	for _, class := range t.glob("/sys/bus/pci/devices/*/class") {
		if c := read(class); len(c) >= 6 && storageModes[c[:6]] != "" && !slices.Contains(modes, storageModes[c[:6]]) {
			modes = append(modes, storageModes[c[:6]])
		}
	}
	slices.Sort(modes)
	return strings.Join(modes, ", ")
}

// root is where the system's files are: "/", or those of a recorded computer.
type root string

func (t root) at(path string) string        { return filepath.Join(string(t), path) }
func (t root) read(path string) string      { return read(t.at(path)) }
func (t root) glob(pattern string) []string { found, _ := filepath.Glob(t.at(pattern)); return found }
func (t root) resolve(path string) string   { real, _ := filepath.EvalSymlinks(t.at(path)); return real }
func (t root) number(path string) int64     { n, _ := strconv.ParseInt(t.read(path), 10, 64); return n }
func readNumber(path string) (int64, bool) {
	n, err := strconv.ParseInt(read(path), 10, 64)
	return n, err == nil
}
func statfs(mount string) (size, used int64) {
	var st unix.Statfs_t
	if unix.Statfs(mount, &st) != nil {
		return 0, 0
	}
	return int64(st.Blocks) * int64(st.Bsize), int64(st.Blocks-st.Bfree) * int64(st.Bsize)
}

// facts reads all of it. size reports how large a mounted volume is and how much of it is
// used, log what a drive says of its own.
func (t root) facts(size func(mount string) (size, used int64),
	log func(*hardware.Drive) (answers.Log, error)) *hardware.Facts {
	f := &hardware.Facts{Drives: []hardware.Drive{}, Volumes: []hardware.Volume{}, Partitions: []hardware.Partition{},
		Absent: []hardware.Absence{}}
	t.computer(f)
	t.system(f)
	for _, dir := range t.glob("/sys/block/*") {
		name := filepath.Base(dir)
		if d, ok := t.drive(f, name); ok {
			logged(f, &d, log)
			f.Drives = append(f.Drives, d)
			t.partitions(f, name)
		}
	}
	t.volumes(f, size)
	f.Driverless = t.driverless()
	t.slots(f)
	if len(f.Drives) == 0 {
		f.Lacks("drives", "the system shows no block device that is a drive")
	}
	return f
}

// wantDriver are the kinds of devices on PCI that do nothing without a driver, by the first of
// their class's bytes; of bridges and
// the board's own helpers many never have one.
var wantDriver = map[string]string{"0x01": "a storage controller", "0x02": "a network card", "0x03": "graphics",
	"0x04": "sound or video", "0x0c03": "a USB controller"}

// driverless are the devices on PCI that have no driver and should; nil where the system shows none at all.
func (t root) driverless() []string {
	devices := t.glob("/sys/bus/pci/devices/*")
	if len(devices) == 0 {
		return nil
	}
	list := []string{}
	for _, d := range devices {
		class := read(d + "/class")
		what := ""
		for prefix, words := range wantDriver {
			if strings.HasPrefix(class, prefix) {
				what = words
			}
		}
		if what == "" {
			continue
		}
		if _, err := os.Stat(d + "/driver"); errors.Is(err, fs.ErrNotExist) {
			list = append(list, fmt.Sprintf("%s (PCI %s:%s)", what, strings.TrimPrefix(read(d+"/vendor"), "0x"),
				strings.TrimPrefix(read(d+"/device"), "0x")))
		}
	}
	return list
}

// slots reads what the board's firmware reports of its slots, and how it started the system.
func (t root) slots(f *hardware.Facts) {
	switch _, err := os.Stat(t.at("/sys/firmware/efi")); {
	case err == nil:
		f.System.StartMode = hardware.UEFI
	case len(t.glob("/sys/class/dmi/id/*")) > 0: // a board of that kind knows no third way
		f.System.StartMode = hardware.BIOS
	}
	table, err := os.ReadFile(t.at("/sys/firmware/dmi/tables/DMI"))
	slotsFrom(f, table, err)
}

func (t root) computer(f *hardware.Facts) {
	const dmi = "/sys/class/dmi/id/"
	c := &f.Computer
	c.Maker, c.Model, c.Firmware = hardware.Given(t.read(dmi+"sys_vendor")), hardware.Given(t.read(dmi+"product_name")),
		hardware.Given(t.read(dmi+"bios_version"))
	if c.Model == "" {
		c.Model = strings.TrimRight(t.read("/proc/device-tree/model"), "\x00")
	}
	if c.Maker == "" && c.Model == "" {
		f.Lacks("maker and model", "the firmware does not tell")
	}
	cores := map[string]bool{}
	socket := ""
	for _, line := range strings.Split(t.read("/proc/cpuinfo"), "\n") {
		name, value, _ := strings.Cut(line, ":")
		value = strings.TrimSpace(value)
		switch strings.TrimSpace(name) {
		case "model name":
			c.Processor = strings.Join(strings.Fields(value), " ")
		case "physical id":
			socket = value
		case "core id":
			cores[socket+"/"+value] = true
		}
	}
	c.Cores = len(cores)
	if c.Processor == "" {
		f.Lacks("processor", "the system does not name it")
	}
	for _, line := range strings.Split(t.read("/proc/meminfo"), "\n") {
		if kib, ok := strings.CutPrefix(line, "MemTotal:"); ok {
			n, _ := strconv.ParseInt(strings.TrimSuffix(strings.TrimSpace(kib), " kB"), 10, 64)
			c.MemoryBytes = n << 10
		}
	}
	f.Lacks("graphics", "the system knows it by its number only")
}

func (t root) system(f *hardware.Facts) {
	release := t.read("/etc/os-release")
	if release == "" {
		release = t.read("/usr/lib/os-release")
	}
	for _, line := range strings.Split(release, "\n") {
		key, value, _ := strings.Cut(line, "=")
		value = strings.Trim(value, `"'`)
		switch key {
		case "NAME":
			f.System.Name = value
		case "VERSION_ID":
			f.System.Version = value
		}
	}
	f.System.Build = t.read("/proc/sys/kernel/osrelease")
	if f.System.Name == "" {
		f.Lacks("system", "it has no os-release file")
	}
	var st unix.Statx_t
	if err := unix.Statx(unix.AT_FDCWD, t.at("/"), 0, unix.STATX_BTIME, &st); err == nil &&
		st.Mask&unix.STATX_BTIME != 0 && st.Btime.Sec > 0 {
		f.System.Installed = time.Unix(st.Btime.Sec, 0)
	} else {
		f.Lacks("installed", "the file system does not say when it was made")
	}
}

// layers are block devices that are not drives: maps, loops, memory.
var layers = []string{"loop", "ram", "zram", "dm-", "md", "sr", "fd", "nbd", "rbd"}

func (t root) drive(f *hardware.Facts, name string) (hardware.Drive, bool) {
	dir := "/sys/block/" + name
	sectors := t.number(dir + "/size")
	if sectors == 0 || slices.ContainsFunc(layers, func(p string) bool { return strings.HasPrefix(name, p) }) ||
		strings.Contains(name, "boot") {
		return hardware.Drive{}, false
	}
	real := t.resolve(dir)
	d := hardware.Drive{ID: name, CapacityBytes: sectors * 512,
		LogicalBytes: t.number(dir + "/queue/logical_block_size"), PhysicalBytes: t.number(dir +
			"/queue/physical_block_size"),
		Maker: t.read(dir + "/device/vendor"), Model: t.read(dir +
			"/device/model"), QueueDepth: int(t.number(dir + "/device/queue_depth"))}
	d.Firmware = cmp.Or(t.read(dir+"/device/firmware_rev"), t.read(dir+"/device/rev"), t.read(dir+"/device/fwrev"))
	if d.Maker == "ATA" || strings.HasPrefix(d.Maker, "0x") {
		d.Maker = "" // the way it hangs there, or a number
	}
	d.RPM = t.turningSpeed(dir)
	turns, known := readNumber(t.at(dir + "/queue/rotational"))
	usb := strings.Contains(real, "/usb")
	switch {
	case strings.HasPrefix(name, "nvme"):
		d.Kind = job.NVMe
	case strings.HasPrefix(name, "mmcblk"):
		d.Kind = job.EMMC
		d.Model = cmp.Or(d.Model, t.read(dir+"/device/name"))
	case strings.HasPrefix(name, "vd"):
		f.Lacks("kind of "+name, "it is a virtual machine's")
	case known && turns == 1:
		d.Kind = job.HDD
	case known && usb && t.read(dir+"/removable") == "1":
		d.Kind = job.USBFlash
	case known:
		d.Kind = job.SataSSD
	default:
		f.Lacks("kind of "+name, "the system does not say whether it turns")
	}
	if most, ok := readNumber(t.at(dir + "/queue/discard_max_bytes")); ok {
		trims := most > 0
		d.Trim = &trims
	}
	switch t.read(dir + "/queue/write_cache") {
	case "write back":
		on := true
		d.WriteCache = &on
	case "write through":
		off := false
		d.WriteCache = &off
	}
	d.SerialDigest = hardware.Digest(d.Maker, d.Model, t.serial(dir))
	if d.SerialDigest == "" {
		f.Lacks("serial number of "+name, "the drive or its bridge does not tell, or not without administrator rights")
	}
	d.Link = t.link(dir, real, &d)
	var port job.Port
	if d.Link != nil {
		port = d.Link.Kind
	} else {
		f.Lacks("link of "+name, "the system does not tell how fast it is")
	}
	d.Attached = hardware.AttachedBy(d.Link, port)
	for _, pattern := range []string{dir + "/device/hwmon/hwmon*/temp1_input", dir + "/device/hwmon*/temp1_input"} {
		for _, input := range t.glob(pattern) {
			if milli, ok := readNumber(input); ok {
				c := float64(milli) / 1000
				d.TemperatureC = &c
			}
			// What it is to stay below, or else what it gives up at.
			for _, limit := range []string{"temp1_max", "temp1_crit"} {
				if milli, ok := readNumber(filepath.Join(filepath.Dir(input), limit)); ok && milli > 0 {
					c := float64(milli) / 1000
					d.MaxTempC = &c
					break
				}
			}
		}
	}
	return d, true
}

// turningSpeed is how often a disk turns a minute, as its page of block device characteristics says (SCSI Block
// Commands 4, 6.6.2, bytes 4 and 5); 0 where it doesn't turn or doesn't report it.
func (t root) turningSpeed(dir string) int {
	page, err := os.ReadFile(t.at(dir + "/device/vpd_pgb1"))
	if err != nil || len(page) < 6 {
		return 0
	}
	if n := int(page[4])<<8 | int(page[5]); n >= 0x0401 && n <= 0xFFFE {
		return n
	}
	return 0
}

// logged adds what a drive's own log says of it; what the system reads of its sensor stands.
func logged(f *hardware.Facts, d *hardware.Drive, log func(*hardware.Drive) (answers.Log, error)) {
	if l, err := log(d); err == nil {
		d.Health = &l.Health
		if d.TemperatureC == nil {
			d.TemperatureC = l.TemperatureC
		}
		if d.MaxTempC == nil {
			d.MaxTempC = l.MaxTempC
		}
	} else {
		f.Lacks("health of "+d.ID, err.Error())
	}
	if d.TemperatureC == nil {
		f.Lacks("temperature of "+d.ID, "it has no sensor that the system reads")
	}
}

// serial is a drive's serial number, which leaves this package as a digest alone.
func (t root) serial(dir string) string {
	if s := cmp.Or(t.read(dir+"/device/serial"), t.read(dir+"/device/wwid"), t.read(dir+"/wwid")); s != "" {
		return s
	}
	// The unit serial number page of SCSI: four bytes of head, then text.
	if page, err := os.ReadFile(t.at(dir + "/device/vpd_pg80")); err == nil && len(page) > 4 {
		return strings.TrimSpace(string(page[4:]))
	}
	return ""
}

// generations of PCIe by the rate that the system names, GT/s.
var generations = map[string]string{"2.5": "1.0", "5": "2.0", "5.0": "2.0", "8": "3.0", "8.0": "3.0", "16.0": "4.0",
	"16": "4.0", "32.0": "5.0", "32": "5.0"}

// link is how drive and port communicate, and what both can do.
func (t root) link(dir, real string, d *hardware.Drive) *job.Link {
	switch {
	case d.Kind == job.NVMe:
		return t.pcieLink(t.resolve(dir + "/device/device"))
	case d.Kind == job.EMMC:
		return nil // its mode stands in the kernel's debugging files alone
	case strings.Contains(real, "/usb"):
		for at := filepath.Dir(real); len(at) > len(string(t)); at = filepath.Dir(at) {
			if mbit := read(at + "/speed"); mbit != "" {
				return &job.Link{Kind: "usb",
					Negotiated: map[string]string{"480": "2.0", "5000": "5 Gb/s", "10000": "10 Gb/s",
						"20000": "20 Gb/s"}[mbit]}
			}
		}
	case strings.Contains(real, "/ata"):
		return t.sataLink(real)
	}
	return nil
}

// pcieLink reads a device's link; what its port can do is at the bridge above it.
func (t root) pcieLink(device string) *job.Link {
	name := func(dir, of string) string {
		rate, _, _ := strings.Cut(read(dir+"/"+of+"_link_speed"), " ")
		lanes := read(dir + "/" + of + "_link_width")
		generation := generations[rate]
		if generation == "" || lanes == "" || lanes == "0" {
			return ""
		}
		return generation + " x" + lanes
	}
	l := &job.Link{Kind: "pcie", Negotiated: name(device, "current"), Drive: name(device, "max"),
		Port: name(filepath.Dir(device), "max")}
	if l.Negotiated == "" {
		return nil
	}
	return l
}

// sataLink reads a port's link, and from what the drive said of itself (ATA, word 76 of
// its identification) the fastest that it can do.
func (t root) sataLink(real string) *job.Link {
	at := strings.Index(real, "/ata")
	port, _, _ := strings.Cut(real[at+1:], "/")
	number := strings.TrimPrefix(port, "ata")
	rate := func(text string) string {
		return map[string]string{"1.5 Gbps": "1.5 Gb/s", "3.0 Gbps": "3 Gb/s", "6.0 Gbps": "6 Gb/s"}[text]
	}
	dir := "/sys/class/ata_link/link" + number
	l := &job.Link{Kind: "sata", Negotiated: rate(t.read(dir + "/sata_spd")),
		Port: rate(t.read(dir + "/hw_sata_spd_limit"))}
	words := strings.Fields(t.read("/sys/class/ata_device/dev" + number + ".0/id"))
	if len(words) > 76 {
		if word, err := hex.DecodeString(words[76]); err == nil && len(word) == 2 {
			for bit, name := range map[int]string{3: "6 Gb/s", 2: "3 Gb/s", 1: "1.5 Gb/s"} {
				if word[1]&(1<<bit) != 0 && job.Carries("sata", name) > job.Carries("sata", l.Drive) {
					l.Drive = name
				}
			}
		}
	}
	if l.Negotiated == "" {
		return nil
	}
	return l
}

func (t root) partitions(f *hardware.Facts, name string) {
	var list []hardware.Partition
	for _, dir := range t.glob("/sys/block/" + name + "/" + name + "*") {
		number, ok := readNumber(dir + "/partition")
		if !ok {
			continue
		}
		start, _ := readNumber(dir + "/start")
		size, _ := readNumber(dir + "/size")
		p := hardware.Partition{Drive: name, Number: int(number), StartBytes: start * 512, SizeBytes: size * 512}
		for _, line := range strings.Split(t.read("/run/udev/data/b"+read(dir+"/dev")), "\n") {
			if v, ok := strings.CutPrefix(line, "E:ID_PART_ENTRY_TYPE="); ok {
				p.Type = v
			}
			if v, ok := strings.CutPrefix(line, "E:ID_PART_ENTRY_NAME="); ok {
				p.Name = strings.ReplaceAll(v, `\x20`, " ")
			}
		}
		if p.Type == "" {
			f.Lacks(fmt.Sprintf("type of partition %d of %s", number, name), "the system's device manager does not say")
		}
		list = append(list, p)
	}
	slices.SortFunc(list, func(a, b hardware.Partition) int { return a.Number - b.Number })
	f.Partitions = append(f.Partitions, list...)
}

// volumes are the mounted file systems that lie on drives.
func (t root) volumes(f *hardware.Facts, size func(string) (int64, int64)) {
	seen := map[string]bool{}
	for _, line := range strings.Split(t.read("/proc/self/mounts"), "\n") {
		field := strings.Fields(line)
		if len(field) < 3 || !strings.HasPrefix(field[0], "/dev/") || seen[field[0]] {
			continue
		}
		seen[field[0]] = true
		v := hardware.Volume{Mount: unescapeMount(field[1]), FileSystem: field[2], System: field[1] == "/"}
		v.SizeBytes, v.UsedBytes = size(v.Mount)
		device := filepath.Base(t.resolve(field[0]))
		if device == "." || device == "" {
			device = filepath.Base(field[0])
		}
		drive, partition, crypt := t.lies(device, 0)
		if v.Combined = t.combined(device); v.Combined != nil {
			if at := slices.IndexFunc(v.Combined.Members,
				func(m hardware.Member) bool { return m.Role == hardware.AsData }); at >= 0 {
				drive, partition = v.Combined.Members[at].Drive, v.Combined.Members[at].Partition
			}
		}
		v.Drive, v.Partition, v.Encrypted = drive, partition, &crypt
		if drive == "" {
			v.Encrypted = nil
			f.Lacks("drive of "+v.Mount, "the system does not say on which it lies")
		}
		f.Volumes = append(f.Volumes, v)
		for i := range f.Partitions {
			if p := &f.Partitions[i]; p.Drive == drive && p.Number == partition {
				p.UsedBytes = v.UsedBytes
			}
		}
	}
}

// unescapeMount undoes the kernel's escapes of blanks.
func unescapeMount(s string) string {
	return strings.NewReplacer(`\040`, " ", `\011`, "\t", `\134`, `\`).Replace(s)
}

// combined are the drives of a block device that is on several: an array, a cache of bcache, or a cached logical
// volume; nil where it is on one.
func (t root) combined(device string) *hardware.Combined {
	c := &hardware.Combined{Kind: hardware.CombinedArray}
	t.members(device, "", 0, c)
	for _, m := range c.Members {
		if m.Role != "" {
			c.Kind = hardware.CombinedCache
		}
	}
	if len(c.Members) < 2 {
		return nil
	}
	return c
}

// mappedTable is what the device mapper says of one of its devices; "" where it doesn't, as without administrator
// rights.
var mappedTable = func(name string) string {
	out, _ := exec.Command("dmsetup", "table", name).Output()
	return string(out)
}

// members collects the drives below a block device, each with what it is in a cache.
func (t root) members(device, role string, depth int, c *hardware.Combined) {
	dir := "/sys/class/block/" + device
	if depth > layersAtMost || t.resolve(dir) == "" {
		return
	}
	// What bcache caches with is a member of a set; what it caches has the device itself.
	switch {
	case t.resolve(dir+"/bcache/set") != "":
		role = hardware.AsCache
	case t.resolve(dir+"/bcache/dev") != "":
		role = hardware.AsData
	}
	// Of a cached logical volume the origin holds the data, the pool's two parts are the cache.
	switch name := t.read(dir + "/dm/name"); {
	case strings.HasSuffix(name, "_corig"):
		role = hardware.AsData
	case strings.HasSuffix(name, "_cdata"), strings.HasSuffix(name, "_cmeta"), strings.HasSuffix(name, "_cvol"):
		role = hardware.AsCache
	}
	below := t.glob(dir + "/slaves/*")
	var roles map[string]string
	if name := t.read(dir + "/dm/name"); name != "" && len(below) > 1 {
		roles = answers.MappedCache(mappedTable(name))
	}
	for _, lower := range below {
		t.members(filepath.Base(lower), cmp.Or(roles[t.read(dir+"/slaves/"+filepath.Base(lower)+"/dev")], role),
			depth+1, c)
	}
	if len(below) > 0 {
		return
	}
	m := hardware.Member{Drive: device, Role: role}
	if number, ok := readNumber(t.at(dir + "/partition")); ok {
		m.Drive, m.Partition = filepath.Base(filepath.Dir(t.resolve(dir))), int(number)
	}
	if !slices.Contains(c.Members, m) {
		c.Members = append(c.Members, m)
	}
}

// lies tells on which drive and partition a block device lies, and whether it is encrypted
// on the way there.
func (t root) lies(device string, depth int) (drive string, partition int, crypt bool) {
	dir := "/sys/class/block/" + device
	if depth > layersAtMost || t.resolve(dir) == "" {
		return "", 0, false
	}
	crypt = strings.HasPrefix(t.read(dir+"/dm/uuid"), "CRYPT-")
	for _, lower := range t.glob(dir + "/slaves/*") {
		drive, partition, below := t.lies(filepath.Base(lower), depth+1)
		if drive != "" {
			return drive, partition, crypt || below
		}
	}
	if number, ok := readNumber(t.at(dir + "/partition")); ok {
		return filepath.Base(filepath.Dir(t.resolve(dir))), int(number), crypt
	}
	return device, 0, crypt
}
