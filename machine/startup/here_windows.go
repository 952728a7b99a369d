package startup

import (
	"errors"

	"golang.org/x/sys/windows"
	"golang.org/x/sys/windows/registry"
)

// runOnce is the key whose values Windows removes and then runs when this user signs in.
const runOnce = `Software\Microsoft\Windows\CurrentVersion\RunOnce`

// Here is this system; folder is one whose programs it starts, or "".
func Here(folder string) System {
	return System{OS: "windows", Root: windows.GetCurrentProcessToken().IsElevated(), Folder: folder}
}

func putValue(e Entry) error {
	k, _, err := registry.CreateKey(registry.CURRENT_USER, runOnce, registry.SET_VALUE)
	if err != nil {
		return err
	}
	return errors.Join(k.SetStringValue(name, e.Value), k.Close())
}

func removeValue(Entry) error {
	k, err := registry.OpenKey(registry.CURRENT_USER, runOnce, registry.SET_VALUE)
	if err != nil {
		return gone(err)
	}
	return errors.Join(gone(k.DeleteValue(name)), k.Close())
}

// restarts are the commands that restart this system.
func restarts() [][]string { return [][]string{{"shutdown", "/r", "/t", "0"}} }
