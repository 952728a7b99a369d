package machine

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"nowthen/core/drivetest"
)

// onDrive returns a folder for a test that is on a drive; the system's
// folder for temporary files may lie in memory.
func onDrive(t testing.TB) string {
	t.Helper()
	var st unix.Statfs_t
	dir := t.TempDir()
	require.NoError(t, unix.Statfs(dir, &st))
	if fileSystems[int64(uint32(st.Type))].kind == inMemory {
		here, err := os.MkdirTemp(".", "on-drive-")
		require.NoError(t, err)
		t.Cleanup(func() { _ = os.RemoveAll(here) })
		dir, err = filepath.Abs(here)
		require.NoError(t, err)
	}
	return dir
}

// readFromDrive is how many bytes the kernel says this process had fetched
// from storage.
func readFromDrive(t *testing.T) int64 {
	t.Helper()
	data, err := os.ReadFile("/proc/self/io")
	require.NoError(t, err)
	for line := range strings.Lines(string(data)) {
		var n int64
		if _, err := fmt.Sscanf(line, "read_bytes: %d", &n); err == nil {
			return n
		}
	}
	t.Fatal("the kernel counts no read_bytes")
	return 0
}

// The engine's reads come from the drive even where the same bytes lie in the
// page cache: the kernel's own count of bytes fetched from storage says so.
func TestDirectReadsPassThePageCache(t *testing.T) {
	vol, err := OpenFolder(onDrive(t))
	require.NoError(t, err)
	session, err := drivetest.Open(t.Context(), vol, span, 1)
	require.NoError(t, err)
	require.NoError(t, session.Lay(t.Context(), func(drivetest.Progress) {}))

	// A second file with the same treatment, read the ordinary way, shows that
	// the counter tells cached reads from others on this machine.
	cached := filepath.Join(vol.Dir(), "cached")
	require.NoError(t, os.WriteFile(cached, bytes.Repeat([]byte("now then"), span/8), 0o600))
	_, err = os.ReadFile(cached)
	require.NoError(t, err)
	before := readFromDrive(t)
	_, err = os.ReadFile(cached)
	require.NoError(t, err)
	require.Less(t, readFromDrive(t)-before, int64(span/16), "an ordinary second read comes from the cache")

	// Draw the test file into the cache, as far as the system lets us, then
	// measure: every byte must be fetched again.
	warm := make([]byte, 1<<20)
	f := session.File().(*testFile)
	through, err := os.Open(fmt.Sprintf("/proc/self/fd/%d", f.handle.(file).fd))
	require.NoError(t, err)
	for range 2 {
		for at := int64(0); at < span; at += int64(len(warm)) {
			_, err := through.ReadAt(warm, f.base+at)
			require.NoError(t, err)
		}
	}
	require.NoError(t, through.Close())
	w := drivetest.LongRead(span)
	w.MaxBytes = span
	before = readFromDrive(t)
	reading, err := session.Measure(t.Context(), w, func(drivetest.Progress) {})
	require.NoError(t, err)
	fetched := readFromDrive(t) - before
	assert.GreaterOrEqual(t, fetched, reading.Bytes, "every byte that was measured came from the drive")
	require.NoError(t, session.Close())
}

func TestFoldersThatCannotBeMeasured(t *testing.T) {
	dir := onDrive(t)
	file := filepath.Join(dir, "file")
	require.NoError(t, os.WriteFile(file, nil, 0o600))
	tests := []struct{ name, dir, wrong string }{
		{"not whole", "some/folder", "not a whole path"},
		{"nothing", "", "not a whole path"},
		{"not there", filepath.Join(dir, "gone"), "there is no folder"},
		{"a file", file, "is not a folder"},
		{"in memory", "/dev/shm", "not on a drive"},
		{"the kernel's own", "/proc", "not on a drive"},
		{"with a NUL", dir + "\x00", "is no path"},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			_, err := OpenFolder(tt.dir)
			assert.ErrorContains(t, err, tt.wrong)
		})
	}
	_, err := OpenFolder("/dev/shm")
	assert.ErrorIs(t, err, drivetest.ErrNoDirectIO)
	vol, err := OpenFolder(dir)
	require.NoError(t, err)
	_, err = vol.OpenTree(t.Context(), "/dev/shm")
	assert.ErrorIs(t, err, drivetest.ErrNoDirectIO, "a folder that is read cold lies on a drive, too")
}

// mounted makes a small file system in a file and mounts it; that needs rights,
// its programs, and a kernel that knows it.
func mounted(t *testing.T, kind string, mib int, options string) string {
	t.Helper()
	if os.Getuid() != 0 {
		t.Skip("mounting a file system needs rights")
	}
	dir := onDrive(t)
	image, point := filepath.Join(dir, "image"), filepath.Join(dir, "point")
	require.NoError(t, os.WriteFile(image, nil, 0o600))
	require.NoError(t, os.Truncate(image, int64(mib)<<20))
	require.NoError(t, os.Mkdir(point, 0o700))
	for _, command := range [][]string{{"mkfs." + kind, "-q",
		map[string]string{"ext4": "-F", "xfs": "-f", "btrfs": "-f"}[kind], image},
		{"mount", "-o", options, image, point}} {
		if out, err := exec.Command(command[0], command[1:]...).CombinedOutput(); err != nil {
			t.Skipf("this machine mounts no file: %s: %s", err, out)
		}
	}
	t.Cleanup(func() { require.NoError(t, exec.Command("umount", point).Run()) })
	return point
}

func TestAFullAndAReadOnlyFileSystem(t *testing.T) {
	point := mounted(t, "ext4", 48, "loop")
	vol, err := OpenFolder(point)
	require.NoError(t, err)
	assert.Equal(t, "ext4", vol.Facts().FileSystem)
	_, err = drivetest.Open(t.Context(), vol, 64<<20, 1)
	assert.ErrorIs(t, err, drivetest.ErrNoRoom, "larger than the drive")
	_, err = vol.Create(t.Context(), 64<<20)
	assert.ErrorIs(t, err, drivetest.ErrNoRoom, "the file system itself says so too")
	left, err := os.ReadDir(point)
	require.NoError(t, err)
	assert.Len(t, left, 1, "nothing but lost+found")

	require.NoError(t, exec.Command("mount", "-o", "remount,ro", point).Run())
	_, err = OpenFolder(point)
	assert.ErrorContains(t, err, "cannot be written")
}

func TestUsualFileSystemsAreMeasured(t *testing.T) {
	for _, kind := range []string{"ext4", "xfs", "btrfs"} {
		t.Run(kind, func(t *testing.T) {
			vol, err := OpenFolder(mounted(t, kind, 400, "loop"))
			require.NoError(t, err)
			assert.Equal(t, kind, vol.Facts().FileSystem)
		})
	}
	t.Run("ext4 with its data in the journal, which goes by memory", func(t *testing.T) {
		_, err := OpenFolder(mounted(t, "ext4", 48, "loop,data=journal"))
		assert.ErrorIs(t, err, drivetest.ErrNoDirectIO)
	})
}

// Where a file system copies on write or compresses, the test file is laid without either, and a
// compressed folder is refused.
func TestWithoutCopyOnWriteAndCompression(t *testing.T) {
	point := mounted(t, "btrfs", 400, "loop")
	vol, err := OpenFolder(point)
	require.NoError(t, err)
	vol.named = true // so that its flags can be read by its name
	f, err := vol.create(8 << 20)
	require.NoError(t, err)
	flags, err := exec.Command("lsattr", f.path).Output()
	require.NoError(t, err)
	assert.Contains(t, strings.Fields(string(flags))[0], "C", "it is overwritten in place")
	require.NoError(t, f.Close())

	packed := filepath.Join(point, "packed")
	require.NoError(t, os.Mkdir(packed, 0o700))
	require.NoError(t, exec.Command("chattr", "+c", packed).Run())
	_, err = OpenFolder(packed)
	require.Error(t, err)
	assert.Contains(t, err.Error(), "compress")
}

// A file system that takes the flag and does not do as it says is found out by what
// a read leaves in memory; a file that was opened without the flag stands for it.
func TestReadsThatGoByMemoryAreRefused(t *testing.T) {
	f, err := os.Create(filepath.Join(onDrive(t), "usual"))
	require.NoError(t, err)
	usual := &testFile{handle: file{int(f.Fd())}}
	assert.ErrorContains(t, usual.prepare(1<<20), "went by memory")
	assert.NoError(t, usual.prepare(1<<20), "what was in memory before says nothing")
	require.NoError(t, f.Close())
}

func TestKindsOfFileSystems(t *testing.T) {
	for number, want := range map[int64]kindOfPlace{unix.TMPFS_MAGIC: inMemory, unix.NFS_SUPER_MAGIC: onNetwork,
		unix.FUSE_SUPER_MAGIC: cachesItself, 0x2fc12fc1: cachesItself, unix.EXT4_SUPER_MAGIC: local} {
		assert.Equal(t, want, fileSystems[number].kind)
		assert.NotEmpty(t, fileSystems[number].name)
	}
}

func TestANamedTestFileIsSignedFromTheStart(t *testing.T) {
	vol, err := OpenFolder(onDrive(t))
	require.NoError(t, err)
	vol.named = true
	f, err := vol.create(4 << 20)
	require.NoError(t, err)
	ours, err := signed(f.path)
	require.NoError(t, err)
	assert.True(t, ours)
	assert.Regexp(t, testFileNames, filepath.Base(f.path))
	// As after a crash: the program is gone, the file is not.
	require.NoError(t, unix.Close(f.handle.(file).fd))
	n, err := Sweep(vol.Dir())
	require.NoError(t, err)
	assert.Equal(t, 1, n)
}

func TestPowerFromTheSystem(t *testing.T) {
	tests := []struct {
		name   string
		files  map[string]string
		source string
		mode   string
	}{
		{"a desktop that tells nothing", nil, "", ""},
		{"mains", map[string]string{"class/power_supply/AC/type": "Mains", "class/power_supply/AC/online": "1"},
			"mains", ""},
		{"battery", map[string]string{"class/power_supply/AC/type": "Mains", "class/power_supply/AC/online": "0",
			"class/power_supply/BAT0/type": "Battery"}, "battery", ""},
		{"both", map[string]string{"class/power_supply/AC/type": "Mains", "class/power_supply/AC/online": "1",
			"class/power_supply/BAT0/type": "Battery"}, "mains", ""},
		{"a charger at a USB plug",
			map[string]string{"class/power_supply/AC/type": "Mains", "class/power_supply/AC/online": "0",
				"class/power_supply/ucsi/type": "USB", "class/power_supply/ucsi/online": "1", "class/power_supply/BAT0/type": "Battery"}, "mains", ""},
		{"a USB plug with nothing in it",
			map[string]string{"class/power_supply/ucsi/type": "USB", "class/power_supply/ucsi/online": "0",
				"class/power_supply/BAT0/type": "Battery", "class/power_supply/BAT0/status": "Discharging"}, "battery", ""},
		{"it charges, from what is not told",
			map[string]string{"class/power_supply/BAT0/type": "Battery",
				"class/power_supply/BAT0/status": "Charging"}, "mains", ""},
		{"a mouse", map[string]string{"class/power_supply/hid/type": "Battery",
			"class/power_supply/hid/scope": "Device"}, "", ""},
		{"saving", map[string]string{"firmware/acpi/platform_profile": "low-power"}, "", "saving"},
		{"normal", map[string]string{"firmware/acpi/platform_profile": "balanced"}, "", "normal"},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			sys := t.TempDir()
			for path, content := range tt.files {
				path = filepath.Join(sys, path)
				require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o700))
				require.NoError(t, os.WriteFile(path, []byte(content+"\n"), 0o600))
			}
			source, mode := powerAt(sys)
			assert.EqualValues(t, tt.source, source)
			assert.EqualValues(t, tt.mode, mode)
		})
	}
}

// Both ways of asking whether a file is in memory agree.
func TestWhetherAFileIsInMemory(t *testing.T) {
	path := filepath.Join(onDrive(t), "file")
	require.NoError(t, os.WriteFile(path, bytes.Repeat([]byte("page"), 200_000), 0o600))
	f, err := os.Open(path)
	require.NoError(t, err)
	defer f.Close()
	ask := func() (byReading, byMapping bool) {
		byReading, err := comesAtOnce(f, 800_000)
		require.NoError(t, err)
		byMapping, err = isResident(int(f.Fd()), 0, 800_000)
		require.NoError(t, err)
		return byReading, byMapping
	}
	_, err = os.ReadFile(path)
	require.NoError(t, err)
	a, b := ask()
	assert.True(t, a && b, "it was just read")
	require.NoError(t, Forget(path))
	// Asking by reading puts nothing of it back, unless the system still fetches something behind it.
	require.Eventually(t, func() bool {
		require.NoError(t, Forget(path))
		a, b = ask()
		return !a && !b
	}, time.Hour, time.Millisecond, "it was dropped")
	info, err := f.Stat()
	require.NoError(t, err)
	told, err := tellsPages(f, info)
	require.NoError(t, err)
	assert.True(t, told, "of a file of one's own")
	empty, err := isResident(int(f.Fd()), 0, 0)
	require.NoError(t, err)
	assert.False(t, empty)
}

// Checking whether a file was dropped loads nothing of it, whether it is small or large.
func TestForgettingLeavesNothing(t *testing.T) {
	for _, size := range []int{1, 4096, 100_000, 8 << 20} {
		path := filepath.Join(onDrive(t), "file")
		require.NoError(t, os.WriteFile(path, make([]byte, size), 0o600))
		require.NoError(t, Forget(path))
		f, err := os.Open(path)
		require.NoError(t, err)
		require.Eventually(t, func() bool {
			require.NoError(t, Forget(path)) // once more, for what came in behind it
			cached, err := isResident(int(f.Fd()), 0, int64(size))
			return err == nil && !cached
		}, time.Hour, time.Millisecond, "%d bytes", size)
		require.NoError(t, f.Close())
	}
}

// A drive's temperature is found through encryption on a logical volume on a part of it.
func TestTemperatureThroughTwoLayers(t *testing.T) {
	sys := t.TempDir()
	drive := filepath.Join(sys, "devices", "ata1", "block", "sda")
	hwmon := filepath.Join(sys, "devices", "ata1", "hwmon", "hwmon2")
	for _, dir := range []string{filepath.Join(drive, "sda2"), hwmon, filepath.Join(sys, "block", "dm-0", "slaves"),
		filepath.Join(sys, "block", "dm-1", "slaves"), filepath.Join(sys, "dev", "block")} {
		require.NoError(t, os.MkdirAll(dir, 0o700))
	}
	require.NoError(t, os.WriteFile(filepath.Join(hwmon, "temp1_input"), []byte("41500\n"), 0o600))
	for link, to := range map[string]string{
		filepath.Join(drive, "device"):                           filepath.Join(sys, "devices", "ata1"),
		filepath.Join(sys, "block", "dm-0", "slaves", "sda2"):    filepath.Join(drive, "sda2"),
		filepath.Join(sys, "block", "dm-1", "slaves", "dm-0"):    filepath.Join(sys, "block", "dm-0"),
		filepath.Join(sys, "dev", "block", "253:1"):              filepath.Join(sys, "block", "dm-1"),
		filepath.Join(sys, "block", "dm-0", "slaves", "nowhere"): filepath.Join(sys, "gone"),
	} {
		require.NoError(t, os.Symlink(to, link))
	}
	sensor := sensorAt(filepath.Join(sys, "dev", "block", "253:1"))
	require.NotNil(t, sensor)
	celsius, _ := sensor()
	assert.Equal(t, 41.5, celsius)
}

// A compressing folder can't be used to measure a drive.
func TestACompressedFolderIsRefused(t *testing.T) {
	dir := onDrive(t)
	d, err := os.Open(dir)
	require.NoError(t, err)
	flags, err := unix.IoctlGetUint32(int(d.Fd()), getFlags)
	if err != nil || unix.IoctlSetPointerInt(int(d.Fd()), setFlags, int(flags|compressFlag)) != nil ||
		!flagged(dir, compressFlag) {
		t.Skip("the file system here knows no compressed folders")
	}
	require.NoError(t, d.Close())
	_, err = OpenFolder(dir)
	require.ErrorIs(t, err, drivetest.ErrNoDirectIO)
	assert.ErrorContains(t, err, "compressed folder")
}

// A partition's beginning and its drive's size, from a made-up tree of the system's.
func TestWhereOnADriveAFileLies(t *testing.T) {
	sys := t.TempDir()
	write := func(path, text string) {
		path = filepath.Join(sys, path)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
		require.NoError(t, os.WriteFile(path, []byte(text), 0o644))
	}
	write("devices/pci/block/sda/size", "1000000\n")
	write("devices/pci/block/sda/sda2/partition", "2\n")
	write("devices/pci/block/sda/sda2/start", "250000\n")
	write("devices/virtual/block/dm-0/size", "500\n")
	require.NoError(t, os.MkdirAll(filepath.Join(sys, "dev/block"), 0o755))
	for number, to := range map[string]string{"8:0": "pci/block/sda", "8:2": "pci/block/sda/sda2",
		"253:0": "virtual/block/dm-0"} {
		require.NoError(t, os.Symlink(filepath.Join(sys, "devices", to), filepath.Join(sys, "dev/block", number)))
	}
	for number, want := range map[string]int64{"8:0": 0, "8:2": 250000 * 512} {
		begin, whole, err := partition(sys, number)
		require.NoError(t, err)
		assert.Equal(t, want, begin, number)
		assert.EqualValues(t, 1000000*512, whole, number)
	}
	for _, unknown := range []string{"253:0", "9:9"} {
		_, _, err := partition(sys, unknown)
		assert.Error(t, err, unknown)
	}
	// Of a real file, where the system tells it.
	vol, err := OpenFolder(onDrive(t))
	require.NoError(t, err)
	f, err := vol.create(1 << 20)
	require.NoError(t, err)
	if from, to, ok := f.Placement(); ok {
		assert.True(t, 0 <= from && from < to && to <= 1, "%v to %v", from, to)
	}
	require.NoError(t, f.Close())
}
