package machine

import (
	"math/rand/v2"
	"runtime"
	"testing"
	"time"
	"unsafe"

	"golang.org/x/sys/windows"

	"nowthen/core/drivetest"
)

// reference moves blocks with the same system calls on the same file as the engine, reads the
// clock at the start and the end of each request as whoever wants its time must (under Wine that
// is a call of its own), and does nothing else: what the engine's own work costs shows beside it.
func reference(b *testing.B, t *testFile, w drivetest.Workload, d time.Duration) (iops float64) {
	b.Helper()
	f := t.handle.(*file)
	blocks, next := w.SpanBytes/w.BlockBytes, int64(0)
	rng := rand.New(rand.NewPCG(1, 1))
	place := func() int64 {
		block := next % blocks
		next++
		if w.Pattern == drivetest.Random {
			block = rng.Int64N(blocks)
		}
		return t.base + block*w.BlockBytes
	}
	type slot struct {
		o    windows.Overlapped
		data []byte
	}
	slots := make([]slot, w.Depth)
	for i := range slots {
		slots[i].data = t.Buffer(w.BlockBytes)
		for k := range slots[i].data {
			slots[i].data[k] = byte(rng.Uint32())
		}
	}
	call := windows.ReadFile
	if w.Writes() {
		call = windows.WriteFile
	}
	done, begun := 0, time.Now()
	var started time.Duration
	defer func() { runtime.KeepAlive(&started) }()
	if w.Depth == 1 {
		event, err := windows.CreateEvent(nil, 1, 0, nil)
		if err != nil {
			b.Fatal(err)
		}
		defer windows.CloseHandle(event)
		for now := time.Since(begun); now < d; now = time.Since(begun) {
			started = time.Since(begun)
			at := place()
			o := windows.Overlapped{Offset: uint32(at), OffsetHigh: uint32(at >> 32), HEvent: event | 1}
			if err := call(f.h, slots[0].data, nil, &o); err != nil && err != windows.ERROR_IO_PENDING {
				b.Fatal(err)
			}
			var n uint32
			if err := windows.GetOverlappedResult(f.h, &o, &n, true); err != nil || int(n) != len(slots[0].data) {
				b.Fatal(n, err)
			}
			done++
		}
		return float64(done) / time.Since(begun).Seconds()
	}
	submit := func(s *slot) {
		at := place()
		s.o = windows.Overlapped{Offset: uint32(at), OffsetHigh: uint32(at >> 32)}
		started = time.Since(begun)
		if err := call(f.h, s.data, nil, &s.o); err != nil && err != windows.ERROR_IO_PENDING {
			b.Fatal(err)
		}
	}
	for i := range slots {
		submit(&slots[i])
	}
	ended := make([]entry, w.Depth)
	for flying := w.Depth; flying > 0; {
		var n uint32
		ok, _, _ := getQueued.Call(uintptr(f.port), uintptr(unsafe.Pointer(&ended[0])), uintptr(len(ended)),
			uintptr(unsafe.Pointer(&n)), windows.INFINITE, 0)
		if ok == 0 {
			continue
		}
		now := time.Since(begun)
		for _, e := range ended[:n] {
			done++
			flying--
			if now < d {
				submit((*slot)(unsafe.Pointer(e.overlapped)))
				flying++
			}
		}
	}
	if w.Writes() {
		if err := f.flush(); err != nil {
			b.Fatal(err)
		}
	}
	return float64(done) / time.Since(begun).Seconds()
}
