package machine

import (
	"errors"
	"path/filepath"
	"sync"
	"unsafe"

	"golang.org/x/sys/windows"
)

func fileSystemOf(dir string) (placement, error) {
	root := filepath.VolumeName(dir) + `\`
	p16, err := windows.UTF16PtrFromString(root)
	if err != nil {
		return placement{}, err
	}
	d16, err := windows.UTF16PtrFromString(dir)
	if err != nil {
		return placement{}, err
	}
	var p placement
	var free, total uint64
	if err := windows.GetDiskFreeSpaceEx(d16, &free, &total, nil); err != nil {
		return p, err
	}
	p.FreeBytes, p.TotalBytes = int64(free), int64(total)
	var name [64]uint16
	if err := windows.GetVolumeInformation(p16, nil, 0, nil, nil, nil, &name[0], uint32(len(name))); err == nil {
		p.FileSystem = windows.UTF16ToString(name[:])
	}
	if attributes, err := windows.GetFileAttributes(d16); err == nil &&
		attributes&windows.FILE_ATTRIBUTE_COMPRESSED != 0 {
		p.kind = compressed
	}
	switch windows.GetDriveType(p16) {
	case windows.DRIVE_RAMDISK:
		p.kind = inMemory
	case windows.DRIVE_REMOTE:
		p.kind = onNetwork
	}
	return p, nil
}

// file is a file without buffering. It is opened for overlapped I/O, because
// the system would put requests to a synchronous one in a row.
type file struct {
	h windows.Handle

	mu   sync.Mutex
	free []*waiter      // events of requests that have ended
	port windows.Handle // to which requests of a queue end, once there was one
}

// noBuffering is FILE_FLAG_NO_BUFFERING: past the system's memory, into the drive's own
// cache as it is set. Writing through that at each request would be another quantity
// than elsewhere: what is written is made durable by one flush, whose time counts.
const noBuffering = 0x20000000

// openTest makes a test file that the system removes when its handle is closed,
// by whatever ends the process.
func openTest(dir string, named bool) (handle, string, error) {
	path := filepath.Join(dir, testFileName())
	attributes := uint32(windows.FILE_ATTRIBUTE_NORMAL | windows.FILE_FLAG_OVERLAPPED | noBuffering)
	if !named {
		attributes |= windows.FILE_FLAG_DELETE_ON_CLOSE
	}
	h, err := open(path, windows.GENERIC_READ|windows.GENERIC_WRITE, windows.CREATE_NEW, attributes)
	return h, path, err
}

func openExisting(path string) (handle, error) {
	return open(path, windows.GENERIC_READ, windows.OPEN_EXISTING, windows.FILE_FLAG_OVERLAPPED|noBuffering)
}

func open(path string, access, disposition, attributes uint32) (handle, error) {
	p16, err := windows.UTF16PtrFromString(path)
	if err != nil {
		return nil, err
	}
	h, err := windows.CreateFile(p16, access, windows.FILE_SHARE_READ|windows.FILE_SHARE_DELETE, nil, disposition,
		attributes, 0)
	if err != nil {
		return nil, err
	}
	return &file{h: h}, nil
}

// waiter is what one request needs of the system to be waited for.
type waiter struct {
	o     windows.Overlapped
	event windows.Handle
	moved uint32
}

// waiter takes one that no request uses.
func (f *file) waiter() (*waiter, error) {
	f.mu.Lock()
	defer f.mu.Unlock()
	if n := len(f.free); n > 0 {
		w := f.free[n-1]
		f.free = f.free[:n-1]
		return w, nil
	}
	event, err := windows.CreateEvent(nil, 1, 0, nil)
	if err != nil {
		return nil, err
	}
	return &waiter{event: event}, nil
}

// overlapped runs one request and waits for it.
func (f *file) overlapped(p []byte, at int64,
	call func(windows.Handle, []byte, *uint32, *windows.Overlapped) error) (int, error) {
	w, err := f.waiter()
	if err != nil {
		return 0, err
	}
	// The lowest bit keeps its end from the queues' port.
	w.o = windows.Overlapped{Offset: uint32(at), OffsetHigh: uint32(at >> 32), HEvent: w.event | 1}
	if err = call(f.h, p, nil, &w.o); err == nil || errors.Is(err, windows.ERROR_IO_PENDING) {
		err = windows.GetOverlappedResult(f.h, &w.o, &w.moved, true)
	} else {
		w.moved = 0
	}
	n := int(w.moved)
	f.mu.Lock()
	f.free = append(f.free, w)
	f.mu.Unlock()
	return n, endOfFile(err)
}

// endOfFile turns the system's error for it into a short result.
func endOfFile(err error) error {
	if errors.Is(err, windows.ERROR_HANDLE_EOF) {
		return nil
	}
	return err
}

func (f *file) readAt(p []byte, at int64) (int, error) {
	return f.overlapped(p, at, windows.ReadFile)
}

func (f *file) writeAt(p []byte, at int64) (int, error) {
	return f.overlapped(p, at, windows.WriteFile)
}

func (f *file) flush() error { return windows.FlushFileBuffers(f.h) }

func (f *file) close() error {
	for _, w := range f.free {
		_ = windows.CloseHandle(w.event)
	}
	if f.port != 0 {
		_ = windows.CloseHandle(f.port)
	}
	return windows.CloseHandle(f.h)
}

// inPageCache: this system does not report it; it refuses to open what it cannot do
// unbuffered.
func inPageCache(handle, int64, int64) bool { return false }

func (f *file) reserve(size int64) error {
	// FILE_END_OF_FILE_INFO
	end := size
	return windows.SetFileInformationByHandle(f.h, windows.FileEndOfFileInfo, (*byte)(unsafe.Pointer(&end)),
		uint32(unsafe.Sizeof(end)))
}

// storageInfo is FILE_STORAGE_INFO.
type storageInfo struct {
	logical, physicalAtomic, physicalBest, effective uint32
	flags, byteOffset, partitionOffset               uint32
}

func (f *file) align() int64 {
	var s storageInfo
	const fileStorageInfo = 16
	if err := windows.GetFileInformationByHandleEx(f.h, fileStorageInfo, (*byte)(unsafe.Pointer(&s)),
		uint32(unsafe.Sizeof(s))); err == nil && s.logical > 0 {
		return int64(s.logical)
	}
	return 4096
}

func isInterrupted(error) bool    { return false }
func isNoDirectIO(err error) bool { return errors.Is(err, windows.ERROR_INVALID_PARAMETER) }
func isReadOnly(err error) bool   { return errors.Is(err, windows.ERROR_WRITE_PROTECT) }
func isNoRoom(err error) bool {
	return errors.Is(err, windows.ERROR_DISK_FULL) || errors.Is(err, windows.ERROR_HANDLE_DISK_FULL)
}
