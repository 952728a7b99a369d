// Package machine is the real world: folders that are tested with direct I/O,
// facts about the computer it runs on, and the conditions of measuring.
//
// What differs between operating systems lies in one file each behind the same
// names; if a system does not report it, a fact is absent, never guessed.
package machine

import (
	"bytes"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"regexp"
)

// signature begins every test file that has a name. A file without it isn't ours, whatever its name.
var signature = []byte("Now Then drive test file. It holds nothing of yours and can be deleted.\n")

var testFileNames = regexp.MustCompile(`^nowthen-drive-test-[0-9a-f]{16}\.tmp$`)

func testFileName() string { return "nowthen-drive-test-" + randomName() + ".tmp" }

func randomName() string {
	var b [8]byte
	_, _ = rand.Read(b[:]) // never fails (crypto/rand)
	return hex.EncodeToString(b[:])
}

// Sweep removes test files that a killed program left in a folder: those that
// have the name and the signature of one, and of a folder of file tests just the
// files that such a test makes. It returns how many it removed.
func Sweep(dir string) (removed int, err error) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return 0, fmt.Errorf("looking for left test files: %w", err)
	}
	var errs []error
	for _, e := range entries {
		if e.IsDir() && treeNames.MatchString(e.Name()) {
			dir := filepath.Join(dir, e.Name())
			if ours, err := signed(filepath.Join(dir, marker)); err == nil && ours {
				if err := removeTree(dir); err != nil {
					errs = append(errs, err)
				} else {
					removed++
				}
			}
			continue
		}
		if !e.Type().IsRegular() || !testFileNames.MatchString(e.Name()) {
			continue
		}
		path := filepath.Join(dir, e.Name())
		ours, err := signed(path)
		if err == nil && ours {
			if err = os.Remove(path); err == nil {
				removed++
			}
		}
		if err != nil {
			errs = append(errs, err)
		}
	}
	return removed, errors.Join(errs...)
}

func signed(path string) (bool, error) {
	f, err := os.Open(path)
	if err != nil {
		return false, err
	}
	defer f.Close()
	head := make([]byte, len(signature))
	if _, err := io.ReadFull(f, head); err != nil {
		return false, nil // too short to be signed
	}
	return bytes.Equal(head, signature), nil
}
