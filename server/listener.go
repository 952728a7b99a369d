package server

import (
	"errors"
	"fmt"
	"log/slog"
	"net"
	"syscall"
	"time"
)

// Bounds of what is served at once.
const (
	maxConns        = 4096 // connections
	maxConnsOfOne   = 1024 // of one address
	maxStreams      = 512  // event streams
	maxStreamsOfOne = 64   // of one address
)

// Waiting after a connection could not be taken.
const (
	firstWait = 5 * time.Millisecond
	longWait  = time.Second
)

// Bind takes an address to listen on. Port 0 picks a free one.
func Bind(addr string, log *slog.Logger) (net.Listener, error) {
	ln, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, fmt.Errorf("listening on %s: %w", addr, err)
	}
	return &patient{Listener: ln, log: log, wait: time.After}, nil
}

// patient is a listener that waits when the system is short of resources such as file descriptors.
type patient struct {
	net.Listener
	log  *slog.Logger
	wait func(time.Duration) <-chan time.Time
}

// Accept implements [net.Listener]. What it returns as an error ends the serving.
func (p *patient) Accept() (net.Conn, error) {
	for wait := firstWait; ; wait = min(2*wait, longWait) {
		c, err := p.Listener.Accept()
		if err == nil {
			if wait > firstWait {
				p.log.Info("connections are accepted again")
			}
			return c, nil
		}
		if !passes(err) {
			return nil, err
		}
		if wait == firstWait {
			p.log.Error("connections can't be accepted for the moment; trying again", "error", err)
		}
		<-p.wait(wait)
	}
}

// passes reports whether an error of accepting is temporary.
func passes(err error) bool {
	var temporary interface{ Temporary() bool }
	if errors.As(err, &temporary) && temporary.Temporary() {
		return true
	}
	for _, short := range []error{syscall.EMFILE, syscall.ENFILE, syscall.ENOBUFS, syscall.ENOMEM, syscall.ECONNABORTED,
		syscall.ECONNRESET} {
		if errors.Is(err, short) {
			return true
		}
	}
	return false
}
