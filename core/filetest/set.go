// Package filetest times file operations as programs perform them: copying one large file,
// creating and copying a folder of many small ones, and reading an existing folder.
//
// It knows nothing of operating systems: a [Place] is its only access to the outside.
package filetest

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"

	"github.com/go-json-experiment/json/jsontext"
)

// Kinds of file work.
const (
	Copy        = "copy"          // a set is made, then copied; the copying counts
	MakeAndCopy = "make-and-copy" // both count
	Read        = "read"          // a folder that is there is read, cold
)

// Work is what a file test does. Two tests with equal work can be compared.
type Work struct {
	Op string `json:"op"`
	// Set is what is made, of the kinds that make something.
	Set Set `json:"set,omitzero"`

	Unknown jsontext.Value `json:",embed"`
	// Listing begins reading with a cold listing, where the system lets it.
	Listing bool `json:"listing,omitzero"`
}

// Set is a stated distribution of file sizes: log-normal around a median, seeded,
// so that it is the same set each time.
type Set struct {
	Files       int     `json:"files"`
	MedianBytes int64   `json:"median_bytes"`
	Sigma       float64 `json:"sigma,omitzero"` // standard deviation of ln size
	MaxBytes    int64   `json:"max_bytes,omitzero"`
	Seed        uint64  `json:"seed,omitzero"`
}

// Bounds of a set.
const (
	maxFiles = 100_000
	maxBytes = 64 << 30
)

// Check reports what is wrong with the work, or nil.
func (w Work) Check() error {
	s := w.Set
	switch {
	case w.Op == Read:
		return nil
	case w.Op != Copy && w.Op != MakeAndCopy:
		return fmt.Errorf("op %q is none of %s, %s and %s", w.Op, Copy, MakeAndCopy, Read)
	case s.Files < 1 || s.Files > maxFiles:
		return fmt.Errorf("files: %d is not between 1 and %d", s.Files, maxFiles)
	case s.MedianBytes < 1 || s.MedianBytes > maxBytes:
		return fmt.Errorf("median_bytes: %d is not between 1 and %d", s.MedianBytes, int64(maxBytes))
	case !(s.Sigma >= 0 && s.Sigma <= 3):
		return fmt.Errorf("sigma: %g is not between 0 and 3", s.Sigma)
	case s.MaxBytes < 0 || s.MaxBytes > maxBytes:
		return fmt.Errorf("max_bytes: %d is not between 0 and %d", s.MaxBytes, int64(maxBytes))
	case s.Sigma > 0 && s.MaxBytes == 0:
		return fmt.Errorf("max_bytes: sizes that vary need an upper bound")
	}
	if n := s.Bytes(); n > maxBytes {
		return fmt.Errorf("the set has %d bytes; %d are the most", n, int64(maxBytes))
	}
	return nil
}

// Writes is how many bytes one run writes.
func (w Work) Writes() int64 {
	if w.Op == Read {
		return 0
	}
	return 2 * w.Set.Bytes()
}

// Entry is one file: its name within the folder, with slashes, and its size.
type Entry struct {
	Name  string
	Bytes int64
}

// filesPerFolder is how many files of a set lie in one folder.
const filesPerFolder = 100

// Entries are the files of the set.
func (s Set) Entries() []Entry {
	rng := rand.New(rand.NewPCG(s.Seed, 0x66696c65))
	list := make([]Entry, s.Files)
	for i := range list {
		size := s.MedianBytes
		if s.Sigma > 0 {
			size = min(s.MaxBytes, int64(float64(s.MedianBytes)*math.Exp(s.Sigma*rng.NormFloat64())))
		}
		list[i] = Entry{Name: fmt.Sprintf("d%04d/f%06d.dat", i/filesPerFolder, i), Bytes: max(1, size)}
	}
	return list
}

// Bytes is how many bytes the files of the set have together.
func (s Set) Bytes() int64 {
	if n, ok := bytesOf.Load(s); ok {
		return n.(int64)
	}
	n := total(s.Entries())
	bytesOf.Store(s, n)
	return n
}

// bytesOf remembers the size of sets: there are few, and each is asked for with every
// look at a plan.
var bytesOf sync.Map

func total(list []Entry) int64 {
	n := int64(0)
	for _, e := range list {
		n += e.Bytes
	}
	return n
}

// Digest represents names and sizes: equal digests are the same set. It is the
// first half of the SHA-256 of the sorted lines "name NUL size", in hexadecimal.
func Digest(list []Entry) string {
	sorted := slices.Clone(list)
	slices.SortFunc(sorted, func(a, b Entry) int { return strings.Compare(a.Name, b.Name) })
	h := sha256.New()
	for _, e := range sorted {
		fmt.Fprintf(h, "%s\x00%d\n", e.Name, e.Bytes)
	}
	return hex.EncodeToString(h.Sum(nil)[:16])
}
