package machine

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"math"
	"path/filepath"
	"slices"

	"nowthen/core/drivetest"
)

// Bounds of a sample.
const (
	sampleFiles = 256      // that are open at once
	sampleLeast = 64 << 10 // bytes of a file worth reading at random places
	sampleWorth = 16 << 20 // bytes of a whole sample under which it says nothing
	samplePage  = 4096
)

// picked is a file that may be in a sample: the lower its rank, the sooner.
type picked struct {
	path   string
	digest string
	size   int64
	rank   float64
}

// Sample opens a sample of the files in the folder and below it, for direct reading.
// Whether a file is in it depends on its path and size alone, more likely the larger it
// is (Efraimidis and Spirakis 2006, Weighted random sampling with a reservoir), so that a
// copy of the folder gives the same sample and one more file changes little.
func (f *Folder) Sample(ctx context.Context, seed uint64, most int64) (drivetest.File, []drivetest.SampleFile, error) {
	list, err := rankFiles(ctx, f.dir, seed)
	if err != nil {
		return nil, nil, err
	}
	e := &existing{origin: f.origin, align: samplePage}
	var sample []drivetest.SampleFile
	for _, c := range list {
		if len(e.parts) == sampleFiles || e.size >= most {
			break
		}
		h, err := openExisting(c.path)
		if err != nil {
			continue // what cannot be opened is left in peace
		}
		size := min(c.size, most-e.size) &^ (samplePage - 1)
		e.parts = append(e.parts, part{h, e.size, size})
		e.size += size
		e.align = max(e.align, h.align())
		sample = append(sample, drivetest.SampleFile{Path: c.digest, Bytes: size})
	}
	if e.size < sampleWorth {
		_ = e.Close()
		return nil, nil, fmt.Errorf("%s has only %d MiB in files that can be read directly; %d MiB are needed to "+
			"read here and there in the customer's own files. Name a folder with more, such as the drive's root",
			f.dir, e.size>>20, sampleWorth>>20)
	}
	return e, sample, nil
}

// rankFiles lists the files that are worth reading, in the order in which a sample takes
// them.
func rankFiles(ctx context.Context, dir string, seed uint64) ([]picked, error) {
	var list []picked
	err := wholeFiles(ctx, dir, sampleLeast,
		func(path string, size int64) { list = append(list, pick(dir, path, size, seed)) })
	slices.SortFunc(list,
		func(a, b picked) int { return cmp.Or(cmp.Compare(a.rank, b.rank), cmp.Compare(a.digest, b.digest)) })
	return list, err
}

func pick(dir, path string, size int64, seed uint64) picked {
	relative, err := filepath.Rel(dir, path)
	if err != nil {
		relative = path
	}
	size &^= samplePage - 1
	sum := sha256.Sum256(fmt.Appendf(nil, "%d %s", seed, filepath.ToSlash(relative)))
	u := (float64(binary.BigEndian.Uint64(sum[:8])>>11) + 0.5) / (1 << 53) // 0…1, without its ends
	return picked{path: path, digest: hex.EncodeToString(sum[8:14]), size: size, rank: -math.Log(u) / float64(size)}
}
