//go:build !linux

package machine

// bootID is "": the time of the start identifies it instead.
func bootID() string { return "" }
