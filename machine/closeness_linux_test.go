package machine

import (
	"math/rand/v2"
	"runtime"
	"testing"
	"time"
	"unsafe"

	"github.com/stretchr/testify/require"
	"golang.org/x/sys/unix"

	"nowthen/core/drivetest"
)

// reference moves blocks with the same system calls on the same file as the engine, reads the
// clock at the start and the end of each request as whoever wants its time must (under Wine that
// is a call of its own), and does nothing else: what the engine's own work costs shows beside it.
func reference(b *testing.B, t *testFile, w drivetest.Workload, d time.Duration) (iops float64) {
	b.Helper()
	fd := t.handle.(file).fd
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
	buffers := make([][]byte, w.Depth)
	for i := range buffers {
		buffers[i] = t.Buffer(w.BlockBytes)
		for k := range buffers[i] {
			buffers[i][k] = byte(rng.Uint32())
		}
	}
	done, begun := 0, time.Now()
	var started time.Duration
	defer func() { runtime.KeepAlive(&started) }()
	if w.Depth == 1 {
		for now := time.Since(begun); now < d; now = time.Since(begun) {
			started = time.Since(begun)
			n, err := unix.Pread(fd, buffers[0], place())
			if err != nil || n != len(buffers[0]) {
				b.Fatal(n, err)
			}
			done++
		}
		return float64(done) / time.Since(begun).Seconds()
	}
	var ctx uintptr
	if _, _, errno := unix.Syscall(unix.SYS_IO_SETUP, uintptr(w.Depth), uintptr(unsafe.Pointer(&ctx)), 0); errno != 0 {
		b.Skip("the kernel has no asynchronous I/O: ", errno)
	}
	defer func() { _, _, _ = unix.Syscall(unix.SYS_IO_DESTROY, ctx, 0, 0) }()
	cbs := make([]iocb, w.Depth)
	submit := func(i int) {
		op := uint16(iocbPread)
		if w.Writes() {
			op = iocbPwrite
		}
		cbs[i] = iocb{data: uint64(i), opcode: op, fd: uint32(fd), buf: uint64(uintptr(unsafe.Pointer(&buffers[i][0]))),
			nbytes: uint64(w.BlockBytes), offset: place()}
		cb := &cbs[i]
		started = time.Since(begun)
		if _, _, errno := unix.Syscall(unix.SYS_IO_SUBMIT, ctx, 1, uintptr(unsafe.Pointer(&cb))); errno != 0 {
			b.Fatal(errno)
		}
	}
	for i := range w.Depth {
		submit(i)
	}
	events := make([]ioEvent, w.Depth)
	for flying := w.Depth; flying > 0; {
		n, _, errno := unix.Syscall6(unix.SYS_IO_GETEVENTS, ctx, 1, uintptr(w.Depth),
			uintptr(unsafe.Pointer(&events[0])), 0, 0)
		if errno != 0 {
			continue
		}
		now := time.Since(begun)
		for _, e := range events[:n] {
			if e.res != w.BlockBytes {
				b.Fatal(e.res)
			}
			done++
			flying--
			if now < d {
				submit(int(e.data))
				flying++
			}
		}
	}
	if w.Writes() {
		require.NoError(b, unix.Fdatasync(fd))
	}
	return float64(done) / time.Since(begun).Seconds()
}
