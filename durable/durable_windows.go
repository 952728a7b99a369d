package durable

import "os"

// syncFolder does nothing: Windows keeps what a folder lists by itself.
func syncFolder(string) error { return nil }

// lives reports whether there is a process.
func lives(pid int) bool {
	p, err := os.FindProcess(pid)
	if err != nil {
		return false
	}
	_ = p.Release()
	return true
}
