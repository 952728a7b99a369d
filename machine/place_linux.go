package machine

import (
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"unsafe"

	"golang.org/x/sys/unix"
)

// fiemap is the request of FS_IOC_FIEMAP with room for so many extents (linux/fiemap.h).
type fiemap struct {
	start, length   uint64
	flags, mapped   uint32
	count, reserved uint32
	extents         [256]fiemapExtent
}

type fiemapExtent struct {
	logical, physical, length uint64
	_                         [2]uint64
	flags                     uint32
	_                         [3]uint32
}

const (
	fsIocFiemap       = 0xc020660b
	fiemapFlagSync    = 1
	fiemapExtentLast  = 1
	fiemapExtentUnset = 0x2 | 0x4 | 0x8 // its place is not known, or not that of the bytes
)

// extent is a stretch of a drive, bytes from the beginning of its file system's device.
type extent struct{ from, to int64 }

// extents are where a file lies, as the file system reports.
func extents(fd int) ([]extent, error) {
	var list []extent
	for at := uint64(0); ; {
		m := fiemap{start: at, length: ^uint64(0) - at, flags: fiemapFlagSync}
		m.count = uint32(len(m.extents))
		if _, _, errno := unix.Syscall(unix.SYS_IOCTL, uintptr(fd), fsIocFiemap,
			uintptr(unsafe.Pointer(&m))); errno != 0 {
			return nil, errno
		}
		for _, e := range m.extents[:m.mapped] {
			if e.flags&fiemapExtentUnset != 0 {
				return nil, fmt.Errorf("the file system does not tell where")
			}
			list = append(list, extent{int64(e.physical), int64(e.physical + e.length)})
			if at = e.logical + e.length; e.flags&fiemapExtentLast != 0 {
				return list, nil
			}
		}
		if m.mapped == 0 {
			return list, nil
		}
	}
}

// Placement is where on its drive the test file lies, if file system and system report it.
func (t *testFile) Placement() (from, to float64, ok bool) {
	f, isFile := t.handle.(file)
	if !isFile {
		return 0, 0, false
	}
	list, err := extents(f.fd)
	if err != nil || len(list) == 0 {
		return 0, 0, false
	}
	var st unix.Stat_t
	if unix.Fstat(f.fd, &st) != nil {
		return 0, 0, false
	}
	begin, whole, err := partition("/sys", fmt.Sprintf("%d:%d", unix.Major(st.Dev), unix.Minor(st.Dev)))
	if err != nil || whole <= 0 {
		return 0, 0, false
	}
	first, last := list[0].from, list[0].to
	for _, e := range list {
		first, last = min(first, e.from), max(last, e.to)
	}
	return float64(begin+first) / float64(whole), float64(begin+last) / float64(whole), true
}

// partition returns where on its drive a block device begins and how large that drive
// is, bytes, from the system's files.
func partition(sys, number string) (begin, whole int64, err error) {
	dir, err := filepath.EvalSymlinks(filepath.Join(sys, "dev/block", number))
	if err != nil {
		return 0, 0, err
	}
	if strings.Contains(dir, "/virtual/") { // made of others: where on which drive is not said
		return 0, 0, fmt.Errorf("block device %s is no drive", number)
	}
	sectors := func(path string) (int64, error) {
		text, err := os.ReadFile(path)
		if err != nil {
			return 0, err
		}
		n, err := strconv.ParseInt(strings.TrimSpace(string(text)), 10, 64)
		return n * 512, err
	}
	if _, err := os.Stat(filepath.Join(dir, "partition")); err == nil {
		if begin, err = sectors(filepath.Join(dir, "start")); err != nil {
			return 0, 0, err
		}
		dir = filepath.Dir(dir)
	}
	whole, err = sectors(filepath.Join(dir, "size"))
	return begin, whole, err
}
