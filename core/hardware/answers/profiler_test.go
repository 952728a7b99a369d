package answers_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/hardware"
	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

// Made up after the form in which the profiler writes.
const profiledOld = `{
 "SPHardwareDataType": [{"_name": "hardware_overview", "machine_name": "Kestrel Mini", "machine_model": "KM7,1", "cpu_type": "Oxbow C4", "number_processors": 4, "physical_memory": "8 GB", "boot_rom_version": "432.60.3"}],
 "SPSoftwareDataType": [{"os_version": "macOS 11.7.10 (20G1427)"}],
 "SPDisplaysDataType": [{"sppci_model": "Thicket 500"}, {"sppci_model": "Thicket 500"}],
 "SPNVMeDataType": [],
 "SPSerialATADataType": [{"_items": [{"_name": "Veldt Slate 640", "bsd_name": "disk0", "device_model": "Veldt Slate 640 ", "device_revision": "QV12", "device_serial": "  VS0001", "size_in_bytes": 640135028736,
   "smart_status": "Verified", "spsata_medium_type": "Rotational", "spsata_rotational_rate": "5400", "spsata_trim_support": "No", "spsata_ncq_depth": "32"}, {"_name": "a drive for discs"}],
  "spsata_portspeed": "6 Gigabit", "spsata_negotiatedlinkspeed": "3 Gigabit"}],
 "SPStorageDataType": [{"_name": "Home", "bsd_name": "disk1s1", "file_system": "APFS", "free_space_in_bytes": 200000000000, "size_in_bytes": 639000000000, "mount_point": "/", "physical_drive": {"device_name": "Veldt Slate 640"}},
  {"_name": "Lost", "size_in_bytes": 0, "mount_point": "/Volumes/Lost"}, {"_name": "Stick", "file_system": "ExFAT", "free_space_in_bytes": 1, "size_in_bytes": 31000000000, "mount_point": "/Volumes/Stick", "physical_drive": {"device_name": "Pocket"}}]
}`

const profiledNew = `{
 "SPHardwareDataType": [{"machine_name": "Kestrel Book", "machine_model": "KB18,2", "chip_type": "Oxbow M", "number_processors": "proc 8:4:4", "physical_memory": "16 GB"}],
 "SPSoftwareDataType": [{"os_version": "a system of its own"}],
 "SPNVMeDataType": [{"_items": [{"_name": "Tern N2", "bsd_name": "disk0", "device_model": "Tern N2", "device_revision": "3.1", "device_serial": "T1", "size_in_bytes": 960197124096, "smart_status": "Failing",
   "spnvme_trim_support": "Yes", "spnvme_linkspeed": "8.0 GT/s", "spnvme_linkwidth": "x4"},
  {"_name": "Tern N2", "bsd_name": "disk4", "device_model": "Tern N2", "size_in_bytes": 960197124096, "spnvme_linkspeed": "soon", "spnvme_linkwidth": "wide"}]}],
 "SPStorageDataType": [{"file_system": "APFS", "free_space_in_bytes": 5, "size_in_bytes": 4, "mount_point": "/", "physical_drive": {"device_name": "Tern N2"}}]
}`

func lacking(f *hardware.Facts) (what []string) {
	for _, a := range f.Absent {
		what = append(what, a.What)
	}
	return what
}

func TestProfiled(t *testing.T) {
	f, err := answers.Profiled([]byte(profiledOld))
	require.NoError(t, err)
	assert.Equal(t, hardware.Computer{Model: "Kestrel Mini KM7,1", Firmware: "432.60.3", Processor: "Oxbow C4",
		MemoryBytes: 8 << 30, Graphics: "Thicket 500"}, f.Computer)
	assert.Equal(t, hardware.System{Name: "macOS", Version: "11.7.10", Build: "20G1427"}, f.System)
	require.Len(t, f.Drives, 1)
	d := f.Drives[0]
	assert.Equal(t, []any{"disk0", job.HDD, "Veldt Slate 640", "QV12", int64(640135028736), 5400, 32, false},
		[]any{d.ID, d.Kind, d.Model, d.Firmware, d.CapacityBytes, d.RPM, d.QueueDepth, *d.Trim})
	assert.Equal(t, &job.Link{Kind: "sata", Negotiated: "3 Gb/s", Port: "6 Gb/s"}, d.Link)
	assert.Equal(t, &hardware.Health{Warnings: []string{}}, d.Health)
	assert.NotEmpty(t, d.SerialDigest)
	assert.Equal(t, []hardware.Volume{
		{Mount: "/", Drive: "disk0", FileSystem: "apfs", SizeBytes: 639000000000, UsedBytes: 439000000000,
			System: true},
		{Mount: "/Volumes/Stick", FileSystem: "exfat", SizeBytes: 31000000000, UsedBytes: 30999999999},
	}, f.Volumes)
	assert.Equal(t, []string{"temperature of disk0", "drive of /Volumes/Stick", "maker", "partitions"}, lacking(f))

	f, err = answers.Profiled([]byte(profiledNew))
	require.NoError(t, err)
	assert.Equal(t, "Oxbow M", f.Computer.Processor)
	assert.Equal(t, hardware.System{Name: "a system of its own"}, f.System)
	assert.Equal(t, &job.Link{Kind: "pcie", Negotiated: "3.0 x4"}, f.Drives[0].Link)
	assert.Len(t, f.Drives[0].Health.Warnings, 1)
	assert.Nil(t, f.Drives[1].Link)
	assert.Nil(t, f.Drives[1].Health)
	assert.Empty(t, f.Volumes[0].Drive, "two drives are called so")
	assert.Zero(t, f.Volumes[0].UsedBytes)
	for _, what := range []string{"link of disk4", "health of disk4", "serial number of disk4", "drive of /"} {
		assert.Contains(t, lacking(f), what)
	}

	f, err = answers.Profiled([]byte(`{}`))
	require.NoError(t, err)
	assert.Contains(t, lacking(f), "drives")
	_, err = answers.Profiled([]byte(`no profile`))
	assert.ErrorContains(t, err, "profiler")
}

func TestPowerManaged(t *testing.T) {
	pct := func(v float64) *float64 { return &v }
	for _, c := range []struct {
		name, battery, settings string
		source                  job.Power
		mode                    job.PowerMode
		pct                     *float64
	}{
		{"a laptop on its battery",
			"Now drawing from 'Battery Power'\n -InternalBattery-0 (id=1)\t85%; discharging; 4:10 remaining\n", " lowpowermode         0\n", job.Battery, job.NormalMode, pct(85)},
		{"it saves", "Now drawing from 'AC Power'\n -InternalBattery-0 (id=1)\t100%; charged\n",
			" sleep 1\n lowpowermode         1\n", job.Mains, job.SavingMode, pct(100)},
		{"a desktop of before", "Now drawing from 'AC Power'\n", " sleep 1\n", job.Mains, "", nil},
		{"nothing told", "", "", "", "", nil},
	} {
		t.Run(c.name, func(t *testing.T) {
			source, mode, full := answers.PowerManaged(c.battery, c.settings)
			assert.Equal(t, []any{c.source, c.mode, c.pct}, []any{source, mode, full})
		})
	}
}

func TestVaultStatus(t *testing.T) {
	yes, no := true, false
	for text, want := range map[string][2]*bool{
		"FileVault is On.": {&yes, &no}, "FileVault is Off.": {&no,
			&no}, "FileVault is On.\nEncryption in progress: Percent completed = 45": {&yes, &yes},
		"FileVault is Off.\nDecryption in progress: Percent completed = 4": {nil, &yes}, "": {nil, nil},
	} {
		encrypted, encrypting := answers.VaultStatus(text)
		assert.Equal(t, want, [2]*bool{encrypted, encrypting}, text)
	}
}

func FuzzProfiled(f *testing.F) {
	f.Add([]byte(profiledOld))
	f.Add([]byte(profiledNew))
	f.Fuzz(func(t *testing.T, b []byte) {
		p, err := answers.Profiled(b)
		if err != nil {
			return
		}
		for _, d := range p.Drives {
			if d.ID == "" || d.CapacityBytes < 0 {
				t.Fatal(d)
			}
		}
		for _, v := range p.Volumes {
			if v.UsedBytes < 0 || v.SizeBytes <= 0 {
				t.Fatal(v)
			}
		}
	})
}
