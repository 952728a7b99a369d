package launch

import (
	"context"
	"flag"
	"os"
	"runtime"
	"testing"
	"time"
	"unsafe"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/sys/windows"
)

var titled = flag.String("window", "", "the title of the window that TestShowsAWindow shows")

// TestShowsAWindow is the program that the other test launches: it opens a window after a while,
// and ends when that is closed.
func TestShowsAWindow(t *testing.T) {
	if *titled == "" {
		t.Skip("it is launched by another test")
	}
	runtime.LockOSThread() // a window belongs to a thread
	time.Sleep(400 * time.Millisecond)
	class, _ := windows.UTF16PtrFromString("STATIC")
	title, _ := windows.UTF16PtrFromString(*titled)
	const overlapped, visible = 0x00CF0000, 0x10000000
	h, _, err := user.NewProc("CreateWindowExW").Call(0, uintptr(unsafe.Pointer(class)), uintptr(unsafe.Pointer(title)),
		overlapped|visible, 10, 10, 300, 200, 0, 0, 0, 0)
	require.NotZero(t, h, err)
	var message [64]byte // MSG
	exists := user.NewProc("IsWindow")
	for {
		for {
			there, _, _ := user.NewProc("PeekMessageW").Call(uintptr(unsafe.Pointer(&message)), 0, 0, 0, 1)
			if there == 0 {
				break
			}
			_, _, _ = user.NewProc("DispatchMessageW").Call(uintptr(unsafe.Pointer(&message)))
		}
		if is, _, _ := exists.Call(h); is == 0 {
			return
		}
		time.Sleep(20 * time.Millisecond)
	}
}

func TestAWindowIsSeen(t *testing.T) {
	require.NoError(t, supportsWindows())
	for name, sign := range map[string]string{"any": "window", "by its title": "window:Ledger of"} {
		t.Run(name, func(t *testing.T) {
			s, err := ParseSign(sign)
			require.NoError(t, err)
			l, err := New(Options{Program: os.Args[0],
				Args: []string{"-test.run", "TestShowsAWindow", "-window",
					"Ledger of the day"}, Until: s, GiveUp: time.Minute})
			require.NoError(t, err)
			r, err := l.Run(context.Background())
			require.NoError(t, err)
			assert.GreaterOrEqual(t, r.Value, 0.39)
			assert.Less(t, r.Value, 15.0)
			assert.Contains(t, []string{WhenAsked, ByItself}, r.Ended, "its window was closed as by its cross")
		})
	}
}
