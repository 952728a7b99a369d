package machine

import (
	"runtime"
	"time"
	"unsafe"

	"golang.org/x/sys/unix"

	"nowthen/core/drivetest"
)

// The kernel's own asynchronous I/O takes many direct requests from one thread,
// so that none is handed from thread to thread (io_submit(2), io_getevents(2)).

// iocb and ioEvent are the kernel's, from linux/aio_abi.h, little-endian.
type iocb struct {
	data   uint64
	_      uint64 // key and flags of the call
	opcode uint16
	_      int16 // priority
	fd     uint32
	buf    uint64
	nbytes uint64
	offset int64
	_      uint64 // reserved
	_      uint64 // flags and a descriptor for events
}

type ioEvent struct {
	data      uint64
	obj       uint64
	res, res2 int64
}

const (
	iocbPread  = 0
	iocbPwrite = 1
)

// aio is a queue of the kernel's.
type aio struct {
	f      file
	base   int64
	origin time.Time
	ctx    uintptr
	slots  []slot
	free   []int
	events []ioEvent
	ready  []ioEvent     // events that were fetched and not yet handed out
	at     time.Duration // when those were fetched
	failed []*drivetest.Request
}

// slot is a request in flight with what the kernel reads of it.
type slot struct {
	cb  iocb
	req *drivetest.Request
}

// systemQueue opens a queue of the kernel's, or returns nil where it has none.
func systemQueue(h handle, base int64, origin time.Time, depth int) drivetest.Queue {
	f, ok := h.(file)
	if !ok {
		return nil
	}
	q := &aio{f: f, base: base, origin: origin, slots: make([]slot, depth), events: make([]ioEvent, depth)}
	if _, _, errno := unix.Syscall(unix.SYS_IO_SETUP, uintptr(depth), uintptr(unsafe.Pointer(&q.ctx)), 0); errno != 0 {
		return nil
	}
	for i := range depth {
		q.free = append(q.free, i)
	}
	return q
}

// Start submits the request at once. Batching several into one call was measured: the wait for the others costs
// the drive more than the call saves.
func (q *aio) Start(r *drivetest.Request) {
	i := q.free[len(q.free)-1]
	q.free = q.free[:len(q.free)-1]
	s := &q.slots[i]
	s.req = r
	s.cb = iocb{data: uint64(i), opcode: iocbPread, fd: uint32(q.f.fd),
		buf:    uint64(uintptr(unsafe.Pointer(&r.Data[0]))),
		nbytes: uint64(len(r.Data)), offset: q.base + r.Offset}
	if r.Write {
		s.cb.opcode = iocbPwrite
	}
	r.Err = nil
	r.Started = time.Since(q.origin)
	cb := &s.cb
	for {
		_, _, errno := unix.Syscall(unix.SYS_IO_SUBMIT, q.ctx, 1, uintptr(unsafe.Pointer(&cb)))
		if errno == unix.EINTR || errno == unix.EAGAIN {
			continue
		}
		if errno != 0 {
			r.Err, r.Ended = errno, time.Since(q.origin)
			q.free = append(q.free, i)
			q.failed = append(q.failed, r)
		}
		return
	}
}

func (q *aio) Wait() *drivetest.Request {
	if n := len(q.failed); n > 0 {
		r := q.failed[n-1]
		q.failed = q.failed[:n-1]
		return r
	}
	for len(q.ready) == 0 {
		n, _, errno := unix.Syscall6(unix.SYS_IO_GETEVENTS, q.ctx, 1, uintptr(len(q.events)),
			uintptr(unsafe.Pointer(&q.events[0])), 0, 0)
		if errno == 0 {
			q.ready, q.at = q.events[:n], time.Since(q.origin)
		}
	}
	e := q.ready[0]
	q.ready = q.ready[1:]
	s := &q.slots[e.data]
	r := s.req
	s.req = nil
	q.free = append(q.free, int(e.data))
	r.Ended = q.at // not when it is handed out
	q.finish(r, e.res)
	return r
}

// finish takes the kernel's result; a short one continues in the caller.
func (q *aio) finish(r *drivetest.Request, res int64) {
	switch {
	case res == int64(len(r.Data)):
	case res < 0 && res != -int64(unix.EINTR):
		r.Err = unix.Errno(-res)
	default:
		done := max(0, res)
		call := q.f.readAt
		if r.Write {
			call = q.f.writeAt
		}
		_, r.Err = whole(r.Data[done:], q.base+r.Offset+done, call)
		r.Ended = time.Since(q.origin)
	}
}

func (q *aio) Close() {
	_, _, _ = unix.Syscall(unix.SYS_IO_DESTROY, q.ctx, 0, 0)
	runtime.KeepAlive(q.slots)
}
