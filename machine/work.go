package machine

import (
	"context"
	"runtime"
	"time"
)

// WatchWork begins to watch how much the processor works for this program. The calling
// goroutine stays on its thread until that ends.
func (f *Folder) WatchWork() (end func() (core, all float64)) {
	runtime.LockOSThread()
	at, cores := time.Now(), float64(runtime.NumCPU())
	thread, program := processorTime()
	return func() (core, all float64) {
		t, p := processorTime()
		runtime.UnlockOSThread()
		passed := float64(time.Since(at))
		all = 100 * float64(p-program) / passed / cores
		core = min(100, all*cores) // at most: where the system does not tell of threads
		if t >= 0 {
			core = 100 * float64(t-thread) / passed
		}
		return core, all
	}
}

// Rest lets time pass.
func (f *Folder) Rest(ctx context.Context, d time.Duration) error {
	t := time.NewTimer(d)
	defer t.Stop()
	select {
	case <-t.C:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}
