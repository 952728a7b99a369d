// Package durable writes files and folders atomically: complete or not at all, even if the
// program or the computer fails.
//
// It writes under a temporary name beside the target and renames it once the data is on the
// drive. [Sweep] removes the parts of dead writers. The package knows no format and must import
// none of our packages.
package durable

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"sync"
)

// parts are what this process is writing.
var parts = struct {
	sync.Mutex
	n    int
	open map[string]bool
}{open: map[string]bool{}}

// begin reserves a name for a part beside a path. end gives it back and removes what is left.
func begin(path string) (part string, end func()) {
	parts.Lock()
	defer parts.Unlock()
	parts.n++
	part = filepath.Join(filepath.Dir(path), fmt.Sprintf(".%s.%d-%d.part", filepath.Base(path), os.Getpid(), parts.n))
	parts.open[part] = true
	return part, func() {
		_ = os.RemoveAll(part)
		parts.Lock()
		defer parts.Unlock()
		delete(parts.open, part)
	}
}

// File makes a file: fill writes and checks it under another name in the same folder, and only
// where it succeeds is it put in the place of an earlier one. When File returns nil, the file is
// on the drive. It is its owner's alone.
func File(path string, fill func(part string) error) error {
	part, end := begin(path)
	defer end()
	f, err := os.OpenFile(part, os.O_CREATE|os.O_EXCL|os.O_RDWR, 0o600)
	if err != nil {
		return err
	}
	if err := f.Close(); err != nil {
		return err
	}
	if err := fill(part); err != nil {
		return err
	}
	return publish(part, path)
}

// Write makes a file of data; see [File].
func Write(path string, data []byte) error {
	return File(path, func(part string) error { return os.WriteFile(part, data, 0o600) })
}

// Dir makes a folder where there is none, or an empty one; see [File]. fill sees to it that the
// files that it makes are on the drive.
func Dir(path string, fill func(part string) error) error {
	part, end := begin(path)
	defer end()
	if err := os.MkdirAll(filepath.Dir(path), 0o700); err != nil {
		return err
	}
	if err := os.Mkdir(part, 0o700); err != nil {
		return err
	}
	if err := fill(part); err != nil {
		return err
	}
	if err := os.Remove(path); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("%s cannot be replaced: %w", path, err)
	}
	return publish(part, path)
}

// Scratch makes a folder for what is needed while something is made beside a path; done
// removes it.
func Scratch(path string) (dir string, done func(), err error) {
	dir, done = begin(path)
	if err := os.Mkdir(dir, 0o700); err != nil {
		done()
		return "", nil, err
	}
	return dir, done, nil
}

// publish puts a part on the drive and then in its place.
func publish(part, path string) error {
	if err := syncPath(part); err != nil {
		return err
	}
	if err := os.Rename(part, path); err != nil {
		return err
	}
	return syncFolder(filepath.Dir(path))
}

func syncPath(path string) error {
	info, err := os.Stat(path)
	if err != nil {
		return err
	}
	if info.IsDir() {
		return syncFolder(path)
	}
	f, err := os.OpenFile(path, os.O_RDWR, 0)
	if err != nil {
		return err
	}
	return errors.Join(f.Sync(), f.Close())
}

// partName is the name of a part: with the process that writes it.
var partName = regexp.MustCompile(`^\..+\.(\d+)-\d+\.part$`)

// Sweep removes abandoned parts in a folder, and returns their names. A missing folder has none.
func Sweep(dir string) (removed []string, err error) {
	entries, err := os.ReadDir(dir)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	for _, e := range entries {
		m := partName.FindStringSubmatch(e.Name())
		if m == nil {
			continue
		}
		path := filepath.Join(dir, e.Name())
		pid, err := strconv.Atoi(m[1])
		if err != nil || writes(pid, path) {
			continue
		}
		if err := os.RemoveAll(path); err != nil {
			return removed, err
		}
		removed = append(removed, e.Name())
	}
	return removed, nil
}

// writes reports whether a process may still write a part.
func writes(pid int, path string) bool {
	if pid != os.Getpid() {
		return lives(pid)
	}
	parts.Lock()
	defer parts.Unlock()
	return parts.open[path]
}
