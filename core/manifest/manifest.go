// Package manifest lists a folder's files and compares such a list with another drive.
//
// A manifest is JSON Lines: a header, then a line per file with its path below the folder, its
// size, the time of its last change and the BLAKE3 digest of its content, or why it could not
// be read. The package is pure: it reads and writes streams and knows no file system.
package manifest

import (
	"bufio"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/go-json-experiment/json"
)

// What the header says.
const (
	Format  = "nowthen-manifest"
	Version = 1
	// Algorithm is how digests are made: 32 bytes of BLAKE3.
	Algorithm = "blake3"
)

// Bounds of what is read.
const (
	longestLine = 1 << 20 // bytes
	longestPath = 32 << 10
	mostEntries = 10_000_000
)

// Listed counts what is in a manifest.
type Listed struct {
	Files      int   `json:"files"`
	Bytes      int64 `json:"bytes"`
	Unreadable int   `json:"unreadable"`
}

// Entry is a file of a folder.
type Entry struct {
	Path   string // below the folder, parts parted by /; bytes, where it is no UTF-8
	Size   int64  // bytes
	Time   time.Time
	Digest string // hexadecimal; "" where it was not read
	Link   string // where a symbolic link points; "" for others
	Why    string // why it could not be read, or ""
}

type header struct {
	Format  string `json:"format"`
	Version int    `json:"version"`
	Digest  string `json:"digest"`
}

type line struct {
	P  string    `json:"p,omitzero"`
	PB string    `json:"pb,omitzero"`
	S  int64     `json:"s"`
	T  time.Time `json:"t,omitzero"`
	H  string    `json:"h,omitzero"`
	L  string    `json:"l,omitzero"`
	LB string    `json:"lb,omitzero"`
	E  string    `json:"e,omitzero"`
}

// asText returns a text as it is written: as such, or in base64 where it is no UTF-8.
func asText(s string) (text, coded string) {
	if utf8.ValidString(s) {
		return s, ""
	}
	return "", base64.StdEncoding.EncodeToString([]byte(s))
}

// Writer writes a manifest.
type Writer struct{ w io.Writer }

// NewWriter begins a manifest with its header.
func NewWriter(w io.Writer) (*Writer, error) {
	m := &Writer{w}
	return m, m.line(header{Format: Format, Version: Version, Digest: Algorithm})
}

// Write adds a file.
func (m *Writer) Write(e Entry) error {
	l := line{S: e.Size, T: e.Time.UTC(), H: e.Digest, E: strings.ToValidUTF8(e.Why, "?")}
	l.P, l.PB = asText(e.Path)
	l.L, l.LB = asText(e.Link)
	return m.line(l)
}

func (m *Writer) line(v any) error {
	data, err := json.Marshal(v)
	if err != nil {
		return err
	}
	_, err = m.w.Write(append(data, '\n'))
	return err
}

// Read reads a manifest. Where it is refused, the error names the line; what stood before
// it is returned too.
func Read(r io.Reader) ([]Entry, error) {
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, longestLine)
	var list []Entry
	seen := map[string]bool{}
	n := 0
	for lines.Scan() {
		n++
		if n == 1 {
			if err := checkHeader(lines.Bytes()); err != nil {
				return nil, fmt.Errorf("line 1: %w", err)
			}
			continue
		}
		e, err := entry(lines.Bytes())
		switch {
		case err != nil:
			return list, fmt.Errorf("line %d: %w", n, err)
		case seen[e.Path]:
			return list, fmt.Errorf("line %d: %q stands there twice", n, e.Path)
		case len(list) == mostEntries:
			return list, fmt.Errorf("line %d: more than %d files", n, mostEntries)
		}
		seen[e.Path] = true
		list = append(list, e)
	}
	if err := lines.Err(); err != nil {
		return list, fmt.Errorf("line %d: %w", n+1, err)
	}
	if n == 0 {
		return nil, errors.New("it is empty")
	}
	return list, nil
}

func checkHeader(data []byte) error {
	var h header
	if err := json.Unmarshal(data, &h); err != nil {
		return fmt.Errorf("this is no manifest: %w", err)
	}
	switch {
	case h.Format != Format:
		return fmt.Errorf("this is no manifest: its format is %q, not %s", h.Format, Format)
	case h.Version > Version:
		return fmt.Errorf("it has version %d, newer than this program's %d: use a newer nowthen-probe", h.Version,
			Version)
	case h.Version < 1:
		return fmt.Errorf("there is no version %d", h.Version)
	case h.Digest != Algorithm:
		return fmt.Errorf("its digests are %q, not %s", h.Digest, Algorithm)
	}
	return nil
}

// told reads a text that was written as such or in base64.
func told(text, coded string) (string, error) {
	if coded == "" {
		return text, nil
	}
	if text != "" {
		return "", errors.New("it has one text twice, as such and in base64")
	}
	data, err := base64.StdEncoding.DecodeString(coded)
	return string(data), err
}

func entry(data []byte) (e Entry, err error) {
	var l line
	if err := json.Unmarshal(data, &l); err != nil {
		return e, err
	}
	if e.Path, err = told(l.P, l.PB); err != nil {
		return e, fmt.Errorf("its path: %w", err)
	}
	if e.Link, err = told(l.L, l.LB); err != nil {
		return e, fmt.Errorf("its link: %w", err)
	}
	e.Size, e.Time, e.Digest, e.Why = l.S, l.T, strings.ToLower(l.H), l.E
	if err := CheckPath(e.Path); err != nil {
		return e, err
	}
	digest, err := hex.DecodeString(e.Digest)
	switch {
	case err != nil:
		return e, fmt.Errorf("its digest: %w", err)
	case len(digest) != 32 && (len(digest) > 0 || e.Why == "" && e.Link == ""):
		return e, fmt.Errorf("its digest has %d bytes, not 32", len(digest))
	case e.Size < 0:
		return e, fmt.Errorf("its size is %d", e.Size)
	}
	return e, nil
}

// CheckPath reports what is wrong with a path below a folder.
func CheckPath(path string) error {
	switch {
	case path == "":
		return errors.New("it has no path")
	case len(path) > longestPath:
		return fmt.Errorf("its path has %d bytes, more than %d", len(path), longestPath)
	case strings.ContainsRune(path, 0):
		return errors.New("its path holds a zero byte")
	}
	for part := range strings.SplitSeq(path, "/") {
		if part == "" || part == "." || part == ".." {
			return fmt.Errorf("its path %q leads out of the folder or is not plain", path)
		}
	}
	return nil
}
