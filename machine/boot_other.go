//go:build !linux

package machine

// bootID is "": the moment of the start has to do.
func bootID() string { return "" }
