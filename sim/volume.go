package sim

import (
	"fmt"
	"time"

	"nowthen/core/capacity"
	"nowthen/core/drivetest"
)

// file is a stretch of a simulated drive.
type file struct {
	d          *Drive
	base, size int64
	over       int64 // of a sample: over how much of the drive its bytes are spread; else 0
	readOnly   bool
	// marks are the marks of written blocks, by their place. No other written content is ever needed.
	marks map[int64]mark
}

// mark is the content of a marked block.
type mark struct {
	block int64
	seed  uint64
}

// keep keeps the mark of a block that is written, and fills one that is read with its own.
func (f *file) keep(r *drivetest.Request) {
	if len(r.Data) != capacity.BlockBytes {
		return
	}
	if !r.Write {
		if m, ok := f.marks[r.Offset]; ok {
			capacity.Mark(r.Data, m.block, m.seed)
		}
		return
	}
	if block, seed, ok := capacity.MarkOf(r.Data); ok {
		if f.marks == nil {
			f.marks = map[int64]mark{}
		}
		f.marks[r.Offset] = mark{block, seed}
	}
}

// place is where on the drive a byte of the stretch lies.
func (f *file) place(offset int64) int64 {
	if f.over > 0 {
		return f.base + int64(float64(offset)/float64(f.size)*float64(f.over))&^4095
	}
	return f.base + offset
}

func (f *file) Buffer(n int64) []byte { return make([]byte, n) }

// placement is where on the drive a stretch lies.
func placement(of drivetest.File) (from, to float64, ok bool) {
	f, is := of.(*file)
	if !is {
		return 0, 0, false
	}
	whole := float64(f.d.spec.Label.CapacityBytes)
	return float64(f.base) / whole, float64(f.base+max(f.size, f.over)) / whole, true
}

func (f *file) Queue(int) drivetest.Queue { return &queue{f: f} }

func (f *file) Flush() error {
	d := f.d
	d.mu.Lock()
	defer d.mu.Unlock()
	longest := time.Duration(0)
	for _, l := range d.lanes {
		longest = max(longest, l.flush())
	}
	d.pass(d.now + longest)
	return nil
}

// Close gives the stretch back once no other file is open.
func (f *file) Close() error {
	d := f.d
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.open--; d.open == 0 {
		d.next = int64(float64(d.spec.Label.CapacityBytes)*d.spec.FillPct/100) &^ 4095
	}
	return nil
}

// queue takes requests for a file.
type queue struct {
	f    *file
	done []*drivetest.Request
	free []*op
}

func (q *queue) Start(r *drivetest.Request) {
	d := q.f.d
	d.mu.Lock()
	defer d.mu.Unlock()
	r.Started, r.Err = d.now, nil
	end := r.Offset + int64(len(r.Data))
	switch {
	case r.Offset < 0 || end > q.f.size:
		r.Err = fmt.Errorf("bytes %d to %d are outside the test file of %d", r.Offset, end, q.f.size)
	case r.Write && q.f.readOnly:
		r.Err = fmt.Errorf("existing files are not written")
	}
	if r.Err != nil {
		r.Ended = d.now
		q.done = append(q.done, r)
		return
	}
	q.f.keep(r)
	var o *op
	if n := len(q.free); n > 0 {
		o, q.free = q.free[n-1], q.free[:n-1]
	} else {
		o = &op{q: q}
	}
	o.req, o.at, o.n = r, q.f.place(r.Offset), int64(len(r.Data))
	d.held = append(d.held, o)
	d.admit()
}

// Wait lets virtual time pass until a request of this queue has ended.
func (q *queue) Wait() *drivetest.Request {
	d := q.f.d
	d.mu.Lock()
	defer d.mu.Unlock()
	for len(q.done) == 0 {
		d.step()
	}
	r := q.done[0]
	q.done = q.done[:copy(q.done, q.done[1:])]
	return r
}

func (q *queue) Close() {}
