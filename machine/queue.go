package machine

import (
	"errors"
	"io"
	"time"

	"nowthen/core/drivetest"
)

// openQueue opens a queue of requests to a file whose content begins at base.
func openQueue(h handle, base int64, origin time.Time, depth int) drivetest.Queue {
	do := func(r *drivetest.Request) { do(r, h, base, origin) }
	if depth == 1 {
		return &inline{do: do}
	}
	if q := systemQueue(h, base, origin, depth); q != nil {
		return q
	}
	return newPool(do, depth)
}

// do runs a request to its end. The times are those around the system's call.
func do(r *drivetest.Request, h handle, base int64, origin time.Time) {
	call := h.readAt
	if r.Write {
		call = h.writeAt
	}
	r.Started = time.Since(origin)
	_, r.Err = whole(r.Data, base+r.Offset, call)
	r.Ended = time.Since(origin)
}

// whole repeats a system call until all of p is transferred: an interrupted call is repeated, a short one
// continued. Zero bytes without an error is the end of the file.
func whole(p []byte, at int64, call func([]byte, int64) (int, error)) (n int, err error) {
	for n < len(p) {
		k, err := call(p[n:], at+int64(n))
		n += max(k, 0)
		switch {
		case isInterrupted(err):
		case n == len(p) && errors.Is(err, io.EOF): // it ends with the file
		case errors.Is(err, io.EOF), err == nil && k <= 0:
			return n, io.ErrUnexpectedEOF
		case err != nil:
			return n, err
		}
	}
	return n, nil
}

// inline runs requests in the caller, without a hand-over between threads.
type inline struct {
	do    func(*drivetest.Request)
	ended *drivetest.Request
}

func (q *inline) Start(r *drivetest.Request) {
	q.do(r)
	q.ended = r
}

func (q *inline) Wait() *drivetest.Request { return q.ended }
func (q *inline) Close()                   {}

// pool runs requests on workers, each one at a time.
type pool struct{ in, out chan *drivetest.Request }

func newPool(do func(*drivetest.Request), depth int) *pool {
	p := &pool{in: make(chan *drivetest.Request, depth), out: make(chan *drivetest.Request, depth)}
	for range depth {
		go func() {
			for r := range p.in {
				do(r)
				p.out <- r
			}
		}()
	}
	return p
}

func (p *pool) Start(r *drivetest.Request) { p.in <- r }
func (p *pool) Wait() *drivetest.Request   { return <-p.out }
func (p *pool) Close()                     { close(p.in) }
