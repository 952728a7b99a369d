// Package processor is the control of a comparison: a fixed amount of work of
// the processor alone, hashing and compressing a seeded buffer, which a drive
// must not change. If it takes another time on the second side, something else
// than the drive has changed.
package processor

import (
	"compress/flate"
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"io"
	"math/rand/v2"
	"sync"
	"sync/atomic"
	"time"
)

// Phases of the control.
const (
	PhaseOne = "one" // on one core
	PhaseAll = "all" // on all cores
)

// Amount is how many pieces of 1 MiB the control works on.
const Amount = 64

const piece = 1 << 20

// Reading is what the control took.
type Reading struct {
	OneS, AllS float64 // s, the same work on one core and on all of them
	// Digest stands for the work's result, which is always the same.
	Digest string
}

// Measure hashes and compresses pieces of 1 MiB, first on one core, then the
// same ones on all cores. It touches no file. done is told the share that is
// done, 0…1.
func Measure(ctx context.Context, pieces, cores int, done func(float64)) (*Reading, error) {
	r := &Reading{}
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
		return nil, fmt.Errorf("the processor gave two results for the same work: %s and %s; look at its memory and cooling", digests[0], digests[1])
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
				fill(buf, uint64(i))
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

// fill makes words of a small alphabet, which can be compressed about by half.
func fill(b []byte, seed uint64) {
	rng := rand.New(rand.NewPCG(seed, 0x6370))
	for at := 0; at+8 <= len(b); at += 8 {
		binary.LittleEndian.PutUint64(b[at:], rng.Uint64()&0x1f1f0f1f1f0f1f0f)
	}
}
