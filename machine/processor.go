package machine

import (
	"compress/flate"
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"io"
	"math/rand/v2"
	"runtime"
	"sync"
	"sync/atomic"
	"time"

	"nowthen/core/job"
)

// controlPieces is how many pieces of 1 MiB the control works on.
const controlPieces = 64

const piece = 1 << 20

// WorkProcessor does the control's work on this computer's processor.
func (f *Folder) WorkProcessor(ctx context.Context, done func(float64)) (*job.ProcessorWork, error) {
	return workProcessor(ctx, controlPieces, runtime.NumCPU(), done)
}

// workProcessor hashes and compresses pieces of 1 MiB, first on one core, then the
// same ones on all cores. It touches no file. done is told the share that is
// done, 0…1.
func workProcessor(ctx context.Context, pieces, cores int, done func(float64)) (*job.ProcessorWork, error) {
	r := &job.ProcessorWork{}
	var digests [2]string
	for i, n := range []int{1, max(1, cores)} {
		from := time.Now()
		d, err := work(ctx, pieces, n, func(share float64) { done((float64(i) + share) / 2) })
		if err != nil {
			return nil, err
		}
		s := time.Since(from).Seconds()
		if i == 0 {
			r.OneS = s
		} else {
			r.AllS = s
		}
		digests[i] = d
	}
	if digests[0] != digests[1] {
		return nil, fmt.Errorf("the processor gave two results for the same work: %s and %s; look at its memory and "+
			"cooling", digests[0], digests[1])
	}
	r.Digest = digests[0]
	return r, nil
}

// work does the pieces on so many cores and returns the digest of all results.
func work(ctx context.Context, pieces, cores int, done func(float64)) (string, error) {
	sums := make([][sha256.Size]byte, pieces)
	var next, finished atomic.Int64
	var wg sync.WaitGroup
	var mu sync.Mutex
	for range cores {
		wg.Go(func() {
			buf := make([]byte, piece)
			h := sha256.New()
			z, _ := flate.NewWriter(io.Discard, flate.DefaultCompression) // fails for a strange level only
			for {
				i := int(next.Add(1)) - 1
				if i >= pieces || ctx.Err() != nil {
					return
				}
				compressible(buf, uint64(i))
				h.Reset()
				h.Write(buf)
				z.Reset(h) // what was compressed is hashed, too
				_, _ = z.Write(buf)
				_ = z.Close()
				h.Sum(sums[i][:0])
				share := float64(finished.Add(1)) / float64(pieces)
				mu.Lock()
				done(share)
				mu.Unlock()
			}
		})
	}
	wg.Wait()
	if err := ctx.Err(); err != nil {
		return "", err
	}
	all := sha256.New()
	for _, s := range sums {
		all.Write(s[:])
	}
	return hex.EncodeToString(all.Sum(nil)[:16]), nil
}

// compressible makes words of a small alphabet, which can be compressed about by half.
func compressible(b []byte, seed uint64) {
	rng := rand.New(rand.NewPCG(seed, 0x6370))
	for at := 0; at+8 <= len(b); at += 8 {
		binary.LittleEndian.PutUint64(b[at:], rng.Uint64()&0x1f1f0f1f1f0f1f0f)
	}
}

// LoadProcessor keeps all cores at work until end is called, which returns once they rest.
func (f *Folder) LoadProcessor() (end func()) {
	cores := runtime.NumCPU()
	// What is measured in the meantime has threads of its own beside those at work, so that the system
	// divides the cores among them, and
	// not this program among what it does.
	before := runtime.GOMAXPROCS(2*cores + 2)
	var rest atomic.Bool
	var wg sync.WaitGroup
	for i := range cores {
		wg.Go(func() {
			buf := make([]byte, piece)
			compressible(buf, uint64(i))
			for !rest.Load() {
				sum := sha256.Sum256(buf)
				copy(buf, sum[:]) // so that none of it can be left out
			}
		})
	}
	return sync.OnceFunc(func() {
		rest.Store(true)
		wg.Wait()
		runtime.GOMAXPROCS(before)
	})
}
