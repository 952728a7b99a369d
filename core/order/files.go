package order

import (
	"errors"
	"fmt"

	"nowthen/core/manifest"
)

// MostList is how large the compressed list of a folder may be that a probe sends, bytes: some million files.
const MostList = 48 << 20

// FileList is a list of a folder's files, as a probe made it. List is the compressed manifest; the bench keeps it for the
// probes of the same job and doesn't read it.
type FileList struct {
	Order string `json:"order"`
	// Folder is the one that was read.
	Folder     string `json:"folder"`
	Files      int    `json:"files"`
	Bytes      int64  `json:"bytes"`
	Unreadable int    `json:"unreadable"`
	Simulated  bool   `json:"simulated,omitzero"`
	List       []byte `json:"list,omitempty"`
}

// Check returns what is wrong with a list, or nil.
func (l *FileList) Check() error {
	switch {
	case len(l.Folder) > maxPath:
		return errors.New("the folder's path is too long")
	case l.Files < 0 || l.Bytes < 0 || l.Unreadable < 0 || l.Unreadable > l.Files:
		return errors.New("its counts can't be")
	case len(l.List) == 0:
		return errors.New("it is empty")
	case len(l.List) > MostList:
		return fmt.Errorf("it has %d bytes; %d are the most", len(l.List), MostList)
	}
	return nil
}

// Compared is what came across: the comparison of a folder with the list of the old drive.
type Compared struct {
	Order      string              `json:"order"`
	Difference manifest.Difference `json:"difference"`
}
