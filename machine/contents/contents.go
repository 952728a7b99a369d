// Package contents lists a folder's files and changes none of them. It doesn't follow links,
// names other mounted file systems without reading them, and marks a file that changes while it
// is read.
package contents

import (
	"cmp"
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/zeebo/blake3"

	"nowthen/core/manifest"
)

// Options say how a folder is read.
type Options struct {
	// Known are files that were read before: one of the same size and time is not read
	// again.
	Known map[string]manifest.Entry
	// Skip are files and folders that are not the folder's own, such as the manifest that is
	// being written.
	Skip []string
	// Gentle pauses for as long as it has read, to leave time for the owner's work and relieve a failing drive.
	Gentle bool
	// Each is called for every file, in the order of the folder. Its error ends the reading and is returned.
	Each func(manifest.Entry) error
}

// Read reads a folder. What cannot be read is an entry that says why; an error is about the
// folder as a whole, or ctx's.
func Read(ctx context.Context, dir string, o Options) error {
	top, err := os.Stat(dir)
	if err != nil {
		return err
	}
	if !top.IsDir() {
		return fmt.Errorf("%s is no folder", dir)
	}
	skip := map[string]bool{}
	for _, s := range o.Skip {
		if s, err = filepath.Abs(s); err != nil {
			return err
		}
		if in, err := filepath.EvalSymlinks(filepath.Dir(s)); err == nil { // as the walk below will name it
			s = filepath.Join(in, filepath.Base(s))
		}
		skip[s] = true
	}
	if dir, err = filepath.Abs(dir); err != nil {
		return err
	}
	if dir, err = filepath.EvalSymlinks(dir); err != nil { // the folder itself may be named by a link
		return err
	}
	buf := make([]byte, 1<<20)
	return filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if path == dir {
			return err
		}
		if skip[path] {
			return passed(d)
		}
		rel, relErr := filepath.Rel(dir, path)
		if relErr != nil {
			return relErr
		}
		e := manifest.Entry{Path: filepath.ToSlash(rel)}
		if err != nil {
			e.Why = reason(err)
			if err := o.Each(e); err != nil {
				return err
			}
			return passed(d)
		}
		info, err := d.Info()
		if err != nil {
			e.Why = reason(err)
			return o.Each(e)
		}
		if d.IsDir() {
			if !elsewhere(top, info) {
				return nil
			}
			e.Why = "another file system is mounted here, which is not read"
			if err := o.Each(e); err != nil {
				return err
			}
			return fs.SkipDir
		}
		e.Size, e.Time = info.Size(), info.ModTime()
		if k, ok := o.Known[e.Path]; ok && k.Why == "" && k.Link == "" && info.Mode().IsRegular() && k.Size == e.Size &&
			k.Time.Equal(e.Time) {
			return o.Each(k)
		}
		switch {
		case info.Mode()&fs.ModeSymlink != 0:
			if e.Link, err = os.Readlink(path); err != nil {
				e.Why = reason(err)
			}
		case !info.Mode().IsRegular():
			e.Why = "this is no file but " + special(info.Mode())
		case inCloud(info):
			e.Why = "its content is not on this drive: the system fetches it when it is opened"
		default:
			if e.Digest, err = digest(ctx, path, info, buf, o.Gentle); ctx.Err() != nil {
				return ctx.Err()
			} else if err != nil {
				e.Why = reason(err)
			}
		}
		return o.Each(e)
	})
}

// passed resumes after a file or folder that is not read.
func passed(d fs.DirEntry) error {
	if d != nil && d.IsDir() {
		return fs.SkipDir
	}
	return nil
}

// reason is an error without the path, which is beside it.
func reason(err error) string {
	var p *fs.PathError
	if errors.As(err, &p) {
		err = p.Err
	}
	return err.Error()
}

func special(m fs.FileMode) string {
	switch {
	case m&fs.ModeNamedPipe != 0:
		return "a pipe"
	case m&fs.ModeSocket != 0:
		return "a socket"
	case m&fs.ModeDevice != 0:
		return "a device"
	}
	return "something else"
}

var errChanged = errors.New("it changed while it was read")

// digest reads a file that was seen to be of that size and time.
func digest(ctx context.Context, path string, seen fs.FileInfo, buf []byte, gentle bool) (string, error) {
	f, err := open(path)
	if err != nil {
		return "", err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return "", err
	}
	if !info.Mode().IsRegular() || !os.SameFile(info, seen) {
		return "", errChanged
	}
	h := blake3.New()
	if _, err := io.CopyBuffer(struct{ io.Writer }{h}, reader{ctx, gentle, f}, buf); err != nil {
		return "", err
	}
	if info, err = f.Stat(); err != nil {
		return "", err
	}
	if info.Size() != seen.Size() || !info.ModTime().Equal(seen.ModTime()) {
		return "", errChanged
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}

// reader stops reading a large file once ctx is done.
type reader struct {
	ctx    context.Context
	gentle bool
	io.Reader
}

func (r reader) Read(p []byte) (int, error) {
	if err := r.ctx.Err(); err != nil {
		return 0, err
	}
	if !r.gentle {
		return r.Reader.Read(p)
	}
	began := time.Now()
	n, err := r.Reader.Read(p)
	select {
	case <-time.After(time.Since(began)):
	case <-r.ctx.Done():
	}
	return n, err
}

// Entries reads a whole folder.
func Entries(ctx context.Context, dir string, skip ...string) ([]manifest.Entry, error) {
	var list []manifest.Entry
	err := Read(ctx, dir,
		Options{Skip: skip, Each: func(e manifest.Entry) error { list = append(list, e); return nil }})
	return list, err
}

// Size is the size of a folder's content.
type Size struct {
	Path  string `json:"path"` // relative to the folder that was looked at, "." that itself
	Files int    `json:"files"`
	Bytes int64  `json:"bytes"`
}

// Sizes returns the size of a folder and its largest subfolders, down to depth levels below it: at most as many
// as wanted, largest first. It reads no content. Unreadable folders count as empty.
func Sizes(ctx context.Context, dir string, depth, most int) (whole Size, largest []Size, err error) {
	top, err := os.Stat(dir)
	if err != nil {
		return Size{}, nil, err
	}
	if dir, err = filepath.EvalSymlinks(dir); err != nil {
		return Size{}, nil, err
	}
	whole.Path = "."
	of := map[string]*Size{}
	err = filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case err != nil && path == dir:
			return err
		case err != nil:
			return passed(d)
		case path == dir:
			return nil
		}
		info, err := d.Info()
		if err != nil {
			return nil // it is gone again
		}
		if d.IsDir() {
			if elsewhere(top, info) {
				return fs.SkipDir
			}
			return nil
		}
		if !info.Mode().IsRegular() {
			return nil
		}
		whole.Files, whole.Bytes = whole.Files+1, whole.Bytes+info.Size()
		rel, err := filepath.Rel(dir, filepath.Dir(path))
		if err != nil {
			return err
		}
		parts := strings.Split(filepath.ToSlash(rel), "/")
		for n := 1; n <= min(depth, len(parts)); n++ {
			at := strings.Join(parts[:n], "/")
			if at == "." {
				continue
			}
			if of[at] == nil {
				of[at] = &Size{Path: at}
			}
			of[at].Files, of[at].Bytes = of[at].Files+1, of[at].Bytes+info.Size()
		}
		return nil
	})
	if err != nil {
		return Size{}, nil, err
	}
	for _, s := range of {
		largest = append(largest, *s)
	}
	slices.SortFunc(largest,
		func(a, b Size) int { return cmp.Or(cmp.Compare(b.Bytes, a.Bytes), cmp.Compare(a.Path, b.Path)) })
	// A folder that is almost entirely one subfolder adds no information.
	all := slices.Clone(largest)
	largest = slices.DeleteFunc(largest, func(s Size) bool {
		return slices.ContainsFunc(all,
			func(in Size) bool { return strings.HasPrefix(in.Path, s.Path+"/") && in.Bytes == s.Bytes })
	})
	return whole, largest[:min(most, len(largest))], nil
}
