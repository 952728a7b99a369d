package machine

import (
	"io"
	"runtime"
	"time"
	"unsafe"

	"golang.org/x/sys/windows"

	"nowthen/core/drivetest"
)

// The system takes many requests to an unbuffered file from one thread and tells their
// ends at a completion port, several with one call.

var getQueued = windows.NewLazySystemDLL("kernel32.dll").NewProc("GetQueuedCompletionStatusEx")

// entry is OVERLAPPED_ENTRY.
type entry struct {
	key        uintptr
	overlapped *windows.Overlapped
	_          uintptr
	bytes      uint32
}

// ported is a queue whose requests end at a completion port.
type ported struct {
	f      *file
	base   int64
	origin time.Time
	slots  []portSlot
	free   []*portSlot
	ended  []entry
	ready  []entry       // that were told and not yet handed out
	at     time.Duration // when those ended
	failed []*drivetest.Request
}

// portSlot is a request in flight with what the system keeps of it, which comes first.
type portSlot struct {
	o   windows.Overlapped
	req *drivetest.Request
}

// systemQueue opens a queue at the file's completion port, or returns nil where the
// system has none.
func systemQueue(h handle, base int64, origin time.Time, depth int) drivetest.Queue {
	f, ok := h.(*file)
	if !ok || getQueued.Find() != nil {
		return nil
	}
	if f.port == 0 { // a file belongs to one port for good
		port, err := windows.CreateIoCompletionPort(f.h, 0, 0, 1)
		if err != nil {
			return nil
		}
		f.port = port
	}
	q := &ported{f: f, base: base, origin: origin, slots: make([]portSlot, depth), ended: make([]entry, depth)}
	for i := range q.slots {
		q.free = append(q.free, &q.slots[i])
	}
	return q
}

func (q *ported) Start(r *drivetest.Request) {
	s := q.free[len(q.free)-1]
	q.free = q.free[:len(q.free)-1]
	at := q.base + r.Offset
	s.req, s.o = r, windows.Overlapped{Offset: uint32(at), OffsetHigh: uint32(at >> 32)}
	call := windows.ReadFile
	if r.Write {
		call = windows.WriteFile
	}
	r.Err = nil
	r.Started = time.Since(q.origin)
	// One that has ended already is told at the port all the same.
	if err := call(q.f.h, r.Data, nil, &s.o); err != nil && err != windows.ERROR_IO_PENDING {
		r.Err, r.Ended = err, time.Since(q.origin)
		q.free = append(q.free, s)
		q.failed = append(q.failed, r)
	}
}

func (q *ported) Wait() *drivetest.Request {
	if n := len(q.failed); n > 0 {
		r := q.failed[n-1]
		q.failed = q.failed[:n-1]
		return r
	}
	for len(q.ready) == 0 {
		var n uint32
		ok, _, _ := getQueued.Call(uintptr(q.f.port), uintptr(unsafe.Pointer(&q.ended[0])), uintptr(len(q.ended)),
			uintptr(unsafe.Pointer(&n)), windows.INFINITE, 0)
		if ok != 0 {
			q.ready, q.at = q.ended[:n], time.Since(q.origin)
		}
	}
	e := q.ready[0]
	q.ready = q.ready[1:]
	s := (*portSlot)(unsafe.Pointer(e.overlapped))
	r := s.req
	s.req = nil
	q.free = append(q.free, s)
	r.Ended = q.at
	q.finish(r, s, int64(e.bytes))
	return r
}

// finish takes the system's result; a short one continues in the caller.
func (q *ported) finish(r *drivetest.Request, s *portSlot, n int64) {
	status := windows.NTStatus(s.o.Internal)
	switch {
	case status == 0 && n == int64(len(r.Data)):
		return
	case status == windows.STATUS_END_OF_FILE && n == 0:
		r.Err = io.ErrUnexpectedEOF
		return
	case status != 0 && status != windows.STATUS_END_OF_FILE:
		r.Err = status.Errno()
		return
	}
	call := q.f.readAt
	if r.Write {
		call = q.f.writeAt
	}
	_, r.Err = whole(r.Data[n:], q.base+r.Offset+n, call)
	r.Ended = time.Since(q.origin)
}

func (q *ported) Close() { runtime.KeepAlive(q.slots) }
