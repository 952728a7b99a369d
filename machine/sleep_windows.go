package machine

import (
	"time"
	"unsafe"

	"golang.org/x/sys/windows"
)

var (
	interruptTime         = windows.NewLazySystemDLL("kernelbase.dll").NewProc("QueryInterruptTime")
	unbiasedInterruptTime = windows.NewLazySystemDLL("kernelbase.dll").NewProc("QueryUnbiasedInterruptTime")
)

// bootClocks reads the clock that counts sleep and the one that does not, each in
// units of 100 ns since the start.
func bootClocks() (counting, not time.Duration, ok bool) {
	if interruptTime.Find() != nil || unbiasedInterruptTime.Find() != nil {
		return 0, 0, false
	}
	var a, b uint64
	_, _, _ = interruptTime.Call(uintptr(unsafe.Pointer(&a)))
	done, _, _ := unbiasedInterruptTime.Call(uintptr(unsafe.Pointer(&b)))
	return time.Duration(a * 100), time.Duration(b * 100), done != 0
}
