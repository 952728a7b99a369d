package machine

import (
	"errors"
	"fmt"
	"math"
	"path/filepath"
	"runtime"
	"time"
	"unsafe"

	"github.com/go-ole/go-ole"
	"github.com/go-ole/go-ole/oleutil"
	"golang.org/x/sys/windows"
	"golang.org/x/sys/windows/registry"

	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

var (
	systemPowerStatus = windows.NewLazySystemDLL("kernel32.dll").NewProc("GetSystemPowerStatus")
	powerProfiles     = windows.NewLazySystemDLL("powrprof.dll")
	activeScheme      = powerProfiles.NewProc("PowerGetActiveScheme")
	activeOverlay     = powerProfiles.NewProc("PowerGetEffectiveOverlayScheme")
)

// powerNow reads where the power comes from, how it is used, and how full the battery is.
func powerNow() (source job.Power, mode job.PowerMode, pct *float64) {
	var status [12]byte // SYSTEM_POWER_STATUS
	if systemPowerStatus.Find() != nil {
		return "", "", nil
	}
	if ok, _, _ := systemPowerStatus.Call(uintptr(unsafe.Pointer(&status))); ok == 0 {
		return "", "", nil
	}
	source, mode, pct, _ = answers.WindowsPower(status[:], scheme(), overlay())
	return source, mode, pct
}

// scheme is the power scheme in force, "" if the system does not report it.
func scheme() string {
	if activeScheme.Find() != nil {
		return ""
	}
	var guid *windows.GUID
	if r, _, _ := activeScheme.Call(0, uintptr(unsafe.Pointer(&guid))); r != 0 || guid == nil {
		return ""
	}
	defer windows.LocalFree(windows.Handle(unsafe.Pointer(guid)))
	return plain(*guid)
}

// overlay is the mode set by the power slider of later versions, "" if there is none.
func overlay() string {
	if activeOverlay.Find() != nil {
		return ""
	}
	var guid windows.GUID
	if r, _, _ := activeOverlay.Call(uintptr(unsafe.Pointer(&guid))); r != 0 || guid == (windows.GUID{}) {
		return ""
	}
	return plain(guid)
}

// plain returns a GUID without its braces.
func plain(g windows.GUID) string { s := g.String(); return s[1 : len(s)-1] }

func power() (source job.Power, mode job.PowerMode) {
	source, mode, _ = powerNow()
	return source, mode
}

// Battery is how full the computer's own battery is, %; ok is false where it has none or the system does not report it.
func Battery() (pct float64, ok bool) {
	if _, _, p := powerNow(); p != nil {
		return *p, true
	}
	return 0, false
}

// firmwareSettings: whether the system shuts down only half so that it starts quicker, as it keeps
// it for itself. How the
// firmware has set the controllers it does not tell.
func firmwareSettings() (quickStart *bool, storageMode string) {
	k, err := registry.OpenKey(registry.LOCAL_MACHINE, `SYSTEM\CurrentControlSet\Control\Session Manager\Power`,
		registry.QUERY_VALUE)
	if err != nil {
		return nil, ""
	}
	defer k.Close()
	v, _, err := k.GetIntegerValue("HiberbootEnabled")
	if err != nil {
		return nil, ""
	}
	on := v != 0
	return &on, ""
}

// protectionWait bounds how long the shell is waited for.
const protectionWait = 3 * time.Second

// protection asks the shell, which answers without administrator rights, whether a volume is
// encrypted and whether a pass
// over it is running; nil if it does not report it.
func protection(mount string) (encrypted, encrypting *bool) {
	told := make(chan int, 1)
	go func() {
		runtime.LockOSThread() // the shell's objects belong to a thread
		defer runtime.UnlockOSThread()
		told <- shellProtection(mount)
	}()
	select {
	case state := <-told:
		return answers.WindowsProtection(state)
	case <-time.After(protectionWait):
		return nil, nil
	}
}

// shellProtection is the property's number, 0 where the shell has none.
func shellProtection(mount string) int {
	if err := ole.CoInitializeEx(0, ole.COINIT_APARTMENTTHREADED); err != nil {
		return 0
	}
	defer ole.CoUninitialize()
	unknown, err := oleutil.CreateObject("Shell.Application")
	if err != nil {
		return 0
	}
	defer unknown.Release()
	shell, err := unknown.QueryInterface(ole.IID_IDispatch)
	if err != nil {
		return 0
	}
	defer shell.Release()
	at := shell
	for _, step := range []struct {
		name string
		with []any
	}{{"NameSpace", []any{mount + `\`}}, {"Self", nil}} {
		v, err := at.InvokeWithOptionalArgs(step.name, ole.DISPATCH_METHOD|ole.DISPATCH_PROPERTYGET, step.with)
		if err != nil || v == nil || v.ToIDispatch() == nil {
			return 0
		}
		at = v.ToIDispatch()
		defer at.Release()
	}
	v, err := oleutil.CallMethod(at, "ExtendedProperty", "System.Volume.BitLockerProtection")
	if err != nil || v == nil {
		return 0
	}
	defer func() { _ = v.Clear() }()
	switch n := v.Value().(type) {
	case int32:
		return int(n)
	case int64:
		return int(n)
	case int:
		return n
	}
	return 0
}

// encryption reports whether the volume that holds a folder is encrypted, and whether a pass over it is running.
func encryption(dir string) (encrypted, encrypting *bool) {
	if mount := filepath.VolumeName(dir); len(mount) == 2 {
		return protection(mount)
	}
	return nil, nil
}

// passOver is a pass of encryption over the volume of a folder. How far it is needs administrator
// rights; that one runs does not.
func passOver(dir string) *job.Pass {
	mount := filepath.VolumeName(dir)
	if len(mount) != 2 {
		return nil
	}
	if _, encrypting := protection(mount); encrypting == nil || !*encrypting {
		return nil
	}
	told := make(chan *job.Pass, 1)
	go func() {
		runtime.LockOSThread() // what is asked belongs to a thread
		defer runtime.UnlockOSThread()
		status, pct, err := conversion(mount)
		if err != nil {
			told <- nil
			return
		}
		told <- answers.WindowsPass(status, pct)
	}()
	select {
	case p := <-told:
		return p
	case <-time.After(protectionWait):
		return nil
	}
}

// conversion asks the system's management how far the encryption of a volume is: its state, by
// number, and the share of it
// that is encrypted, %.
func conversion(mount string) (status int, encryptedPct float64, err error) {
	if err := ole.CoInitializeEx(0, ole.COINIT_MULTITHREADED); err != nil {
		return 0, 0, err
	}
	defer ole.CoUninitialize()
	unknown, err := oleutil.CreateObject("WbemScripting.SWbemLocator")
	if err != nil {
		return 0, 0, err
	}
	defer unknown.Release()
	locator, err := unknown.QueryInterface(ole.IID_IDispatch)
	if err != nil {
		return 0, 0, err
	}
	defer locator.Release()
	at := locator
	for _, step := range []struct {
		name string
		with []any
	}{
		{"ConnectServer", []any{nil, `root\CIMV2\Security\MicrosoftVolumeEncryption`}},
		{"ExecQuery", []any{"SELECT * FROM Win32_EncryptableVolume WHERE DriveLetter = '" + mount + "'"}},
		{"ItemIndex", []any{0}},
		{"ExecMethod_", []any{"GetConversionStatus"}},
	} {
		v, err := oleutil.CallMethod(at, step.name, step.with...)
		if err != nil {
			return 0, 0, fmt.Errorf("%s: %w", step.name, err)
		}
		if at = v.ToIDispatch(); at == nil {
			return 0, 0, fmt.Errorf("%s: no answer", step.name)
		}
		defer at.Release()
	}
	number := func(name string) (n int) {
		v, e := oleutil.GetProperty(at, name)
		if e != nil {
			err = errors.Join(err, fmt.Errorf("%s: %w", name, e))
			return 0
		}
		defer func() { _ = v.Clear() }()
		switch n := v.Value().(type) {
		case int32:
			return int(n)
		case int64:
			return int(n)
		case int:
			return n
		}
		err = errors.Join(err, fmt.Errorf("%s: %v", name, v.Value()))
		return 0
	}
	status, encryptedPct = number("ConversionStatus"), float64(number("EncryptionPercentage"))
	return status, encryptedPct, err
}

// wholeDrive: this system counts by volume, and each once.
func wholeDrive(string) bool { return true }

// sensorOf finds the sensor of the drive on which a folder lies; nil where it has none that the system reads.
func sensorOf(dir string) func() (celsius, limit float64) {
	drives, _, err := extentsOf(filepath.VolumeName(dir))
	if err != nil || len(drives) != 1 {
		return nil
	}
	path := drivePath(int(drives[0]))
	ask := func() (celsius, limit float64) {
		d, err := openDevice(path, 0)
		if err != nil {
			return math.NaN(), 0
		}
		defer d.close()
		c, l := d.temperature()
		if c == nil {
			return math.NaN(), 0
		}
		if l == nil {
			return *c, 0
		}
		return *c, *l
	}
	if c, _ := ask(); math.IsNaN(c) {
		return nil
	}
	return ask
}
