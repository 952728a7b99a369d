package launch

import (
	"fmt"
	"slices"
	"strings"
	"syscall"
	"time"
	"unsafe"

	"github.com/shirou/gopsutil/v4/process"
	"golang.org/x/sys/windows"
)

// leastSide is how large a window is at least, px; smaller ones are helpers.
const leastSide = 2

var (
	user           = windows.NewLazySystemDLL("user32.dll")
	windowText     = user.NewProc("GetWindowTextW")
	windowRect     = user.NewProc("GetWindowRect")
	windowOwner    = user.NewProc("GetWindow")
	postMessage    = user.NewProc("PostMessageW")
	needed         = []*windows.LazyProc{windowText, windowRect, windowOwner, postMessage}
	collectWindows = syscall.NewCallback(func(h windows.HWND, list *[]windows.HWND) uintptr {
		*list = append(*list, h)
		return 1 // go on
	})
)

func supportsWindows() error {
	for _, p := range needed {
		if err := p.Find(); err != nil {
			return fmt.Errorf("the sign window: this system does not tell of windows (%w); use quiet, or a video", err)
		}
	}
	return nil
}

// shows looks for a window that was not there before.
type shows struct {
	title  string // a part of it; "": any
	before map[windows.HWND]bool
}

func watchWindows(title string) (watcher, error) {
	if err := supportsWindows(); err != nil {
		return nil, err
	}
	s := &shows{title: title, before: map[windows.HWND]bool{}}
	for _, h := range seen() {
		s.before[h] = true
	}
	return s, nil
}

func (s *shows) every() time.Duration { return windowEvery }
func (s *shows) close()               {}

func (s *shows) look(f *family) (time.Time, bool) {
	var list []*process.Process
	for _, h := range seen() {
		if s.before[h] || !strings.Contains(titleOf(h), s.title) {
			continue
		}
		at := time.Now() // asking whose it is takes a while
		if list == nil {
			list = f.living()
		}
		if slices.ContainsFunc(list, func(p *process.Process) bool { return uint32(p.Pid) == ownerOf(h) }) {
			return at, true
		}
	}
	return time.Time{}, false
}

// seen are the programs' windows on the desktop that can be seen, without helpers and what belongs to another window.
func seen() []windows.HWND {
	var all []windows.HWND
	if err := windows.EnumWindows(collectWindows, unsafe.Pointer(&all)); err != nil {
		return nil
	}
	return slices.DeleteFunc(all, func(h windows.HWND) bool {
		if !windows.IsWindowVisible(h) {
			return true
		}
		const owner = 4 // GW_OWNER
		if of, _, _ := windowOwner.Call(uintptr(h), owner); of != 0 {
			return true
		}
		var r struct{ left, top, right, bottom int32 }
		ok, _, _ := windowRect.Call(uintptr(h), uintptr(unsafe.Pointer(&r)))
		return ok == 0 || r.right-r.left < leastSide || r.bottom-r.top < leastSide
	})
}

func titleOf(h windows.HWND) string {
	var text [512]uint16
	n, _, _ := windowText.Call(uintptr(h), uintptr(unsafe.Pointer(&text)), uintptr(len(text)))
	return windows.UTF16ToString(text[:min(int(n), len(text))])
}

// ownerOf is the process whose a window is.
func ownerOf(h windows.HWND) uint32 {
	var pid uint32
	_, _ = windows.GetWindowThreadProcessId(h, &pid)
	return pid
}

// closeWindows asks a process' windows to close, as their cross does; false where it has none.
func closeWindows(pid int32) bool {
	const wmClose = 0x0010
	asked := false
	for _, h := range seen() {
		if ownerOf(h) == uint32(pid) {
			r, _, _ := postMessage.Call(uintptr(h), wmClose, 0, 0)
			asked = asked || r != 0
		}
	}
	return asked
}
