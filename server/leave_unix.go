//go:build !windows

package server

import (
	"net"
	"syscall"

	"golang.org/x/sys/unix"
)

// hasLeft reports whether the other end of a connection is known to have closed it.
func hasLeft(conn net.Conn) bool {
	raw, ok := under(conn).(syscall.Conn)
	if !ok {
		return false
	}
	control, err := raw.SyscallConn()
	if err != nil {
		return false
	}
	left := false
	err = control.Control(func(fd uintptr) {
		var b [1]byte
		n, _, err := unix.Recvfrom(int(fd), b[:], unix.MSG_PEEK|unix.MSG_DONTWAIT)
		left = n == 0 && err == nil || err == unix.ECONNRESET
	})
	return err != nil || left
}
