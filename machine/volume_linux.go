package machine

import (
	"errors"
	"fmt"
	"path/filepath"

	"golang.org/x/sys/unix"

	"nowthen/core/drivetest"
)

// fileSystem is what is known of a kind of file system.
type fileSystem struct {
	kind kindOfPlace
	name string
}

// fileSystems are the usual ones, by their numbers (statfs(2)).
var fileSystems = map[int64]fileSystem{
	unix.EXT4_SUPER_MAGIC:      {local, "ext4"},
	unix.XFS_SUPER_MAGIC:       {local, "xfs"},
	unix.BTRFS_SUPER_MAGIC:     {local, "btrfs"},
	unix.MSDOS_SUPER_MAGIC:     {local, "vfat"},
	unix.EXFAT_SUPER_MAGIC:     {local, "exfat"},
	unix.F2FS_SUPER_MAGIC:      {local, "f2fs"},
	unix.OVERLAYFS_SUPER_MAGIC: {local, "overlay"},
	0x5346544e:                 {local, "ntfs"},

	// Reading these doesn't measure a drive.
	unix.TMPFS_MAGIC:      {inMemory, "tmpfs"},
	unix.RAMFS_MAGIC:      {inMemory, "ramfs"},
	unix.HUGETLBFS_MAGIC:  {inMemory, "hugetlbfs"},
	unix.PROC_SUPER_MAGIC: {inMemory, "proc"},
	unix.SYSFS_MAGIC:      {inMemory, "sysfs"},

	unix.NFS_SUPER_MAGIC: {onNetwork, "nfs"},
	unix.V9FS_MAGIC:      {onNetwork, "9p"},
	0xff534d42:           {onNetwork, "cifs"},
	0xfe534d42:           {onNetwork, "smb2"},
	0x5346414f:           {onNetwork, "afs"},
	0x00c36400:           {onNetwork, "ceph"},

	// ZFS passes its cache by since 2.3, if it is told to; it does not say.
	unix.FUSE_SUPER_MAGIC:     {cachesItself, "fuse, a file system of a program"},
	unix.ECRYPTFS_SUPER_MAGIC: {cachesItself, "ecryptfs"},
	0x2fc12fc1:                {cachesItself, "zfs"},
}

func fileSystemOf(dir string) (placement, error) {
	var st unix.Statfs_t
	if err := unix.Statfs(dir, &st); err != nil {
		return placement{}, err
	}
	number := int64(uint32(st.Type))
	known, ok := fileSystems[number]
	if !ok {
		known = fileSystem{local, fmt.Sprintf("type %x", number)}
	}
	if known.kind == local && flagged(dir, compressFlag) {
		known.kind = compressed
	}
	return placement{kind: known.kind,
		Facts: drivetest.Facts{FileSystem: known.name, TotalBytes: int64(st.Blocks) * int64(st.Bsize),
			FreeBytes: int64(st.Bavail) * int64(st.Bsize)}}, nil
}

// Attributes of a file or folder (linux/fs.h).
const (
	getFlags     = 0x80086601 // FS_IOC_GETFLAGS
	setFlags     = 0x40086602 // FS_IOC_SETFLAGS
	compressFlag = 0x4        // FS_COMPR_FL
	noCopyFlag   = 0x00800000 // FS_NOCOW_FL
)

// flagged reports whether a folder has an attribute, as far as its file system says.
func flagged(dir string, flag uint32) bool {
	fd, err := retry(func() (int, error) { return unix.Open(dir, unix.O_RDONLY|unix.O_DIRECTORY|unix.O_CLOEXEC, 0) })
	if err != nil {
		return false
	}
	defer unix.Close(fd)
	flags, err := unix.IoctlGetUint32(fd, getFlags)
	return err == nil && flags&flag != 0
}

// inPlace asks the file system to write the file where it lies, without copying what is
// overwritten or compressing it. One that knows no such thing does so anyway.
func inPlace(fd int) {
	if flags, err := unix.IoctlGetUint32(fd, getFlags); err == nil {
		_ = unix.IoctlSetPointerInt(fd, setFlags, int(flags|noCopyFlag))
	}
}

// file is a file for direct I/O.
type file struct{ fd int }

// openTest makes a test file, without a name where the file system can, so that
// it is gone with the process whatever happens.
func openTest(dir string, named bool) (handle, string, error) {
	const flags = unix.O_RDWR | unix.O_DIRECT | unix.O_CLOEXEC
	fd, err := -1, error(unix.EOPNOTSUPP)
	if !named {
		fd, err = retry(func() (int, error) { return unix.Open(dir, flags|unix.O_TMPFILE, 0o600) })
	}
	if !errors.Is(err, unix.EOPNOTSUPP) && !errors.Is(err, unix.EISDIR) {
		if err == nil {
			inPlace(fd)
		}
		return file{fd}, "", err
	}
	path := filepath.Join(dir, testFileName())
	fd, err = retry(func() (int, error) {
		return unix.Open(path, flags|unix.O_CREAT|unix.O_EXCL|unix.O_NOFOLLOW, 0o600)
	})
	if err != nil && isNoDirectIO(err) {
		_ = unix.Unlink(path) // some systems make the file before they refuse the flag
	}
	if err == nil {
		inPlace(fd)
	}
	return file{fd}, path, err
}

// openExisting opens a file that is there for direct reading.
func openExisting(path string) (handle, error) {
	fd, err := retry(func() (int, error) {
		return unix.Open(path, unix.O_RDONLY|unix.O_DIRECT|unix.O_CLOEXEC|unix.O_NOFOLLOW, 0)
	})
	return file{fd}, err
}

func (f file) readAt(p []byte, at int64) (int, error)  { return unix.Pread(f.fd, p, at) }
func (f file) writeAt(p []byte, at int64) (int, error) { return unix.Pwrite(f.fd, p, at) }
func (f file) close() error                            { return unix.Close(f.fd) }

func (f file) flush() error {
	_, err := retry(func() (int, error) { return 0, unix.Fdatasync(f.fd) })
	return err
}

func (f file) reserve(size int64) error {
	_, err := retry(func() (int, error) { return 0, unix.Fallocate(f.fd, 0, 0, size) })
	if errors.Is(err, unix.EOPNOTSUPP) {
		return unix.Ftruncate(f.fd, size)
	}
	return err
}

// inPageCache reports whether pages of an open file lie in the system's memory. A
// file system that maps no files tells nothing.
func inPageCache(h handle, at, size int64) bool {
	resident, err := isResident(h.(file).fd, at, size)
	return resident && err == nil
}

func (f file) align() int64 {
	var stx unix.Statx_t
	if err := unix.Statx(f.fd, "", unix.AT_EMPTY_PATH, unix.STATX_DIOALIGN, &stx); err == nil &&
		stx.Mask&unix.STATX_DIOALIGN != 0 {
		return int64(max(stx.Dio_offset_align, stx.Dio_mem_align))
	}
	return 4096
}

// retry repeats a call that a signal interrupted.
func retry[T any](call func() (T, error)) (T, error) {
	for {
		v, err := call()
		if !errors.Is(err, unix.EINTR) {
			return v, err
		}
	}
}

func isInterrupted(err error) bool { return errors.Is(err, unix.EINTR) }
func isNoDirectIO(err error) bool  { return errors.Is(err, unix.EINVAL) }
func isReadOnly(err error) bool    { return errors.Is(err, unix.EROFS) }
func isNoRoom(err error) bool      { return errors.Is(err, unix.ENOSPC) || errors.Is(err, unix.EDQUOT) }
