package machine

import (
	"sync"
	"unsafe"

	"golang.org/x/sys/windows"
)

// mayLeaveUnwritten reports whether this process may say of room in a file that it counts as written:
// an administrator's may, as what
// was there before could be read. It is deleted with the file, and nothing but what was written is read of it here.
var mayLeaveUnwritten = sync.OnceValue(func() bool {
	var token windows.Token
	if windows.OpenProcessToken(windows.CurrentProcess(), windows.TOKEN_ADJUST_PRIVILEGES|windows.TOKEN_QUERY,
		&token) != nil {
		return false
	}
	defer token.Close()
	name, err := windows.UTF16PtrFromString("SeManageVolumePrivilege")
	if err != nil {
		return false
	}
	p := windows.Tokenprivileges{PrivilegeCount: 1}
	p.Privileges[0].Attributes = windows.SE_PRIVILEGE_ENABLED
	if windows.LookupPrivilegeValue(nil, name, &p.Privileges[0].Luid) != nil ||
		windows.AdjustTokenPrivileges(token, false, &p, 0, nil, nil) != nil {
		return false
	}
	return enabled(token, p.Privileges[0].Luid) // who does not hold it is not refused, and still does not hold it
})

// enabled reports whether a token has a privilege, and it is on.
func enabled(token windows.Token, luid windows.LUID) bool {
	const most = 64 << 10
	var n uint32
	_ = windows.GetTokenInformation(token, windows.TokenPrivileges, nil, 0, &n)
	if n == 0 || n > most {
		return false
	}
	raw := make([]uint64, (n+7)/8) // aligned as the structure wants it
	if windows.GetTokenInformation(token, windows.TokenPrivileges, (*byte)(unsafe.Pointer(&raw[0])), n, &n) != nil {
		return false
	}
	for _, p := range (*windows.Tokenprivileges)(unsafe.Pointer(&raw[0])).AllPrivileges() {
		if p.Luid == luid && p.Attributes&windows.SE_PRIVILEGE_ENABLED != 0 {
			return true
		}
	}
	return false
}

func leaveUnwritten(h handle, size int64) error {
	const validDataLength = 39 // FILE_VALID_DATA_LENGTH_INFORMATION
	var s windows.IO_STATUS_BLOCK
	return windows.NtSetInformationFile(h.(*file).h, &s, (*byte)(unsafe.Pointer(&size)), uint32(unsafe.Sizeof(size)),
		validDataLength)
}
