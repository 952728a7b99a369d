package main

import "golang.org/x/sys/windows"

// elevate starts a file with administrator rights, and the argument by which it knows that it need not ask again. The
// error says why it was not started, such as that the user refused.
func elevate(file string) error {
	if windows.GetCurrentProcessToken().IsElevated() {
		return errElevated
	}
	verb, _ := windows.UTF16PtrFromString("runas")
	arguments, _ := windows.UTF16PtrFromString("as-administrator")
	path, err := windows.UTF16PtrFromString(file)
	if err != nil {
		return err
	}
	return windows.ShellExecute(0, verb, path, arguments, nil, windows.SW_SHOWNORMAL)
}
