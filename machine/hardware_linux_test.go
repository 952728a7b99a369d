package machine

import (
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/hardware"
	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

// recorded is a made-up computer as a system's files show it: what is in which, and
// links from one place to another.
type recorded struct {
	t     *testing.T
	files map[string]string
	links map[string]string
}

func (r recorded) root() root {
	dir, err := filepath.EvalSymlinks(r.t.TempDir())
	require.NoError(r.t, err)
	for path, text := range r.files {
		require.NoError(r.t, os.MkdirAll(filepath.Dir(filepath.Join(dir, path)), 0o755))
		require.NoError(r.t, os.WriteFile(filepath.Join(dir, path), []byte(text+"\n"), 0o600))
	}
	for from, to := range r.links {
		require.NoError(r.t, os.MkdirAll(filepath.Dir(filepath.Join(dir, from)), 0o755))
		require.NoError(r.t, os.MkdirAll(filepath.Join(dir, to), 0o755))
		require.NoError(r.t, os.Symlink(filepath.Join(dir, to), filepath.Join(dir, from)))
	}
	return root(dir)
}

// noLog is of drives that keep none.
func noLog(*hardware.Drive) (answers.Log, error) { return answers.Log{}, errNoLog }

func (r recorded) facts() *hardware.Facts {
	return r.root().facts(func(mount string) (int64, int64) { return 500e9, 200e9 }, noLog)
}

func ofDrive(t *testing.T, f *hardware.Facts, id string) hardware.Drive {
	t.Helper()
	for _, d := range f.Drives {
		if d.ID == id {
			return d
		}
	}
	t.Fatalf("there is no drive %s", id)
	return hardware.Drive{}
}

// lacking are the things that could not be learnt.
func lacking(f *hardware.Facts) string {
	var what []string
	for _, a := range f.Absent {
		what = append(what, a.What)
	}
	return strings.Join(what, "; ")
}

// A laptop with one SATA disk on a slower port, its root encrypted under a logical volume.
func laptop(t *testing.T) recorded {
	const dev = "/sys/devices/pci0000:00/ata1/host0/block/sda"
	words := strings.Repeat("0000 ", 76) + "000e" // 1.5, 3 and 6 Gb/s
	return recorded{t, map[string]string{
		"/sys/class/dmi/id/sys_vendor": "Larkfield", "/sys/class/dmi/id/product_name": "Hearth 15", "/sys/class/dmi/id/bios_version": "1.07",
		"/proc/cpuinfo": "processor : 0\nmodel name : Oxbow  C2 @ 2.30GHz\nphysical id : 0\ncore id : " +
			"0\n\nprocessor : 1\nmodel name : Oxbow  C2 @ 2.30GHz\nphysical id : 0\ncore id : 1\n\nprocessor : " +
			"2\ncore id : 0",
		"/proc/meminfo":   "MemTotal:        8053064 kB\nMemFree: 1 kB",
		"/etc/os-release": "NAME=\"Hillside\"\nVERSION_ID=\"11\"", "/proc/sys/kernel/osrelease": "6.1.0-9",
		dev + "/size": "1250263728", dev + "/queue/logical_block_size": "512", dev +
			"/queue/physical_block_size": "4096", dev + "/queue/rotational": "1", dev + "/queue/discard_max_bytes": "0",
		dev + "/device/vendor": "ATA", dev + "/device/model": "Turnstone 640", dev + "/device/rev": "0B", dev +
			"/device/queue_depth": "32", dev + "/device/wwid": "t10.ATA serial 4711",
		dev + "/device/hwmon/hwmon2/temp1_input": "38000", dev + "/device/hwmon/hwmon2/temp1_crit": "60000",
		dev + "/sda1/partition": "1", dev + "/sda1/start": "2048", dev + "/sda1/size": "1048576", dev +
			"/sda1/dev": "8:1",
		dev + "/sda2/partition": "2", dev + "/sda2/start": "1050624", dev + "/sda2/size": "1249211392", dev +
			"/sda2/dev": "8:2",
		"/run/udev/data/b8:1":                         "S:disk\nE:ID_PART_ENTRY_TYPE=c12a7328-f81f-11d2-ba4b-00a0c93ec93b\nE:ID_PART_ENTRY_NAME=EFI\\x20System",
		"/sys/devices/virtual/block/dm-0/dm/uuid":     "CRYPT-LUKS2-abc",
		"/sys/devices/virtual/block/dm-1/dm/uuid":     "LVM-xyz",
		"/sys/devices/virtual/block/dm-1/size":        "1249000000",
		"/sys/class/ata_link/link1/sata_spd":          "3.0 Gbps",
		"/sys/class/ata_link/link1/hw_sata_spd_limit": "3.0 Gbps",
		"/sys/class/ata_device/dev1.0/id":             words,
		"/proc/self/mounts": "sysfs /sys sysfs rw 0 0\n/dev/mapper/hill-root / ext4 rw 0 " +
			"0\n/dev/sda1 /boot/efi vfat rw 0 0\n/dev/mapper/hill-root /var ext4 rw 0 0",
		"/dev/placeholder": "",
	}, map[string]string{
		"/sys/block/sda": dev, "/sys/class/block/sda": dev, "/sys/class/block/sda1": dev +
			"/sda1", "/sys/class/block/sda2": dev + "/sda2",
		"/sys/class/block/dm-0": "/sys/devices/virtual/block/dm-0", "/sys/class/block/dm-1": "/sys/devices/virtual/block/dm-1", "/sys/block/dm-1": "/sys/devices/virtual/block/dm-1",
		"/sys/devices/virtual/block/dm-1/slaves/dm-0": "/sys/devices/virtual/block/dm-0", "/sys/devices/virtual/block/dm-0/slaves/sda2": dev + "/sda2",
		"/dev/mapper/hill-root": "/dev/dm-1",
	}}
}

func TestALaptopOnASlowerPort(t *testing.T) {
	f := laptop(t).facts()
	assert.Equal(t, hardware.Computer{Maker: "Larkfield", Model: "Hearth 15", Firmware: "1.07",
		Processor: "Oxbow C2 @ 2.30GHz", Cores: 2, MemoryBytes: 8053064 << 10}, f.Computer)
	assert.Equal(t, "Hillside", f.System.Name)
	assert.Equal(t, "11", f.System.Version)
	assert.Equal(t, "6.1.0-9", f.System.Build)
	require.Len(t, f.Drives, 1, "a map is no drive")
	d := ofDrive(t, f, "sda")
	assert.Equal(t, job.HDD, d.Kind)
	assert.Empty(t, d.Maker, "ATA is no maker")
	assert.Equal(t, "Turnstone 640", d.Model)
	assert.Equal(t, int64(1250263728*512), d.CapacityBytes)
	assert.EqualValues(t, 4096, d.PhysicalBytes)
	assert.Equal(t, 32, d.QueueDepth)
	assert.False(t, *d.Trim)
	assert.Equal(t, &job.Link{Kind: "sata", Negotiated: "3 Gb/s", Drive: "6 Gb/s", Port: "3 Gb/s"}, d.Link)
	assert.Equal(t, &job.Attached{Port: "sata", LinkMBs: 300, CapableMBs: 300}, d.Attached)
	assert.Equal(t, 38.0, *d.TemperatureC)
	assert.Equal(t, 60.0, *d.MaxTempC)
	assert.Len(t, d.SerialDigest, 24)
	assert.NotContains(t, d.SerialDigest, "4711")
	require.Len(t, f.Partitions, 2)
	assert.Equal(t, "EFI System", f.Partitions[0].Name)
	assert.EqualValues(t, 2048*512, f.Partitions[0].StartBytes)
	assert.Contains(t, lacking(f), "type of partition 2 of sda")
	assert.Nil(t, f.Slots)
	assert.Contains(t, lacking(f), "slots")
	assert.Equal(t, hardware.BIOS, f.System.StartMode)
	require.Len(t, f.Volumes, 2, "one that is mounted twice counts once")
	home := f.Volumes[0]
	assert.True(t, home.System)
	assert.Equal(t, "sda", home.Drive)
	assert.Equal(t, 2, home.Partition)
	assert.True(t, *home.Encrypted, "under the logical volume it is encrypted")
	assert.False(t, *f.Volumes[1].Encrypted)
	assert.EqualValues(t, 200e9, f.Partitions[1].UsedBytes)
}

// What the board's firmware tells of its slots, and by which mode it started the system.
func TestTheSlotsOfABoard(t *testing.T) {
	r := laptop(t)
	r.files["/sys/firmware/efi/fw_platform_size"] = "64"
	r.files["/sys/firmware/dmi/tables/DMI"] = "\x09\x0d\x01\x00\x01\x17\x0a\x03\x03\x00\x00\x0c\x01M2_1\x00\x00\x7f\x04\x02\x00\x00\x00"
	f := r.facts()
	free := false
	assert.Equal(t, []hardware.Slot{{Name: "M2_1", Kind: hardware.SlotM2, Key: "M", Lanes: 4, Used: &free}}, f.Slots)
	assert.Equal(t, hardware.UEFI, f.System.StartMode)
	assert.NotContains(t, lacking(f), "slots")

	r.files["/sys/firmware/dmi/tables/DMI"] = "\x09\x0d"
	f = r.facts()
	assert.Nil(t, f.Slots)
	assert.Contains(t, lacking(f), "slots")
}

// A tower with two NVMe drives, one on half its lanes, and an SSD in a USB case.
func TestATowerWithHalfTheLanes(t *testing.T) {
	r := recorded{t, map[string]string{}, map[string]string{}}
	for i, lanes := range []string{"4", "2"} {
		n := string(rune('0' + i))
		bridge := "/sys/devices/pci0000:00/0000:00:1" + n + ".0"
		pci := bridge + "/0000:0" + n + ":00.0"
		dev := pci + "/nvme/nvme" + n + "/nvme" + n + "n1"
		for file, text := range map[string]string{"size": "1875385008", "queue/rotational": "0",
			"queue/discard_max_bytes": "2199023255040", "queue/logical_block_size": "512", "queue/physical_block_size": "512",
			"device/model": "Merlin N4 960", "device/serial": "M" +
				n, "device/firmware_rev": "2.1", "device/hwmon1/temp1_input": "41850"} {
			r.files[dev+"/"+file] = text
		}
		r.files[pci+"/current_link_speed"], r.files[pci+"/current_link_width"] = "16.0 GT/s PCIe", lanes
		r.files[pci+"/max_link_speed"], r.files[pci+"/max_link_width"] = "16.0 GT/s PCIe", "4"
		r.files[bridge+"/max_link_speed"], r.files[bridge+"/max_link_width"] = "16.0 GT/s PCIe", lanes
		r.links["/sys/block/nvme"+n+"n1"] = dev
		r.links[dev+"/device/device"] = pci
	}
	usb := "/sys/devices/pci0000:00/0000:00:14.0/usb2/2-1"
	dev := usb + "/2-1:1.0/host4/block/sdb"
	r.files[usb+"/speed"] = "5000"
	for file, text := range map[string]string{"size": "1875385008", "queue/rotational": "0", "removable": "0",
		"device/vendor": "Brightwater", "device/model": "Case"} {
		r.files[dev+"/"+file] = text
	}
	r.links["/sys/block/sdb"] = dev
	f := r.facts()
	require.Len(t, f.Drives, 3)
	whole, half := ofDrive(t, f, "nvme0n1"), ofDrive(t, f, "nvme1n1")
	assert.Equal(t, job.NVMe, whole.Kind)
	assert.Equal(t, "4.0 x4", whole.Link.Negotiated)
	assert.Equal(t, &job.Link{Kind: "pcie", Negotiated: "4.0 x2", Drive: "4.0 x4", Port: "4.0 x2"}, half.Link)
	assert.InDelta(t, 2*1969.2, half.Attached.LinkMBs, 1e-9)
	assert.True(t, *half.Trim)
	assert.InDelta(t, 41.85, *half.TemperatureC, 1e-9)
	assert.NotEqual(t, whole.SerialDigest, half.SerialDigest)
	inCase := ofDrive(t, f, "sdb")
	assert.Equal(t, job.SataSSD, inCase.Kind)
	assert.Equal(t, &job.Link{Kind: "usb", Negotiated: "5 Gb/s"}, inCase.Link)
	assert.Empty(t, inCase.SerialDigest)
	assert.Contains(t, lacking(f), "serial number of sdb")
}

func TestStorageModes(t *testing.T) {
	at := func(classes ...string) string {
		r := recorded{t: t, files: map[string]string{}}
		for i, c := range classes {
			r.files[fmt.Sprintf("/sys/bus/pci/devices/0000:00:%02x.0/class", i)] = c
		}
		return r.root().storageMode()
	}
	assert.Equal(t, "AHCI", at("0x030000", "0x010601"))
	assert.Equal(t, "IDE", at("0x01018a"))
	assert.Equal(t, "AHCI, RAID", at("0x010400", "0x010601", "0x010601"))
	assert.Empty(t, at("0x010802", "0x02", ""), "an NVMe drive has no such mode")
}

// What else hangs on a computer while it is measured: drives, sticks, and hubs that can be pulled out.
func TestWhatElseHangsThere(t *testing.T) {
	r := laptop(t)
	size := func(string) (int64, int64) { return 500e9, 200e9 }
	assert.Equal(t, []string{}, r.root().attached("/home/otter", size), "somebody looked, and there is nothing")
	const stick, usb = "/sys/devices/pci0000:00/0000:00:14.0/usb1/1-3/1-3:1.0/host6/block/sdb", "/sys/bus/usb/devices/"
	for file, text := range map[string]string{"size": "1875385008", "queue/rotational": "0", "removable": "1",
		"device/vendor": "Plover", "device/model": "Pocket"} {
		r.files[stick+"/"+file] = text
	}
	r.links["/sys/block/sdb"] = stick
	for hub, removable := range map[string]string{"1-1": "fixed", "1-2": "removable"} {
		r.files[usb+hub+"/bDeviceClass"], r.files[usb+hub+"/removable"], r.files[usb+hub+"/product"] = "09", removable,
			"Quay dock"
	}
	r.files[usb+"1-4/bDeviceClass"], r.files[usb+"1-4/removable"] = "03", "removable" // a mouse
	assert.Equal(t, []string{"Plover Pocket (USB)", "Quay dock (USB)"}, r.root().attached("/home/otter", size))
	delete(r.files, "/proc/self/mounts")
	assert.Nil(t, r.root().attached("/home/otter", size), "the folder's own drive is not known")
}

// A board with soldered memory: what it does not tell is named.
func TestABoardThatTellsLittle(t *testing.T) {
	const dev = "/sys/devices/platform/mmc_host/mmc0/mmc0:0001/block/mmcblk0"
	f := recorded{t, map[string]string{dev + "/size": "61071360", dev + "/queue/rotational": "0",
		dev + "/device/name": "BOARD32", dev + "/device/serial": "0x1a2b",
		dev + "boot0/size": "8192", "/proc/device-tree/model": "Thornbeck Slab\x00"},
		map[string]string{"/sys/block/mmcblk0": dev, "/sys/block/mmcblk0boot0": dev + "boot0"}}.facts()
	require.Len(t, f.Drives, 1)
	assert.Equal(t, job.EMMC, f.Drives[0].Kind)
	assert.Equal(t, "BOARD32", f.Drives[0].Model)
	assert.Nil(t, f.Drives[0].Link)
	assert.Nil(t, f.Drives[0].Trim, "nobody said whether it trims")
	assert.Equal(t, "Thornbeck Slab", f.Computer.Model)
	for _, what := range []string{"link of mmcblk0", "temperature of mmcblk0", "processor", "system",
		"health of mmcblk0", "graphics"} {
		assert.Contains(t, lacking(f), what)
	}
}

// This very machine: whatever it is, it says so and breaks nothing.
func TestThisMachinesHardware(t *testing.T) {
	f := Hardware(t.Context())
	assert.NotNil(t, f.Drives)
	assert.NotEmpty(t, f.System.Build)
	for _, d := range f.Drives {
		assert.Positive(t, d.CapacityBytes, d.ID)
	}
	assert.NotEmpty(t, f.Absent)
	empty := root(t.TempDir()).facts(statfs, noLog)
	assert.Empty(t, empty.Drives)
	assert.Contains(t, lacking(empty), "drives")
}

// What a drive's own log says is at the drive; what the system reads of its sensor goes before it.
func TestADrivesOwnLog(t *testing.T) {
	celsius, limit, hours := 44.0, 70.0, int64(12)
	log := answers.Log{Health: hardware.Health{PowerOnHours: &hours, Warnings: []string{}}, TemperatureC: &celsius,
		MaxTempC: &limit}
	f := &hardware.Facts{}
	d := hardware.Drive{ID: "sda"}
	logged(f, &d, func(*hardware.Drive) (answers.Log, error) { return log, nil })
	assert.Equal(t, hardware.Drive{ID: "sda", TemperatureC: &celsius, MaxTempC: &limit, Health: &log.Health}, d)
	assert.Empty(t, f.Absent)

	sensed := 31.0
	d = hardware.Drive{ID: "sda", TemperatureC: &sensed}
	logged(f, &d, func(*hardware.Drive) (answers.Log, error) { return log, nil })
	assert.Equal(t, 31.0, *d.TemperatureC)

	d = hardware.Drive{ID: "sdb"}
	logged(f, &d, func(*hardware.Drive) (answers.Log, error) { return answers.Log{}, why(os.ErrPermission) })
	assert.Equal(t, "health of sdb; temperature of sdb", lacking(f))
	assert.Nil(t, d.Health)
	assert.Equal(t, "nvme0", controllerOf("nvme0n1"))
}

// Two arrays of drives: what goes over the one that takes longer is told, and nothing where both are at rest.
func TestAnArrayThatIsRebuilt(t *testing.T) {
	r := recorded{t: t, files: map[string]string{
		"/sys/block/md0/md/sync_action": "check", "/sys/block/md0/md/sync_completed": "90 / 100", "/sys/block/md0/md/sync_speed": "100000",
		"/sys/block/md1/md/sync_action": "recover", "/sys/block/md1/md/sync_completed": "244195328 / 976781312", "/sys/block/md1/md/sync_speed": "122097",
		"/sys/block/sda/size": "976781312",
	}}
	p := r.root().arrayPass()
	require.NotNil(t, p)
	require.NotNil(t, p.DonePct)
	require.NotNil(t, p.MinutesLeft)
	assert.Equal(t, job.ArrayPass, p.Kind)
	assert.InDelta(t, 25, *p.DonePct, 0.01)
	assert.InDelta(t, 50, *p.MinutesLeft, 0.1)
	for _, md := range []string{"md0", "md1"} {
		r.files["/sys/block/"+md+"/md/sync_action"], r.files["/sys/block/"+md+"/md/sync_completed"] = "idle", "none"
	}
	assert.Nil(t, r.root().arrayPass())
}

// A network card without a driver is named; a bridge that never has one is not.
func TestDevicesWithoutDriver(t *testing.T) {
	const pci = "/sys/bus/pci/devices/"
	r := recorded{t: t, files: map[string]string{
		pci + "0000:00:00.0/class": "0x060000", pci + "0000:00:00.0/vendor": "0x1111", pci +
			"0000:00:00.0/device": "0x0001",
		pci + "0000:00:02.0/class": "0x030000", pci + "0000:00:02.0/vendor": "0x1111", pci +
			"0000:00:02.0/device": "0x0002",
		pci + "0000:03:00.0/class": "0x028000", pci + "0000:03:00.0/vendor": "0x2222", pci +
			"0000:03:00.0/device": "0x00a3",
	}, links: map[string]string{pci + "0000:00:02.0/driver": "/sys/bus/pci/drivers/made-up"}}
	assert.Equal(t, []string{"a network card (PCI 2222:00a3)"}, r.root().driverless())
	assert.Nil(t, recorded{t: t}.root().driverless(), "a board without PCI tells nothing")
}

func TestWriteCacheAsTheSystemTells(t *testing.T) {
	for said, want := range map[string]any{"write back": true, "write through": false, "": nil} {
		r := laptop(t)
		for path := range r.files {
			if strings.HasSuffix(path, "/size") {
				r.files[strings.TrimSuffix(path, "/size")+"/queue/write_cache"] = said
			}
		}
		d := ofDrive(t, r.facts(), "sda")
		if want == nil {
			assert.Nil(t, d.WriteCache)
			continue
		}
		require.NotNil(t, d.WriteCache)
		assert.Equal(t, want, *d.WriteCache)
	}
}

// A volume that is on several drives names them, and which of them is the cache.
func TestCombinedVolumes(t *testing.T) {
	const sys = "/sys/devices/pci0000:00/block/"
	drives := func(more map[string]string) map[string]string {
		files := map[string]string{
			sys + "sda/size": "1000", sys + "sda/sda2/partition": "2", sys + "sdb/size": "1000", sys +
				"sdb/sdb1/partition": "1",
		}
		for k, v := range more {
			files[k] = v
		}
		return files
	}
	links := func(more map[string]string) map[string]string {
		all := map[string]string{"/sys/block/sda": sys + "sda", "/sys/block/sdb": sys + "sdb",
			"/sys/class/block/sda2": sys + "sda/sda2", "/sys/class/block/sdb1": sys + "sdb/sdb1",
			"/sys/class/block/sda": sys + "sda", "/sys/class/block/sdb": sys + "sdb"}
		for k, v := range more {
			all[k] = v
		}
		return all
	}
	const dm = "/sys/devices/virtual/block/"
	below := func(device, lower string) (string, string) {
		if at, ok := strings.CutPrefix(lower, "sd"); ok {
			return dm + device + "/slaves/" + lower, sys + "sd" + at[:1] + "/" + lower
		}
		return dm + device + "/slaves/" + lower, dm + lower
	}
	under := func(pairs ...string) map[string]string {
		m := map[string]string{}
		for i := 0; i < len(pairs); i += 2 {
			from, to := below(pairs[i], pairs[i+1])
			m[from] = to
			m["/sys/class/block/"+pairs[i]] = dm + pairs[i]
		}
		return links(m)
	}
	member := func(drive string, partition int, role string) hardware.Member {
		return hardware.Member{Drive: drive, Partition: partition, Role: role}
	}
	for name, tt := range map[string]struct {
		r    recorded
		of   string
		want *hardware.Combined
	}{
		"an array": {recorded{t, drives(nil), under("md0", "sda2", "md0", "sdb1")}, "md0",
			&hardware.Combined{Kind: "array", Members: []hardware.Member{member("sda", 2, ""), member("sdb", 1, "")}}},
		"bcache": {recorded{t, drives(nil), func() map[string]string {
			l := under("bcache0", "sda2", "bcache0", "sdb1")
			l[sys+"sda/sda2/bcache/dev"], l[sys+"sdb/sdb1/bcache/set"] = dm+"bcache0", "/sys/fs/bcache/0123"
			return l
		}()}, "bcache0", &hardware.Combined{Kind: "cache",
			Members: []hardware.Member{member("sda", 2, "data"), member("sdb", 1, "cache")}}},
		"a cached logical volume": {recorded{t, drives(map[string]string{dm + "dm-1/dm/name": "vg-home_corig",
			dm + "dm-2/dm/name": "vg-pool_cdata", dm + "dm-3/dm/name": "vg-pool_cmeta"}),
			under("dm-0", "dm-1", "dm-0", "dm-2", "dm-0", "dm-3", "dm-1", "sda2", "dm-2", "sdb1", "dm-3", "sdb1")},
			"dm-0",
			&hardware.Combined{Kind: "cache",
				Members: []hardware.Member{member("sda", 2, "data"), member("sdb", 1, "cache")}}},
		"a cache of the device mapper alone": {recorded{t, drives(map[string]string{dm + "dm-0/dm/name": "fast",
			dm + "dm-1/dev": "254:1", dm + "dm-2/dev": "254:2", sys + "sda/sda2/dev": "8:2"}),
			under("dm-0", "dm-1", "dm-0", "dm-2", "dm-0", "sda2", "dm-1", "sdb1", "dm-2", "sdb1")},
			"dm-0",
			&hardware.Combined{Kind: "cache",
				Members: []hardware.Member{member("sdb", 1, "cache"), member("sda", 2, "data")}}},
		"one drive": {recorded{t, drives(nil), under("dm-0", "sda2")}, "dm-0", nil},
	} {
		t.Run(name, func(t *testing.T) {
			tt.r.t = t
			if strings.Contains(name, "mapper") {
				said := mappedTable
				t.Cleanup(func() { mappedTable = said })
				mappedTable = func(of string) string {
					assert.Equal(t, "fast", of)
					return "0 1249000000 cache 254:1 254:2 8:2 512 1 writethrough smq 0\n"
				}
			}
			assert.Equal(t, tt.want, tt.r.root().combined(tt.of))
		})
	}
}

// A file system can lie on a whole drive that has no partition table, in clear or encrypted.
func TestVolumesOnAWholeDrive(t *testing.T) {
	for name, tt := range map[string]struct {
		device    string
		encrypted bool
	}{
		"in clear":  {"/dev/sdb", false},
		"encrypted": {"/dev/mapper/safe", true},
	} {
		t.Run(name, func(t *testing.T) {
			const sdb, dm = "/sys/devices/pci0000:00/usb1/block/sdb", "/sys/devices/virtual/block/dm-2"
			r := laptop(t)
			maps.Copy(r.files, map[string]string{sdb + "/size": "1000215216", dm + "/dm/uuid": "CRYPT-LUKS2-def"})
			maps.Copy(r.links, map[string]string{"/sys/block/sdb": sdb, "/sys/class/block/sdb": sdb,
				"/sys/class/block/dm-2": dm, dm + "/slaves/sdb": sdb, "/dev/mapper/safe": "/dev/dm-2"})
			r.files["/proc/self/mounts"] += "\n" + tt.device + " /media/new ext4 rw 0 0"
			f := r.facts()
			v := f.VolumeOf("/media/new/folder")
			require.NotNil(t, v)
			assert.Equal(t, "/media/new", v.Mount)
			assert.Equal(t, "sdb", v.Drive)
			assert.Zero(t, v.Partition)
			require.NotNil(t, v.Encrypted)
			assert.Equal(t, tt.encrypted, *v.Encrypted)
			assert.Equal(t, "/media/new", f.MountOf("sdb"))
			for _, p := range f.Partitions {
				assert.NotEqual(t, "sdb", p.Drive)
			}
		})
	}
}

// A disk says how often it turns a minute.
func TestTurningSpeed(t *testing.T) {
	for text, want := range map[string]int{"\x00\xb1\x00\x3c\x15\x18": 5400, "\x00\xb1\x00\x3c\x1c\x20": 7200,
		"\x00\xb1\x00\x3c\x00\x01": 0, "\x00\xb1": 0} {
		r := recorded{t, map[string]string{"/sys/block/sda/device/vpd_pgb1": text}, nil}
		assert.Equal(t, want, r.root().turningSpeed("/sys/block/sda"))
	}
}
