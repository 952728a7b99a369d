package machine

import (
	"time"
	"unsafe"

	"golang.org/x/sys/windows"
)

var threadTimes = windows.NewLazySystemDLL("kernel32.dll").NewProc("GetThreadTimes")

// processorTime is what the calling thread and the whole program have used.
func processorTime() (thread, program time.Duration) {
	var made, ended, kernel, user windows.Filetime
	whole := func() time.Duration {
		// In steps of 100 ns.
		return time.Duration((int64(kernel.HighDateTime)<<32|int64(kernel.LowDateTime))+(int64(user.HighDateTime)<<32|int64(user.LowDateTime))) * 100
	}
	thread = -1
	if ok, _, _ := threadTimes.Call(uintptr(windows.CurrentThread()), uintptr(unsafe.Pointer(&made)),
		uintptr(unsafe.Pointer(&ended)), uintptr(unsafe.Pointer(&kernel)), uintptr(unsafe.Pointer(&user))); ok != 0 {
		thread = whole()
	}
	if err := windows.GetProcessTimes(windows.CurrentProcess(), &made, &ended, &kernel, &user); err != nil {
		return thread, 0
	}
	return thread, whole()
}
