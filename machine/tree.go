package machine

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"

	"nowthen/core/filetest"
)

// treeNames are folders of file tests, and marker is the file in each that
// carries the signature. Only files named like those of a set are ever removed.
var (
	treeNames  = regexp.MustCompile(`^nowthen-file-test-[0-9a-f]{16}\.tmp$`)
	setNames   = regexp.MustCompile(`^f[0-9]{6}\.dat$`)
	setFolders = regexp.MustCompile(`^(from|to|d[0-9]{4})$`)
)

const marker = "made-by-now-then.txt"

// copyBlock is how a program copies: 1 MiB at a time.
const copyBlock = 1 << 20

// MakeTree makes an empty folder for file tests in the folder.
func (f *Folder) MakeTree(context.Context) (filetest.Tree, error) {
	dir := filepath.Join(f.dir, "nowthen-file-test-"+randomName()+".tmp")
	if err := os.Mkdir(dir, 0o700); err != nil {
		return nil, f.refusal(bare(err))
	}
	t := &tree{dir: dir, ours: true, buf: make([]byte, copyBlock)}
	if err := os.WriteFile(filepath.Join(dir, marker), signature, 0o600); err != nil {
		return nil, errors.Join(f.refusal(bare(err)), os.Remove(dir))
	}
	return t, nil
}

// OpenTree opens a folder that is there for reading, on whatever drive it lies.
func (f *Folder) OpenTree(ctx context.Context, dir string) (filetest.Tree, error) {
	if err := CheckPath(dir); err != nil {
		return nil, err
	}
	if info, err := os.Stat(dir); err != nil || !info.IsDir() {
		return nil, fmt.Errorf("there is no folder %s", dir)
	}
	if _, err := placeOf(dir); err != nil {
		return nil, err
	}
	return &tree{ctx: ctx, dir: filepath.Clean(dir), buf: make([]byte, copyBlock)}, nil
}

// tree is a folder with files.
type tree struct {
	ctx     context.Context // of listing
	dir     string
	ours    bool
	buf     []byte
	written []string // since the last Sync
	made    map[string]bool
}

func (t *tree) path(name string) string { return filepath.Join(t.dir, filepath.FromSlash(name)) }

// Entries lists the regular files under the folder by name. What cannot be
// looked at, links and other devices are passed by.
func (t *tree) Entries() ([]filetest.Entry, error) {
	var list []filetest.Entry
	err := filepath.WalkDir(t.dir, func(path string, d fs.DirEntry, err error) error {
		if t.ctx != nil && t.ctx.Err() != nil {
			return t.ctx.Err()
		}
		if err != nil || !d.Type().IsRegular() {
			return nil
		}
		info, err := d.Info()
		rel, relErr := filepath.Rel(t.dir, path)
		if err == nil && relErr == nil && readable(path) {
			list = append(list, filetest.Entry{Name: filepath.ToSlash(rel), Bytes: info.Size()})
		}
		if len(list) == lookAtMost {
			return filepath.SkipAll
		}
		return nil
	})
	slices.SortFunc(list, func(a, b filetest.Entry) int { return strings.Compare(a.Name, b.Name) })
	return list, err
}

func readable(path string) bool {
	f, err := os.Open(path)
	if err != nil {
		return false
	}
	return f.Close() == nil
}

// folderOf makes the folder of a file, once.
func (t *tree) folderOf(name string) error {
	dir := filepath.Dir(t.path(name))
	if t.made[dir] {
		return nil
	}
	if t.made == nil {
		t.made = map[string]bool{}
	}
	t.made[dir] = true
	return os.MkdirAll(dir, 0o700)
}

// Write makes a file the ordinary way, through the page cache.
func (t *tree) Write(name string, bytes int64, fill func([]byte)) error {
	return t.make(name, func(f *os.File) error {
		for left := bytes; left > 0; {
			b := t.buf[:min(left, copyBlock)]
			fill(b)
			if _, err := f.Write(b); err != nil {
				return err
			}
			left -= int64(len(b))
		}
		return nil
	})
}

func (t *tree) make(name string, content func(*os.File) error) error {
	if err := t.folderOf(name); err != nil {
		return err
	}
	f, err := os.OpenFile(t.path(name), os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	t.written = append(t.written, t.path(name))
	return errors.Join(content(f), f.Close())
}

// Copy reads and writes 1 MiB at a time. It must move the bytes: a call by which
// the file system merely shares them would measure nothing.
func (t *tree) Copy(from, to string) error {
	src, err := openCold(t.path(from))
	if err != nil {
		return err
	}
	defer src.Close()
	return t.make(to, func(f *os.File) error {
		_, err := io.CopyBuffer(struct{ io.Writer }{f}, struct{ io.Reader }{src}, t.buf)
		return err
	})
}

// Read reads a whole file.
func (t *tree) Read(name string) (int64, error) {
	f, err := openCold(t.path(name))
	if err != nil {
		return 0, err
	}
	defer f.Close()
	return io.CopyBuffer(struct{ io.Writer }{io.Discard}, struct{ io.Reader }{f}, t.buf)
}

// Forget drops a file's pages from the cache and makes sure that they are gone.
func (t *tree) Forget(name string) error { return Forget(t.path(name)) }

// Sync makes everything written since the last time durable.
func (t *tree) Sync() error {
	err := syncFiles(t.dir, t.written)
	t.written = t.written[:0]
	return err
}

// Close removes a folder of ours with the files of the set; a folder that is
// not ours stays as it is.
func (t *tree) Close() error {
	if !t.ours {
		return nil
	}
	return removeTree(t.dir)
}

// removeTree removes the files that a file test makes and the folders that are
// empty then. Anything else in them stays.
func removeTree(dir string) error {
	var folders []string
	err := filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case d.IsDir() && (path == dir || setFolders.MatchString(d.Name())):
			folders = append(folders, path)
		case d.IsDir():
			return filepath.SkipDir
		case d.Type().IsRegular() && setNames.MatchString(d.Name()):
			return os.Remove(path)
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, f := range slices.Backward(folders[1:]) {
		if err := os.Remove(f); err != nil {
			return err
		}
	}
	return errors.Join(os.Remove(filepath.Join(dir, marker)), os.Remove(dir))
}
