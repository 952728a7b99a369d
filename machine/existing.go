package machine

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"sort"
	"time"

	"nowthen/core/drivetest"
)

// Existing opens span bytes of files that are in the folder and those under it,
// for direct reading: the largest first, whole MiB of each. Nothing is written.
func (f *Folder) Existing(ctx context.Context, span int64) (drivetest.File, error) {
	found, err := largeFiles(ctx, f.dir)
	if err != nil {
		return nil, err
	}
	e := &existing{origin: f.origin, align: 512}
	for _, c := range found {
		if e.size >= span {
			break
		}
		h, err := openExisting(c.path)
		if err != nil {
			continue // what cannot be opened is left in peace
		}
		e.parts = append(e.parts, part{h, e.size, c.size})
		e.size += c.size
		e.align = max(e.align, h.align())
	}
	if e.size < span {
		return nil, errors.Join(fmt.Errorf("%s has only %d MiB in files of 1 MiB and more that can be read directly; "+
			"the test reads %d MiB. Name a folder with larger files, such as one of films, games or pictures",
			f.dir, e.size>>20, span>>20), e.Close())
	}
	return e, nil
}

// Bounds of looking for files.
const (
	lookAtMost = 200_000
	lookFor    = 20 * time.Second
)

type candidate struct {
	path string
	size int64 // whole MiB
}

// largeFiles lists files of 1 MiB and more with all their bytes on the drive,
// the largest first.
func largeFiles(ctx context.Context, dir string) ([]candidate, error) {
	var found []candidate
	err := wholeFiles(ctx, dir, layAlign, func(path string, size int64) {
		found = append(found, candidate{path, size &^ (layAlign - 1)})
	})
	slices.SortStableFunc(found, func(a, b candidate) int { return int(min(1, max(-1, b.size-a.size))) })
	return found, err
}

// wholeFiles goes through the files of a folder and below it that have so many bytes at
// least, all of them on the drive. What cannot be read is passed by.
func wholeFiles(ctx context.Context, dir string, least int64, take func(path string, size int64)) error {
	seen, until := 0, time.Now().Add(lookFor)
	return filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if seen++; seen > lookAtMost || time.Now().After(until) {
			return filepath.SkipAll
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if err != nil || !d.Type().IsRegular() || testFileNames.MatchString(d.Name()) {
			return nil
		}
		if info, err := d.Info(); err == nil && info.Size() >= least && !sparse(info) {
			take(path, info.Size())
		}
		return nil
	})
}

// existing is a stretch made of files that are there.
type existing struct {
	parts  []part
	size   int64
	align  int64
	origin time.Time
}

// part is one file's place in the stretch.
type part struct {
	handle
	from, size int64
}

// errReadOnly means that an existing file is never written.
var errReadOnly = fmt.Errorf("existing files are only read: %w", os.ErrPermission)

func (e *existing) Buffer(n int64) []byte { return aligned(n, e.align) }

func (e *existing) Flush() error { return nil }

func (e *existing) Close() error {
	var errs []error
	for _, p := range e.parts {
		errs = append(errs, p.close())
	}
	return errors.Join(errs...)
}

func (e *existing) Queue(depth int) drivetest.Queue {
	do := func(r *drivetest.Request) { do(r, stretch{e}, 0, e.origin) }
	if depth == 1 {
		return &inline{do: do}
	}
	return newPool(do, depth)
}

// stretch reads over the borders of its parts.
type stretch struct{ *existing }

func (s stretch) readAt(p []byte, at int64) (int, error) {
	// The last part that begins at or before the place.
	i := sort.Search(len(s.parts), func(i int) bool { return s.parts[i].from > at }) - 1
	if i < 0 || at >= s.size {
		return 0, nil
	}
	part := s.parts[i]
	return part.readAt(p[:min(int64(len(p)), part.from+part.size-at)], at-part.from)
}

func (s stretch) writeAt([]byte, int64) (int, error) { return 0, errReadOnly }
func (s stretch) flush() error                       { return nil }
func (s stretch) reserve(int64) error                { return errReadOnly }
func (s stretch) align() int64                       { return s.existing.align }
func (s stretch) close() error                       { return nil }
