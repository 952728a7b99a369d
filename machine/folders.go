package machine

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
)

// Listing is a folder and the folders in it.
type Listing struct {
	Path    string   `json:"path"`
	Parent  string   `json:"parent"` // "" at the root
	Folders []string `json:"folders"`
}

// maxFolders is the longest listing; nobody picks from more.
const maxFolders = 500

// CheckPath refuses paths outside this computer's folders: relative ones, and those of other computers, to
// which Windows would reveal who is signed in here.
func CheckPath(path string) error {
	slashes := strings.ReplaceAll(path, `\`, "/")
	switch {
	case strings.HasPrefix(slashes, "//"):
		return fmt.Errorf("%q is on another computer; pick a folder of this one", path)
	case !filepath.IsAbs(path):
		return fmt.Errorf("%q is not a whole path; give the folder from the root on", path)
	case strings.ContainsRune(path, 0):
		return fmt.Errorf("%q is no path", path)
	}
	return nil
}

// Folders lists the folders in a folder, hidden ones left out; an empty path
// means the user's own folder.
func Folders(path string) (*Listing, error) {
	if path == "" {
		home, err := os.UserHomeDir()
		if err != nil {
			home = string(filepath.Separator)
		}
		path = home
	}
	if err := CheckPath(path); err != nil {
		return nil, err
	}
	l := &Listing{Path: filepath.Clean(path), Folders: []string{}}
	if up := filepath.Dir(l.Path); up != l.Path {
		l.Parent = up
	}
	entries, err := os.ReadDir(l.Path)
	if err != nil {
		return nil, fmt.Errorf("the folder %s cannot be looked at: %w", l.Path, bare(err))
	}
	for _, e := range entries {
		if strings.HasPrefix(e.Name(), ".") {
			continue
		}
		info, err := os.Stat(filepath.Join(l.Path, e.Name())) // a link to a folder is one too
		if err == nil && info.IsDir() {
			l.Folders = append(l.Folders, e.Name())
		}
		if len(l.Folders) == maxFolders {
			break
		}
	}
	slices.Sort(l.Folders)
	return l, nil
}

// bare strips the path from an error, which the message names already.
func bare(err error) error {
	var p *os.PathError
	if errors.As(err, &p) {
		return p.Err
	}
	return err
}

// Free is how many bytes are free in a folder.
func Free(dir string) (int64, error) {
	p, err := fileSystemOf(dir)
	if err != nil {
		return 0, fmt.Errorf("the file system of %s cannot be asked: %w", dir, err)
	}
	return p.FreeBytes, nil
}
