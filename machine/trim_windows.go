package machine

import (
	"errors"
	"fmt"
	"unsafe"

	"golang.org/x/sys/windows"

	"nowthen/core/drivetest"
)

// fileLevelTrim is FILE_LEVEL_TRIM with one range.
type fileLevelTrim struct {
	key, ranges    uint32
	offset, length uint64
}

const fsctlFileLevelTrim = 0x00098208

// extent is what a removed test file held. This system trims a file before it is removed,
// so that only why it could not is kept of it.
type extent struct{ untrimmed error }

// freeing trims what a test file holds that is about to be removed: this system lets the
// one who writes a file do so.
func (f *Folder) freeing(h handle) {
	of, ok := h.(*file)
	if !ok {
		return
	}
	var info windows.ByHandleFileInformation
	if err := windows.GetFileInformationByHandle(of.h, &info); err != nil {
		return
	}
	in := fileLevelTrim{ranges: 1, length: uint64(info.FileSizeHigh)<<32 | uint64(info.FileSizeLow)}
	_, err := of.overlapped(nil, 0, func(h windows.Handle, _ []byte, _ *uint32, o *windows.Overlapped) error {
		return windows.DeviceIoControl(h, fsctlFileLevelTrim, (*byte)(unsafe.Pointer(&in)), uint32(unsafe.Sizeof(in)),
			nil, 0, nil, o)
	})
	switch {
	case err == nil:
	case errors.Is(err, windows.ERROR_ACCESS_DENIED):
		err = drivetest.ErrTrimForbidden
	case errors.Is(err, windows.ERROR_INVALID_FUNCTION), errors.Is(err, windows.ERROR_NOT_SUPPORTED):
		err = drivetest.ErrNoTrim
	default:
		err = fmt.Errorf("trimming: %w", err)
	}
	f.mu.Lock()
	defer f.mu.Unlock()
	f.freed = append(f.freed, extent{err})
}

func (f *Folder) trim(freed []extent) error {
	for _, e := range freed {
		if e.untrimmed != nil {
			return e.untrimmed
		}
	}
	return nil
}
