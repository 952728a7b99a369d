package machine

import (
	"encoding/binary"
	"errors"
	"nowthen/core/hardware/answers"
	"path/filepath"
	"unsafe"

	"golang.org/x/sys/windows"
)

const (
	fsctlGetRetrievalPointers      = 0x00090073
	ioctlVolumeGetDiskExtents      = 0x00560000
	ioctlDiskGetDriveGeometryEx    = 0x000700a0
	noCluster                      = -1 // of an extent that has no place: a hole
	retrievalHead, retrievalExtent = 16, 16
)

// clusters is a stretch of a volume, in its clusters.
type clusters struct{ from, to int64 }

// parseRetrieval reads RETRIEVAL_POINTERS_BUFFER: where a file's clusters lie on its
// volume.
func parseRetrieval(b []byte) ([]clusters, error) {
	if len(b) < retrievalHead {
		return nil, errors.New("the system's answer is short")
	}
	n := int(binary.LittleEndian.Uint32(b))
	if n < 0 || len(b) < retrievalHead+n*retrievalExtent {
		return nil, errors.New("the system's answer is short")
	}
	at := int64(binary.LittleEndian.Uint64(b[8:])) // the first cluster of the file
	var list []clusters
	for i := range n {
		e := b[retrievalHead+i*retrievalExtent:]
		next, place := int64(binary.LittleEndian.Uint64(e)), int64(binary.LittleEndian.Uint64(e[8:]))
		if place != noCluster && next > at {
			list = append(list, clusters{place, place + next - at})
		}
		at = next
	}
	return list, nil
}

// Placement is where on its drive the test file lies, if file system and system report it:
// of a volume that lies in one piece on one drive.
func (t *testFile) Placement() (from, to float64, ok bool) {
	f, isFile := t.handle.(*file)
	if !isFile || t.of == nil {
		return 0, 0, false
	}
	start := int64(0)
	buffer := make([]byte, 1<<20)
	n, err := f.overlapped(buffer, 0, func(h windows.Handle, p []byte, _ *uint32, o *windows.Overlapped) error {
		return windows.DeviceIoControl(h, fsctlGetRetrievalPointers, (*byte)(unsafe.Pointer(&start)), 8, &p[0],
			uint32(len(p)), nil, o)
	})
	if err != nil {
		return 0, 0, false // more pieces than fit in there tell no place either
	}
	list, err := parseRetrieval(buffer[:n])
	if err != nil || len(list) == 0 {
		return 0, 0, false
	}
	size, begin, whole, err := volumeOn(t.of.dir)
	if err != nil || whole <= 0 {
		return 0, 0, false
	}
	first, last := list[0].from, list[0].to
	for _, e := range list {
		first, last = min(first, e.from), max(last, e.to)
	}
	return float64(begin+first*size) / float64(whole), float64(begin+last*size) / float64(whole), true
}

// volumeOn returns the bytes of a cluster of the volume that holds a folder, where on its
// drive the volume begins, and how large that drive is.
func volumeOn(dir string) (cluster, begin, whole int64, err error) {
	name := filepath.VolumeName(dir)
	root, err := windows.UTF16PtrFromString(name + `\`)
	if err != nil {
		return 0, 0, 0, err
	}
	var sectors, bytes, free, total uint32
	kernel := windows.NewLazySystemDLL("kernel32.dll")
	if r, _, err := kernel.NewProc("GetDiskFreeSpaceW").Call(uintptr(unsafe.Pointer(root)),
		uintptr(unsafe.Pointer(&sectors)), uintptr(unsafe.Pointer(&bytes)),
		uintptr(unsafe.Pointer(&free)), uintptr(unsafe.Pointer(&total))); r == 0 {
		return 0, 0, 0, err
	}
	drives, start, err := extentsOf(name)
	if err != nil {
		return 0, 0, 0, err
	}
	if len(drives) != 1 {
		return 0, 0, 0, errors.New("the volume lies on several drives")
	}
	d, err := openDevice(`\\.\`+name, 0)
	if err != nil {
		return 0, 0, 0, err
	}
	defer d.close()
	b, err := d.ask(ioctlDiskGetDriveGeometryEx, nil, 4096)
	if err != nil {
		return 0, 0, 0, err
	}
	whole, err = answers.WindowsCapacity(b)
	return int64(sectors) * int64(bytes), start, whole, err
}
